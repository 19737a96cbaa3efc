/// What a flat piece of surface sees straight in front of it.
#pragma once

#include "geometry/triangle_tree.hpp"
#include "mesh/clip.hpp"

#include <cstdint>
#include <optional>
#include <vector>

namespace firnfield {

/// What of a piece looks at one triangle.
struct Facing {
    Polygon polygon;
    std::uint32_t candidate = 0;
    double gap = 0.0;  ///< at the centroid, m
};

/// A triangle that may lie in front of a piece, and its unit normal.
struct Target {
    const Triangle& corners;
    Vec3 normal{};
};

/// Distance (m) from a point to the target's plane along a direction.
[[nodiscard]] inline double gap_along(Vec3 direction, Vec3 point, const Target& target) {
    return dot(target.corners[0] - point, target.normal) / dot(direction, target.normal);
}

/// The part of the piece from which the target is seen along the piece's normal, at gaps of `least` to `most`; nothing when there is none.
[[nodiscard]] std::optional<Facing> see(const Polygon& piece, Vec3 normal, const Target& target, double least, double most, double tolerance);

/// Where several targets are seen from the same spot only the nearest counts; gaps that differ by less than `alike` are one.
void keep_nearest(const Polygon& piece, Vec3 normal, std::vector<Facing>& found, double alike, double tolerance);

}  // namespace firnfield
