// Outlines of straight lines and arcs: checks, polygons, triangles.

#include "geometry/outline.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>
#include <queue>
#include <utility>

namespace firnfield {
namespace {

double cross2(Point2 o, Point2 a, Point2 b) { return (a[0] - o[0]) * (b[1] - o[1]) - (a[1] - o[1]) * (b[0] - o[0]); }

struct Arc {
    Point2 centre{};
    double radius = 0.0, from = 0.0, sweep = 0.0;  // radians, sweep positive counter-clockwise
};

/// The arc from `a` through `b` to `c`; radius 0 when the three lie on a line.
Arc arc_through(Point2 a, Point2 b, Point2 c) {
    const double bx = b[0] - a[0], by = b[1] - a[1], cx = c[0] - a[0], cy = c[1] - a[1];
    const double d = 2.0 * (bx * cy - by * cx), bb = bx * bx + by * by, cc = cx * cx + cy * cy;
    if (std::abs(d) <= 1e-12 * (bb + cc)) return {};
    Arc arc;
    const Point2 from_a{(cy * bb - by * cc) / d, (bx * cc - cx * bb) / d};
    arc.centre = {a[0] + from_a[0], a[1] + from_a[1]};
    arc.radius = std::hypot(from_a[0], from_a[1]);
    arc.from = std::atan2(a[1] - arc.centre[1], a[0] - arc.centre[0]);
    const double to = std::atan2(c[1] - arc.centre[1], c[0] - arc.centre[0]);
    arc.sweep = to - arc.from;
    const double turn = 2.0 * std::numbers::pi;
    if (d > 0.0 && arc.sweep <= 0.0) arc.sweep += turn;
    if (d < 0.0 && arc.sweep >= 0.0) arc.sweep -= turn;
    return arc;
}

bool inside_triangle(Point2 p, Point2 a, Point2 b, Point2 c) { return cross2(a, b, p) >= 0.0 && cross2(b, c, p) >= 0.0 && cross2(c, a, p) >= 0.0; }

bool segments_cross(Point2 a, Point2 b, Point2 c, Point2 d) {
    const double s = cross2(a, b, c), t = cross2(a, b, d), u = cross2(c, d, a), v = cross2(c, d, b);
    return ((s > 0.0 && t < 0.0) || (s < 0.0 && t > 0.0)) && ((u > 0.0 && v < 0.0) || (u < 0.0 && v > 0.0));
}

/// Corners of all loops as one ring: each hole is entered and left along a bridge to a corner that sees it.
std::vector<std::uint32_t> one_ring(const std::vector<std::vector<Point2>>& loops, const std::vector<Point2>& corner) {
    std::vector<std::uint32_t> ring(loops[0].size());
    std::iota(ring.begin(), ring.end(), 0U);
    std::vector<std::vector<std::uint32_t>> holes;
    std::uint32_t first = static_cast<std::uint32_t>(ring.size());
    for (std::size_t l = 1; l < loops.size(); ++l) {
        std::vector<std::uint32_t> hole(loops[l].size());
        std::iota(hole.begin(), hole.end(), first);
        first += static_cast<std::uint32_t>(hole.size());
        if (signed_area(loops[l]) > 0.0) std::reverse(hole.begin(), hole.end());
        // Start at the corner farthest to the right.
        std::rotate(hole.begin(), std::max_element(hole.begin(), hole.end(), [&](auto a, auto b) { return corner[a][0] < corner[b][0]; }), hole.end());
        holes.push_back(std::move(hole));
    }
    std::sort(holes.begin(), holes.end(), [&](const auto& a, const auto& b) { return corner[a[0]][0] > corner[b[0]][0]; });
    for (std::size_t h = 0; h < holes.size(); ++h) {
        const Point2 from = corner[holes[h][0]];
        const auto visible = [&](std::size_t at) {
            const Point2 to = corner[ring[at]];
            const auto blocked = [&](const std::vector<std::uint32_t>& loop) {
                for (std::size_t i = 0; i < loop.size(); ++i) {
                    if (segments_cross(from, to, corner[loop[i]], corner[loop[(i + 1) % loop.size()]])) return true;
                }
                return false;
            };
            // The bridge has to leave the ring's corner into the inside.
            const Point2 before = corner[ring[(at + ring.size() - 1) % ring.size()]], after = corner[ring[(at + 1) % ring.size()]];
            const bool convex = cross2(before, to, after) > 0.0;
            const bool left_of_in = cross2(before, to, from) > 0.0, left_of_out = cross2(to, after, from) > 0.0;
            if (convex ? !(left_of_in && left_of_out) : !(left_of_in || left_of_out)) return false;
            if (blocked(ring)) return false;
            for (std::size_t k = h; k < holes.size(); ++k) {
                if (blocked(holes[k])) return false;
            }
            return true;
        };
        std::size_t best = ring.size();
        double nearest = 0.0;
        for (std::size_t at = 0; at < ring.size(); ++at) {
            const double away = std::hypot(corner[ring[at]][0] - from[0], corner[ring[at]][1] - from[1]);
            if ((best == ring.size() || away < nearest) && visible(at)) {
                best = at;
                nearest = away;
            }
        }
        if (best == ring.size()) continue;  // holes that touch or cross something are refused by validation
        std::vector<std::uint32_t> loop = holes[h];
        loop.push_back(holes[h][0]);
        loop.push_back(ring[best]);
        ring.insert(ring.begin() + static_cast<std::ptrdiff_t>(best) + 1, loop.begin(), loop.end());
    }
    return ring;
}

}  // namespace

int facets_of_turn(double radius, double chord) {
    const double ratio = std::clamp(1.0 - chord / radius, -1.0, 1.0 - 1e-7);
    const int count = static_cast<int>(std::ceil(std::numbers::pi / std::acos(ratio) / 4.0)) * 4;
    return std::clamp(count, 24, 1440);
}

double signed_area(const std::vector<Point2>& polygon) {
    double sum = 0.0;
    for (std::size_t i = 0; i < polygon.size(); ++i) {
        const Point2 a = polygon[i], b = polygon[(i + 1) % polygon.size()];
        sum += a[0] * b[1] - a[1] * b[0];
    }
    return 0.5 * sum;
}

FlatOutline flatten(const Outline& outline, double chord) {
    FlatOutline flat;
    flat.length_factor.assign(outline.size(), 1.0);
    flat.arc.resize(outline.size());
    for (std::size_t i = 0; i < outline.size(); ++i) {
        // The edge that leads to point i starts at the point before it.
        const OutlinePoint& before = outline[(i + outline.size() - 1) % outline.size()];
        flat.corner.push_back({before.x, before.y});
        flat.piece.push_back(static_cast<std::uint16_t>(i));
        if (!outline[i].through) continue;
        const Arc arc = arc_through({before.x, before.y}, *outline[i].through, {outline[i].x, outline[i].y});
        if (arc.radius == 0.0) continue;
        const double turn = 2.0 * std::numbers::pi;
        const int pieces = std::max(2, static_cast<int>(std::ceil(facets_of_turn(arc.radius, 0.5 * chord) * std::abs(arc.sweep) / turn)));
        const double step = arc.sweep / pieces;
        flat.length_factor[i] = std::abs(0.5 * step) / std::sin(std::abs(0.5 * step));
        flat.arc[i] = {arc.centre, arc.radius, arc.sweep > 0.0};
        for (int n = 1; n < pieces; ++n) {
            const double angle = arc.from + n * step;
            flat.corner.push_back({arc.centre[0] + arc.radius * std::cos(angle), arc.centre[1] + arc.radius * std::sin(angle)});
            flat.piece.push_back(static_cast<std::uint16_t>(i));
        }
    }
    if (signed_area(flat.corner) < 0.0) {
        std::reverse(flat.corner.begin(), flat.corner.end());
        // The edge after a corner was the one before it.
        std::reverse(flat.piece.begin(), flat.piece.end());
        std::rotate(flat.piece.begin(), flat.piece.begin() + 1, flat.piece.end());
        for (OutlineArc& arc : flat.arc) arc.bulges = !arc.bulges;
    }
    return flat;
}

bool crosses_itself(const std::vector<std::vector<Point2>>& loops) {
    struct Edge {
        Point2 a, b;
        double low_x, high_x, low_y, high_y;
    };
    std::vector<Edge> edges;
    for (const auto& loop : loops) {
        for (std::size_t i = 0; i < loop.size(); ++i) {
            const Point2 a = loop[i], b = loop[(i + 1) % loop.size()];
            edges.push_back({a, b, std::min(a[0], b[0]), std::max(a[0], b[0]), std::min(a[1], b[1]), std::max(a[1], b[1])});
        }
    }
    // Only edges whose extents meet can cross.
    std::sort(edges.begin(), edges.end(), [](const Edge& e, const Edge& f) { return e.low_x < f.low_x; });
    for (std::size_t i = 0; i < edges.size(); ++i) {
        for (std::size_t j = i + 1; j < edges.size() && edges[j].low_x <= edges[i].high_x; ++j) {
            if (edges[j].low_y > edges[i].high_y || edges[i].low_y > edges[j].high_y) continue;
            if (segments_cross(edges[i].a, edges[i].b, edges[j].a, edges[j].b)) return true;
        }
    }
    return false;
}

namespace {

/// Cuts ears off a ring of corners, the roundest first: slivers would be cut into many small pieces. Whether an ear is empty is asked of the
/// reflex corners near it only, which a grid finds, so that long outlines take n log n.
class EarCutter {
public:
    EarCutter(const std::vector<std::uint32_t>& ring, const std::vector<Point2>& corner) : corner_(corner), nodes_(ring.size()) {
        const auto count = static_cast<std::uint32_t>(ring.size());
        for (std::uint32_t n = 0; n < count; ++n) nodes_[n] = {ring[n], (n + count - 1) % count, (n + 1) % count};
        lay_grid();
        for (std::uint32_t n = 0; n < count; ++n) offer(n);
    }

