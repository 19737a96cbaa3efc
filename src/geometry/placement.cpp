// Where a part's solid stands: scaled, mirrored, turned, moved.

#include "geometry/placement.hpp"

#include <cmath>
#include <numbers>
#include <utility>

namespace firnfield {

Placement combine(const Placement& outer, const Placement& inner) {
    Placement both;
    for (std::size_t c = 0; c < 3; ++c) both.columns[c] = outer.turn(inner.columns[c]);
    both.offset = outer(inner.offset);
    return both;
}

Placement moved(Vec3 step) {
    Placement p;
    p.offset = step;
    return p;
}

Placement rotated(Vec3 axis, double degrees, Vec3 about) {
    const Vec3 n = normalized(axis);
    const double quarters = degrees / 90.0;
    double c = std::cos(degrees * std::numbers::pi / 180.0), s = std::sin(degrees * std::numbers::pi / 180.0);
    if (quarters == std::round(quarters)) {
        c = std::round(c);
        s = std::round(s);
    }
    Placement p;
    for (int i = 0; i < 3; ++i) {
        // Rodrigues' formula applied to the unit vectors.
        Vec3 e;
        e[i] = 1.0;
        p.columns[static_cast<std::size_t>(i)] = c * e + s * cross(n, e) + ((1.0 - c) * dot(n, e)) * n;
    }
    p.offset = about - p.turn(about);
    return p;
}

Placement scaled(double factor, Vec3 about) {
    Placement p;
    for (Vec3& column : p.columns) column = factor * column;
    p.offset = (1.0 - factor) * about;
    return p;
}

Placement mirrored(int axis, Vec3 about) {
    Placement p;
    p.columns[static_cast<std::size_t>(axis)] = -1.0 * p.columns[static_cast<std::size_t>(axis)];
    p.offset[axis] = 2.0 * about[axis];
    return p;
}

ClosedSurface place(ClosedSurface surface, const Placement& placement) {
    for (Vec3& p : surface.corners) p = placement(p);
    const double stretch = dot(cross(placement.columns[0], placement.columns[1]), placement.columns[2]);
    constexpr double rounding = 1e-12;
    if (std::abs(std::abs(stretch) - 1.0) > rounding) {
        for (SurfaceFace& face : surface.faces) {
            if (face.diameter) *face.diameter *= std::cbrt(std::abs(stretch));
        }
    }
    if (stretch < 0.0) {
        for (auto& t : surface.triangles) std::swap(t[1], t[2]);
    }
    return surface;
}

std::optional<Box> place(const Box& box, const Placement& placement) {
    Box out;
    const Vec3 a = placement(box.lower());
    for (int to = 0; to < 3; ++to) {
        int sources = 0;
        for (int from = 0; from < 3; ++from) {
            const double share = placement.columns[static_cast<std::size_t>(from)][to];
            if (share == 0.0) continue;
            ++sources;
            // A box that is only moved keeps its exact size.
            out.size[to] = std::abs(share) * box.size[from];
            out.at[to] = share > 0.0 ? a[to] : a[to] + share * box.size[from];
        }
        if (sources != 1) return std::nullopt;
    }
    return out;
}

}  // namespace firnfield
