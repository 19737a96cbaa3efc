// Repair of surfaces that come as loose triangles.

#include "io/repair_surface.hpp"
#include "geometry/near_points.hpp"

#include <firnfield/error.hpp>
#include <firnfield/results.hpp>

#include "base/words.hpp"
#include "geometry/triangle_tree.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <unordered_map>

namespace firnfield {
namespace {

bool pierces(const Triangle& edges, const Triangle& t) {
    const Vec3 n = doubled_area(t);
    for (std::size_t e = 0; e < 3; ++e) {
        const Vec3 a = edges[e], b = edges[(e + 1) % 3];
        const double ha = dot(n, a - t[0]), hb = dot(n, b - t[0]), least = 1e-9 * dot(n, n) / length(n);
        if (!((ha > least && hb < -least) || (ha < -least && hb > least))) continue;
        const Vec3 p = a + (ha / (ha - hb)) * (b - a);
        bool inside = true;
        for (std::size_t k = 0; k < 3; ++k) inside = inside && dot(n, cross(t[(k + 1) % 3] - t[k], p - t[k])) > 1e-9 * dot(n, n);
        if (inside) return true;
    }
    return false;
}

/// Turns a soup of triangles into a closed, outward surface as far as possible.
class Repair {
public:
    Repair(std::vector<Triangle> triangles, double unit, const std::string& name) : unit_(unit), name_(name) {
        report_.triangles_read = triangles.size();
        if (triangles.empty()) refuse_stl(name, "it holds no triangle");
        for (const Triangle& t : triangles) {
            for (const Vec3& p : t) {
                if (!std::isfinite(p.x) || !std::isfinite(p.y) || !std::isfinite(p.z)) refuse_stl(name, "a corner is not a finite number");
            }
        }
        weld(triangles);
    }

    StlImport run() {
        drop_useless();
        orient();
        close_holes();
        turn_outward();
        measure();
        ClosedSurface surface;
        surface.corners = std::move(corners_);
        surface.triangles = std::move(triangles_);
        report_.checksum = surface_checksum(surface);
        report_.surface = std::make_shared<const ClosedSurface>(divide_into_faces(std::move(surface)));
        return std::move(report_);
    }

private:
    using Edge = std::pair<std::uint32_t, std::uint32_t>;
    static Edge sorted(std::uint32_t a, std::uint32_t b) { return {std::min(a, b), std::max(a, b)}; }

    /// Corners nearer to each other than the file can tell become one.
    void weld(const std::vector<Triangle>& triangles) {
        Vec3 low = triangles[0][0], high = low;
        for (const Triangle& t : triangles) {
            for (const Vec3& p : t) {
                for (int axis = 0; axis < 3; ++axis) {
                    low[axis] = std::min(low[axis], p[axis]);
                    high[axis] = std::max(high[axis], p[axis]);
                }
            }
        }
        size_ = std::max({high.x - low.x, high.y - low.y, high.z - low.z});
        constexpr double nothing = 1e-30;  // in whatever unit: less cannot be divided any more
        if (!(size_ > nothing)) refuse_stl(name_, "all corners are the same point");
        const double reach = std::max({std::abs(low.x), std::abs(low.y), std::abs(low.z), std::abs(high.x), std::abs(high.y), std::abs(high.z)});
        const double tolerance = std::max(1e-5 * size_, 2e-7 * reach);
        NearPoints near(low, tolerance);
        for (const Triangle& t : triangles) triangles_.push_back({near.number_of(t[0]), near.number_of(t[1]), near.number_of(t[2])});
        corners_ = near.take();
    }

    void drop_useless() {
        std::map<std::array<std::uint32_t, 3>, int> seen;
        std::vector<std::array<std::uint32_t, 3>> kept;
        for (const auto& t : triangles_) {
            if (t[0] == t[1] || t[1] == t[2] || t[2] == t[0]) {
                ++report_.degenerate;
                continue;
            }
            auto key = t;
            std::sort(key.begin(), key.end());
            if (++seen[key] > 1) {
                ++report_.duplicated;
                continue;
            }
            kept.push_back(t);
        }
        triangles_ = std::move(kept);
        if (triangles_.size() < 2) refuse_stl(name_, "its triangles enclose nothing");
    }

