/// A few elements with weights that stand for many: their heat adds up to that of all, in whatever is asked of it.
///
/// Weights that are not negative keep what elements have in common, so that what cools still cools (C. Farhat, P. Avery, T. Chapman and J. Cortial,
/// "Dimensional reduction of nonlinear finite element dynamic models with finite rotations and energy-based mesh sampling and weighting for computational
/// efficiency", Int. J. Numer. Methods Eng. 98 (2014) 625). They are found by non-negative least squares (C. L. Lawson and R. J. Hanson, Solving Least
/// Squares Problems, 1974, chapter 23).
#pragma once

#include <cstddef>
#include <vector>

namespace firnfield {

/// Contributions of the elements to what is asked for, column by column.
struct Contributions {
    std::size_t rows = 0;
    std::vector<double> column{};  ///< rows · elements
    std::vector<double> sum{};     ///< of all elements, per row
};

struct WeightedSample {
    std::vector<std::size_t> element{};  ///< ascending
    std::vector<double> weight{};
    double open = 0.0;  ///< what the sums differ by, as a share of them
};

/// As few elements as bring the sums within a share of what they are.
[[nodiscard]] WeightedSample sample(const Contributions& contributions, double within);

}  // namespace firnfield
