// Pictures of temperatures on the assembly: view, section, isotherms, labels; and of what makes a rise.

#include <firnfield/error.hpp>
#include <firnfield/picture.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/results.hpp>

#include "base/unit_text.hpp"
#include "base/words.hpp"
#include "findings/heat_flux.hpp"
#include "findings/surface_field.hpp"
#include "report/best_seen.hpp"
#include "report/drawing.hpp"
#include "report/phrases.hpp"
#include "report/shades.hpp"
#include "report/why.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <memory>
#include <set>

namespace firnfield {
namespace {

/// What is seen of the assembly, and how it lies on the picture.
struct Scene {
    std::vector<bool> hidden;
    std::vector<std::string> hidden_names;
    Camera camera;
    double left, right;  // of the frame, pixels

    Scene(const Model& model, const Mesh& mesh, const Picture& view, double from, double to, int height)
        : hidden(picked_bodies(model, mesh, view.hide)), camera(view.azimuth, view.elevation), left(from), right(to) {
        std::vector<Vec3> extent;
        for (std::size_t b = 0; b < mesh.bodies.size(); ++b) {
            if (hidden[b]) {
                hidden_names.push_back(mesh.bodies[b].name);
                continue;
            }
            for (const Vec3& corner : corners_of(mesh.bodies[b].box)) extent.push_back(corner);
        }
        if (!extent.empty()) camera.fit(extent, left, 96.0, right, height - 56.0);
    }
};

/// One picture in the making.
class Drawn {
public:
    Drawn(const Model& model, const SteadySolution& solution, const SurfaceReader& reader, const Findings& findings, std::span<const Vec3> flux,
          const Picture& view, int width, int height)
        : model_(model),
          solution_(solution),
          reader_(reader),
          findings_(findings),
          flux_(flux),
          view_(view),
          scene_(model, *solution.mesh, view, 215.0, width - 300.0, height),
          width_(width),
          height_(height) {
        colours_ = {.palette = view.palette, .bands = view.bands || view.band_count > 0, .light_is_high = view.light_is_high, .low_on_top = view.low_on_top};
        look_inside();
    }

