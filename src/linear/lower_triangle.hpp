/// Symmetric matrices by their strict lower triangle, which the set-up of multigrid works on.
#pragma once

#include "linear/buffer.hpp"
#include "linear/network_matrix.hpp"

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

namespace firnfield {

inline constexpr std::uint32_t left_out = 0xFFFFFFFFU;

/// A coupling −a_ij of row i.
struct Coupling {
    std::uint32_t column;
    float value;
};

/// Every coupling stands once, with the later of its two rows.
struct LowerTriangle {
    std::vector<std::uint32_t> block{};             ///< rows that threads work on together: first row of each block, and the number of rows
    Buffer<std::uint32_t> start{};                  ///< one more than rows
    Buffer<Coupling> couplings{};                   ///< by row, ascending by column
    std::vector<float> excess{};                    ///< row sums, at the present shift
    std::vector<float> fixed_excess{}, capacity{};  ///< excess = fixed_excess + shift · capacity; empty when there is no capacity

    [[nodiscard]] std::size_t rows() const { return excess.size(); }
    [[nodiscard]] std::size_t blocks() const { return block.size() - 1; }
    [[nodiscard]] std::span<const Coupling> row(std::uint32_t i) const { return {couplings.data() + start[i], start[i + 1] - start[i]}; }
};

/// Rows are the nodes in the order of the matrix; edges between the same two nodes are added up.
[[nodiscard]] LowerTriangle lower_triangle(const NetworkMatrix& matrix);

/// Pairs of rows, a pair of which may be one row alone, numbered so that the later rows of pairs ascend.
struct Pairs {
    std::vector<std::uint32_t> coarse{};       ///< pair of each row, or left_out
    Buffer<std::uint32_t> later{}, earlier{};  ///< rows of each pair; `earlier` is left_out for lone rows
    std::vector<std::uint32_t> block{};        ///< first pair of each block, and their number
};

/// PᵀAP with piecewise constant P; couplings to rows left out become part of the excess.
[[nodiscard]] LowerTriangle coarse_triangle(const LowerTriangle& fine, const Pairs& pairs);

/// Sum of all couplings of each row.
[[nodiscard]] std::vector<float> coupling_sums(const LowerTriangle& matrix);

/// 1 / (a + b), or 0 where that is not positive.
[[nodiscard]] std::vector<float> inverse_of_sum(const std::vector<float>& a, const std::vector<float>& b);

}  // namespace firnfield
