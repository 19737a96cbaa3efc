// Pictures of what a rule picks.

#include <firnfield/picture.hpp>

#include "base/words.hpp"
#include "findings/surface_field.hpp"
#include "report/drawing.hpp"

namespace firnfield {
namespace {

/// What a rule picks, unless it is left out or rests with a part that is.
const std::vector<Index>& acting(const std::vector<Index>& patches, const std::string& rule) {
    if (patches.empty()) throw Error(fmt::format("{} is left out here, so it picks nothing", in_quotes(rule)));
    return patches;
}

/// Patches that a rule picks, by its name; what it is, in words.
std::pair<std::vector<Index>, std::string> patches_of_rule(const Model& model, const Mesh& mesh, const Network& network, const std::string& rule) {
    std::vector<std::string> known{"unclaimed"};
    if (rule == "unclaimed") return {network.unclaimed, "exposed surface that nothing claims"};
    for (std::size_t n = 0; n < model.surfaces.size(); ++n) {
        known.push_back(model.surfaces[n].name);
        if (known.back() == rule) return {select_patches(model, mesh, model.surfaces[n].pick, fmt::format("surface[{}]", n)), "surface " + in_quotes(rule)};
    }
    for (std::size_t n = 0; n < model.coolings.size(); ++n) {
        known.push_back(display_name(model.coolings[n], n));
        if (known.back() == rule) return {acting(network.cooling_coverage[n].patches, rule), "cooling " + in_quotes(rule)};
    }
    for (std::size_t n = 0; n < model.holds.size(); ++n) {
        if (!model.holds[n].in.empty()) continue;  // of whole parts: no rule for surfaces
        known.push_back(display_name(model.holds[n], n));
        if (known.back() == rule) return {acting(network.hold_coverage[n].patches, rule), "hold " + in_quotes(rule)};
    }
    for (std::size_t n = 0; n < model.powers.size(); ++n) {
        if (!model.powers[n].on) continue;
        known.push_back(display_name(model.powers[n]));
        if (known.back() == rule) return {acting(network.load_coverage[n].patches, rule), "power " + in_quotes(rule)};
    }
    for (std::size_t n = 0; n < model.resistors.size(); ++n) {
        std::vector<Index> patches;
        for (const Coverage& coverage : network.resistor_coverage[n]) patches.insert(patches.end(), coverage.patches.begin(), coverage.patches.end());
        if (patches.empty()) continue;  // it leads to no surface
        known.push_back(display_name(model.resistors[n]));
        if (known.back() == rule) return {std::move(patches), "resistor " + in_quotes(rule)};
    }
    throw Error(fmt::format("no rule is called {}; there are {}", in_quotes(rule), quoted_list(known, 12)));
}

}  // namespace

void draw_rule(const std::filesystem::path& file, const Model& model, const Mesh& mesh, const std::string& rule, const Picture& view, int width, int height) {
    const auto [patches, title] = patches_of_rule(model, mesh, build_network(model, mesh, studies_of(model).front()), rule);
    std::vector<bool> picked(mesh.patches.size(), false);
    double area = 0.0;
    for (const Index p : patches) {
        picked[p] = true;
        area += mesh.multiplicity * mesh.patches.area[p];
    }
    const PieceView what{.hidden = picked_bodies(model, mesh, view.hide), .section = view.section};
    const SurfacePieces surface = surface_pieces(mesh, what);
    const std::vector<double> share =
        corner_values(surface, [&](const SurfacePiece& piece, Vec3) { return piece.on == SurfacePiece::On::patch && picked[piece.place] ? 1.0 : 0.0; });
    std::vector<Vec3> extent;
    for (std::size_t b = 0; b < mesh.bodies.size(); ++b) {
        if (what.hidden[b]) continue;
        for (const Vec3& corner : corners_of(mesh.bodies[b].box)) extent.push_back(corner);
    }
    Camera camera(view.azimuth, view.elevation);
    if (!extent.empty()) camera.fit(extent, 60.0, 96.0, width - 60.0, height - 56.0);
    Canvas canvas(width * oversampling, height * oversampling);
    static_cast<void>(paint(canvas, camera, surface, share));
    const auto colour = [](double of_corners) { return of_corners > 0.5 ? std::array{0.93, 0.55, 0.20} : std::array{0.83, 0.85, 0.88}; };
    Drawing drawing(canvas.picture(oversampling, colour, no_levels, rims_of(canvas)), width, height);
    drawing.axes(camera);
    drawing.text(24.0, 40.0, model.title.empty() ? "Assembly" : model.title, 21.0, true, 0.1);
    drawing.text(24.0, 64.0, fmt::format("{}: {} in {} pieces, in colour", title, show_quantity(area, kinds::area, model.units), patches.size()), 13.5, false,
                 0.35);
    drawing.save(file);
}

}  // namespace firnfield
