// Linear systems of a linearised heat balance, one matrix for several shifts.

#include "study/linearised.hpp"

#include "linear/gmres.hpp"

#include <algorithm>

namespace firnfield {

LinearSummary solve_linearised(const Network& network, const Balance& balance, std::span<const double> b, std::vector<double>& x, double tolerance,
                               const std::function<void(int, double)>& watch, bool transposed) {
    std::vector<double> excess = balance.slope;
    const bool indefinite = std::any_of(excess.begin(), excess.end(), [](double e) { return e < 0.0; });
    if (indefinite) {
        for (double& e : excess) e = std::max(e, 0.0);
    }
    const NetworkMatrix matrix{
        .nodes = network.nodes, .edges = edges_of(network, balance.conductance), .excess = excess, .order = network.order, .lumped_from = network.cells};
    const std::unique_ptr<LinearSolver> solver = make_solver(matrix);
    solver->watch = watch;
    if (balance.symmetric() && !indefinite) return solver->solve(b, x, tolerance);
    const auto apply = [&](std::span<const double> in, std::span<double> out) {
        if (watch) watch(0, 1.0);
        multiply(matrix, in, out);
        for (std::size_t i = 0; i < in.size(); ++i) out[i] += std::min(balance.slope[i], 0.0) * in[i];
        for (const Balance::Skew& s : balance.skew) {
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
    };
    LinearSummary summary = solve_gmres(
        apply, [&](std::span<const double> r, std::span<double> z) { solver->precondition(r, z); }, b, x, tolerance);
    summary.method += !solves_directly(network.nodes, Solves::few) ? ", preconditioned by multigrid of the symmetric part"
                                                                   : ", preconditioned by a factorisation of the symmetric part";
    return summary;
}

}  // namespace firnfield
