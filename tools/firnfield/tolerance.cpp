// `firnfield tolerance`: how likely limits are kept when parts vary.

#include "commands.hpp"

#include <fmt/format.h>

namespace firnfield::command {

int tolerance(const ToleranceOptions& options) {
    const ModelFile file = read_to_tell(options.model, options.units);
    const Design& design = file.design(options.variant);
    require_studies(file.base(), options.studies);
    std::vector<ParameterInfo> spread;
    for (const ParameterInfo& p : file.parameters()) {
        if (p.spread) spread.push_back(p);
    }
    if (spread.empty())
        throw Error(fmt::format("no parameter of {} has a spread; write one as pad = {{ value = \"0.5 mm\", uniform = \"0.1 mm\" }}", options.model.string()));
    const auto model_at = [&](std::span<const double> values) {
        std::vector<Change> changes = changes_of(options.set, options.as_meshed);
        for (std::size_t p = 0; p < spread.size(); ++p) changes.push_back(change_to(spread[p], values[p]));
        return with_goal(file.model(design, changes), options.goal, false);
    };
    std::vector<double> nominal;
    for (const ParameterInfo& p : spread) nominal.push_back(p.value.value);
    const Model asked = model_at(nominal);
    if (asked.limits.empty() && asked.figures.empty())
        throw Error(fmt::format("{} has neither limits nor figures, so there is nothing to tell; ask for one, as in --figure die.max", options.model.string()));
    ProgressLine progress(options.quiet);
    const ToleranceRuns how{.runs = options.runs,
                            .seed = options.seed,
                            .budget = parse_quantity(options.budget, kinds::time),
                            .linear = options.linear,
                            .studies = options.studies,
                            .progress = design_progress(progress)};
    const ToleranceFindings found = find_chances(spread, model_at, how);
    progress.close();
    if (options.json) {
        say("{}", to_json(found));
    } else {
        say("{}\n{}", file.base().title, to_text(found, file.base().units));
    }
    return done;
}

}  // namespace firnfield::command