    std::map<Edge, std::vector<std::uint32_t>> edges() const {
        std::map<Edge, std::vector<std::uint32_t>> out;
        for (std::uint32_t t = 0; t < triangles_.size(); ++t) {
            for (std::size_t e = 0; e < 3; ++e) out[sorted(triangles_[t][e], triangles_[t][(e + 1) % 3])].push_back(t);
        }
        return out;
    }

    bool runs_along(std::uint32_t t, Edge edge) const {
        for (std::size_t e = 0; e < 3; ++e) {
            if (triangles_[t][e] == edge.first && triangles_[t][(e + 1) % 3] == edge.second) return true;
        }
        return false;
    }

    /// Makes neighbours agree on which side is outside, piece by piece of connected surface; the majority stays as it is.
    void orient() {
        const auto by_edge = edges();
        std::vector<std::vector<std::pair<std::uint32_t, bool>>> next(triangles_.size());  // neighbour, agrees
        for (const auto& [edge, list] : by_edge) {
            if (list.size() != 2) continue;
            const bool agree = runs_along(list[0], edge) != runs_along(list[1], edge);
            next[list[0]].push_back({list[1], agree});
            next[list[1]].push_back({list[0], agree});
        }
        component_.assign(triangles_.size(), no_component);
        for (std::uint32_t start = 0; start < triangles_.size(); ++start) {
            if (component_[start] != no_component) continue;
            std::vector<std::uint32_t> members{start};
            component_[start] = components_;
            std::size_t turned = 0;
            std::unordered_map<std::uint32_t, bool> state{{start, false}};
            for (std::size_t i = 0; i < members.size(); ++i) {
                for (const auto& [other, agree] : next[members[i]]) {
                    if (component_[other] != no_component) continue;
                    component_[other] = components_;
                    const bool turn = state[members[i]] != !agree;
                    state[other] = turn;
                    turned += turn ? 1 : 0;
                    members.push_back(other);
                }
            }
            const bool minority = 2 * turned <= members.size();
            for (const std::uint32_t t : members) {
                if (state[t] == minority) flip_triangle(t);
            }
            ++components_;
        }
    }

    void flip_triangle(std::uint32_t t) {
        std::swap(triangles_[t][1], triangles_[t][2]);
        ++report_.flipped;
    }

    /// Rings of edges with one triangle are closed by a fan around their middle.
    void close_holes() {
        std::map<std::uint32_t, std::vector<std::uint32_t>> follow;  // along the open rim, with the hole on its left
        for (const auto& [edge, list] : edges()) {
            if (list.size() != 1) continue;
            const bool along = runs_along(list[0], edge);
            follow[along ? edge.second : edge.first].push_back(along ? edge.first : edge.second);
        }
        while (!follow.empty()) {
            // Walk along the rim; whenever the walk comes back to a corner it has passed, the loop between is a hole.
            std::vector<std::uint32_t> walk{follow.begin()->first};
            while (!walk.empty()) {
                const auto at = follow.find(walk.back());
                if (at == follow.end()) {
                    walk.pop_back();  // a rim that ends nowhere stays open
                    continue;
                }
                const std::uint32_t to = at->second.back();
                at->second.pop_back();
                if (at->second.empty()) follow.erase(at);
                const auto passed = std::find(walk.begin(), walk.end(), to);
                if (passed == walk.end()) {
                    walk.push_back(to);
                    continue;
                }
                const std::vector<std::uint32_t> ring(passed, walk.end());
                walk.erase(passed + 1, walk.end());
                if (ring.size() >= 3) fill(ring);
            }
        }
    }

