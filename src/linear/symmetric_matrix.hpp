/// Sparse symmetric matrices with non-positive off-diagonals, as heat-conductance networks give them.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

namespace firnfield {

/// Diagonal apart, off-diagonals of all rows in compressed rows (both triangles).
struct SymmetricMatrix {
    std::vector<double> diagonal;
    std::vector<std::uint64_t> row_start;  ///< one more entry than rows
    std::vector<std::uint32_t> column;
    std::vector<double> value;

    [[nodiscard]] std::size_t rows() const { return diagonal.size(); }
};

/// Σ over edges g (x_i − x_j)² + Σ d_i x_i² as a matrix: off-diagonal −g per edge, its g and d on the diagonal.
/// Several edges between the same two nodes are added up.
[[nodiscard]] SymmetricMatrix assemble_network_matrix(std::size_t nodes, std::span<const std::uint32_t> first,
                                                      std::span<const std::uint32_t> second, std::span<const double> conductance,
                                                      std::span<const double> diagonal);

}  // namespace firnfield
