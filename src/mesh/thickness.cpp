// Thicknesses of solids from straight ways through them.

#include "mesh/thickness.hpp"

#include "geometry/triangle_tree.hpp"

#include <algorithm>
#include <vector>

namespace firnfield {
namespace {

/// Lengths of the straight ways through a solid along one axis, from a lattice of lines over its extent. A lattice, and not samples of the
/// surface, so that a mirror image has the mirrored ways, whatever its facets are like.
std::vector<double> ways_through(const TriangleTree& tree, const Box& box, int axis, int lines) {
    const int u = (axis + 1) % 3, v = (axis + 2) % 3;
    Vec3 direction;
    direction[axis] = 1.0;
    std::vector<double> ways;
    // Unequal numbers both ways round: a square's diagonals and middle lines lie between the lines, and turning it changes nothing.
    for (const bool turned : {false, true}) {
        const int count_u = turned ? lines + 4 : lines, count_v = turned ? lines : lines + 4;
        for (int i = 0; i < count_u; ++i) {
            for (int j = 0; j < count_v; ++j) {
                Vec3 from = box.at;
                from[axis] -= 0.1 * box.size[axis];
                from[u] += box.size[u] * (i + 0.5) / count_u;
                from[v] += box.size[v] * (j + 0.5) / count_v;
                std::vector<RayCrossing> crossings = tree.crossings(from, direction);
                std::sort(crossings.begin(), crossings.end(), [](const RayCrossing& a, const RayCrossing& b) { return a.distance < b.distance; });
                for (std::size_t c = 0; c + 1 < crossings.size(); ++c) {
                    const double span = crossings[c + 1].distance - crossings[c].distance;
                    if (crossings[c].sign < 0 && crossings[c + 1].sign > 0 && span > 1e-7 * box.size[axis]) ways.push_back(span);
                }
            }
        }
    }
    return ways;
}

}  // namespace

Vec3 typical_thickness(const ClosedSurface& surface) {
    const TriangleTree tree(triangles_of(surface));
    const Box box = bounds(surface);
    Vec3 thickness = box.size;
    for (int axis = 0; axis < 3; ++axis) {
        // Frames and skins fill little of their extent: there more lines are needed to meet them often enough.
        constexpr std::size_t enough = 60;
        std::vector<double> ways;
        for (int lines = 14; ways.size() < enough && lines <= 230; lines *= 4) ways = ways_through(tree, box, axis, lines);
        if (ways.empty()) continue;
        const auto quarter = ways.begin() + static_cast<std::ptrdiff_t>(ways.size() / 4);
        std::nth_element(ways.begin(), quarter, ways.end());
        thickness[axis] = *quarter;
    }
    return thickness;
}

}  // namespace firnfield
