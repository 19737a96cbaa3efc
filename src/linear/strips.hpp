/// The matrix of the finest level: rows as they come, in strips that are worked on side by side.
///
/// A grid numbered row by row has its neighbours at the same few distances over long stretches, wherever its shape ends. Within such a strip
/// no index is stored or read.
#pragma once

#include "linear/lower_triangle.hpp"

#include <array>
#include <span>

namespace firnfield {

/// Consecutive rows that are swept together. In a banded strip the earlier neighbours stand at the same few distances for all rows, none of
/// them in the strip but the row just before. In a listed one they stand anywhere.
struct Strip {
    static constexpr std::uint32_t most_rows = 128, most_bands = 3, listed = 0xFFFFFFFFU;
    std::uint32_t first = 0, last = 0;
    std::uint32_t bands = 0;  ///< how many distances, or `listed`
    std::array<std::uint32_t, most_bands> distance{};
    std::uint32_t at = 0;                    ///< first coupling in StripMatrix::banded, band after band, or in column and coupling
    std::uint32_t extra = 0, extra_end = 0;  ///< its rows in StripMatrix::extra

    [[nodiscard]] std::uint32_t rows() const { return last - first; }
    [[nodiscard]] bool is_listed() const { return bands == listed; }
};

/// Couplings of some rows.
struct RowCouplings {
    std::vector<std::uint32_t> row{};    ///< ascending
    std::vector<std::uint32_t> start{};  ///< one more than `row`
    std::vector<Coupling> couplings{};

    [[nodiscard]] std::span<const Coupling> of(std::size_t r) const { return std::span(couplings).subspan(start[r], start[r + 1] - start[r]); }
};

struct StripMatrix {
    std::vector<std::uint32_t> block{};        ///< rows that threads work on together: first row of each block, and the number of rows
    std::vector<std::uint32_t> block_strip{};  ///< first strip of each block, and their number
    std::vector<Strip> strips{};
    std::vector<float> previous{};  ///< coupling to the row just before, of the same block
    std::vector<float> banded{};
    std::uint32_t width = 0;  ///< couplings of each row of a listed strip, padded with couplings of zero to itself
    std::vector<std::uint32_t> column{};
    std::vector<float> coupling{};
    RowCouplings extra{};  ///< what fits neither

    /// Couplings to the block just before, in banded strips of their own.
    std::vector<std::uint32_t> block_border{};  ///< first border strip of each block, and their number
    std::vector<Strip> borders{};
    /// All other couplings between blocks, stored with both rows.
    std::vector<std::uint32_t> block_beyond{};  ///< first row in `beyond` of each block, and their number
    RowCouplings beyond{};

    std::vector<float> excess{};
    std::vector<float> inverse_diagonal{};
    std::vector<float> fixed_excess{}, capacity{}, coupling_sum{};  ///< for other shifts; empty when there is no capacity
    std::size_t couplings = 0;                                      ///< without padding, each counted once

    [[nodiscard]] std::size_t rows() const { return excess.size(); }
    [[nodiscard]] std::size_t blocks() const { return block.size() - 1; }
    [[nodiscard]] std::size_t bytes() const;
};

/// Rearranges a matrix; `coupling_sums` are its own.
[[nodiscard]] StripMatrix strip_matrix(LowerTriangle matrix, std::vector<float> coupling_sums);

/// Sets excess and diagonal for another shift.
void set_shift(StripMatrix& matrix, double shift);

// Gauss-Seidel within blocks, Jacobi between them: one half before the coarse correction, its transpose after. In a banded strip every other row
// is taken first, then those between. Every coupling is read once a sweep: what a row takes from an earlier one and what it gives to it
// are worked out together.

/// Sweep on A x = b from x = 0, and the residual b − A x that it leaves.
void sweep_from_zero(const StripMatrix& matrix, std::span<const float> b, std::span<float> x, std::span<float> residual);

/// The transposed sweep on A x = b; spoils b.
void sweep_back(const StripMatrix& matrix, std::span<float> b, std::span<float> x);

/// y = A x in flux form, and the scalar product x·y.
double multiply(const StripMatrix& matrix, std::span<const double> x, std::span<float> y);

/// p = z − overlap · p, its image A p, and the scalar product of both, in one go.
double next_direction(const StripMatrix& matrix, std::span<const float> z, double overlap, std::span<double> p, std::span<float> image);

}  // namespace firnfield
