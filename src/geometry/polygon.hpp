/// Small convex polygons and how planes split them.
#pragma once

#include <firnfield/geometry.hpp>

#include <cmath>
#include <vector>

namespace firnfield {

/// A convex polygon with room for `Capacity` corners and no allocation.
template <int Capacity>
struct FixedPolygon {
    std::array<Vec3, Capacity> corner;
    int count = 0;

    void clear() { count = 0; }
    void push_back(Vec3 p) { corner[static_cast<std::size_t>(count++)] = p; }
    [[nodiscard]] std::size_t size() const { return static_cast<std::size_t>(count); }
    [[nodiscard]] const Vec3& operator[](std::size_t i) const { return corner[i]; }
    [[nodiscard]] Vec3& operator[](std::size_t i) { return corner[i]; }
};

/// A convex polygon of any number of corners.
using Polygon = std::vector<Vec3>;

/// Half the sum of cross products: normal times area.
template <typename P>
Vec3 area_vector(const P& polygon) {
    Vec3 sum;
    for (std::size_t i = 1; i + 1 < polygon.size(); ++i) sum = sum + cross(polygon[i] - polygon[0], polygon[i + 1] - polygon[0]);
    return 0.5 * sum;
}

/// Area-weighted centre of a planar polygon whose area vector is known.
template <typename P>
Vec3 centroid(const P& polygon, Vec3 area) {
    Vec3 sum;
    double weight = 0.0;
    for (std::size_t i = 1; i + 1 < polygon.size(); ++i) {
        const double w = dot(cross(polygon[i] - polygon[0], polygon[i + 1] - polygon[0]), area);
        sum = sum + w * (polygon[i] + polygon[i + 1] - 2.0 * polygon[0]);
        weight += w;
    }
    return weight > 0.0 ? polygon[0] + (1.0 / (3.0 * weight)) * sum : polygon[0];
}

/// Point where the edge a–b has height 0, the same to the last bit for both directions of the edge.
inline Vec3 edge_point(Vec3 a, double height_a, Vec3 b, double height_b) {
    const bool swap = a.x != b.x ? a.x > b.x : a.y != b.y ? a.y > b.y : a.z > b.z;
    if (swap) {
        std::swap(a, b);
        std::swap(height_a, height_b);
    }
    return a + (height_a / (height_a - height_b)) * (b - a);
}

/// Splits a convex polygon where `height(corner)` changes its sign; corners within `tolerance` of 0 belong to both pieces.
/// A piece without area comes back empty. `settle(p)` may adjust cut points.
template <typename P, typename Height, typename Settle>
void split(const P& polygon, const Height& height, double tolerance, P& below, P& above, const Settle& settle) {
    below.clear();
    above.clear();
    const std::size_t n = polygon.size();
    bool any_below = false, any_above = false;
    Vec3 last = polygon[n - 1];
    double last_height = height(last);
    for (std::size_t i = 0; i < n; ++i) {
        const Vec3 here = polygon[i];
        const double here_height = height(here);
        const bool crosses = (last_height < -tolerance && here_height > tolerance) || (last_height > tolerance && here_height < -tolerance);
        if (crosses) {
            const Vec3 cut = settle(edge_point(last, last_height, here, here_height));
            below.push_back(cut);
            above.push_back(cut);
        }
        if (here_height <= tolerance) below.push_back(here);
        if (here_height >= -tolerance) above.push_back(here);
        any_below = any_below || here_height < -tolerance;
        any_above = any_above || here_height > tolerance;
        last = here;
        last_height = here_height;
    }
    if (!any_below) below.clear();
    if (!any_above) above.clear();
}

template <typename P, typename Height>
void split(const P& polygon, const Height& height, double tolerance, P& below, P& above) {
    split(polygon, height, tolerance, below, above, [](Vec3 p) { return p; });
}

}  // namespace firnfield
