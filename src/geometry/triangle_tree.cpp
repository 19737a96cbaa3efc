// A bounding-volume tree of triangles: rays, winding numbers, nearest points.

#include "geometry/triangle_tree.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace firnfield {
namespace {

/// Möller & Trumbore, "Fast, minimum storage ray/triangle intersection" (1997).
RayCrossing meet(const Triangle& t, Vec3 point, Vec3 direction) {
    const Vec3 e1 = t[1] - t[0], e2 = t[2] - t[0];
    const Vec3 p = cross(direction, e2);
    const double det = dot(e1, p);
    if (det == 0.0) return {};
    const Vec3 s = point - t[0];
    const double u = dot(s, p) / det;
    if (u < 0.0 || u > 1.0) return {};
    const Vec3 q = cross(s, e1);
    const double v = dot(direction, q) / det;
    if (v < 0.0 || u + v > 1.0) return {};
    // det = −direction · (e1 × e2): negative when the ray runs along the normal, so leaves.
    return {dot(e2, q) / det, det < 0.0 ? 1 : -1};
}

}  // namespace

/// Ericson, "Real-time collision detection" (2005), 5.1.5.
Vec3 nearest_point(const Triangle& t, Vec3 p) {
    const Vec3 ab = t[1] - t[0], ac = t[2] - t[0], ap = p - t[0];
    const double d1 = dot(ab, ap), d2 = dot(ac, ap);
    if (d1 <= 0.0 && d2 <= 0.0) return t[0];
    const Vec3 bp = p - t[1];
    const double d3 = dot(ab, bp), d4 = dot(ac, bp);
    if (d3 >= 0.0 && d4 <= d3) return t[1];
    const double vc = d1 * d4 - d3 * d2;
    if (vc <= 0.0 && d1 >= 0.0 && d3 <= 0.0) return t[0] + (d1 / (d1 - d3)) * ab;
    const Vec3 cp = p - t[2];
    const double d5 = dot(ab, cp), d6 = dot(ac, cp);
    if (d6 >= 0.0 && d5 <= d6) return t[2];
    const double vb = d5 * d2 - d1 * d6;
    if (vb <= 0.0 && d2 >= 0.0 && d6 <= 0.0) return t[0] + (d2 / (d2 - d6)) * ac;
    const double va = d3 * d6 - d5 * d4;
    if (va <= 0.0 && d4 - d3 >= 0.0 && d5 - d6 >= 0.0) return t[1] + ((d4 - d3) / ((d4 - d3) + (d5 - d6))) * (t[2] - t[1]);
    const double sum = va + vb + vc;
    return sum == 0.0 ? t[0] : t[0] + (vb / sum) * ab + (vc / sum) * ac;
}

double height_of(const Triangle& t) {
    const double longest = std::max({length(t[1] - t[0]), length(t[2] - t[1]), length(t[0] - t[2])});
    return longest > 0.0 ? length(doubled_area(t)) / longest : 0.0;
}

std::vector<Triangle> triangles_of(const ClosedSurface& surface) {
    std::vector<Triangle> out;
    out.reserve(surface.triangles.size());
    for (const auto& t : surface.triangles) out.push_back({surface.corners[t[0]], surface.corners[t[1]], surface.corners[t[2]]});
    return out;
}

TriangleTree::TriangleTree(std::vector<Triangle> triangles) : triangles_(std::move(triangles)), order_(triangles_.size()) {
    boxes_.reserve(triangles_.size());
    for (const Triangle& t : triangles_) {
        Bounds b{t[0], t[0]};
        for (const Vec3& p : t) {
            for (int axis = 0; axis < 3; ++axis) {
                b.low[axis] = std::min(b.low[axis], p[axis]);
                b.high[axis] = std::max(b.high[axis], p[axis]);
            }
        }
        boxes_.push_back(b);
    }
    std::iota(order_.begin(), order_.end(), 0U);
    if (triangles_.empty()) return;
    nodes_.reserve(triangles_.size());
    nodes_.emplace_back();
    divide(0, 0, static_cast<std::uint32_t>(order_.size()));
}

