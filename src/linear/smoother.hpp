/// Symmetric Gauss-Seidel in two halves: one before, its transpose after the coarse correction.
#pragma once

#include "linear/multigrid.hpp"

namespace firnfield {

/// Ascending sweep from x = 0. Updates the residual on the way (on entry b, on return b − A x), so that no separate
/// pass over the matrix is needed.
void sweep_up_from_zero(const Level& level, std::span<float> residual, std::span<float> x);

/// Descending sweep on A x = b.
void sweep_down(const Level& level, std::span<const float> b, std::span<float> x);

/// y = A x in flux form, and the scalar product x·y.
double multiply(const Level& level, std::span<const float> x, std::span<float> y);

}  // namespace firnfield