    std::vector<std::array<std::uint32_t, 3>> run() {
        std::vector<std::array<std::uint32_t, 3>> triangles;
        std::size_t left = nodes_.size();
        std::uint32_t last = 0;
        bool progress = true;
        while (left > 3) {
            if (queue_.empty()) {
                // What was in the way of the others may be gone. If nothing was, the outline crosses itself, which validation refuses.
                if (!progress) force(last);
                for (const std::uint32_t n : std::exchange(blocked_, {})) offer(n);
                progress = false;
                continue;
            }
            const Ear ear = queue_.top();
            queue_.pop();
            Node& node = nodes_[ear.node];
            if (node.gone || node.version != ear.version) continue;
            if (!ear.forced && !is_empty(ear.node)) {
                blocked_.push_back(ear.node);
                continue;
            }
            triangles.push_back({nodes_[node.before].corner, node.corner, nodes_[node.after].corner});
            node.gone = true;
            nodes_[node.before].after = node.after;
            nodes_[node.after].before = node.before;
            --left;
            progress = true;
            last = node.after;
            for (const std::uint32_t n : {node.before, node.after}) {
                ++nodes_[n].version;
                offer(n);
            }
        }
        if (left == 3) {
            for (std::uint32_t n = 0; n < nodes_.size(); ++n) {
                if (nodes_[n].gone) continue;
                triangles.push_back({nodes_[nodes_[n].before].corner, nodes_[n].corner, nodes_[nodes_[n].after].corner});
                break;
            }
        }
        return triangles;
    }

private:
    struct Node {
        std::uint32_t corner = 0, before = 0, after = 0, version = 0;
        bool gone = false;
    };
    struct Ear {
        double roundness = 0.0;
        std::uint32_t node = 0, version = 0;
        bool forced = false;
        // Ties go to the earlier corner, whatever the queue does.
        bool operator<(const Ear& other) const { return roundness != other.roundness ? roundness < other.roundness : node > other.node; }
    };

