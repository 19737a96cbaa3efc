// `firnfield compare`: designs of a model, or results folders, side by side.

#include "commands.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

namespace firnfield::command {
namespace {

bool listed(const std::vector<std::string>& names, const std::string& name) { return std::find(names.begin(), names.end(), name) != names.end(); }

/// Base first, then what was asked for; everything when nothing was.
std::vector<Design> chosen_designs(const ModelFile& file, const CompareOptions& options) {
    const bool all = options.variants.empty() && options.sweeps.empty();
    for (const std::string& name : options.variants) static_cast<void>(file.design(name));
    std::vector<std::string> sweeps;
    for (const Design& d : file.designs()) {
        if (!d.sweep.empty() && !listed(sweeps, d.sweep)) sweeps.push_back(d.sweep);
    }
    for (const std::string& name : options.sweeps) {
        if (!listed(sweeps, name))
            throw Error(
                fmt::format("the model has no sweep \"{}\"; it has {}", name, sweeps.empty() ? "none" : fmt::format("\"{}\"", fmt::join(sweeps, "\", \""))));
    }
    std::vector<Design> chosen{file.design("")};
    for (const Design& d : file.designs()) {
        if (all || listed(options.variants, d.name) || (!d.sweep.empty() && listed(options.sweeps, d.sweep))) chosen.push_back(d);
    }
    if (chosen.size() == 1)
        throw Error(fmt::format("{} has no variants or sweeps to compare; write [[variant]] tables into it (docs/designs.md)", file.file()));
    return chosen;
}

std::size_t base_among(const std::vector<Outcome>& designs, const std::string& name) {
    if (name.empty()) return 0;
    const auto found = std::find_if(designs.begin(), designs.end(), [&](const Outcome& d) { return d.name == name; });
    if (found != designs.end()) return static_cast<std::size_t>(found - designs.begin());
    std::vector<std::string> names;
    for (const Outcome& d : designs) names.push_back(d.name);
    throw Error(fmt::format("none of the designs is called \"{}\"; there are \"{}\"", name, fmt::join(names, "\", \"")));
}

int tell(const Comparison& comparison, bool json, const Units& units) {
    say("{}", json ? to_json(comparison) : to_text(comparison, units));
    const auto& studies = comparison.designs[comparison.base].studies;
    const bool kept = std::none_of(studies.begin(), studies.end(), [](const StudyOutcome& s) { return s.verdict == Verdict::missed; });
    return kept ? done : limit_missed;
}

int compare_folders(const CompareOptions& options) {
    std::vector<Outcome> designs;
    std::vector<Units> units;
    for (const std::filesystem::path& folder : options.what) {
        KeptOutcome kept = read_outcome(folder);
        const std::string reason = stale(folder, kept);
        if (!reason.empty() && !options.stale) {
            throw Error(fmt::format("the results in {} are stale: {}. Solve it again, or pass --stale to compare them as they are", folder.string(), reason));
        }
        if (!reason.empty()) kept.outcome.name += " (stale)";
        std::erase_if(kept.outcome.studies, [&](const StudyOutcome& s) { return !options.studies.empty() && !listed(options.studies, s.study); });
        if (kept.outcome.studies.empty()) throw Error(fmt::format("{} has none of the studies asked for", folder.string()));
        for (StudyOutcome& study : kept.outcome.studies) add_figures(folder, study, options.figures);
        units.push_back(kept.units);
        designs.push_back(std::move(kept.outcome));
    }
    const std::size_t base = base_among(designs, options.base);
    const Comparison comparison = compare("Comparison of results", std::move(designs), base);
    return tell(comparison, options.json, options.units.empty() ? units[base] : parse_units(options.units, units[base]));
}

}  // namespace

int compare(const CompareOptions& options) {
    if (options.what.size() > 1 || std::filesystem::is_directory(options.what.front())) {
        if (options.error_bars || !options.errors || options.as_meshed)
            throw Error(
                "--error-bars, --no-errors and --as-meshed are for solving designs; results folders have the errors and meshes that they were made with");
        return compare_folders(options);
    }
    const std::filesystem::path& path = options.what.front();
    const ModelFile file = read_to_tell(path, options.units);
    require_studies(file.base(), options.studies);
    require_no_target(options.errors, file.base());
    if (options.error_bars) {
        std::vector<Study> studies = studies_of(file.base());
        std::erase_if(studies, [&](const Study& s) { return !options.studies.empty() && !listed(options.studies, s.name); });
        require_error_bars(studies);
    }
    const std::vector<Design> designs = chosen_designs(file, options);
    if (!options.base.empty() && std::none_of(designs.begin(), designs.end(), [&](const Design& d) { return d.name == options.base; }))
        static_cast<void>(file.design(options.base));
    std::filesystem::path target = options.out;
    if (target.empty()) target = path.parent_path() / (path.stem().string() + ".comparison");
    ResultsFolder folder(target);

    file.check(designs);
    std::vector<NamedModel> models;
    const std::vector<Change> changes = changes_of({}, options.as_meshed);
    for (const Design& d : designs) {
        models.push_back({d.name, file.model(d, changes)});
        for (const std::string& figure : options.figures) ask_for(models.back().model, figure);
    }
    ProgressLine progress(options.quiet, &folder);
    const std::size_t studies = models.size() * (options.studies.empty() ? studies_of(file.base()).size() : options.studies.size());
    const auto found = solve_designs(
        models, {.studies = options.studies, .error_bars = options.error_bars, .errors = options.errors, .progress = design_progress(progress, studies)});
    progress.close();

    std::vector<Outcome> outcomes;
    std::vector<Summary> summaries;
    for (std::size_t d = 0; d < designs.size(); ++d) {
        outcomes.push_back(outcome_of(designs[d], models[d].model, found[d]));
        summaries.push_back(summarise(models[d].model, found[d], {seen_from(path, target), designs[d].name, changes}));
    }
    const std::size_t base = base_among(outcomes, options.base);
    const Comparison comparison = compare(file.base().title, std::move(outcomes), base);
    write_comparison(folder.path(), comparison, summaries);
    progress.hold_interrupts();
    folder.commit();
    const int exit = tell(comparison, options.json, file.base().units);
    if (!options.json) say("\nFigures of all designs in {}\n", (target / "comparison.csv").string());
    return exit;
}

}  // namespace firnfield::command
