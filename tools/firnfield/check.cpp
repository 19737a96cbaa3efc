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

}  // namespace

int check(const CheckOptions& options) {
    const ModelFile described = read_to_tell(options.model, options.units);
    described.check(described.designs());
    const Model& model = described.base();
    const Mesh mesh = build_mesh(model);
    if (const Profile* profile = find_profile(model, options.show)) {
        const std::filesystem::path stem =
            options.picture.empty() ? std::filesystem::path(file_stem(options.show)) : std::filesystem::path(options.picture).replace_extension();
        draw_profile(stem, *profile, profile_span(model, *profile), model.units);
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
    say("{}", options.json ? to_json(inspection) : to_text(inspection, model.units));
    if (!options.json) say("{}", designs_text(described, model.units));
    return done;
}

}  // namespace firnfield::command
