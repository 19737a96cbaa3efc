// Planes of symmetry of mirrors and sectors.

#include "mesh/symmetry.hpp"

#include "mesh/layout.hpp"

#include <fmt/format.h>

#include <cmath>
#include <numbers>

namespace firnfield {

std::vector<SymmetryPlane> symmetry_planes(const Model& model) {
    std::vector<SymmetryPlane> planes;
    const auto add = [&](Vec3 outward, Vec3 through, bool of_sector) {
        Vec3 n = normalized(outward);
        for (int axis = 0; axis < 3; ++axis) {
            if (std::abs(n[axis]) < 1e-12) n[axis] = 0.0;  // planes along the axes are cut exactly
        }
        n = normalized(n);
        planes.push_back({n, dot(n, through), of_sector});
    };
    for (const Mirror& mirror : model.mirrors) {
        if (mirror.keep) {
            add(-1.0 * mirror.keep->normal, mirror.keep->through, false);
        } else {
            Vec3 outward, through;
            outward[mirror.axis] = mirror.keep_plus ? -1.0 : 1.0;
            through[mirror.axis] = mirror.at;
            add(outward, through, false);
        }
    }
    if (model.sector) {
        const Sector& s = *model.sector;
        const auto direction = [&](double degrees) {
            Vec3 d;
            d[(s.along + 1) % 3] = std::cos(degrees * std::numbers::pi / 180.0);
            d[(s.along + 2) % 3] = std::sin(degrees * std::numbers::pi / 180.0);
            return d;
        };
        add(direction(s.from - 90.0), s.about, s.pieces > 2);
        if (s.pieces > 2) add(direction(s.from + 360.0 / s.pieces + 90.0), s.about, true);
    }
    return planes;
}

int axis_across(const SymmetryPlane& plane) {
    for (int axis = 0; axis < 3; ++axis) {
        if (std::abs(plane.outward[axis]) == 1.0) return axis;
    }
    return -1;
}

ClosedSurface beyond(const SymmetryPlane& plane, const Extent& extent, std::size_t index) {
    const Vec3 middle = 0.5 * (extent.low + extent.high);
    const double half = 2.0 * length(extent.high - extent.low) + std::abs(dot(plane.outward, middle) - plane.offset);
    const Vec3 n = plane.outward;
    const int axis = axis_across(plane);
    Placement stand;
    // A plane along the axes keeps exact coordinates.
    Vec3 u = axis >= 0 ? Vec3{} : perpendicular(n);
    if (axis >= 0) u[(axis + 1) % 3] = 1.0;
    stand.columns = {u, cross(n, u), n};
    stand.offset = middle - (dot(n, middle) - plane.offset) * n;
    if (axis >= 0) stand.offset[axis] = n[axis] * plane.offset;
    ClosedSurface block = triangulate(Box{.size = {2.0 * half, 2.0 * half, half}, .at = {-half, -half, 0.0}}, 1.0);
    for (SurfaceFace& face : block.faces) face.name = fmt::format("{} {}", symmetry_tag, index);
    return place(std::move(block), stand);
}

}  // namespace firnfield
