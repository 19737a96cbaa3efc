/// Sparse symmetric matrices with non-positive off-diagonals, as heat-conductance networks give them.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

namespace firnfield {

/// A x = excess_i x_i + Σ_j coupling_ij (x_i − x_j): couplings of all rows in compressed rows (both triangles).
/// The excess (row sum) is kept apart from the diagonal, so that weak ties to the surroundings do not drown in rounding.
struct SymmetricMatrix {
    std::vector<double> excess;
    std::vector<double> diagonal;          ///< excess plus all couplings of the row
    std::vector<std::uint64_t> row_start;  ///< one more entry than rows
    std::vector<std::uint32_t> column;
    std::vector<double> coupling;          ///< −a_ij

    [[nodiscard]] std::size_t rows() const { return diagonal.size(); }
};

/// The matrix of Σ over edges g (x_i − x_j)² + Σ e_i x_i². Several edges between the same two nodes are added up.
[[nodiscard]] SymmetricMatrix assemble_network_matrix(std::size_t nodes, std::span<const std::uint32_t> first,
                                                      std::span<const std::uint32_t> second, std::span<const double> conductance,
                                                      std::span<const double> excess);

}  // namespace firnfield
