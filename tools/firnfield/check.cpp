// `firnfield check`: what a model means, and pictures of rules and profiles.

#include "commands.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace firnfield::command {

namespace {

/// Four periods, or all of a table and a little more.
double profile_span(const Model& model, const Profile& profile) {
    if (const auto period = period_of(profile)) return 4.0 * *period + (profile.duty ? profile.duty->delay : 0.0);
    if (!profile.points.empty()) return 1.1 * profile.points.at.back();
    double longest = 1.0;
    for (const Study& study : model.studies) longest = std::max(longest, study.lasts);
    return longest;
}

/// Parameters with their values, and what can be solved besides the file as it stands.
void tell_designs(const ModelFile& file) {
    if (!file.parameters().empty()) say("\nParameters\n");
    for (const ParameterInfo& p : file.parameters()) {
        const std::string kind = name_of(p.value.dimension);
        const QuantityKind shown{kind, p.value.dimension, ""};
        const bool plain = p.value.dimension == Dimension{};
        const std::string value = p.value.on_a_scale ? show_celsius(p.value.value)
                                  : plain            ? fmt::format("{:g}", p.value.value)
                                                     : show_quantity(p.value.value, shown);
        say("  {} = {}", p.name, value);
        if (p.spread)
            say(", {} {}", p.spread->normal ? "standard deviation" : "±",
                p.value.on_a_scale ? show_quantity(p.spread->width, kinds::temperature_difference)
                : plain            ? fmt::format("{:g}", p.spread->width)
                                   : show_quantity(p.spread->width, shown));
        say("\n");
    }
    if (!file.designs().empty()) say("\nDesigns (firnfield compare, or solve --variant)\n");
    std::string sweep;
    for (const Design& d : file.designs()) {
        if (!d.sweep.empty() && d.sweep == sweep) continue;  // told with its first point
        sweep = d.sweep;
        const auto points =
            std::count_if(file.designs().begin(), file.designs().end(), [&](const Design& other) { return !sweep.empty() && other.sweep == sweep; });
        say("  {}{}", sweep.empty() ? d.name : sweep, d.from.empty() ? "" : fmt::format(", from {}", d.from));
        if (points > 0)
            say(": a sweep of {} points over", points);
        else
            say(":");
        for (const Change& c : d.changes) say(" {}{}", c.address, points > 0 ? "" : fmt::format(" = {}{}", c.value, &c == &d.changes.back() ? "" : ","));
        say("{}\n", d.note.empty() ? "" : fmt::format(" ({})", d.note));
    }
}

}  // namespace

int check(const CheckOptions& options) {
    const ModelFile described = read_model_file(options.model);
    const Model& model = described.base();
    const Mesh mesh = build_mesh(model);
    if (const Profile* profile = find_profile(model, options.show)) {
        const std::filesystem::path stem =
            options.picture.empty() ? std::filesystem::path(file_stem(options.show)) : std::filesystem::path(options.picture).replace_extension();
        draw_profile(stem, *profile, profile_span(model, *profile));
        say("Chart in {0}.png and {0}.svg\n", stem.string());
        return done;
    }
    if (!options.show.empty()) {
        Picture view;
        view.azimuth = options.azimuth;
        view.elevation = options.elevation;
        std::filesystem::path file = options.picture;
        if (file.empty()) {
            file = file_stem(options.show) + ".png";
        }
        draw_rule(file, model, mesh, options.show, view);
        say("Picture in {}\n", file.string());
        return done;
    }
    const Inspection inspection = inspect(model, mesh);
    say("{}", options.json ? to_json(inspection) : to_text(inspection));
    if (!options.json) tell_designs(described);
    return done;
}

}  // namespace firnfield::command
