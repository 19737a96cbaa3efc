/// Where a solid goes: rotated, mirrored, scaled, moved.
#pragma once

#include <firnfield/geometry.hpp>

#include <optional>

namespace firnfield {

/// x → x·columns[0] + y·columns[1] + z·columns[2] + offset.
struct Placement {
    std::array<Vec3, 3> columns{Vec3{1.0, 0.0, 0.0}, Vec3{0.0, 1.0, 0.0}, Vec3{0.0, 0.0, 1.0}};
    Vec3 offset{};

    [[nodiscard]] Vec3 turn(Vec3 v) const { return v.x * columns[0] + v.y * columns[1] + v.z * columns[2]; }
    [[nodiscard]] Vec3 operator()(Vec3 p) const { return turn(p) + offset; }
};

/// First `inner`, then `outer`.
[[nodiscard]] Placement combine(const Placement& outer, const Placement& inner);
[[nodiscard]] Placement moved(Vec3 step);
/// Right-handed turn about an axis through a point; quarter turns about x, y, z are exact.
[[nodiscard]] Placement rotated(Vec3 axis, double degrees, Vec3 about);
[[nodiscard]] Placement scaled(double factor, Vec3 about);
[[nodiscard]] Placement mirrored(int axis, Vec3 about);

/// The surface elsewhere; mirror images keep their outside outside.
[[nodiscard]] ClosedSurface place(ClosedSurface surface, const Placement& placement);
/// The box elsewhere when it still lies along the axes.
[[nodiscard]] std::optional<Box> place(const Box& box, const Placement& placement);

}  // namespace firnfield
