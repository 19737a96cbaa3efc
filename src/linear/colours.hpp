/// The matrix of a coarse level: rows in colours, none of them coupled to another of its own colour.
///
/// Gauss-Seidel sweeps take one colour after the other. Rows of a colour need not wait for each other, so the processor works on many of them at a
/// time, and results do not depend on which thread works on which.
#pragma once

#include "linear/lower_triangle.hpp"

#include <span>

namespace firnfield {

/// Rows side by side.
struct Pack {
    static constexpr std::uint32_t lanes = 4;
    std::uint32_t at = 0;                  ///< of the couplings to earlier colours, the nth of all rows side by side; those to later colours follow
    std::uint32_t earlier = 0, later = 0;  ///< couplings of each row, padded with couplings of zero to itself
};

struct ColourMatrix {
    std::vector<std::uint32_t> colour{};  ///< first pack of each colour, and the number of packs
    std::vector<Pack> packs{};            ///< rows [4 n, 4 n + 4); a colour is filled up with rows without couplings
    std::vector<std::uint32_t> column{};
    std::vector<float> coupling{};
    std::vector<float> excess{}, inverse_diagonal{};
    std::vector<float> fixed_excess{}, capacity{}, coupling_sum{};  ///< for other shifts; empty when there is no capacity
    std::size_t couplings = 0;                                      ///< without padding, each counted once

    [[nodiscard]] std::size_t rows() const { return excess.size(); }
    [[nodiscard]] std::size_t bytes() const;
};

struct Colouring {
    ColourMatrix matrix{};
    std::vector<std::uint32_t> position{};  ///< where each row went
};
/// `coupling_sums` are those of the matrix.
[[nodiscard]] Colouring coloured(const LowerTriangle& matrix, const std::vector<float>& coupling_sums);

/// Sets excess and diagonal for another shift.
void set_shift(ColourMatrix& matrix, double shift);

/// Sweep over the colours on A x = b from x = 0, and the residual b − A x that it leaves.
void sweep_from_zero(const ColourMatrix& matrix, std::span<const float> b, std::span<float> x, std::span<float> residual);

/// The transposed sweep on A x = b.
void sweep_back(const ColourMatrix& matrix, std::span<const float> b, std::span<float> x);

/// y = A x in flux form, and the scalar product x·y.
double multiply(const ColourMatrix& matrix, std::span<const float> x, std::span<float> y);

}  // namespace firnfield
