/// Flexible GMRES for systems that are not quite symmetric.
///
/// Y. Saad, "A flexible inner-outer preconditioned GMRES algorithm", SIAM J. Sci. Comput. 14 (1993), 461-469.
#pragma once

#include "linear/solver.hpp"

#include <functional>

namespace firnfield {

/// y = operator applied to x.
using Operator = std::function<void(std::span<const double> x, std::span<double> y)>;

/// Improves `x` until ‖b − A x‖ ≤ tolerance · ‖b‖. `preconditioner` may change from one call to the next, as multigrid cycles do.
[[nodiscard]] LinearSummary solve_gmres(const Operator& apply, const Operator& preconditioner, std::span<const double> b, std::span<double> x,
                                        double tolerance);

}  // namespace firnfield
