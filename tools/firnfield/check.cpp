// `firnfield check`: what a model means, and pictures of rules and profiles.

#include "commands.hpp"

#include <fmt/format.h>

namespace firnfield::command {

int check(const CheckOptions& options) {
    const bool page = options.page || !options.out.empty();
    if (page && (options.json || !options.show.empty() || !options.picture.empty()))
        throw Error("--page writes a page and nothing else: leave out --json, --show and --picture, or --page and --out");
    const ModelFile described = read_to_tell(options.model, options.units);
    described.check(described.designs());
    const Model model = described.model(described.design(options.variant), changes_of(options.set));
    const Mesh mesh = build_mesh(model);
    if (const Profile* profile = find_profile(model, options.show)) {
        const std::filesystem::path stem =
            options.picture.empty() ? std::filesystem::path(file_stem(options.show)) : std::filesystem::path(options.picture).replace_extension();
        draw_profile(stem, *profile, span_to_show(model, *profile), model.units);
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
    if (page) {
        std::filesystem::path target = options.out;
        if (target.empty()) target = options.model.parent_path() / (options.model.stem().string() + ".model.html");
        const std::string html = model_page(model, inspection);
        write_file(target, html);
        say("Page in {}, {:.1f} MB: open it in a browser; it needs no network\n", target.string(), 1e-6 * static_cast<double>(html.size()));
        return done;
    }
    say("{}", options.json ? to_json(inspection) : to_text(inspection, model.units));
    if (!options.json) say("{}", designs_text(described, model.units));
    return done;
}

}  // namespace firnfield::command
