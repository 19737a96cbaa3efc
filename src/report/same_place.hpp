/// Solids of a file that stand where others do: exports that went wrong have them.
#pragma once

#include <firnfield/step.hpp>

#include <map>
#include <string>

namespace firnfield {

/// By the name of a solid: that of an earlier one, as large and in the same place.
[[nodiscard]] std::map<std::string, std::string> in_same_place(const StepImport& import);

}  // namespace firnfield