    void save(const std::filesystem::path& file, const std::string& remark) {
        const SurfaceField outside = reader_.field({.hidden = scene_.hidden, .section = view_.section});
        const SurfaceField hot = view_.above ? reader_.field({.hidden = scene_.hidden, .section = view_.section, .above = view_.above}) : SurfaceField{};
        const SurfaceField& field = view_.above ? hot : outside;
        const bool of_flux = view_.show == Shown::heat_flux, of_parts = view_.show == Shown::parts;
        const Units& units = model_.units;
        Shades shades = of_flux    ? flux_shades(field, view_, flux_, units)
                        : of_parts ? part_shades(field, *solution_.mesh)
                                   : shades_of(field.temperature, unit_of(kinds::temperature, units));
        if (field.pieces.empty()) shades.lowest = shades.highest = of_flux ? 0.0 : shades.unit.out(view_.above ? *view_.above : findings_.hottest.temperature);
        clipped_ = !view_.flux_range && (shades.scale_high < shades.highest || shades.scale_low > shades.lowest);
        const int pieces = view_.band_count > 0 ? view_.band_count : colours_.bands ? 12 : 8;
        const Scale scale = scale_of(shades, view_, pieces);

        Canvas canvas(width_ * oversampling, height_ * oversampling);
        const std::vector<Index> painted = paint(canvas, scene_.camera, field, shades.value);
        std::optional<Canvas> whole;
        if (view_.above) {
            whole.emplace(width_ * oversampling, height_ * oversampling);
            static_cast<void>(paint(*whole, scene_.camera, outside, outside.temperature));
        }
        const Canvas::Rims rims = whole ? Canvas::Rims{*whole, {0.35F, 0.42F, 0.50F}, 0.35F} : rims_of(canvas);
        const std::vector<std::array<double, 3>> own = part_colours(model_);
        const auto colour = [&](double value) { return of_parts ? own[static_cast<std::size_t>(std::lround(value))] : colours_.at(scale, value); };
        const auto level = [&](double value) { return view_.isotherms ? std::floor((value - scale.low) / (0.5 * scale.step)) : 0.0; };

        std::vector<Label> labels = of_flux ? flux_labels(canvas, shades.unit) : of_parts ? part_labels(canvas, field, painted) : temperature_labels(canvas);
        arrange_labels(labels, 24.0, width_ - 122.0, 0.5 * (scene_.left + scene_.right), 118.0, height_ - 150.0);

        Drawing drawing(canvas.picture(oversampling, colour, level, rims), width_, height_);
        if (of_flux && view_.arrows) add_arrows(drawing, canvas, field, painted);
        for (const Label& label : labels) drawing.label(label);
        if (!of_parts) drawing.legend(scale, colours_, shades.lowest, shades.highest, shades.unit.shown);
        drawing.axes(scene_.camera);
        drawing.text(24.0, 40.0, model_.title.empty() ? "Assembly" : model_.title, 21.0, true, 0.1);
        drawing.text(24.0, 64.0, subtitle(field.pieces.empty()), 13.5, false, 0.35);
        if (!remark.empty()) drawing.text(24.0, 86.0, "STALE: " + remark, 14.5, true, 0.0);
        drawing.save(file);
    }

private:
    /// Where everything that is shown is hotter than asked its surface says nothing: cut open at the hottest place.
    void look_inside() {
        if (!view_.above || view_.section) return;
        const BodyTemperatures& bodies = reader_.bodies();
        const Spot* hottest = nullptr;
        for (std::size_t b = 0; b < scene_.hidden.size(); ++b) {
            if (scene_.hidden[b]) continue;
            if (bodies.coldest[b].temperature < *view_.above) return;
            if (hottest == nullptr || bodies.hottest[b].temperature > hottest->temperature) hottest = &bodies.hottest[b];
        }
        if (hottest == nullptr) return;
        const Vec3 eye = scene_.camera.towards_eye();
        int axis = 0;
        for (int a = 1; a < 3; ++a) axis = std::abs(eye[a]) > std::abs(eye[axis]) ? a : axis;
        HalfSpace kept{.normal = {}, .through = hottest->at};
        kept.normal[axis] = eye[axis] > 0.0 ? -1.0 : 1.0;
        view_.section = kept;
        opened_ = true;
    }

    [[nodiscard]] std::string subtitle(bool empty) const {
        const Units& units = model_.units;
        std::string out = fmt::format("study \"{}\"", findings_.study.name);
        if (findings_.study.ambient) out += fmt::format(", ambient {}", show_temperature(*findings_.study.ambient, units));
        if (solution_.time && findings_.study.kind != StudyKind::steady) out += fmt::format(", at {}", show_quantity(*solution_.time, kinds::time, 4));
        if (view_.show == Shown::heat_flux) {
            out += "   |   heat flux";
            if (view_.along) out += fmt::format(" along [{:.4g}, {:.4g}, {:.4g}]", view_.along->x, view_.along->y, view_.along->z);
            if (clipped_) out += ", its highest 2 % beyond the colours";
            if (view_.section) out += ", cut open";
            if (in_plane()) out += model_.space->revolved ? ", in the plane of radius and height" : ", in the plane";
        } else {
            if (view_.show == Shown::parts) {
                std::set<Index> parts;
                for (std::size_t b = 0; b < scene_.hidden.size(); ++b) {
                    if (!scene_.hidden[b]) parts.insert(solution_.mesh->bodies[b].part);
                }
                out = fmt::format("{} part{} told apart by colour, with materials", parts.size(), parts.size() == 1 ? "" : "s");
            }
            out += opened_         ? fmt::format("   |   everything is hotter than {}: cut open at the hottest place", show_temperature(*view_.above, units))
                   : view_.above   ? fmt::format("   |   what is hotter than {}", show_temperature(*view_.above, units))
                   : view_.section ? "   |   cut open"
                   : in_plane()    ? (model_.space->revolved ? "   |   temperature in the plane of radius and height" : "   |   temperature in the plane")
                   : view_.show == Shown::parts ? ""
                                                : "   |   surface temperature";
        }
        if (!view_.hide.empty() && !scene_.hidden_names.empty()) out += "   |   not shown: " + quoted_list(view_.hide, 4);
        if (view_.above && empty) out += "   |   nothing is that hot";
        return out;
    }

