/// The linear systems of heat-conductance networks, as solvers are given them.
#pragma once

#include <cstdint>
#include <limits>
#include <span>
#include <vector>

namespace firnfield {

/// Conductances between pairs of nodes; the arrays are referred to, not copied.
struct Edges {
    std::span<const std::uint32_t> first, second;
    std::span<const double> conductance;  ///< not negative
};

/// A x = Σ over edges g (x_i − x_j) + (excess_i + shift · capacity_i) x_i: a symmetric M-matrix. Several edges between the same two
/// nodes add up. The excess (row sum) is kept apart from the couplings, so that weak ties to the surroundings do not drown in rounding.
struct NetworkMatrix {
    std::size_t nodes = 0;
    std::vector<Edges> edges{};
    std::span<const double> excess{};
    std::span<const double> capacity{};  ///< empty, or one per node
    double shift = 0.0;
    /// The nodes in an order in which neighbours are near each other and in long lines, for solvers that sweep; empty: as they are numbered.
    std::span<const std::uint32_t> order{};
    /// Nodes from here on may be coupled to any number of others, as lumped nodes are; none by default.
    std::size_t lumped_from = std::numeric_limits<std::size_t>::max();
};

/// y = A x in flux form: what leaves one node enters the other, so that the rows add up without rounding.
void multiply(const NetworkMatrix& matrix, std::span<const double> x, std::span<double> y);

}  // namespace firnfield
