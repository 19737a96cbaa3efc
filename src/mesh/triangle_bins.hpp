/// Which triangles pass through which boxes of the grid.
#pragma once

#include <firnfield/mesh.hpp>

#include "geometry/triangle_tree.hpp"
#include "mesh/clip.hpp"

#include <algorithm>
#include <cstdint>
#include <vector>

namespace firnfield {

/// Lists for every grid box the triangles that pass through it: what is near a place is found by looking into a few boxes.
/// A tree over whole triangles would be slow for the long slivers that set operations leave.
class TriangleBins {
public:
    TriangleBins() = default;
    /// Lists each triangle in the boxes of its window only: `window(triangle)`.
    template <typename WindowOf>
    TriangleBins(const Grid& grid, const std::vector<Triangle>& triangles, const WindowOf& window) : grid_(&grid) {
        std::vector<Entry> entries;
        for (std::uint32_t t = 0; t < triangles.size(); ++t) {
            BoxPolygon polygon;
            for (const Vec3& p : triangles[t]) polygon.push_back(snapped(grid, p, 1e-7));
            for_each_box_piece(grid, window(t), doubled_area(triangles[t]), polygon, [&](const BoxPolygon&, const std::array<Index, 3>& place) {
                entries.push_back({(std::size_t{place[2]} * grid.count(1) + place[1]) * grid.count(0) + place[0], t});
            });
        }
        sort_into_boxes(entries);
    }

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
    struct Entry {
        std::size_t box = 0;
        std::uint32_t triangle = 0;
    };
    void sort_into_boxes(const std::vector<Entry>& entries);

    const Grid* grid_ = nullptr;
    std::vector<Index> first_;              // per box and one more
    std::vector<std::uint32_t> triangles_;  // by box
};

}  // namespace firnfield
