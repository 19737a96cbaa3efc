// Shares of volume above a temperature.

#include "findings/share_above.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

namespace firnfield {

double share_of_box_above(std::array<double, 3> half, double level) {
    for (double& h : half) h = std::abs(h);
    std::sort(half.begin(), half.end(), std::greater<>());
    const double reach = half[0] + half[1] + half[2];
    if (level >= reach) return 0.0;
    if (level <= -reach) return 1.0;
    // The distribution of a sum of as many even distributions as differ noticeably: a spline of that degree, by inclusion and exclusion.
    constexpr double noticeable = 1e-4;
    std::size_t n = 1;
    while (n < 3 && half[n] > noticeable * half[0]) ++n;
    double sum = 0.0, volume = 1.0;
    for (std::size_t corner = 0; corner < (std::size_t{1} << n); ++corner) {
        double at = -level;
        int sign = 1;
        for (std::size_t i = 0; i < n; ++i) {
            const bool low = (corner >> i & 1U) != 0;
            at += low ? -half[i] : half[i];
            if (low) sign = -sign;
        }
        sum += sign * std::pow(std::max(0.0, at), static_cast<double>(n));
    }
    for (std::size_t i = 0; i < n; ++i) volume *= 2.0 * half[i] * static_cast<double>(i + 1);
    return std::clamp(sum / volume, 0.0, 1.0);
}

double share_above(const Mesh& mesh, std::span<const Index> bodies, const NodeTemperatures& nodes, const Defects* defects, double temperature) {
    std::vector<bool> meant(mesh.bodies.size(), false);
    for (const Index b : bodies) meant[b] = true;
    const auto value = [&](Index cell) { return nodes.at(cell) + (defects == nullptr ? 0.0 : defects->of_node(cell)); };
    std::array<std::vector<float>, 3> slope, faces;
    for (std::size_t axis = 0; axis < 3; ++axis) slope[axis].assign(mesh.cells.size(), 0.0F), faces[axis].assign(mesh.cells.size(), 0.0F);
    for (std::size_t f = 0; f < mesh.faces.size(); ++f) {
        const Index a = mesh.faces.first[f], b = mesh.faces.second[f];
        if (!meant[mesh.cells.body[a]]) continue;
        const auto here = static_cast<float>((value(b) - value(a)) / mesh.faces.distance[f]);
        for (const Index cell : {a, b}) {
            slope[mesh.faces.axis[f]][cell] += here;
            faces[mesh.faces.axis[f]][cell] += 1.0F;
        }
    }
    double hotter = 0.0, all = 0.0;
    for (Index cell = 0; cell < mesh.cells.size(); ++cell) {
        if (!meant[mesh.cells.body[cell]]) continue;
        const std::array<Index, 3> place = mesh.grid.place(mesh.cells.box[cell]);
        std::array<double, 3> half{};
        for (std::size_t axis = 0; axis < 3; ++axis) {
            if (faces[axis][cell] > 0.0F)
                half[axis] = 0.5 * static_cast<double>(slope[axis][cell] / faces[axis][cell]) * mesh.grid.width(static_cast<int>(axis), place[axis]);
        }
        hotter += mesh.cells.volume[cell] * share_of_box_above(half, temperature - value(cell));
        all += mesh.cells.volume[cell];
    }
    return hotter / all;
}

}  // namespace firnfield
