// What a flat piece of surface sees straight in front of it.

#include "mesh/facing.hpp"

#include <algorithm>
#include <cmath>
#include <iterator>

namespace firnfield {
namespace {

/// What of a convex polygon lies inside another one in the same plane; pieces outside go to `rest`.
Polygon take_inside(const Polygon& polygon, const Polygon& other, Vec3 normal, double tolerance, std::vector<Polygon>& rest) {
    Polygon inside = polygon;
    for (std::size_t e = 0; e < other.size() && !inside.empty(); ++e) {
        const Vec3 edge = other[(e + 1) % other.size()] - other[e];
        const double size = length(edge);
        if (size <= tolerance) continue;
        const Vec3 inward = (1.0 / size) * cross(normal, edge);
        Polygon below, above;
        split(
            inside, [&](Vec3 p) { return dot(inward, p - other[e]); }, tolerance, below, above);
        if (!below.empty()) rest.push_back(std::move(below));
        inside = std::move(above);
    }
    return inside;
}

/// Whether a triangle lies beside a piece that faces along an axis: the quick answer for most neighbours.
bool beside(const Polygon& piece, Vec3 normal, const Triangle& t, double tolerance) {
    for (int axis = 0; axis < 3; ++axis) {
        if (std::abs(normal[axis]) < 1.0 - 1e-12) continue;
        for (const int across : {(axis + 1) % 3, (axis + 2) % 3}) {
            const auto [low, high] = std::minmax({t[0][across], t[1][across], t[2][across]});
            double from = piece[0][across], to = from;
            for (const Vec3& p : piece) {
                from = std::min(from, p[across]);
                to = std::max(to, p[across]);
            }
            if (high <= from + tolerance || low >= to - tolerance) return true;
        }
    }
    return false;
}

}  // namespace

std::optional<Facing> see(const Polygon& piece, Vec3 normal, const Target& target, double least, double most, double tolerance) {
    const Triangle& t = target.corners;
    if (beside(piece, normal, t, tolerance)) return std::nullopt;
    const auto gap = [&](Vec3 p) { return gap_along(normal, p, target); };
    double nearest = most + 1.0, farthest = least - 1.0;
    for (const Vec3& p : piece) {
        const double here = gap(p);
        nearest = std::min(nearest, here);
        farthest = std::max(farthest, here);
    }
    if (nearest >= most || farthest <= least) return std::nullopt;
    // A piece has at most nine corners; each of the five planes below adds at most one.
    FixedPolygon<24> seen, below, above;
    for (const Vec3& p : piece) seen.push_back(p);
    for (std::size_t e = 0; e < 3; ++e) {
        // Seen along the normal, the target's edges run clockwise.
        const Vec3 inward = cross(t[(e + 1) % 3] - t[e], normal);
        const double size = length(inward);
        if (size == 0.0) return std::nullopt;
        split(
            seen, [&](Vec3 p) { return dot(inward, p - t[e]) / size; }, tolerance, below, above);
        seen = above;
        if (seen.size() < 3) return std::nullopt;
    }
    if (nearest < least) {
        split(
            seen, [&](Vec3 p) { return gap(p) - least; }, 0.0, below, above);
        seen = above;
        if (seen.size() < 3) return std::nullopt;
    }
    if (farthest > most) {
        split(
            seen, [&](Vec3 p) { return gap(p) - most; }, 0.0, below, above);
        seen = below;
        if (seen.size() < 3) return std::nullopt;
    }
    const Vec3 vector = area_vector(seen);
    if (!(dot(vector, normal) > 0.0)) return std::nullopt;
    return Facing{Polygon(seen.corner.begin(), seen.corner.begin() + seen.count), 0, gap(centroid(seen, vector))};
}

void keep_nearest(const Polygon& piece, Vec3 normal, std::vector<Facing>& found, double alike, double tolerance) {
    if (found.size() == 1) return;
    double sum = 0.0, nearest = found[0].gap, farthest = nearest;
    for (const Facing& f : found) {
        sum += dot(area_vector(f.polygon), normal);
        nearest = std::min(nearest, f.gap);
        farthest = std::max(farthest, f.gap);
    }
    const double whole = dot(area_vector(piece), normal);
    if (sum <= whole * (1.0 + 1e-9) && farthest - nearest <= alike) return;
    std::stable_sort(found.begin(), found.end(), [](const Facing& a, const Facing& b) { return a.gap < b.gap; });
    std::vector<Facing> kept;
    std::vector<Polygon> free{piece};
    constexpr std::size_t most_pieces = 200;
    for (const Facing& f : found) {
        std::vector<Polygon> rest;
        for (const Polygon& polygon : free) {
            std::vector<Polygon> outside;
            Polygon inside = take_inside(polygon, f.polygon, normal, tolerance, outside);
            if (inside.empty() || free.size() > most_pieces) {
                rest.push_back(polygon);
                continue;
            }
            kept.push_back({std::move(inside), f.candidate, f.gap});
            std::move(outside.begin(), outside.end(), std::back_inserter(rest));
        }
        free = std::move(rest);
        if (free.empty()) break;
    }
    found = std::move(kept);
}

}  // namespace firnfield
