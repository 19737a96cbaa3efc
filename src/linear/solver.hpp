/// One way in to all linear solvers.
#pragma once

#include "linear/symmetric_matrix.hpp"

#include <memory>
#include <span>
#include <string>

namespace firnfield {

/// What a linear solve did.
struct LinearSummary {
    std::string method;
    int iterations = 0;
    double relative_residual = 0.0;  ///< ‖b − A x‖ / ‖b‖
    bool converged = false;
};

/// A symmetric positive definite matrix made ready to be solved with several right-hand sides.
class LinearSolver {
public:
    virtual ~LinearSolver() = default;
    /// Improves `x` (its content is the first guess) until ‖b − A x‖ ≤ tolerance · ‖b‖.
    virtual LinearSummary solve(std::span<const double> b, std::span<double> x, double tolerance) = 0;
};

/// Chooses by size: a sparse factorisation for small systems, multigrid beyond.
[[nodiscard]] std::unique_ptr<LinearSolver> make_solver(SymmetricMatrix matrix);

}  // namespace firnfield
