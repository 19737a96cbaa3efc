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

namespace {

/// By how much the temperature in a cell differs from that of its middle, K, at the sides of its box along each axis.
class HalfDrops {
public:
    /// Of cells of the bodies that are meant.
    HalfDrops(const Mesh& mesh, const std::vector<bool>& meant, const NodeTemperatures& nodes, const Defects* defects) : mesh_(mesh) {
        for (std::size_t axis = 0; axis < 3; ++axis) slope_[axis].assign(mesh.cells.size(), 0.0F), faces_[axis].assign(mesh.cells.size(), 0.0F);
        const auto value = [&](Index cell) { return nodes.at(cell) + (defects == nullptr ? 0.0 : defects->of_node(cell)); };
        for (std::size_t f = 0; f < mesh.faces.size(); ++f) {
            const Index a = mesh.faces.first[f], b = mesh.faces.second[f];
            if (!meant[mesh.cells.body[a]]) continue;
            const auto here = static_cast<float>((value(b) - value(a)) / mesh.faces.distance[f]);
            for (const Index cell : {a, b}) {
                slope_[mesh.faces.axis[f]][cell] += here;
                faces_[mesh.faces.axis[f]][cell] += 1.0F;
            }
        }
    }
    [[nodiscard]] std::array<double, 3> of(Index cell) const {
        const std::array<Index, 3> place = mesh_.grid.place(mesh_.cells.box[cell]);
        std::array<double, 3> half{};
        for (std::size_t axis = 0; axis < 3; ++axis) {
            if (faces_[axis][cell] > 0.0F)
                half[axis] = 0.5 * static_cast<double>(slope_[axis][cell] / faces_[axis][cell]) * mesh_.grid.width(static_cast<int>(axis), place[axis]);
        }
        return half;
    }

private:
    const Mesh& mesh_;
    std::array<std::vector<float>, 3> slope_, faces_;
};

}  // namespace

double share_above(const Mesh& mesh, std::span<const Index> bodies, const NodeTemperatures& nodes, const Defects* defects, double temperature) {
    std::vector<bool> meant(mesh.bodies.size(), false);
    for (const Index b : bodies) meant[b] = true;
    const HalfDrops drops(mesh, meant, nodes, defects);
    double hotter = 0.0, all = 0.0;
    for (Index cell = 0; cell < mesh.cells.size(); ++cell) {
        if (!meant[mesh.cells.body[cell]]) continue;
        const double middle = nodes.at(cell) + (defects == nullptr ? 0.0 : defects->of_node(cell));
        hotter += mesh.cells.volume[cell] * share_of_box_above(drops.of(cell), temperature - middle);
        all += mesh.cells.volume[cell];
    }
    return hotter / all;
}

double share_of_surface_above(const Mesh& mesh, std::span<const Index> patches, const NodeTemperatures& nodes, std::span<const double> patch_temperature,
                              const Defects* defects, double temperature) {
    std::vector<bool> meant(mesh.bodies.size(), false);
    for (const Index p : patches) meant[mesh.cells.body[mesh.patches.cell[p]]] = true;
    const HalfDrops drops(mesh, meant, nodes, defects);
    double hotter = 0.0, all = 0.0;
    for (const Index p : patches) {
        std::array<double, 3> half = drops.of(mesh.patches.cell[p]);
        // Across the patch its own temperature tells.
        for (std::size_t axis = 0; axis < 3; ++axis) half[axis] *= 1.0 - std::abs(mesh.patches.normal[p][static_cast<int>(axis)]);
        const double middle = patch_temperature[p] + (defects == nullptr ? 0.0 : defects->of_patch(p));
        hotter += mesh.patches.area[p] * share_of_box_above(half, temperature - middle);
        all += mesh.patches.area[p];
    }
    return hotter / all;
}

}  // namespace firnfield
