/// Linear systems of a linearised heat balance.
#pragma once

#include "linear/solver.hpp"
#include "network/assemble.hpp"

#include <functional>
#include <span>
#include <vector>

namespace firnfield {

/// Improves `x` until J x = b, where J is the derivative of the heat leaving every node by the temperatures, or its transpose:
/// conjugate gradients where J is symmetric, else GMRES around its symmetric part. `watch` is called after every iteration.
LinearSummary solve_linearised(const Network& network, const Balance& balance, std::span<const double> b, std::vector<double>& x, double tolerance,
                               const std::function<void(int, double)>& watch = {}, bool transposed = false);

}  // namespace firnfield
