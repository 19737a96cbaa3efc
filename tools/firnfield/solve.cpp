#include "study_runs.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace firnfield::command {
namespace {

std::vector<Study> chosen_studies(const Model& model, const std::vector<std::string>& names) {
    const std::vector<Study> all = studies_of(model);
    if (names.empty()) return all;
    require_studies(model, names);
    std::vector<Study> chosen;
    for (const std::string& name : names) chosen.push_back(*std::find_if(all.begin(), all.end(), [&](const Study& s) { return s.name == name; }));
    return chosen;
}

/// Beside the model and named after it and what was changed, so that a changed design does not replace the results of the base.
std::filesystem::path default_folder(const SolveOptions& options) {
    std::string name = options.model.stem();
    if (!options.variant.empty() && options.variant != base_design) name += " - " + options.variant;
    for (const Change& change : changes_of(options.set)) name += fmt::format(" - {} = {}", change.address, change.value);
    std::replace(name.begin(), name.end(), '/', '-');
    constexpr std::size_t longest = 120;
    if (name.size() > longest) name.resize(longest);
    return options.model.parent_path() / (name + ".results");
}

/// The model with the files and folders that it names as seen from the results folder, so that it can be read there.
Model seen_from(Model model, const std::filesystem::path& file, const std::filesystem::path& folder) {
    const auto move = [&](std::string& path) {
        if (path.empty() || std::filesystem::path(path).is_absolute()) return;
        const std::filesystem::path from = std::filesystem::absolute(file).parent_path() / path;
        path = relative_to(from, folder);
    };
    const auto rename = [&](Shape& shape) {
        if (Solid* solid = std::get_if<Solid>(&shape)) move(solid->source);
    };
    for (Study& study : model.studies) move(study.start.results);
    for (Part& part : model.parts) {
        rename(part.shape);
        for (Shape& more : part.also) rename(more);
        for (Shape& hole : part.holes) rename(hole);
    }
    return model;
}

}  // namespace

int solve(const SolveOptions& options) {
    const ModelFile file = read_model_file(options.model);
    const Origins from{.file = {}, .design = options.variant, .changes = changes_of(options.set)};
    const Model model = file.model(file.design(options.variant), from.changes);
    const std::vector<Study> studies = chosen_studies(model, options.studies);
    const std::filesystem::path target = options.out.empty() ? default_folder(options) : options.out;
    ResultsFolder folder(target, options.resume);

    ProgressLine progress(options.quiet);
    StudyRuns runs(model, options, folder, progress);
    try {
        for (const Study& study : studies) runs.run(study);
    } catch (const Cancelled&) {
        if (!runs.can_resume()) throw;
        folder.put_aside();
        progress.close();
        fmt::print(stderr, "firnfield: stopped before the end, as asked; --resume goes on from the last checkpoint\n");
        return computation_failed;
    }
    progress.close();
    const std::string summary = summary_json(model, runs.findings(), {relative_to(options.model, target), from.design, from.changes});
    std::filesystem::remove_all(folder.path() / "checkpoints");
    write_file(folder.path() / "summary.json", summary);
    write_file(folder.path() / "model.toml", write_model(seen_from(model, options.model, target)));
    folder.commit();

    const auto text = [](const StudyFindings& study) { return std::visit([](const auto& f) { return to_text(f); }, study); };
    if (options.json) {
        fmt::print("{}", summary);
    } else {
        bool first = true;
        for (const StudyFindings& study : runs.findings()) {
            fmt::print("{}{}", first ? "" : "\n" + std::string(100, '-') + "\n\n", text(study));
            first = false;
        }
        fmt::print("Results in {}\n", target.string());
    }
    const bool kept = std::all_of(runs.findings().begin(), runs.findings().end(), [](const StudyFindings& study) {
        return std::visit([](const auto& f) { return f.all_limits_kept(); }, study);
    });
    return kept ? done : limit_missed;
}

}  // namespace firnfield::command
