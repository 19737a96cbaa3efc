// From a soup of triangles to one mesh: corners joined, edges divided where others end on them.

#include "geometry/conforming.hpp"

#include "geometry/near_points.hpp"
#include "geometry/outline.hpp"
#include "geometry/triangle_tree.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

namespace firnfield {
namespace {

using Corner = std::uint32_t;
using Edge = std::pair<Corner, Corner>;

class Joiner {
public:
    explicit Joiner(ClosedSurface surface) : surface_(std::move(surface)) {
        const Box box = bounds(surface_);
        low_ = box.at;
        constexpr double alike = 1e-6;
        near_ = alike * length(box.size);
    }

    ClosedSurface run() {
        weld();
        if (is_closed()) return std::move(surface_);
        find_corners_on_edges();
        divide();
        return std::move(surface_);
    }

private:
    /// One corner for all that coincide; what has no area goes.
    void weld() {
        NearPoints near(low_, near_);
        std::vector<Corner> now;
        for (const Vec3& p : surface_.corners) now.push_back(near.number_of(p));
        surface_.corners = near.take();
        std::vector<std::array<Corner, 3>> triangles;
        std::vector<std::uint16_t> face;
        for (std::size_t n = 0; n < surface_.triangles.size(); ++n) {
            const std::array<Corner, 3>& was = surface_.triangles[n];
            const std::array<Corner, 3> t{now[was[0]], now[was[1]], now[was[2]]};
            if (t[0] == t[1] || t[1] == t[2] || t[2] == t[0]) continue;
            triangles.push_back(t);
            face.push_back(surface_.face[n]);
        }
        surface_.triangles = std::move(triangles);
        surface_.face = std::move(face);
    }

    static Edge edge(Corner a, Corner b) { return {std::min(a, b), std::max(a, b)}; }

    [[nodiscard]] bool is_closed() {
        balance_.clear();
        for (const auto& t : surface_.triangles) {
            for (std::size_t k = 0; k < 3; ++k) balance_[edge(t[k], t[(k + 1) % 3])] += t[k] < t[(k + 1) % 3] ? 1 : -1;
        }
        return std::all_of(balance_.begin(), balance_.end(), [](const auto& e) { return e.second == 0; });
    }

    /// Corners that lie on edges that are not shared, in their order along the edge.
    void find_corners_on_edges() {
        // Only ends of such edges can lie on others.
        std::vector<Corner> open;
        for (const auto& [e, balance] : balance_) {
            if (balance != 0) open.insert(open.end(), {e.first, e.second});
        }
        std::sort(open.begin(), open.end());
        open.erase(std::unique(open.begin(), open.end()), open.end());
        std::vector<Triangle> points;  // as triangles without extent, for the tree
        for (const Corner c : open) points.push_back({surface_.corners[c], surface_.corners[c], surface_.corners[c]});
        const TriangleTree tree(std::move(points));
        for (const auto& shared : balance_) {
            const Edge e = shared.first;
            const Vec3 a = surface_.corners[e.first], along = surface_.corners[e.second] - a;
            const double square = dot(along, along);
            Vec3 low = a, high = a;
            for (int axis = 0; axis < 3; ++axis) {
                low[axis] = std::min(a[axis], surface_.corners[e.second][axis]) - near_;
                high[axis] = std::max(a[axis], surface_.corners[e.second][axis]) + near_;
            }
            std::vector<std::pair<double, Corner>> on;
            tree.for_each_near(low, high, [&](std::uint32_t n) {
                const Corner c = open[n];
                if (c == e.first || c == e.second) return;
                const double share = dot(surface_.corners[c] - a, along) / square;
                if (share > 0.0 && share < 1.0 && length(surface_.corners[c] - a - share * along) <= near_) on.emplace_back(share, c);
            });
            if (on.empty()) continue;
            std::sort(on.begin(), on.end());
            for (const auto& [share, c] : on) on_edge_[e].push_back(c);
        }
    }

    void divide() {
        std::vector<std::array<Corner, 3>> triangles;
        std::vector<std::uint16_t> face;
        for (std::size_t n = 0; n < surface_.triangles.size(); ++n) {
            std::vector<Corner> ring;
            for (std::size_t k = 0; k < 3; ++k) {
                const Corner from = surface_.triangles[n][k], to = surface_.triangles[n][(k + 1) % 3];
                ring.push_back(from);
                const auto on = on_edge_.find(edge(from, to));
                if (on == on_edge_.end()) continue;
                if (from < to) {
                    ring.insert(ring.end(), on->second.begin(), on->second.end());
                } else {
                    ring.insert(ring.end(), on->second.rbegin(), on->second.rend());
                }
            }
            for (const std::vector<Corner>& simple : without_pinches(ring)) {
                for (const auto& t : triangles_in(simple, surface_.triangles[n])) {
                    triangles.push_back(t);
                    face.push_back(surface_.face[n]);
                }
            }
        }
        surface_.triangles = std::move(triangles);
        surface_.face = std::move(face);
    }

    /// The rings that a ring falls into where it meets itself: a corner near a sharp tip lies on both of its edges. What has no area goes.
    [[nodiscard]] static std::vector<std::vector<Corner>> without_pinches(const std::vector<Corner>& ring) {
        std::vector<std::vector<Corner>> out;
        std::vector<Corner> open;
        const auto close = [&](std::vector<Corner> simple) {
            if (simple.size() > 2) out.push_back(std::move(simple));
        };
        for (const Corner corner : ring) {
            const auto again = std::find(open.begin(), open.end(), corner);
            if (again != open.end()) {
                close({again, open.end()});
                open.erase(again, open.end());
            }
            open.push_back(corner);
        }
        close(std::move(open));
        return out;
    }

    [[nodiscard]] std::vector<std::array<Corner, 3>> triangles_in(const std::vector<Corner>& ring, const std::array<Corner, 3>& whole) const {
        if (ring.size() == 3) return {{ring[0], ring[1], ring[2]}};
        const Vec3 a = surface_.corners[whole[0]], b = surface_.corners[whole[1]], c = surface_.corners[whole[2]];
        // In the plane of the triangle: seen along the axis that it looks along most.
        const Vec3 n = cross(b - a, c - a);
        int axis = 0;
        for (int other = 1; other < 3; ++other) axis = std::abs(n[other]) > std::abs(n[axis]) ? other : axis;
        std::vector<Point2> flat;
        for (const Corner corner : ring) {
            const double u = surface_.corners[corner][(axis + 1) % 3], v = surface_.corners[corner][(axis + 2) % 3];
            flat.push_back(n[axis] > 0.0 ? Point2{u, v} : Point2{v, u});
        }
        std::vector<std::array<Corner, 3>> out;
        for (const auto& t : triangulate_polygon({flat})) out.push_back({ring[t[0]], ring[t[1]], ring[t[2]]});
        return out;
    }

    ClosedSurface surface_;
    Vec3 low_{};
    double near_ = 0.0;  // m
    std::map<Edge, int> balance_;
    std::map<Edge, std::vector<Corner>> on_edge_;
};

}  // namespace

ClosedSurface conforming(ClosedSurface surface) {
    if (surface.triangles.empty()) return surface;
    return Joiner(std::move(surface)).run();
}

}  // namespace firnfield
