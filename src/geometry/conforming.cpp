// From a soup of triangles to one mesh: corners joined, edges divided where others end on them.

#include "geometry/conforming.hpp"

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
    using Key = std::array<long long, 3>;

    [[nodiscard]] Key key(Vec3 p, double cell) const {
        Key out{};
        for (int axis = 0; axis < 3; ++axis) out[static_cast<std::size_t>(axis)] = static_cast<long long>(std::floor((p[axis] - low_[axis]) / cell));
        return out;
    }

    /// One corner for all that coincide; what has no area goes.
    void weld() {
        std::map<Key, std::vector<Corner>> grid;
        std::vector<Vec3> corners;
        std::vector<Corner> now;
        for (const Vec3& p : surface_.corners) {
            const Key at = key(p, 4.0 * near_);
            Corner found = static_cast<Corner>(corners.size());
            for (long long i = -1; i <= 1; ++i) {
                for (long long j = -1; j <= 1; ++j) {
                    for (long long k = -1; k <= 1; ++k) {
                        const auto there = grid.find({at[0] + i, at[1] + j, at[2] + k});
                        if (there == grid.end()) continue;
                        for (const Corner other : there->second) {
                            if (length(corners[other] - p) <= near_) found = std::min(found, other);
                        }
                    }
                }
            }
            if (found == corners.size()) {
                corners.push_back(p);
                grid[at].push_back(found);
            }
            now.push_back(found);
        }
        surface_.corners = std::move(corners);
        keep([&](std::array<Corner, 3> t) { return std::array{now[t[0]], now[t[1]], now[t[2]]}; });
    }

    template <typename Renamed>
    void keep(const Renamed& renamed) {
        std::vector<std::array<Corner, 3>> triangles;
        std::vector<std::uint16_t> face;
        for (std::size_t n = 0; n < surface_.triangles.size(); ++n) {
            const std::array<Corner, 3> t = renamed(surface_.triangles[n]);
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
            for (const auto& t : triangles_in(ring, surface_.triangles[n])) {
                triangles.push_back(t);
                face.push_back(surface_.face[n]);
            }
        }
        surface_.triangles = std::move(triangles);
        surface_.face = std::move(face);
    }

    /// A sliver whose corner lies on its own opposite edge has none: what is beside it meets itself.
    [[nodiscard]] std::vector<std::array<Corner, 3>> triangles_in(const std::vector<Corner>& ring, const std::array<Corner, 3>& whole) const {
        if (ring.size() == 3) return {whole};
        std::vector<Corner> sorted = ring;
        std::sort(sorted.begin(), sorted.end());
        if (std::adjacent_find(sorted.begin(), sorted.end()) != sorted.end()) return {};
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
