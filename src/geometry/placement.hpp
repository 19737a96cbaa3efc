/// Where a solid goes: rotated, mirrored, scaled, moved.
#pragma once

#include <firnfield/geometry.hpp>

#include <optional>

namespace firnfield {

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