void TriangleTree::divide(std::uint32_t at, std::uint32_t first, std::uint32_t count) {
    Bounds all = boxes_[order_[first]];
    for (std::uint32_t i = first; i < first + count; ++i) {
        const Bounds& b = boxes_[order_[i]];
        for (int axis = 0; axis < 3; ++axis) {
            all.low[axis] = std::min(all.low[axis], b.low[axis]);
            all.high[axis] = std::max(all.high[axis], b.high[axis]);
        }
    }
    nodes_[at].low = all.low;
    nodes_[at].high = all.high;
    constexpr std::uint32_t leaf = 4;
    if (count <= leaf) {
        nodes_[at].first = first;
        nodes_[at].count = count;
        return;
    }
    int axis = 0;
    for (int a = 1; a < 3; ++a) {
        if (all.high[a] - all.low[a] > all.high[axis] - all.low[axis]) axis = a;
    }
    const std::uint32_t half = count / 2;
    const auto middle = [&](std::uint32_t t) { return boxes_[t].low[axis] + boxes_[t].high[axis]; };
    const auto begin = order_.begin() + first;
    std::nth_element(begin, begin + half, begin + count, [&](std::uint32_t a, std::uint32_t b) {
        return middle(a) != middle(b) ? middle(a) < middle(b) : a < b;  // the same tree on every machine
    });
    const auto children = static_cast<std::uint32_t>(nodes_.size());
    nodes_[at].first = children;
    nodes_.emplace_back();
    nodes_.emplace_back();
    divide(children, first, half);
    divide(children + 1, first + half, count - half);
}

template <typename Visit>
void TriangleTree::for_each_on_ray(Vec3 point, Vec3 direction, const Visit& visit) const {
    if (nodes_.empty()) return;
    const Vec3 inverse{1.0 / direction.x, 1.0 / direction.y, 1.0 / direction.z};
    const auto missed = [&](const Node& node) {
        double enter = 0.0, leave = std::numeric_limits<double>::infinity();
        for (int axis = 0; axis < 3; ++axis) {
            if (direction[axis] == 0.0) {
                if (point[axis] < node.low[axis] || point[axis] > node.high[axis]) return true;
                continue;
            }
            const double a = (node.low[axis] - point[axis]) * inverse[axis], b = (node.high[axis] - point[axis]) * inverse[axis];
            enter = std::max(enter, std::min(a, b));
            leave = std::min(leave, std::max(a, b));
        }
        return enter > leave * (1.0 + 1e-12);
    };
    std::array<std::uint32_t, 64> stack;
    std::size_t depth = 0;
    stack[depth++] = 0;
    while (depth > 0) {
        const Node& node = nodes_[stack[--depth]];
        if (missed(node)) continue;
        if (node.count == 0) {
            stack[depth++] = node.first;
            stack[depth++] = node.first + 1;
            continue;
        }
        for (std::uint32_t i = node.first; i < node.first + node.count; ++i) visit(meet(triangles_[order_[i]], point, direction));
    }
}

int TriangleTree::winding(Vec3 point) const {
    // Oblique directions, so that rays rarely graze edges of parts that stand along the axes.
    static constexpr std::array<Vec3, 5> directions{
        {{0.4472, 0.7241, 0.5249}, {-0.6113, 0.3017, 0.7316}, {0.2719, -0.8325, 0.4827}, {-0.3541, -0.5827, -0.7315}, {0.7993, 0.1741, -0.5752}}};
    const auto along = [&](Vec3 direction) {
        int crossings = 0;
        for_each_on_ray(point, direction, [&](RayCrossing hit) {
            if (hit.distance > 0.0) crossings += hit.sign;
        });
        return crossings;
    };
    std::array<int, 5> found{};
    for (std::size_t i = 0; i < 3; ++i) found[i] = along(directions[i]);
    if (found[0] == found[1] && found[1] == found[2]) return found[0];
    for (std::size_t i = 3; i < 5; ++i) found[i] = along(directions[i]);
    std::sort(found.begin(), found.end());
    return found[2];
}

std::vector<RayCrossing> TriangleTree::crossings(Vec3 point, Vec3 direction) const {
    std::vector<RayCrossing> found;
    for_each_on_ray(point, direction, [&](RayCrossing hit) {
        if (hit.sign != 0) found.push_back(hit);
    });
    return found;
}

double TriangleTree::first_hit(Vec3 point, Vec3 direction, double from) const {
    double nearest = std::numeric_limits<double>::infinity();
    for_each_on_ray(point, direction, [&](RayCrossing hit) {
        if (hit.sign != 0 && hit.distance > from) nearest = std::min(nearest, hit.distance);
    });
    return nearest;
}

}  // namespace firnfield
