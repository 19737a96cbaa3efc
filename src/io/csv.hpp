/// Lines of CSV (RFC 4180, one record a line).
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

/// The cells of a line, quotes taken off; nothing where one is left open.
[[nodiscard]] std::optional<std::vector<std::string>> csv_cells(std::string_view line, char separator);

}  // namespace firnfield
