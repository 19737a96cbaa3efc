/// The matrix of one multigrid level, in single precision and in blocks of rows that threads work on.
#pragma once

#include "linear/network_matrix.hpp"

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

namespace firnfield {

/// Rows are cut into a fixed number of blocks, whatever the number of threads, so that results do not depend on it.
inline constexpr std::size_t most_blocks = 8;
/// Matrices with fewer rows are one block: starting threads would take longer than the work.
inline constexpr std::size_t rows_for_threads = 40000;

inline constexpr std::uint32_t left_out = 0xFFFFFFFFU;

/// Couplings −a_ij in compressed rows, in any order: what the set-up works on.
struct RowMatrix {
    std::vector<std::uint32_t> block;      ///< first row of each block, and the number of rows
    std::vector<std::uint32_t> start;      ///< one more than rows
    std::vector<std::uint32_t> column;
    std::vector<float> coupling;
    std::vector<float> excess;             ///< row sums, at the present shift
    std::vector<float> fixed_excess, capacity;  ///< excess = fixed_excess + shift · capacity; empty when there is no capacity

    [[nodiscard]] std::size_t rows() const { return excess.size(); }
};

/// Further couplings of some rows.
struct ExtraCouplings {
    std::vector<std::uint32_t> block;  ///< first entry of `row` for each block, and their number
    std::vector<std::uint32_t> row;    ///< ascending
    std::vector<std::uint32_t> start;  ///< one more than `row`
    std::vector<std::uint32_t> column;
    std::vector<float> coupling;
};

/// Couplings of every row, the same number for each (padded with zeros), and what does not fit. A loop of fixed length costs no
/// mispredicted branch, which in rows of three is more than all the arithmetic.
struct RowCouplings {
    std::uint32_t width = 0;
    std::vector<std::uint32_t> column;
    std::vector<float> coupling;
    ExtraCouplings extra;
};

/// A matrix in parts, so that a sweep reads what it needs and no more.
struct Level {
    std::vector<std::uint32_t> block;
    RowCouplings earlier;    ///< to earlier rows of the same block
    RowCouplings later;      ///< to later rows of the same block
    ExtraCouplings beyond;   ///< to other blocks
    std::vector<float> excess;
    std::vector<float> inverse_diagonal;
    std::vector<float> fixed_excess, capacity;
    std::vector<std::uint32_t> coarse;  ///< coarse row per row, left_out for rows that are only smoothed
    std::size_t couplings = 0;          ///< without padding

    [[nodiscard]] std::size_t rows() const { return excess.size(); }
    [[nodiscard]] std::size_t bytes() const;
};

/// The matrix as compressed rows; couplings between the same rows may stand in them several times.
[[nodiscard]] RowMatrix to_rows(const NetworkMatrix& matrix);

/// Rearranges a matrix for the sweeps.
[[nodiscard]] Level make_level(RowMatrix rows, double shift);

/// Sets excess and diagonal for another shift.
void set_shift(Level& level, double shift);

/// Calls `work(block)` for all blocks of a matrix, in parallel where there are several.
template <typename Matrix, typename Work>
void for_each_block(const Matrix& matrix, const Work& work) {
    const auto blocks = static_cast<std::ptrdiff_t>(matrix.block.size()) - 1;
#pragma omp parallel for schedule(static, 1) if (blocks > 1)
    for (std::ptrdiff_t b = 0; b < blocks; ++b) work(static_cast<std::size_t>(b));
}

/// Sum over blocks, each worked out by itself and added in order.
template <typename Matrix, typename Work>
double sum_over_blocks(const Matrix& matrix, const Work& work) {
    double sums[most_blocks] = {};
    for_each_block(matrix, [&](std::size_t b) { sums[b] = work(b); });
    double sum = 0.0;
    for (const double s : sums) sum += s;
    return sum;
}

}  // namespace firnfield
