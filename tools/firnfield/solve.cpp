// `firnfield solve`: studies solved into a results folder.

#include "commands.hpp"

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

/// Ends a run that cannot be finished now, and says where it can be taken up or what it leaves.
void tell_left(ResultsFolder& folder, ProgressLine& progress) {
    progress.hold_interrupts();
    progress.close();
    const ResultsFolder::Left left = folder.give_up();
    if (left == ResultsFolder::Left::nothing) return;
    tell("{}{}\n", left == ResultsFolder::Left::to_resume ? fmt::format("What was computed so far stays in {}; ", folder.path().string()) : "",
         what_is_left(left, &folder));
}

}  // namespace

int solve(const SolveOptions& options) {
    const ModelFile file = read_to_tell(options.model, options.units);
    const Origins from{.file = options.model.string(), .design = options.variant, .changes = changes_of(options.set, options.as_meshed)};
    const Model model = file.model(file.design(options.variant), from.changes);
    const std::vector<Study> studies = chosen_studies(model, options.studies);
    if (options.error_bars) require_error_bars(studies);
    require_no_target(options.errors, model);
    const std::filesystem::path target = options.out.empty() ? default_folder(options, file) : options.out;
    ResultsFolder folder(target, options.resume);
    if (!folder.put_aside().empty()) tell("A stopped run lies where these results are made; it was put aside in {}\n", folder.put_aside().string());

    ProgressLine progress(options.quiet, &folder);
    const RunOptions how{.error_bars = options.error_bars,
                         .errors = options.errors,
                         .why = options.why,
                         .checkpoint_steps = options.checkpoint_steps,
                         .progress = progress.callback()};
    RunResult result;
    std::string summary;
    std::filesystem::path kept_in = target;
    try {
        ResultsWriter writer(model, folder, {.from = from, .pictures = options.pictures, .resume = options.resume, .progress = progress.callback()});
        result = run_studies(model, studies, how, writer.sinks());
        if (result.stopped) progress.hold_interrupts();
        progress.close();
        if (result.stopped && folder.can_resume()) {
            tell("firnfield: {}; {}\n", Cancelled().what(), what_is_left(folder.give_up(), &folder));
            return computation_failed;
        }
        if (result.stopped && result.findings.empty()) throw Cancelled();
        if (result.findings.empty()) {
            tell_left(folder, progress);
            for (const StudyFailure& failure : result.failures) tell("firnfield: study \"{}\": {}\n", failure.study, failure.reason);
            return computation_failed;
        }
        summary = writer.finish(result);
        progress.hold_interrupts();
        if (result.stopped || !result.failures.empty()) {
            kept_in = folder.commit_part();
        } else {
            folder.commit();
        }
    } catch (const Cancelled&) {
        throw;
    } catch (...) {
        tell_left(folder, progress);
        throw;
    }

    const auto text = [&](const StudyFindings& study) { return std::visit([&](const auto& f) { return to_text(f, model.units); }, study); };
    if (options.json) {
        say("{}", summary);
    } else {
        bool first = true;
        for (const StudyFindings& study : result.findings) {
            say("{}{}", first ? "" : "\n" + std::string(100, '-') + "\n\n", text(study));
            first = false;
        }
        say("Results in {}\n", kept_in.string());
    }
    for (const StudyFailure& failure : result.failures) tell("firnfield: study \"{}\": {}\n", failure.study, failure.reason);
    if (result.stopped) tell("firnfield: stopped before the end, as asked; what was finished is told and kept\n");
    if (kept_in != folder.target() && kept_in != target)
        tell("firnfield: this is a part of the studies; the earlier results in {} stay as they are\n", target.string());
    if (result.stopped || !result.failures.empty()) return computation_failed;
    const bool kept = std::all_of(result.findings.begin(), result.findings.end(),
                                  [](const StudyFindings& study) { return std::visit([](const auto& f) { return f.all_limits_kept(); }, study); });
    return kept ? done : limit_missed;
}

}  // namespace firnfield::command
