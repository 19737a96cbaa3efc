/// Pairwise aggregation of the rows of a sparse M-matrix, with control of the quality of every pair.
///
/// Y. Notay, "An aggregation-based algebraic multigrid method", ETNA 37 (2010), 123-146.
/// A. Napov and Y. Notay, "An algebraic multigrid method with guaranteed convergence rate", SIAM J. Sci. Comput. 34 (2012), A1079-A1109.
#pragma once

#include "linear/lower_triangle.hpp"

namespace firnfield {

struct Coarsening {
    std::vector<std::uint32_t> coarse{};  ///< coarse row per row, left_out for rows that are dominated by their diagonal
    LowerTriangle matrix{};               ///< PᵀAP with piecewise constant P
    bool within_blocks = true;            ///< no aggregate has rows of two blocks
};

/// Aggregates of up to eight rows: three passes of pairing, more with a milder bound where those find too few pairs. Pairs stay
/// within blocks, unless that finds hardly any. `coupling_sums` are those of the matrix; `fine` comes back as it was.
[[nodiscard]] Coarsening coarsen(LowerTriangle& fine, const std::vector<float>& coupling_sums);

}  // namespace firnfield
