// `firnfield solve`: studies solved into a results folder.

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
std::filesystem::path default_folder(const SolveOptions& options, const ModelFile& file) {
    const std::string stem = options.model.stem();
    // Designs whose names make the same file name still get folders of their own.
    std::vector<std::string> names{stem};
    std::size_t chosen = 0;
    for (const Design& design : file.designs()) {
        if (design.name == options.variant) chosen = names.size();
        names.push_back(fmt::format("{} - {}", stem, design.name));
    }
    std::string name = chosen == 0 ? stem : file_names(names)[chosen];
    std::string changes;
    for (const Change& change : changes_of(options.set)) changes += fmt::format(" - {} = {}", change.address, change.value);
    if (!changes.empty()) name = file_stem(name + changes);
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

/// Says where a run that cannot be finished now can be taken up.
void tell_resume(const ResultsFolder& folder, ProgressLine& progress) {
    progress.close();
    if (folder.can_resume()) tell("What was computed so far stays in {}; --resume goes on from the last checkpoint\n", folder.path().string());
}

}  // namespace

int solve(const SolveOptions& options) {
    const ModelFile file = read_model_file(options.model);
    const Origins from{.file = {}, .design = options.variant, .changes = changes_of(options.set), .length_unit = file.length_unit()};
    const Model model = file.model(file.design(options.variant), from.changes);
    const std::vector<Study> studies = chosen_studies(model, options.studies);
    if (options.error_bars) require_error_bars(studies);
    const std::filesystem::path target = options.out.empty() ? default_folder(options, file) : options.out;
    ResultsFolder folder(target, options.resume);
    if (!folder.put_aside().empty()) tell("A stopped run lies where these results are made; it was put aside in {}\n", folder.put_aside().string());

    ProgressLine progress(options.quiet, &folder);
    StudyRuns runs(model, options, folder, progress);
    // A study that fails leaves the others as they are: what is finished is told and kept.
    std::vector<StudyFailure> failures;
    bool stopped = false;
    try {
        for (const Study& study : studies) {
            try {
                runs.run(study);
            } catch (const Cancelled&) {
                throw;
            } catch (const ComputationError& error) {
                failures.push_back({study.name, error.what()});
            } catch (const std::bad_alloc&) {
                failures.push_back({study.name, "not enough memory; raise mesh.cell"});
            }
        }
    } catch (const Cancelled&) {
        stopped = true;
        progress.hold_interrupts();
    } catch (...) {
        tell_resume(folder, progress);
        throw;
    }
    progress.close();
    if (stopped && folder.can_resume()) {
        tell_stopped(&folder);
        return computation_failed;
    }
    if (stopped && runs.findings().empty()) throw Cancelled();
    if (runs.findings().empty()) {
        tell_resume(folder, progress);
        for (const StudyFailure& failure : failures) tell("firnfield: study \"{}\": {}\n", failure.study, failure.reason);
        return computation_failed;
    }
    const std::string summary =
        summary_json(model, runs.findings(), {relative_to(options.model, target), from.design, from.changes, from.length_unit}, failures);
    try {
        write_file(folder.path() / "summary.json", summary);
        write_file(folder.path() / "model.toml", write_model(seen_from(model, options.model, target)));
        if (!stopped) progress.hold_interrupts();
        folder.commit();
    } catch (...) {
        tell_resume(folder, progress);
        throw;
    }

    const auto text = [](const StudyFindings& study) { return std::visit([](const auto& f) { return to_text(f); }, study); };
    if (options.json) {
        say("{}", summary);
    } else {
        bool first = true;
        for (const StudyFindings& study : runs.findings()) {
            say("{}{}", first ? "" : "\n" + std::string(100, '-') + "\n\n", text(study));
            first = false;
        }
        say("Results in {}\n", target.string());
    }
    for (const StudyFailure& failure : failures) tell("firnfield: study \"{}\": {}\n", failure.study, failure.reason);
    if (stopped) tell("firnfield: stopped before the end, as asked; what was finished is told and kept\n");
    if (stopped || !failures.empty()) return computation_failed;
    const bool kept = std::all_of(runs.findings().begin(), runs.findings().end(),
                                  [](const StudyFindings& study) { return std::visit([](const auto& f) { return f.all_limits_kept(); }, study); });
    return kept ? done : limit_missed;
}

}  // namespace firnfield::command
