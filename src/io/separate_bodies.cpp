// Bodies of a file told apart by how their triangles hang together.

#include "io/separate_bodies.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numeric>
#include <optional>
#include <set>

namespace firnfield {
namespace {

using Edge = std::pair<std::uint32_t, std::uint32_t>;

/// Sets of triangles that are joined step by step.
class Sets {
public:
    explicit Sets(std::size_t count) : parent_(count) { std::iota(parent_.begin(), parent_.end(), 0U); }
    std::uint32_t root(std::uint32_t i) {
        while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
        return i;
    }
    void join(std::uint32_t a, std::uint32_t b) {
        const std::uint32_t first = root(a), second = root(b);
        parent_[std::max(first, second)] = std::min(first, second);
    }

private:
    std::vector<std::uint32_t> parent_;
};

/// Triangles by numbers of their corners; equal places have one number.
std::vector<std::array<std::uint32_t, 3>> numbered(std::span<const Triangle> triangles) {
    std::map<std::array<double, 3>, std::uint32_t> numbers;
    std::vector<std::array<std::uint32_t, 3>> out;
    for (const Triangle& t : triangles) {
        std::array<std::uint32_t, 3> corners{};
        for (std::size_t c = 0; c < 3; ++c) {
            const std::array<double, 3> place{t[c].x + 0.0, t[c].y + 0.0, t[c].z + 0.0};  // -0 is 0
            corners[c] = numbers.emplace(place, static_cast<std::uint32_t>(numbers.size())).first->second;
        }
        out.push_back(corners);
    }
    return out;
}

/// Triangles that say nothing: without area because corners are equal, or given before with the same outside. They go with the one before them.
std::vector<bool> useless_ones(const std::vector<std::array<std::uint32_t, 3>>& triangles) {
    std::set<std::array<std::uint32_t, 3>> seen;
    std::vector<bool> out;
    for (std::array<std::uint32_t, 3> t : triangles) {
        std::rotate(t.begin(), std::min_element(t.begin(), t.end()), t.end());
        out.push_back(t[0] == t[1] || t[1] == t[2] || t[2] == t[0] || !seen.insert(t).second);
    }
    return out;
}

std::map<Edge, std::vector<std::uint32_t>> edges_of(const std::vector<std::array<std::uint32_t, 3>>& triangles, const std::vector<bool>& useless) {
    std::map<Edge, std::vector<std::uint32_t>> out;
    for (std::uint32_t t = 0; t < triangles.size(); ++t) {
        if (useless[t]) continue;
        for (std::size_t e = 0; e < 3; ++e) {
            const std::uint32_t a = triangles[t][e], b = triangles[t][(e + 1) % 3];
            out[{std::min(a, b), std::max(a, b)}].push_back(t);
        }
    }
    return out;
}

/// The members of each set, in the order of their first triangle.
std::vector<std::vector<std::uint32_t>> members(std::size_t count, const auto& set_of) {
    std::map<std::uint32_t, std::size_t> place;
    std::vector<std::vector<std::uint32_t>> out;
    for (std::uint32_t t = 0; t < count; ++t) {
        const auto [found, fresh] = place.emplace(set_of(t), out.size());
        if (fresh) out.emplace_back();
        out[found->second].push_back(t);
    }
    return out;
}

/// Whether every edge has an even number of the set's triangles.
bool all_closed(const std::map<Edge, std::vector<std::uint32_t>>& edges, const std::vector<std::size_t>& set) {
    for (const auto& [edge, list] : edges) {
        std::map<std::size_t, int> count;
        for (const std::uint32_t t : list) ++count[set[t]];
        if (std::any_of(count.begin(), count.end(), [](const auto& c) { return c.second % 2 != 0; })) return false;
    }
    return true;
}

struct Shell {
    std::vector<std::uint32_t> triangles;
    Vec3 low{}, high{};
    double volume = 0.0;  // signed
};

Shell measured(std::span<const Triangle> all, std::vector<std::uint32_t> list) {
    Shell out{.triangles = std::move(list)};
    out.low = out.high = all[out.triangles.front()][0];
    const Vec3 origin = out.low;
    for (const std::uint32_t t : out.triangles) {
        for (const Vec3& p : all[t]) {
            for (int axis = 0; axis < 3; ++axis) {
                out.low[axis] = std::min(out.low[axis], p[axis]);
                out.high[axis] = std::max(out.high[axis], p[axis]);
            }
        }
        out.volume += dot(all[t][0] - origin, cross(all[t][1] - origin, all[t][2] - origin)) / 6.0;
    }
    return out;
}

bool box_inside(const Shell& inner, const Shell& outer, double slack) {
    for (int axis = 0; axis < 3; ++axis) {
        if (inner.low[axis] < outer.low[axis] - slack || inner.high[axis] > outer.high[axis] + slack) return false;
    }
    return true;
}

/// Whether a point is enclosed, by the solid angle of all triangles around it (A. van Oosterom, J. Strackee, IEEE Trans. Biomed. Eng. 30 (1983) 125).
bool encloses(std::span<const Triangle> all, const Shell& shell, Vec3 point) {
    double angle = 0.0;
    for (const std::uint32_t t : shell.triangles) {
        const Vec3 a = all[t][0] - point, b = all[t][1] - point, c = all[t][2] - point;
        const double la = length(a), lb = length(b), lc = length(c);
        angle += 2.0 * std::atan2(dot(a, cross(b, c)), la * lb * lc + dot(a, b) * lc + dot(b, c) * la + dot(c, a) * lb);
    }
    return std::abs(angle) > 2.0 * M_PI;
}

/// Just inside of a shell's first triangle that has an area.
Vec3 point_of(std::span<const Triangle> all, const Shell& shell) {
    const double size = length(shell.high - shell.low);
    for (const std::uint32_t t : shell.triangles) {
        const Vec3 normal = cross(all[t][1] - all[t][0], all[t][2] - all[t][0]);
        const double doubled = length(normal);
        if (!(doubled > 1e-12 * size * size)) continue;
        const Vec3 middle = (1.0 / 3.0) * (all[t][0] + all[t][1] + all[t][2]);
        return middle - (1e-6 * size * (shell.volume < 0.0 ? -1.0 : 1.0) / doubled) * normal;
    }
    return all[shell.triangles.front()][0];
}

}  // namespace

std::vector<std::uint32_t> separate_bodies(std::span<const Triangle> triangles, std::span<const std::uint32_t> named) {
    std::vector<std::uint32_t> out(triangles.size(), 0);
    if (triangles.empty()) return out;
    const std::vector<std::array<std::uint32_t, 3>> corners = numbered(triangles);
    const std::vector<bool> useless = useless_ones(corners);
    const std::map<Edge, std::vector<std::uint32_t>> edges = edges_of(corners, useless);
    const auto as_sets = [&](const std::vector<std::vector<std::uint32_t>>& groups) {
        std::vector<std::size_t> set(triangles.size());
        for (std::size_t g = 0; g < groups.size(); ++g) {
            for (const std::uint32_t t : groups[g]) set[t] = g;
        }
        return set;
    };
    if (!named.empty()) {
        const auto groups = members(triangles.size(), [&](std::uint32_t t) { return named[t]; });
        if (groups.size() > 1 && all_closed(edges, as_sets(groups))) return {named.begin(), named.end()};
    }
    Sets sets(triangles.size());
    for (const auto& [edge, list] : edges) {
        for (std::size_t i = 0; i + 1 < list.size(); i += 2) sets.join(list[i], list[i + 1]);  // in the order of the file
    }
    for (std::uint32_t t = 1; t < triangles.size(); ++t) {
        if (useless[t]) sets.join(t - 1, t);
    }
    if (useless.front()) sets.join(0, static_cast<std::uint32_t>(std::min<std::size_t>(1, triangles.size() - 1)));
    const auto groups = members(triangles.size(), [&](std::uint32_t t) { return sets.root(t); });
    if (groups.size() == 1 || !all_closed(edges, as_sets(groups))) return out;

    std::vector<Shell> shells;
    for (const auto& group : groups) {
        shells.push_back(measured(triangles, group));
        const double size = length(shells.back().high - shells.back().low);
        if (!(std::abs(shells.back().volume) > 1e-9 * size * size * size)) return out;  // a surface that encloses nothing is no body
    }
    // A shell in another one bounds a cavity of it, unless it fills a cavity that is there.
    std::vector<std::size_t> body(shells.size());
    std::iota(body.begin(), body.end(), std::size_t{0});
    const double slack = 1e-6 * length(shells.front().high - shells.front().low);
    const auto holder_of = [&](std::size_t s) {
        std::optional<std::size_t> holder;
        const Vec3 point = point_of(triangles, shells[s]);
        for (std::size_t o = 0; o < shells.size(); ++o) {
            const bool larger = std::abs(shells[o].volume) > std::abs(shells[s].volume) * (1.0 + 1e-6) && box_inside(shells[s], shells[o], slack);
            if (o == s || !larger || shells[o].volume < 0.0 || !encloses(triangles, shells[o], point)) continue;
            if (!holder || shells[o].volume < shells[*holder].volume) holder = o;
        }
        return holder;
    };
    for (std::size_t s = 0; s < shells.size(); ++s) {
        const std::optional<std::size_t> holder = holder_of(s);
        if (!holder) continue;
        const bool fills = shells[s].volume > 0.0 && std::any_of(shells.begin(), shells.end(), [&](const Shell& cavity) {
                               return cavity.volume < 0.0 && -cavity.volume >= shells[s].volume * (1.0 - 1e-6) && box_inside(shells[s], cavity, slack);
                           });
        if (!fills) body[s] = *holder;
    }
    std::vector<std::uint32_t> numbers(shells.size(), 0);
    std::uint32_t count = 0;
    for (std::size_t s = 0; s < shells.size(); ++s) {
        if (body[s] == s) numbers[s] = count++;
    }
    for (std::size_t s = 0; s < shells.size(); ++s) {
        std::size_t top = s;
        for (std::size_t step = 0; body[top] != top && step < shells.size(); ++step) top = body[top];
        for (const std::uint32_t t : shells[s].triangles) out[t] = numbers[top];
    }
    return out;
}

}  // namespace firnfield
