// Polygons clipped by planes.

#include "mesh/clip.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {

Vec3 snapped(const Grid& grid, Vec3 p, double near) {
    for (int axis = 0; axis < 3; ++axis) {
        const std::vector<double>& lines = grid.lines[static_cast<std::size_t>(axis)];
        const auto next = static_cast<std::size_t>(std::lower_bound(lines.begin(), lines.end(), p[axis]) - lines.begin());
        for (const std::size_t at : {next > 0 ? next - 1 : 0, std::min(next, lines.size() - 1)}) {
            const double width = at + 1 < lines.size() ? lines[at + 1] - lines[at] : lines[at] - lines[at - 1];
            if (std::abs(lines[at] - p[axis]) <= near * width) p[axis] = lines[at];
        }
        p[axis] = std::clamp(p[axis], lines.front(), lines.back());
    }
    return p;
}

std::vector<Vec3> snap_to_grid(const Grid& grid, const std::vector<Vec3>& corners) {
    std::vector<Vec3> out;
    out.reserve(corners.size());
    for (const Vec3& p : corners) out.push_back(snapped(grid, p, 1e-9));
    return out;
}

}  // namespace firnfield
