/// One way in to all linear solvers.
#pragma once

#include "linear/network_matrix.hpp"

#include <cstddef>
#include <cstdint>
#include <functional>
#include <memory>
#include <span>
#include <string>

namespace firnfield {

/// What a linear solve did.
struct LinearSummary {
    std::string method{};
    int iterations = 0;
    double relative_residual = 0.0;  ///< ‖b − A x‖ / ‖b‖, with the matrix as given
    bool converged = false;          ///< to the tolerance, or as far as double precision goes
    int levels = 0;                  ///< of multigrid
    double complexity = 0.0;         ///< entries of all levels over those of the finest
    std::size_t bytes = 0;           ///< of matrix, hierarchy and vectors
    double seconds = 0.0;            ///< of the solve, without set-up

    /// "conjugate gradients with aggregation multigrid, 6 levels, complexity 1.31: 14 iterations to 3e-11 in 0.8 s, 120 MB".
    [[nodiscard]] std::string text() const;
};

/// A symmetric positive definite matrix made ready to be solved with any number of right-hand sides, one after the other.
class LinearSolver {
public:
    virtual ~LinearSolver() = default;
    /// Improves `x` (its content is the first guess) until ‖b − A x‖ ≤ tolerance · ‖b‖.
    virtual LinearSummary solve(std::span<const double> b, std::span<double> x, double tolerance) = 0;
    /// z ≈ A⁻¹ r, cheaply: one multigrid cycle, or the factorisation.
    virtual void precondition(std::span<const double> r, std::span<double> z) = 0;
    /// Called after every iteration with the relative residual; what it throws ends the solve.
    std::function<void(int iteration, double relative_residual)> watch{};
    /// The same network with another shift of its capacities. Multigrid keeps its aggregates, which serves within a factor of about two.
    virtual void shift(double shift) = 0;
};

/// How many right-hand sides a matrix is made ready for.
enum class Solves : std::uint8_t { few, many };

/// Whether make_solver() factorises a matrix of this size: where that is faster, or takes milliseconds either way.
[[nodiscard]] bool solves_directly(std::size_t nodes, Solves solves);

/// Chooses by size: a sparse factorisation for small systems, multigrid beyond, and a factorisation again where that does not converge and
/// the matrix is sparse enough. The arrays that the matrix refers to have to outlive
/// the solver.
[[nodiscard]] std::unique_ptr<LinearSolver> make_solver(const NetworkMatrix& matrix, Solves solves = Solves::few);

}  // namespace firnfield
