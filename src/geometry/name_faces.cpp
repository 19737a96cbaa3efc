// Names of faces by kind and rank: they stay when other solids change, and mostly when other faces of the same solid do.

#include "geometry/name_faces.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <numeric>
#include <utility>

namespace firnfield {
namespace {

/// Which comes first among faces of one kind: the larger one, and of equal ones the one with the lower coordinates.
bool ranks_before(const ExactFace& a, const ExactFace& b) {
    constexpr double alike = 1e-6;
    if (std::abs(a.area - b.area) > alike * (a.area + b.area)) return a.area > b.area;
    const double near = 1e-4 * std::sqrt(a.area + b.area);
    for (int axis = 0; axis < 3; ++axis) {
        if (std::abs(a.at[axis] - b.at[axis]) > near) return a.at[axis] < b.at[axis];
    }
    return false;
}

}  // namespace

void name_faces(std::vector<ExactFace>& faces) {
    std::map<FaceKind, std::vector<std::size_t>> by_kind;
    for (std::size_t f = 0; f < faces.size(); ++f) by_kind[faces[f].kind].push_back(f);
    for (auto& [kind, list] : by_kind) {
        std::stable_sort(list.begin(), list.end(), [&](std::size_t a, std::size_t b) { return ranks_before(faces[a], faces[b]); });
        for (std::size_t rank = 0; rank < list.size(); ++rank) {
            std::string& name = faces[list[rank]].name;
            if (name.empty()) name = fmt::format("{} {}", name_of(kind), rank + 1);
        }
    }
}

std::vector<std::size_t> in_told_order(std::span<const ExactFace> faces) {
    // Areas of faces that are meant to be alike differ in the last digits.
    const auto level = [&](std::size_t f) { return faces[f].area > 0.0 ? std::lround(1e5 * std::log(faces[f].area)) : std::numeric_limits<long>::min(); };
    std::vector<std::size_t> order(faces.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
        if (level(a) != level(b)) return level(a) > level(b);
        // "plane 2" before "plane 10"
        return std::pair(faces[a].name.size(), faces[a].name) < std::pair(faces[b].name.size(), faces[b].name);
    });
    return order;
}

}  // namespace firnfield
