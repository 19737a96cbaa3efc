#include "commands.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>

namespace firnfield::command {
namespace {

std::vector<Study> chosen_studies(const Model& model, const std::vector<std::string>& names) {
    const std::vector<Study> all = studies_of(model);
    if (names.empty()) return all;
    std::vector<Study> chosen;
    for (const std::string& name : names) {
        const auto found = std::find_if(all.begin(), all.end(), [&](const Study& s) { return s.name == name; });
        if (found == all.end()) {
            std::string known;
            for (const Study& study : all) known += fmt::format("{}\"{}\"", known.empty() ? "" : ", ", study.name);
            throw Error(fmt::format("the model has no study \"{}\"; it has {}", name, known));
        }
        chosen.push_back(*found);
    }
    return chosen;
}

std::filesystem::path default_folder(const std::filesystem::path& model) {
    std::filesystem::path folder = model.parent_path() / model.stem();
    folder += ".results";
    return folder;
}

/// The model with its surface files named as seen from the results folder, so that it can be read there.
Model seen_from(Model model, const std::filesystem::path& file, const std::filesystem::path& folder) {
    const auto rename = [&](Shape& shape) {
        Solid* solid = std::get_if<Solid>(&shape);
        if (solid == nullptr || solid->source.empty() || std::filesystem::path(solid->source).is_absolute()) return;
        const std::filesystem::path from = std::filesystem::absolute(file).parent_path() / solid->source;
        solid->source = from.lexically_normal().lexically_relative(std::filesystem::absolute(folder).lexically_normal()).string();
    };
    for (Part& part : model.parts) {
        rename(part.shape);
        for (Shape& more : part.also) rename(more);
        for (Shape& hole : part.holes) rename(hole);
    }
    return model;
}

}  // namespace

int solve(const SolveOptions& options) {
    const Model model = read_model(options.model);
    const std::vector<Study> studies = chosen_studies(model, options.studies);
    ResultsFolder folder(options.out.empty() ? default_folder(options.model) : options.out);
    std::filesystem::create_directories(folder.path() / "fields");
    if (options.pictures) std::filesystem::create_directories(folder.path() / "pictures");

    std::vector<Findings> all;
    {
        ProgressLine progress(options.quiet);
        progress.show("meshing");
        const auto start = std::chrono::steady_clock::now();
        const bool own_meshes = options.error_bars || model.mesh.error_target;
        const auto mesh = own_meshes ? nullptr : std::make_shared<const Mesh>(build_mesh(model));
        const double mesh_seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        for (const Study& study : studies) {
            SteadyOptions steady;
            steady.progress = progress.callback(study.name);
            SteadySolution solution;
            if (own_meshes) {
                ErrorBarOptions bars;
                bars.steady = steady;
                BarredSolution barred = solve_with_error_bars(model, study, bars);
                solution = std::move(barred.solution);
                all.push_back(std::move(barred.findings));
            } else {
                solution = solve_steady(model, mesh, study, steady);
                solution.summary.mesh_seconds = mesh_seconds;
                all.push_back(findings(model, solution));
            }
            progress.show(fmt::format("{}: writing fields and pictures", study.name));
            write_vtu(folder.path() / "fields" / (study.name + ".vtu"), model, solution);
            write_surface_vtu(folder.path() / "fields" / (study.name + " surface.vtu"), model, solution);
            for (const Picture& picture : pictures_of(model)) {
                if (!options.pictures) break;
                draw_picture(folder.path() / "pictures" / fmt::format("{} - {}.png", study.name, picture.name), model, solution, all.back(), picture);
            }
        }
    }
    const std::string summary = summary_json(model, all);
    write_file(folder.path() / "summary.json", summary);
    write_file(folder.path() / "model.toml", write_model(seen_from(model, options.model, options.out.empty() ? default_folder(options.model) : options.out)));
    folder.commit();

    const std::string place = (options.out.empty() ? default_folder(options.model) : options.out).string();
    if (options.json) {
        fmt::print("{}", summary);
    } else {
        for (std::size_t i = 0; i < all.size(); ++i) fmt::print("{}{}", i == 0 ? "" : "\n" + std::string(100, '-') + "\n\n", to_text(all[i]));
        fmt::print("Results in {}\n", place);
    }
    const bool kept = std::all_of(all.begin(), all.end(), [](const Findings& f) { return f.all_limits_kept(); });
    return kept ? done : limit_missed;
}

}  // namespace firnfield::command
