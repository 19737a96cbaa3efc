/// Pairwise aggregation of the rows of a sparse M-matrix, with control of the quality of every pair.
///
/// Y. Notay, "An aggregation-based algebraic multigrid method", ETNA 37 (2010), 123-146.
/// A. Napov and Y. Notay, "An algebraic multigrid method with guaranteed convergence rate", SIAM J. Sci. Comput. 34 (2012), A1079-A1109.
#pragma once

#include "linear/symmetric_matrix.hpp"

#include <cstdint>
#include <vector>

namespace firnfield {

/// An M-matrix as set-up needs it: off-diagonals by their size, and what is left of each row.
struct AggregationMatrix {
    std::vector<std::uint64_t> row_start;
    std::vector<std::uint32_t> column;
    std::vector<float> coupling;         ///< −a_ij, not negative
    std::vector<double> excess;          ///< row sum: diagonal minus all couplings, not negative
    std::vector<double> smoothed_diagonal;  ///< during coarsening: summed diagonals of the level's rows gathered in this row

    [[nodiscard]] std::size_t rows() const { return excess.size(); }
    [[nodiscard]] double coupling_sum(std::size_t row) const;
};

inline constexpr std::uint32_t left_out = 0xFFFFFFFFU;

/// How rows map to coarse rows; `left_out` rows are dominated by their diagonal and need only smoothing.
struct Aggregates {
    std::vector<std::uint32_t> coarse;
    std::uint32_t count = 0;
};

[[nodiscard]] AggregationMatrix to_aggregation_matrix(const SymmetricMatrix& matrix);

/// Aggregates of up to eight rows: three passes of pairing, more with a milder bound where those find too few pairs.
/// On return `matrix` has become the coarse matrix (Galerkin product with piecewise constant interpolation).
[[nodiscard]] Aggregates coarsen(AggregationMatrix& matrix);

}  // namespace firnfield
