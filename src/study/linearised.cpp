// Linear systems of a linearised heat balance, one matrix for several right-hand sides.

#include "study/linearised.hpp"

#include "linear/gmres.hpp"

#include <algorithm>
#include <utility>

namespace firnfield {

LinearisedSolver::LinearisedSolver(const Network& network, Balance balance) : network_(network), balance_(std::move(balance)), excess_(balance_.slope) {
    indefinite_ = std::any_of(excess_.begin(), excess_.end(), [](double e) { return e < 0.0; });
    if (indefinite_) {
        for (double& e : excess_) e = std::max(e, 0.0);
    }
    matrix_ = {
        .nodes = network.nodes, .edges = edges_of(network, balance_.conductance), .excess = excess_, .order = network.order, .lumped_from = network.cells};
    solver_ = make_solver(matrix_);
}

LinearSummary LinearisedSolver::solve(std::span<const double> b, std::vector<double>& x, double tolerance, const std::function<void(int, double)>& watch,
                                      bool transposed) {
    solver_->watch = watch;
    if (balance_.symmetric() && !indefinite_) return solver_->solve(b, x, tolerance);
    const auto apply = [&](std::span<const double> in, std::span<double> out) {
        if (watch) watch(0, 1.0);
        multiply_with_rest(in, out, transposed);
    };
    LinearSummary summary = solve_gmres(
        apply, [&](std::span<const double> r, std::span<double> z) { solver_->precondition(r, z); }, b, x, tolerance);
    summary.method += !solves_directly(network_.nodes, Solves::few) ? ", preconditioned by multigrid of the symmetric part"
                                                                    : ", preconditioned by a factorisation of the symmetric part";
    return summary;
}

/// The symmetric part, and what it lacks.
void LinearisedSolver::multiply_with_rest(std::span<const double> in, std::span<double> out, bool transposed) const {
    multiply(matrix_, in, out);
    for (std::size_t i = 0; i < in.size(); ++i) out[i] += std::min(balance_.slope[i], 0.0) * in[i];
    for (const Balance::Skew& s : balance_.skew) {
        if (transposed) {
            const double part = s.half_difference * (in[s.first] - in[s.second]);
            out[s.first] += part;
            out[s.second] += part;
        } else {
            const double flow = s.half_difference * (in[s.first] + in[s.second]);
            out[s.first] += flow;
            out[s.second] -= flow;
        }
    }
}

LinearSummary solve_linearised(const Network& network, Balance balance, std::span<const double> b, std::vector<double>& x, double tolerance,
                               const std::function<void(int, double)>& watch, bool transposed) {
    return LinearisedSolver(network, std::move(balance)).solve(b, x, tolerance, watch, transposed);
}

}  // namespace firnfield
