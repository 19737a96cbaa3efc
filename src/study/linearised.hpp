/// Linear systems of a linearised heat balance.
#pragma once

#include "linear/solver.hpp"
#include "network/assemble.hpp"

#include <functional>
#include <memory>
#include <span>
#include <vector>

namespace firnfield {

/// The derivative J of the heat leaving every node by the temperatures, made ready for any number of right-hand sides.
/// Conjugate gradients where J is symmetric, else GMRES around its symmetric part.
class LinearisedSolver {
public:
    /// The network has to outlive it.
    LinearisedSolver(const Network& network, Balance balance);
    LinearisedSolver(const LinearisedSolver&) = delete;
    LinearisedSolver& operator=(const LinearisedSolver&) = delete;

    [[nodiscard]] const Balance& balance() const { return balance_; }
    /// Improves `x` until J x = b, or J transposed. `watch` is called after every iteration.
    LinearSummary solve(std::span<const double> b, std::vector<double>& x, double tolerance, const std::function<void(int, double)>& watch = {},
                        bool transposed = false);

private:
    void multiply_with_rest(std::span<const double> in, std::span<double> out, bool transposed) const;

    const Network& network_;
    const Balance balance_;
    bool indefinite_ = false;     // heat grows with temperature somewhere
    std::vector<double> excess_;  // of the part that the solver gets: nothing negative
    NetworkMatrix matrix_{};
    std::unique_ptr<LinearSolver> solver_;
};

/// One right-hand side.
LinearSummary solve_linearised(const Network& network, Balance balance, std::span<const double> b, std::vector<double>& x, double tolerance,
                               const std::function<void(int, double)>& watch = {}, bool transposed = false);

}  // namespace firnfield