    [[nodiscard]] Point2 at(std::uint32_t node) const { return corner_[nodes_[node].corner]; }
    [[nodiscard]] double twice_area(std::uint32_t n) const { return cross2(at(nodes_[n].before), at(n), at(nodes_[n].after)); }

    void offer(std::uint32_t n) {
        if (nodes_[n].gone) return;
        const double twice = twice_area(n);
        if (twice < 0.0) return;
        const Point2 a = at(nodes_[n].before), b = at(n), c = at(nodes_[n].after);
        const double ab = std::hypot(b[0] - a[0], b[1] - a[1]), bc = std::hypot(c[0] - b[0], c[1] - b[1]), ca = std::hypot(a[0] - c[0], a[1] - c[1]);
        queue_.push({twice / (ab * ab + bc * bc + ca * ca + 1e-300), n, nodes_[n].version, false});
    }
    void force(std::uint32_t n) {
        while (nodes_[n].gone) n = nodes_[n].after;
        queue_.push({-1.0, n, nodes_[n].version, true});
    }

    void lay_grid() {
        low_ = high_ = at(0);
        for (std::uint32_t n = 0; n < nodes_.size(); ++n) {
            for (std::size_t axis = 0; axis < 2; ++axis) {
                low_[axis] = std::min(low_[axis], at(n)[axis]);
                high_[axis] = std::max(high_[axis], at(n)[axis]);
            }
        }
        side_ = std::clamp<std::size_t>(static_cast<std::size_t>(std::sqrt(static_cast<double>(nodes_.size()))), 1, 512);
        cells_.resize(side_ * side_);
        // A corner that is reflex once may become convex, never the other way round: what the grid holds is enough for good.
        for (std::uint32_t n = 0; n < nodes_.size(); ++n) {
            if (twice_area(n) <= 0.0) cells_[place(at(n)[1], 1) * side_ + place(at(n)[0], 0)].push_back(n);
        }
    }
    [[nodiscard]] std::size_t place(double x, std::size_t axis) const {
        const double share = (x - low_[axis]) / std::max(high_[axis] - low_[axis], 1e-300);
        return std::min(side_ - 1, static_cast<std::size_t>(std::clamp(share, 0.0, 1.0) * static_cast<double>(side_)));
    }

