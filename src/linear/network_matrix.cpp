// The matrix of a network from its conductances.

#include "linear/network_matrix.hpp"

namespace firnfield {

void multiply(const NetworkMatrix& matrix, std::span<const double> x, std::span<double> y) {
    for (std::size_t i = 0; i < matrix.nodes; ++i) {
        const double capacity = matrix.capacity.empty() ? 0.0 : matrix.shift * matrix.capacity[i];
        y[i] = (matrix.excess[i] + capacity) * x[i];
    }
    for (const Edges& edges : matrix.edges) {
        for (std::size_t e = 0; e < edges.first.size(); ++e) {
            const double flow = edges.conductance[e] * (x[edges.first[e]] - x[edges.second[e]]);
            y[edges.first[e]] += flow;
            y[edges.second[e]] -= flow;
        }
    }
}

}  // namespace firnfield
