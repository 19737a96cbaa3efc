// Values of colours, and the scale that they need.

#include "report/shades.hpp"
#include "base/colour_text.hpp"

#include <firnfield/quantity.hpp>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>
#include <utility>

namespace firnfield {
namespace {

/// The value below which a share of the surface lies.
double quantile(const SurfacePieces& surface, const std::vector<double>& values, double share) {
    std::vector<std::pair<double, double>> pieces;  // value and area
    double all = 0.0;
    for (const SurfacePiece& piece : surface.pieces) {
        const auto corners = surface.of(piece);
        double sum = 0.0;
        Vec3 area;
        for (std::size_t i = 0; i < corners.size(); ++i) {
            sum += values[corners[i]];
            if (i > 1)
                area = area + cross(surface.corners[corners[i - 1]] - surface.corners[corners[0]], surface.corners[corners[i]] - surface.corners[corners[0]]);
        }
        pieces.emplace_back(sum / static_cast<double>(corners.size()), length(area));
        all += pieces.back().second;
    }
    std::sort(pieces.begin(), pieces.end());
    double below = 0.0;
    for (const auto& [value, area] : pieces) {
        below += area;
        if (below >= share * all) return value;
    }
    return pieces.empty() ? 0.0 : pieces.back().first;
}

/// The heat flux of a cell as the picture tells it, W/m².
double flux_shown(const Picture& view, Vec3 flux) { return view.along ? dot(normalized(*view.along), flux) : length(flux); }

/// A unit in which the largest number is easy to read, where the reader has not chosen one.
UnitOf flux_unit(double most, const Units& units) {
    UnitOf unit = unit_of(kinds::heat_flux, units);
    return unit.name == kinds::heat_flux.unit ? readable_unit(most, kinds::heat_flux) : unit;
}

}  // namespace

Shades shades_of(std::vector<double> si, UnitOf unit) {
    Shades out{.value = std::move(si),
               .unit = std::move(unit),
               .lowest = std::numeric_limits<double>::infinity(),
               .highest = -std::numeric_limits<double>::infinity()};
    for (double& v : out.value) {
        v = out.unit.out(v);
        out.lowest = std::min(out.lowest, v);
        out.highest = std::max(out.highest, v);
    }
    out.scale_low = out.lowest;
    out.scale_high = out.highest;
    return out;
}

std::vector<Vec3> evened(const Mesh& mesh, const std::vector<Vec3>& flux) {
    std::vector<Vec3> sum(flux.size());
    std::vector<double> volume(flux.size());
    for (std::size_t c = 0; c < flux.size(); ++c) {
        volume[c] = mesh.cells.volume[c];
        sum[c] = volume[c] * flux[c];
    }
    for (std::size_t f = 0; f < mesh.faces.size(); ++f) {
        const Index a = mesh.faces.first[f], b = mesh.faces.second[f];
        for (const auto& [to, from] : {std::pair{a, b}, std::pair{b, a}}) {
            sum[to] = sum[to] + mesh.cells.volume[from] * flux[from];
            volume[to] += mesh.cells.volume[from];
        }
    }
    const auto box_volume = [&](Index box) {
        const auto place = mesh.grid.place(box);
        return mesh.grid.width(0, place[0]) * mesh.grid.width(1, place[1]) * mesh.grid.width(2, place[2]);
    };
    std::vector<Vec3> out = flux;
    for (std::size_t c = 0; c < flux.size(); ++c) {
        if (mesh.cells.volume[c] < 0.999 * box_volume(mesh.cells.box[c])) out[c] = (1.0 / volume[c]) * sum[c];
    }
    return out;
}

Shades flux_shades(const SurfacePieces& surface, const Picture& view, std::span<const Vec3> flux, const Units& units) {
    const std::vector<double> values = corner_values(surface, [&](const SurfacePiece& piece, Vec3) { return flux_shown(view, flux[piece.cell]); });
    constexpr double usual = 0.98, rare = 1.5;
    const double high = quantile(surface, values, usual), low = quantile(surface, values, 1.0 - usual);
    Shades shades = shades_of(values, flux_unit(std::max(std::abs(low), std::abs(high)), units));
    if (shades.highest > rare * shades.unit.out(high) && high > 0.0) shades.scale_high = shades.unit.out(high);
    if (shades.lowest < rare * shades.unit.out(low) && low < 0.0) shades.scale_low = shades.unit.out(low);
    return shades;
}

Shades part_shades(const SurfacePieces& surface, const Mesh& mesh) {
    return shades_of(corner_values(surface, [&](const SurfacePiece& piece, Vec3) { return static_cast<double>(mesh.bodies[piece.body].part); }), {});
}

std::array<double, 3> tint(std::size_t number) {
    constexpr double golden = 0.6180339887498949;
    const double hue = static_cast<double>(number) * golden;
    std::array<double, 3> rgb{};
    for (std::size_t c = 0; c < 3; ++c) {
        const double place = hue + static_cast<double>(c) / 3.0;
        rgb[c] = 0.80 + 0.14 * std::cos(2.0 * std::numbers::pi * place);
    }
    return rgb;
}

std::vector<std::array<double, 3>> part_colours(const Model& model) {
    std::vector<std::array<double, 3>> out;
    for (std::size_t p = 0; p < model.parts.size(); ++p) out.push_back(read_colour(model.parts[p].colour).value_or(tint(p)));
    return out;
}

Scale scale_of(const Shades& shades, const Picture& view, int steps) {
    double low = shades.scale_low, high = shades.scale_high;
    const bool of_flux = view.show == Shown::heat_flux;
    if (of_flux && !view.along) low = 0.0;
    if (view.range) low = shades.unit.out((*view.range)[0]), high = shades.unit.out((*view.range)[1]);
    if (view.flux_range) low = shades.unit.out((*view.flux_range)[0]), high = shades.unit.out((*view.flux_range)[1]);
    constexpr double least_kelvin = 0.02;  // finer differences are those of the cells
    return {low, high, steps, of_flux ? 1e-6 + 1e-3 * std::abs(high) : least_kelvin / shades.unit.one};
}

}  // namespace firnfield
