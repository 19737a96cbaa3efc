/// How thin the first cells have to be where heat enters or leaves a body through less than its whole face, or does not stay the same for long.
///
/// Such heat spreads within about half the width of its footprint, on a body that conducts badly across within less: with conductivities k_n
/// along the normal and k_t along the face the field there is that of an isotropic body whose depth is stretched by √(k_t/k_n). A first cell of
/// 0.4 · half-width · √(k_n/k_t) sees it; the cells behind grow from there. Within a time t heat gets about √(α t) into a body, α = k/(ρ c): where what
/// heats it jumps that often, a first cell of 0.4 √(α t) sees that.
#pragma once

#include "mesh/layout.hpp"

namespace firnfield {

/// Fills Layout::first_cells, one for each plane and side of it, and Layout::across, so that no footprint is one cell wide.
void size_footprints(const Model& model, Layout& layout);

}  // namespace firnfield
