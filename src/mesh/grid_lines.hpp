/// Where the grid planes of one axis go.
#pragma once

#include <span>
#include <string>
#include <vector>

namespace firnfield {

/// A stretch of one axis in which cells must not be larger than `size`.
struct SizeDemand {
    double from = 0.0, to = 0.0;  ///< m
    double size = 0.0;            ///< m
    bool here_only = false;       ///< acts from `from` to `to`; otherwise on all between the planes around them
};

/// Planes that pass through every one of `planes`, with cells no larger than demanded and neighbouring cells
/// growing by at most `growth`. Planes nearer to each other than `tolerance` are taken as one.
/// Returns an empty list when more than `most` cells would be needed.
[[nodiscard]] std::vector<double> grid_lines(std::vector<double> planes, std::span<const SizeDemand> demands, double growth, double tolerance,
                                             std::size_t most);

}  // namespace firnfield
