/// Clipping of triangles to grid boxes.
#pragma once

#include <firnfield/mesh.hpp>

#include "geometry/polygon.hpp"
#include "mesh/layout.hpp"

#include <algorithm>

namespace firnfield {

/// A point moved onto the planes of the grid that it is nearer to than `near` of a box, and into the grid's extent.
[[nodiscard]] Vec3 snapped(const Grid& grid, Vec3 point, double near);

/// Corners within a tiny distance of a grid plane are moved onto it, so that no slivers arise.
[[nodiscard]] std::vector<Vec3> snap_to_grid(const Grid& grid, const std::vector<Vec3>& corners);

/// Corners of a triangle in a box: three, and at most two more for each of three axes.
using BoxPolygon = FixedPolygon<12>;

/// Boxes of a grid along each axis, [first, last).
using Window = std::array<Range, 3>;
[[nodiscard]] inline Window whole(const Grid& grid) { return {Range{0, grid.count(0)}, Range{0, grid.count(1)}, Range{0, grid.count(2)}}; }

/// Splits a polygon at all planes of one axis; `visit(piece, index of the box along the axis)` for those in the window.
template <typename P, typename Visit>
void for_each_slice(const std::vector<double>& lines, Range window, int axis, double normal, const P& polygon, const Visit& visit) {
    double low = polygon[0][axis], high = low;
    for (std::size_t i = 1; i < polygon.size(); ++i) {
        low = std::min(low, polygon[i][axis]);
        high = std::max(high, polygon[i][axis]);
    }
    const auto after = static_cast<std::size_t>(std::upper_bound(lines.begin(), lines.end(), low) - lines.begin());
    std::size_t at = after > 0 ? after - 1 : 0;  // box whose lower plane is at or below
    if (low == high) {
        // In a grid plane: the solid is on the side that the normal points away from.
        if (at > 0 && lines[at] == low && normal > 0.0) --at;
        at = std::min(at, lines.size() - 2);
        if (at >= window.first && at < window.last) visit(polygon, static_cast<Index>(at));
        return;
    }
    if (high <= lines[window.first] || at >= window.last) return;
    P rest = polygon, below, above;
    if (at + 1 < window.first) at = window.first - 1;  // all that lies before the window in one cut
    for (; at + 2 < lines.size() && high > lines[at + 1]; ++at) {
        const double plane = lines[at + 1];
        split(
            rest, [&](Vec3 p) { return p[axis] - plane; }, 0.0, below, above,
            [&](Vec3 p) {
                p[axis] = plane;
                return p;
            });
        if (below.size() > 2 && at >= window.first) visit(below, static_cast<Index>(at));
        if (above.size() < 3 || at + 1 >= window.last) return;
        rest = above;
    }
    at = std::min(at, lines.size() - 2);
    if (at >= window.first) visit(rest, static_cast<Index>(at));
}

/// Splits a polygon at all planes of the grid; `visit(piece, place of the box)` for those in the window.
template <typename P, typename Visit>
void for_each_box_piece(const Grid& grid, const Window& window, Vec3 normal, const P& polygon, const Visit& visit) {
    for_each_slice(grid.lines[0], window[0], 0, normal.x, polygon, [&](const P& in_x, Index i) {
        for_each_slice(grid.lines[1], window[1], 1, normal.y, in_x, [&](const P& in_y, Index j) {
            for_each_slice(grid.lines[2], window[2], 2, normal.z, in_y, [&](const P& piece, Index k) { visit(piece, std::array<Index, 3>{i, j, k}); });
        });
    });
}

/// Calls `visit(polygon, place of the box, triangle, unit normal)` for every piece of every triangle in the window; `snapped` are the
/// corners after snap_to_grid(). A piece in a grid plane belongs to the box on its inner side.
template <typename Visit>
void for_each_piece(const Grid& grid, const Window& window, const std::vector<Vec3>& snapped, const ClosedSurface& surface, const Visit& visit) {
    for (std::size_t t = 0; t < surface.triangles.size(); ++t) {
        const auto& corner = surface.triangles[t];
        BoxPolygon polygon;
        for (const std::uint32_t c : corner) polygon.push_back(snapped[c]);
        const Vec3 doubled = cross(polygon[1] - polygon[0], polygon[2] - polygon[0]);
        const double size = length(doubled);
        if (size == 0.0) continue;
        const Vec3 normal = (1.0 / size) * doubled;
        for_each_box_piece(grid, window, normal, polygon, [&](const BoxPolygon& piece, const std::array<Index, 3>& place) { visit(piece, place, t, normal); });
    }
}

}  // namespace firnfield
