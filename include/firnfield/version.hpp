/// The version of the library.
#pragma once

namespace firnfield {
inline constexpr const char* version = "0.1.0";
}  // namespace firnfield
