/// Gauss-Seidel within blocks, Jacobi between them: one half before the coarse correction, its transpose after.
#pragma once

#include "linear/level.hpp"

#include <span>

namespace firnfield {

/// Ascending sweep on A x = b from x = 0.
void sweep_up_from_zero(const Level& level, std::span<const float> b, std::span<float> x);

/// b − A x after sweep_up_from_zero(): only the couplings that the sweep did not see are read.
void residual_after_sweep(const Level& level, std::span<const float> x, std::span<float> residual);

/// Descending sweep on A x = b. `beyond` is working space for one number per border row.
void sweep_down(const Level& level, std::span<const float> b, std::span<float> x, std::span<float> beyond);

/// y = A x in flux form, and the scalar product x·y.
double multiply(const Level& level, std::span<const float> x, std::span<float> y);
double multiply(const Level& level, std::span<const double> x, std::span<double> y);

}  // namespace firnfield
