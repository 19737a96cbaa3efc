/// What a senior engineer would remark of temperatures that were found.
#pragma once

#include <firnfield/findings.hpp>

namespace firnfield {

/// Adds remarks on service limits and ranges of materials, on implausible temperatures, on convection outside of its law and radiation that was left out.
void add_remarks(const Model& model, const SteadySolution& solution, Findings& found);

}  // namespace firnfield