    /// Whether what is seen is the plane of a plane or revolved model: nothing lies behind it.
    [[nodiscard]] bool in_plane() const {
        if (!model_.space) return false;
        const Vec3 eye = scene_.camera.towards_eye();
        return (model_.space->revolved ? std::abs(eye.y) : std::abs(eye.z)) > 0.999;
    }

    [[nodiscard]] bool cut_away(Vec3 point) const { return view_.section && dot(view_.section->normal, point - view_.section->through) < 0.0; }

    /// A label for a place that is not cut away; whether something covers it is seen on the canvas.
    [[nodiscard]] Label label_at(Vec3 point, const Canvas& canvas) const {
        Label label{.name = {}, .value = {}, .pixel = scene_.camera.project(point), .covered = false};
        const int x = static_cast<int>(label.pixel.x * oversampling), y = static_cast<int>(label.pixel.y * oversampling);
        label.covered = !in_plane() && canvas.inside(x, y) && canvas.depth(x, y) > label.pixel.z + 4.0;
        return label;
    }

    /// The spots worth naming: parts with limits, tightest first, then the hottest others.
    [[nodiscard]] std::vector<Label> temperature_labels(const Canvas& canvas) const {
        const Units& units = model_.units;
        const auto& away = scene_.hidden_names;
        std::vector<Label> labels;
        std::vector<std::string> named;
        const auto add = [&](const std::string& name, const Spot& spot, const LimitFinding* limit) {
            if (labels.size() >= static_cast<std::size_t>(most_labels) || std::find(named.begin(), named.end(), name) != named.end()) return;
            if (spot.lumped) return;  // it has no place to point at
            if (std::find(away.begin(), away.end(), spot.body) != away.end()) return;
            if ((view_.above && spot.temperature < *view_.above) || cut_away(spot.at)) return;
            named.push_back(name);
            Label label = label_at(spot.at, canvas);
            label.name = name;
            label.value = show_temperature(spot.temperature, units);
            if (limit != nullptr) {
                label.name += fmt::format("  {} {}", limit->upper ? "limit" : "at least", show_temperature(limit->limit, units, 0));
                label.missed = !limit->kept();
                label.value += limit->kept() ? "" : "  missed";
            }
            labels.push_back(label);
        };
        std::vector<const LimitFinding*> limits;
        for (const LimitFinding& l : findings_.limits) {
            if (l.of != SubjectKind::figure) limits.push_back(&l);  // a figure is at no place
        }
        std::stable_sort(limits.begin(), limits.end(), [](const auto* a, const auto* b) { return a->margin < b->margin; });
        for (const LimitFinding* l : limits) add(l->subject, l->worst, l);
        std::vector<const PartFinding*> parts;
        for (const PartFinding& p : findings_.parts) parts.push_back(&p);
        std::stable_sort(parts.begin(), parts.end(), [](const auto* a, const auto* b) { return a->hottest.temperature > b->hottest.temperature; });
        for (const PartFinding* p : parts) add(p->name, p->hottest, nullptr);
        return labels;
    }

    /// Where the flux of each part is largest, the largest first.
    [[nodiscard]] std::vector<Label> flux_labels(const Canvas& canvas, const UnitOf& unit) const {
        std::vector<Label> labels;
        for (const FluxFinding& most : highest_fluxes(model_, *solution_.mesh, flux_)) {
            if (labels.size() == static_cast<std::size_t>(most_labels)) break;
            const auto& away = scene_.hidden_names;
            if (std::find(away.begin(), away.end(), most.body) != away.end() || cut_away(most.at)) continue;
            Label label = label_at(most.at, canvas);
            label.name = most.part + ", highest flux";
            label.value = significant(unit.out(most.flux), 3) + " " + unit.shown;
            labels.push_back(label);
        }
        return labels;
    }

