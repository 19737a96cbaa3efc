// An implicit step of Newton's method, as exactly as tangents need it.

#include "reduce/middle_state.hpp"

#include <firnfield/error.hpp>

#include "linear/solver.hpp"
#include "network/assemble.hpp"
#include "network/traits.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {

std::vector<double> middle_state(const Network& network, double reference, const std::vector<double>& start, double time) {
    constexpr double close = 0.5, longest_step = 100.0;  // K
    constexpr int most = 20;
    const double shift = std::isinf(time) ? 0.0 : 1.0 / time;
    std::vector<double> rise = start;
    // Natural convection has no slope to begin with where a surface is as warm as its surroundings.
    constexpr double warmer = 10.0;  // K
    if (starts_flat(network)) {
        for (double& t : rise) t = std::max(t, network.highest_known - reference + warmer);
    }
    for (int iteration = 0; iteration < most; ++iteration) {
        const Balance balance = assemble(network, {reference, rise});
        std::vector<double> excess = balance.slope, heat = balance.residual, change(rise.size(), 0.0);
        for (std::size_t i = 0; i < rise.size(); ++i) {
            excess[i] = std::max(excess[i], 0.0);
            heat[i] -= shift * network.capacity[i] * (rise[i] - start[i]);
        }
        const NetworkMatrix matrix{.nodes = network.nodes,
                                   .edges = edges_of(network, balance.conductance),
                                   .excess = excess,
                                   .capacity = network.capacity,
                                   .shift = shift,
                                   .order = network.order,
                                   .lumped_from = network.cells};
        constexpr double tolerance = 1e-3;
        if (!make_solver(matrix)->solve(heat, change, tolerance).converged) break;
        double largest = 0.0;
        for (const double c : change) largest = std::max(largest, std::abs(c));
        if (!std::isfinite(largest)) break;
        const double damping = std::min(1.0, longest_step / largest);
        for (std::size_t i = 0; i < rise.size(); ++i) rise[i] = std::max(rise[i] + damping * change[i], 0.1 * (reference + rise[i]) - reference);
        if (largest <= close) break;
    }
    return rise;
}

}  // namespace firnfield