    [[nodiscard]] bool is_empty(std::uint32_t n) const {
        const Point2 a = at(nodes_[n].before), b = at(n), c = at(nodes_[n].after);
        const std::array<std::size_t, 2> from{place(std::min({a[0], b[0], c[0]}), 0), place(std::min({a[1], b[1], c[1]}), 1)};
        const std::array<std::size_t, 2> to{place(std::max({a[0], b[0], c[0]}), 0), place(std::max({a[1], b[1], c[1]}), 1)};
        for (std::size_t y = from[1]; y <= to[1]; ++y) {
            for (std::size_t x = from[0]; x <= to[0]; ++x) {
                for (const std::uint32_t k : cells_[y * side_ + x]) {
                    if (nodes_[k].gone) continue;
                    const Point2 p = at(k);
                    if (p != a && p != b && p != c && inside_triangle(p, a, b, c)) return false;
                }
            }
        }
        return true;
    }

    const std::vector<Point2>& corner_;
    std::vector<Node> nodes_;
    std::priority_queue<Ear> queue_;
    std::vector<std::uint32_t> blocked_;
    Point2 low_{}, high_{};
    std::size_t side_ = 1;
    std::vector<std::vector<std::uint32_t>> cells_;
};

}  // namespace

std::vector<std::array<std::uint32_t, 3>> triangulate_polygon(const std::vector<std::vector<Point2>>& loops) {
    std::vector<Point2> corner;
    for (const auto& loop : loops) corner.insert(corner.end(), loop.begin(), loop.end());
    const std::vector<std::uint32_t> ring = one_ring(loops, corner);
    return ring.size() < 3 ? std::vector<std::array<std::uint32_t, 3>>{} : EarCutter(ring, corner).run();
}

}  // namespace firnfield
