/// Heat through the surfaces of cells.
#pragma once

#include <firnfield/findings.hpp>

namespace firnfield {

/// Heat that leaves through each patch of the mesh, W.
[[nodiscard]] std::vector<double> heat_through_patches(const SteadySolution& solution);

}  // namespace firnfield