    /// Parts that are seen well, with their materials.
    [[nodiscard]] std::vector<Label> part_labels(const Canvas& canvas, const SurfaceField& field, const std::vector<Index>& painted) const {
        constexpr std::size_t most = 12;
        constexpr double least_room = 4.0;
        const std::vector<Body>& bodies = solution_.mesh->bodies;
        const std::size_t count = model_.parts.size();
        const std::vector<SeenSpot> spots = best_seen(canvas, oversampling, count, [&](std::uint32_t face) {
            return painted[face] == no_index ? count : static_cast<std::size_t>(bodies[field.pieces[painted[face]].body].part);
        });
        std::vector<std::size_t> order;
        for (std::size_t p = 0; p < count; ++p) {
            if (spots[p].room >= least_room) order.push_back(p);
        }
        std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return spots[a].room > spots[b].room; });
        order.resize(std::min(order.size(), most));
        std::vector<Label> labels;
        for (const std::size_t p : order) {
            const Part& part = model_.parts[p];
            const auto copies = std::count_if(bodies.begin(), bodies.end(), [&](const Body& b) { return b.part == p; });
            labels.push_back({.name = copies > 1 ? fmt::format("{}, {} bodies", part.name, copies) : part.name,
                              .value = part.material,
                              .pixel = {static_cast<double>(spots[p].x), static_cast<double>(spots[p].y), 0.0},
                              .covered = false});
        }
        return labels;
    }

    /// Arrows at even distances on the picture, as long as the root of the flux that is seen.
    void add_arrows(Drawing& drawing, const Canvas& canvas, const SurfaceField& field, const std::vector<Index>& painted) const {
        constexpr int pitch = 38;
        constexpr double longest = 34.0, shortest = 7.0;
        struct Arrow {
            double x, y;
            Vec3 flux;
        };
        std::vector<Arrow> arrows;
        std::vector<double> sizes;
        for (int y = 96 + pitch / 2; y < height_ - 40; y += pitch) {
            for (int x = static_cast<int>(scene_.left) - 40 + ((y / pitch) % 2) * pitch / 2; x < scene_.right + 40; x += pitch) {
                const std::uint32_t face = canvas.face(x * oversampling, y * oversampling);
                if (painted[face] == no_index) continue;
                arrows.push_back({static_cast<double>(x), static_cast<double>(y), flux_[field.pieces[painted[face]].cell]});
                sizes.push_back(length(arrows.back().flux));
            }
        }
        if (arrows.empty()) return;
        std::sort(sizes.begin(), sizes.end());
        const double typical = sizes[sizes.size() * 95 / 100];  // a few at a corner would make all others small
        if (typical <= 0.0) return;
        for (const Arrow& arrow : arrows) {
            const double dx = dot(arrow.flux, scene_.camera.right()), dy = -dot(arrow.flux, scene_.camera.up()), size = std::hypot(dx, dy);
            const double shown = longest * std::sqrt(std::min(1.0, size / typical));
            if (shown > shortest) drawing.arrow(arrow.x, arrow.y, dx / size * shown, dy / size * shown);
        }
    }

    const Model& model_;
    const SteadySolution& solution_;
    const SurfaceReader& reader_;
    const Findings& findings_;
    std::span<const Vec3> flux_;  // per cell; empty where temperatures are shown
    Picture view_;
    Scene scene_;
    Colours colours_{};
    int width_, height_;
    bool opened_ = false, clipped_ = false;
};

}  // namespace

void draw_pictures(const Model& model, const SteadySolution& solution, const Findings& findings, std::span<const PictureFile> pictures, int width, int height) {
    const SurfaceReader reader(solution);
    const bool any_flux = std::any_of(pictures.begin(), pictures.end(), [](const PictureFile& p) { return p.view.show == Shown::heat_flux; });
    const std::vector<Vec3> flux = any_flux ? evened(*solution.mesh, heat_flux(solution)) : std::vector<Vec3>();
    std::vector<std::exception_ptr> failed(pictures.size());
    const auto count = static_cast<std::ptrdiff_t>(pictures.size());
#pragma omp parallel for schedule(dynamic)
    for (std::ptrdiff_t n = 0; n < count; ++n) {
        const auto at = static_cast<std::size_t>(n);
        try {
            Drawn(model, solution, reader, findings, flux, pictures[at].view, width, height).save(pictures[at].file, pictures[at].remark);
        } catch (...) {
            failed[at] = std::current_exception();
        }
    }
    for (const std::exception_ptr& error : failed) {
        if (error) std::rethrow_exception(error);
    }
}

