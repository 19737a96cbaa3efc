// Pictures of temperatures on the assembly: view, section, isotherms, labels; and of what makes a rise.

#include <firnfield/error.hpp>
#include <firnfield/picture.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/results.hpp>

#include "base/words.hpp"
#include "findings/surface_field.hpp"
#include "report/drawing.hpp"
#include "report/why.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <memory>

namespace firnfield {
namespace {

std::vector<double> celsius_of(std::vector<double> kelvin) {
    for (double& t : kelvin) t -= zero_celsius;
    return kelvin;
}

/// The spots worth naming: parts with limits, tightest first, then the hottest others.
std::vector<Label> choose_labels(const Findings& findings, const Camera& camera, const Canvas& canvas, const std::vector<std::string>& hidden_names,
                                 const Picture& view) {
    std::vector<Label> labels;
    std::vector<std::string> named;
    const auto add = [&](const std::string& name, const Spot& spot, const LimitFinding* limit) {
        if (labels.size() >= static_cast<std::size_t>(most_labels) || std::find(named.begin(), named.end(), name) != named.end()) return;
        if (spot.lumped) return;  // it has no place to point at
        if (std::find(hidden_names.begin(), hidden_names.end(), spot.body) != hidden_names.end()) return;
        if (view.above && spot.temperature < *view.above) return;
        if (view.section && dot(view.section->normal, spot.at - view.section->through) < 0.0) return;  // cut away
        named.push_back(name);
        Label label;
        label.name = name;
        label.value = show_celsius(spot.temperature);
        if (limit != nullptr) {
            label.name += fmt::format("  {} {}", limit->upper ? "limit" : "at least", show_celsius(limit->limit, 0));
            label.missed = !limit->kept();
            label.value += limit->kept() ? "" : "  missed";
        }
        label.pixel = camera.project(spot.at);
        const int x = static_cast<int>(label.pixel.x * oversampling), y = static_cast<int>(label.pixel.y * oversampling);
        label.covered = canvas.inside(x, y) && canvas.depth(x, y) > label.pixel.z + 4.0;
        labels.push_back(label);
    };
    std::vector<const LimitFinding*> limits;
    for (const LimitFinding& l : findings.limits) {
        if (l.of != SubjectKind::figure) limits.push_back(&l);  // a figure is at no place
    }
    std::stable_sort(limits.begin(), limits.end(), [](const auto* a, const auto* b) { return a->margin < b->margin; });
    for (const LimitFinding* l : limits) add(l->subject, l->worst, l);
    std::vector<const PartFinding*> parts;
    for (const PartFinding& p : findings.parts) parts.push_back(&p);
    std::stable_sort(parts.begin(), parts.end(), [](const auto* a, const auto* b) { return a->hottest.temperature > b->hottest.temperature; });
    for (const PartFinding* p : parts) add(p->name, p->hottest, nullptr);
    return labels;
}

void draw(const std::filesystem::path& file, const Model& model, const SteadySolution& solution, const SurfaceReader& reader, const Findings& findings,
          const Picture& view, int width, int height) {
    const Mesh& mesh = *solution.mesh;
    SurfaceView what;
    what.hidden = picked_bodies(model, mesh, view.hide);
    what.section = view.section;
    const SurfaceField outside = reader.field(what);
    what.above = view.above;
    const SurfaceField shown = view.above ? reader.field(what) : SurfaceField{};
    const SurfaceField& field = view.above ? shown : outside;

    std::vector<Vec3> extent;
    std::vector<std::string> hidden_names;
    for (std::size_t b = 0; b < mesh.bodies.size(); ++b) {
        if (what.hidden[b]) {
            hidden_names.push_back(mesh.bodies[b].name);
            continue;
        }
        for (const Vec3& corner : corners_of(mesh.bodies[b].box)) extent.push_back(corner);
    }
    Camera camera(view.azimuth, view.elevation);
    const double frame_left = 215.0, frame_right = width - 300.0, frame_top = 96.0, frame_bottom = height - 56.0;
    if (!extent.empty()) camera.fit(extent, frame_left, frame_top, frame_right, frame_bottom);

    double coldest = 1e30, hottest = -1e30;
    for (const double t : field.temperature) {
        coldest = std::min(coldest, t - zero_celsius);
        hottest = std::max(hottest, t - zero_celsius);
    }
    if (field.pieces.empty()) coldest = hottest = (view.above ? *view.above : findings.hottest.temperature) - zero_celsius;
    const Scale scale(view.range ? (*view.range)[0] - zero_celsius : coldest, view.range ? (*view.range)[1] - zero_celsius : hottest, view.bands ? 12 : 8);

    Canvas canvas(width * oversampling, height * oversampling);
    paint(canvas, camera, field, celsius_of(field.temperature));
    std::optional<Canvas> whole;
    if (view.above) {
        whole.emplace(width * oversampling, height * oversampling);
        paint(*whole, camera, outside, celsius_of(outside.temperature));
    }
    const Canvas::Rims rims = whole ? Canvas::Rims{*whole, {0.35F, 0.42F, 0.50F}, 0.35F} : rims_of(canvas);
    const auto colour = [&](double celsius) { return temperature_colour(scale.tone(celsius, view.bands)); };
    const auto level = [&](double celsius) { return view.isotherms ? std::floor((celsius - scale.low) / (0.5 * scale.step)) : 0.0; };

    std::vector<Label> labels = choose_labels(findings, camera, canvas, hidden_names, view);
    arrange_labels(labels, 24.0, width - 122.0, 0.5 * (frame_left + frame_right), 118.0, height - 150.0);

    Drawing drawing(canvas.picture(oversampling, colour, level, rims), width, height);
    for (const Label& label : labels) drawing.label(label);
    drawing.legend(scale, view.bands, coldest, hottest);
    drawing.axes(camera);
    drawing.text(24.0, 40.0, model.title.empty() ? "Assembly" : model.title, 21.0, true, 0.1);
    std::string subtitle = fmt::format("study \"{}\"", findings.study.name);
    if (findings.study.ambient) subtitle += fmt::format(", ambient {}", show_celsius(*findings.study.ambient));
    if (solution.time) subtitle += fmt::format(", at {}", show_quantity(*solution.time, kinds::time, 4));
    subtitle += view.above     ? fmt::format("   |   what is hotter than {}", show_celsius(*view.above))
                : view.section ? "   |   cut open"
                               : "   |   surface temperature";
    if (!view.hide.empty() && !hidden_names.empty()) subtitle += "   |   not shown: " + quoted_list(view.hide, 4);
    if (view.above && field.pieces.empty()) subtitle += "   |   nothing is that hot";
    drawing.text(24.0, 64.0, subtitle, 13.5, false, 0.35);
    drawing.save(file);
}

}  // namespace

void draw_pictures(const Model& model, const SteadySolution& solution, const Findings& findings, std::span<const PictureFile> pictures, int width, int height) {
    const SurfaceReader reader(solution);
    std::vector<std::exception_ptr> failed(pictures.size());
    const auto count = static_cast<std::ptrdiff_t>(pictures.size());
#pragma omp parallel for schedule(dynamic)
    for (std::ptrdiff_t n = 0; n < count; ++n) {
        const auto at = static_cast<std::size_t>(n);
        try {
            draw(pictures[at].file, model, solution, reader, findings, pictures[at].view, width, height);
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
    const PictureFile one{file, view};
    draw_pictures(model, solution, findings, std::span(&one, 1), width, height);
}

void draw_explanation(const std::filesystem::path& file, const Model& model, const SteadySolution& solution, const Explanation& e, const Picture& view,
                      int width, int height) {
    const Mesh& mesh = *solution.mesh;
    const PieceView what{.hidden = picked_bodies(model, mesh, view.hide), .section = view.section};
    const SurfacePieces surface = surface_pieces(mesh, what);
    std::map<std::string, double> rise_of;
    double highest = 0.0, lowest = 0.0;
    for (const Contribution& c : e.along) {
        if (c.kind != Contribution::Kind::part) continue;
        rise_of[c.name] = c.rise;
        highest = std::max(highest, c.rise);
        lowest = std::min(lowest, c.rise);
    }
    const std::vector<double> rises =
        corner_values(surface, [&](const SurfacePiece& piece, Vec3) { return rise_of[model.parts[mesh.bodies[piece.body].part].name]; });
    std::vector<Vec3> extent;
    for (std::size_t b = 0; b < mesh.bodies.size(); ++b) {
        if (what.hidden[b]) continue;
        for (const Vec3& corner : corners_of(mesh.bodies[b].box)) extent.push_back(corner);
    }
    Camera camera(view.azimuth, view.elevation);
    const double frame_left = 245.0, frame_right = width - 330.0, frame_top = 96.0, frame_bottom = height - 56.0;
    if (!extent.empty()) camera.fit(extent, frame_left, frame_top, frame_right, frame_bottom);
    if (-lowest < 0.02 * highest) lowest = 0.0;  // next to nothing
    const Scale scale(lowest, highest, 8);
    Canvas canvas(width * oversampling, height * oversampling);
    paint(canvas, camera, surface, rises);
    const auto colour = [&](double kelvin) { return temperature_colour(scale.tone(kelvin, false)); };

    std::vector<Label> labels;
    std::string elsewhere;
    for (const Contribution& c : main_pieces(e.along, e.rise, static_cast<std::size_t>(most_labels), 0.01)) {
        if (!c.at) {
            constexpr std::size_t longest = 110;  // bytes that a line of the picture holds
            if (c.kind != Contribution::Kind::rest && elsewhere.size() > longest && !elsewhere.ends_with("…")) elsewhere += ", …";
            if (c.kind != Contribution::Kind::rest && elsewhere.size() <= longest)
                elsewhere += fmt::format("{}{} {:+.1f} K", elsewhere.empty() ? "" : ", ", phrase(c), c.rise);
            continue;
        }
        Label label{.name = phrase(c), .value = fmt::format("{:+.1f} K", c.rise), .pixel = camera.project(*c.at), .covered = true};
        labels.push_back(std::move(label));
    }
    arrange_labels(labels, 24.0, width - 122.0, 0.5 * (frame_left + frame_right), 118.0, height - 150.0);
    Drawing drawing(canvas.picture(oversampling, colour, no_levels, rims_of(canvas)), width, height);
    for (const Label& label : labels) drawing.label(label);
    drawing.legend(scale, false, lowest, highest, "K");
    drawing.axes(camera);
    drawing.text(24.0, 40.0, model.title.empty() ? "Assembly" : model.title, 21.0, true, 0.1);
    drawing.text(24.0, 64.0, fmt::format("study \"{}\"   |   {}", e.study, headline(e)), 13.5, false, 0.35);
    if (!elsewhere.empty()) drawing.text(24.0, 84.0, "colours: kelvin that conduction in each part makes   |   " + elsewhere, 13.5, false, 0.35);
    drawing.save(file);
}

}  // namespace firnfield
