/// A tree of bounding boxes over triangles: what is near, what a ray meets, whether a point lies inside.
#pragma once

#include <firnfield/geometry.hpp>

#include <cstdint>
#include <limits>
#include <vector>

namespace firnfield {

using Triangle = std::array<Vec3, 3>;

/// Normal times twice the area.
[[nodiscard]] inline Vec3 doubled_area(const Triangle& t) { return cross(t[1] - t[0], t[2] - t[0]); }

/// The point of a triangle that is nearest to a given one.
[[nodiscard]] Vec3 nearest_point(const Triangle& t, Vec3 p);

/// Distance of the corner beside the longest edge from it: of a sliver next to nothing.
[[nodiscard]] double height_of(const Triangle& t);

[[nodiscard]] std::vector<Triangle> triangles_of(const ClosedSurface& surface);

/// Where a ray meets a surface: +1 where it leaves, −1 where it enters.
struct RayCrossing {
    double distance = 0.0;
    int sign = 0;
};

class TriangleTree {
public:
    TriangleTree() = default;
    explicit TriangleTree(std::vector<Triangle> triangles);

    [[nodiscard]] const std::vector<Triangle>& triangles() const { return triangles_; }

    /// Calls `visit(index)` for every triangle whose box meets the box from `low` to `high`.
    template <typename Visit>
    void for_each_near(Vec3 low, Vec3 high, const Visit& visit) const {
        if (nodes_.empty()) return;
        std::array<std::uint32_t, 64> stack;
        std::size_t depth = 0;
        stack[depth++] = 0;
        while (depth > 0) {
            const Node& node = nodes_[stack[--depth]];
            if (!overlap(node, low, high)) continue;
            if (node.count > 0) {
                for (std::uint32_t i = node.first; i < node.first + node.count; ++i) {
                    if (overlap(boxes_[order_[i]], low, high)) visit(order_[i]);
                }
            } else {
                stack[depth++] = node.first;
                stack[depth++] = node.first + 1;
            }
        }
    }

    /// How often the surface winds around the point: 1 inside a closed surface, 0 outside. A vote of several rays.
    [[nodiscard]] int winding(Vec3 point) const;
    [[nodiscard]] bool inside(Vec3 point) const { return winding(point) > 0; }

    /// All crossings of a ray, in no particular order.
    [[nodiscard]] std::vector<RayCrossing> crossings(Vec3 point, Vec3 direction) const;

    /// Distance along `direction` (of length 1) to the first triangle beyond `from`; infinity when there is none.
    [[nodiscard]] double first_hit(Vec3 point, Vec3 direction, double from) const;

private:
    struct Node {
        Vec3 low, high;
        std::uint32_t first = 0;  // triangle in order_, or first of two children
        std::uint32_t count = 0;  // triangles; 0 for an inner node
    };
    struct Bounds {
        Vec3 low, high;
    };
    template <typename B>
    static bool overlap(const B& b, Vec3 low, Vec3 high) {
        return b.low.x <= high.x && b.high.x >= low.x && b.low.y <= high.y && b.high.y >= low.y && b.low.z <= high.z && b.high.z >= low.z;
    }
    void divide(std::uint32_t node, std::uint32_t first, std::uint32_t count);
    template <typename Visit>
    void for_each_on_ray(Vec3 point, Vec3 direction, const Visit& visit) const;

    std::vector<Triangle> triangles_;
    std::vector<Bounds> boxes_;
    std::vector<std::uint32_t> order_;
    std::vector<Node> nodes_;
};

}  // namespace firnfield