void draw_picture(const std::filesystem::path& file, const Model& model, const SteadySolution& solution, const Findings& findings, const Picture& view,
                  int width, int height) {
    const PictureFile one{.file = file, .view = view};
    draw_pictures(model, solution, findings, std::span(&one, 1), width, height);
}

void draw_explanation(const std::filesystem::path& file, const Model& model, const SteadySolution& solution, const Explanation& e, const Picture& view,
                      int width, int height) {
    const Mesh& mesh = *solution.mesh;
    const Units& units = model.units;
    const UnitOf degree = unit_of(kinds::temperature_difference, units);
    const Scene scene(model, mesh, view, 245.0, width - 330.0, height);
    const SurfacePieces surface = surface_pieces(mesh, {.hidden = scene.hidden, .section = view.section});
    std::map<std::string, double> rise_of;
    double highest = 0.0, lowest = 0.0;
    for (const Contribution& c : e.along) {
        if (c.kind != Contribution::Kind::part) continue;
        rise_of[c.name] = degree.out(c.rise);
        highest = std::max(highest, degree.out(c.rise));
        lowest = std::min(lowest, degree.out(c.rise));
    }
    const std::vector<double> rises =
        corner_values(surface, [&](const SurfacePiece& piece, Vec3) { return rise_of[model.parts[mesh.bodies[piece.body].part].name]; });
    if (-lowest < 0.02 * highest) lowest = 0.0;  // next to nothing
    const Scale scale(lowest, highest, 8, 0.02);
    Canvas canvas(width * oversampling, height * oversampling);
    static_cast<void>(paint(canvas, scene.camera, surface, rises));
    const Colours colours;
    const auto colour = [&](double kelvin) { return colours.at(scale, kelvin); };

    std::vector<Label> labels;
    std::string elsewhere;
    for (const Contribution& c : main_pieces(e.along, e.rise, static_cast<std::size_t>(most_labels), 0.01)) {
        if (!c.at) {
            constexpr std::size_t longest = 110;  // bytes that a line of the picture holds
            if (c.kind != Contribution::Kind::rest && elsewhere.size() > longest && !elsewhere.ends_with("…")) elsewhere += ", …";
            if (c.kind != Contribution::Kind::rest && elsewhere.size() <= longest)
                elsewhere += fmt::format("{}{} {} {}", elsewhere.empty() ? "" : ", ", phrase(c), degrees_apart(c.rise, units, 1, true), degree.shown);
            continue;
        }
        Label label{
            .name = phrase(c), .value = degrees_apart(c.rise, units, 1, true) + " " + degree.shown, .pixel = scene.camera.project(*c.at), .covered = true};
        labels.push_back(std::move(label));
    }
    arrange_labels(labels, 24.0, width - 122.0, 0.5 * (scene.left + scene.right), 118.0, height - 150.0);
    Drawing drawing(canvas.picture(oversampling, colour, no_levels, rims_of(canvas)), width, height);
    for (const Label& label : labels) drawing.label(label);
    drawing.legend(scale, colours, lowest, highest, degree.shown);
    drawing.axes(scene.camera);
    drawing.text(24.0, 40.0, model.title.empty() ? "Assembly" : model.title, 21.0, true, 0.1);
    drawing.text(24.0, 64.0, fmt::format("study \"{}\"   |   {}", e.study, headline(e, units)), 13.5, false, 0.35);
    if (!elsewhere.empty()) drawing.text(24.0, 84.0, "colours: degrees that conduction in each part makes   |   " + elsewhere, 13.5, false, 0.35);
    drawing.save(file);
}

}  // namespace firnfield
