/// Which triangles pass through which boxes of the grid.
#pragma once

#include <firnfield/mesh.hpp>

#include "geometry/triangle_tree.hpp"

#include <algorithm>
#include <cstdint>
#include <vector>

namespace firnfield {

/// Lists for every grid box the triangles that pass through it: what is near a place is found by looking into a few boxes.
/// A tree over whole triangles would be slow for the long slivers that set operations leave.
class TriangleBins {
public:
    TriangleBins() = default;
    TriangleBins(const Grid& grid, const std::vector<Triangle>& triangles);

    /// Calls `visit(triangle)` for what passes through the boxes that meet the one from `low` to `high`; some more than once.
    template <typename Visit>
    void for_each_near(Vec3 low, Vec3 high, const Visit& visit) const {
        std::array<Index, 3> from{}, to{};
        for (std::size_t axis = 0; axis < 3; ++axis) {
            const std::vector<double>& lines = grid_->lines[axis];
            const int a = static_cast<int>(axis);
            const auto first = std::upper_bound(lines.begin(), lines.end(), low[a]) - lines.begin();
            const auto last = std::lower_bound(lines.begin(), lines.end(), high[a]) - lines.begin();
            from[axis] = static_cast<Index>(std::clamp<std::ptrdiff_t>(first - 1, 0, std::ssize(lines) - 2));
            to[axis] = static_cast<Index>(std::clamp<std::ptrdiff_t>(last, from[axis] + 1, std::ssize(lines) - 1));
        }
        for (Index k = from[2]; k < to[2]; ++k) {
            for (Index j = from[1]; j < to[1]; ++j) {
                const std::size_t row = (std::size_t{k} * grid_->count(1) + j) * grid_->count(0);
                for (Index i = first_[row + from[0]]; i < first_[row + to[0]]; ++i) visit(triangles_[i]);
            }
        }
    }

private:
    const Grid* grid_ = nullptr;
    std::vector<Index> first_;               // per box and one more
    std::vector<std::uint32_t> triangles_;   // by box
};

}  // namespace firnfield