    void fill(const std::vector<std::uint32_t>& ring) {
        ++report_.holes_closed;
        const auto add = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c) {
            triangles_.push_back({a, b, c});
            component_.push_back(no_component);
            report_.closed_area += 0.5 * length(cross(corners_[b] - corners_[a], corners_[c] - corners_[a])) * unit_ * unit_;
        };
        Vec3 middle, vector;
        for (const std::uint32_t c : ring) middle = middle + (1.0 / static_cast<double>(ring.size())) * corners_[c];
        double widest = 0.0;
        for (std::size_t i = 0; i < ring.size(); ++i) {
            vector = vector + 0.5 * cross(corners_[ring[i]] - middle, corners_[ring[(i + 1) % ring.size()]] - middle);
            widest = std::max(widest, length(corners_[ring[i]] - middle));
        }
        if (ring.size() == 3) {
            add(ring[0], ring[1], ring[2]);
        } else {
            corners_.push_back(middle);
            const auto centre = static_cast<std::uint32_t>(corners_.size() - 1);
            for (std::size_t i = 0; i < ring.size(); ++i) add(centre, ring[i], ring[(i + 1) % ring.size()]);
        }
        // What was there may have bulged: by no more than a half-sphere over the hole.
        report_.volume_error += std::max(length(vector), 1e-3 * widest * widest) * widest * 2.0 / 3.0 * unit_ * unit_ * unit_;
    }

    /// A surface that encloses less than nothing is inside out as a whole.
    void turn_outward() {
        double enclosed = 0.0;
        for (const auto& t : triangles_) enclosed += signed_volume(t);
        if (enclosed >= 0.0) return;
        for (auto& t : triangles_) std::swap(t[1], t[2]);
        report_.flipped = triangles_.size() - std::min(report_.flipped, triangles_.size());
    }

    double signed_volume(const std::array<std::uint32_t, 3>& t) const {
        const Vec3 o = corners_[0];
        return dot(corners_[t[0]] - o, cross(corners_[t[1]] - o, corners_[t[2]] - o)) / 6.0;
    }

    void measure() {
        for (Vec3& p : corners_) p = unit_ * p;
        for (const auto& t : triangles_) report_.volume += signed_volume(t);
        for (const auto& [edge, list] : edges()) report_.open_edges += list.size() == 1 ? 1 : 0;
        const double size = size_ * unit_;
        if (!(report_.volume > 1e-9 * size * size * size)) refuse_stl(name_, "its triangles enclose no volume");
        report_.crossings = crossings_of(corners_, triangles_);
    }

    static constexpr std::uint32_t no_component = 0xFFFFFFFFU;
    double unit_;
    const std::string& name_;
    double size_ = 0.0;
    std::vector<Vec3> corners_;  // in the unit of the file until measure()
    std::vector<std::array<std::uint32_t, 3>> triangles_;
    std::vector<std::uint32_t> component_;
    std::uint32_t components_ = 0;
    StlImport report_;
};

}  // namespace

std::size_t crossings_of(const std::vector<Vec3>& corners, const std::vector<std::array<std::uint32_t, 3>>& triangles) {
    std::vector<Triangle> all;
    for (const auto& t : triangles) all.push_back({corners[t[0]], corners[t[1]], corners[t[2]]});
    const TriangleTree tree(all);
    constexpr std::size_t enough = 1000;
    std::size_t found = 0;
    for (std::uint32_t t = 0; t < all.size() && found < enough; ++t) {
        Vec3 low = all[t][0], high = low;
        for (const Vec3& p : all[t]) {
            for (int axis = 0; axis < 3; ++axis) {
                low[axis] = std::min(low[axis], p[axis]);
                high[axis] = std::max(high[axis], p[axis]);
            }
        }
        tree.for_each_near(low, high, [&](std::uint32_t o) {
            if (o <= t) return;
            for (const std::uint32_t a : triangles[t]) {
                for (const std::uint32_t b : triangles[o]) {
                    if (a == b) return;
                }
            }
            if (pierces(all[t], all[o]) || pierces(all[o], all[t])) ++found;
        });
    }
    return found;
}

void refuse_stl(const std::string& name, const std::string& why) { throw FileError(fmt::format("{} is no usable STL file: {}", in_quotes(name), why)); }

StlImport repaired(std::vector<Triangle> triangles, double unit, const std::string& name) { return Repair(std::move(triangles), unit, name).run(); }

}  // namespace firnfield
