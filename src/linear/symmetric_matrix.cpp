#include "linear/symmetric_matrix.hpp"

namespace firnfield {

SymmetricMatrix assemble_network_matrix(std::size_t nodes, std::span<const std::uint32_t> first, std::span<const std::uint32_t> second,
                                        std::span<const double> conductance, std::span<const double> excess) {
    SymmetricMatrix matrix;
    matrix.excess.assign(excess.begin(), excess.end());
    matrix.diagonal = matrix.excess;
    matrix.row_start.assign(nodes + 1, 0);
    for (std::size_t e = 0; e < first.size(); ++e) {
        ++matrix.row_start[first[e] + 1];
        ++matrix.row_start[second[e] + 1];
    }
    for (std::size_t row = 0; row < nodes; ++row) matrix.row_start[row + 1] += matrix.row_start[row];
    matrix.column.resize(matrix.row_start[nodes]);
    matrix.coupling.resize(matrix.row_start[nodes]);

    // Enter each edge in both rows; an edge seen before in that row is added to.
    std::vector<std::uint64_t> end(matrix.row_start.begin(), matrix.row_start.end() - 1);
    const auto enter = [&](std::uint32_t row, std::uint32_t column, double value) {
        for (std::uint64_t at = matrix.row_start[row]; at < end[row]; ++at) {
            if (matrix.column[at] == column) {
                matrix.coupling[at] += value;
                return;
            }
        }
        matrix.column[end[row]] = column;
        matrix.coupling[end[row]++] = value;
    };
    for (std::size_t e = 0; e < first.size(); ++e) {
        enter(first[e], second[e], conductance[e]);
        enter(second[e], first[e], conductance[e]);
        matrix.diagonal[first[e]] += conductance[e];
        matrix.diagonal[second[e]] += conductance[e];
    }

    // Close the holes that doubled edges left.
    std::uint64_t to = 0;
    for (std::size_t row = 0; row < nodes; ++row) {
        const std::uint64_t from = matrix.row_start[row];
        matrix.row_start[row] = to;
        for (std::uint64_t at = from; at < end[row]; ++at, ++to) {
            matrix.column[to] = matrix.column[at];
            matrix.coupling[to] = matrix.coupling[at];
        }
    }
    matrix.row_start[nodes] = to;
    matrix.column.resize(to);
    matrix.coupling.resize(to);
    return matrix;
}

}  // namespace firnfield
