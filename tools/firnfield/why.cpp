// `firnfield why`: why a place is as hot as it is.

#include "commands.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace firnfield::command {

int why(const WhyOptions& options) {
    if (!options.part.empty() && !options.sensor.empty()) throw Error("name a part or a sensor, not both");
    const ModelFile file = read_to_tell(options.model, options.units);
    const Model model = file.model(file.design(options.variant), changes_of(options.set, options.as_meshed));
    const std::vector<Study> studies = studies_of(model);
    if (!options.study.empty()) require_studies(model, {options.study});
    const Study& study =
        options.study.empty() ? studies.front() : *std::find_if(studies.begin(), studies.end(), [&](const Study& s) { return s.name == options.study; });

    ProgressLine progress(options.quiet);
    ExplainOptions what{.part = options.part, .sensor = options.sensor, .coldest = options.coldest, .progress = of_study(progress.callback(), study.name)};
    const Explanation found = solve_and_explain(model, study, what);
    progress.close();
    if (!options.chart.empty()) draw_explanation(std::filesystem::path(options.chart).replace_extension(), found, model.units);
    if (options.json) {
        say("{}", to_json(found));
    } else {
        say("{}\nStudy \"{}\"\n\n{}", model.title, study.name, to_text(found, model.units));
        if (!options.chart.empty()) say("\nChart in {0}.png and {0}.svg\n", std::filesystem::path(options.chart).replace_extension().string());
    }
    return done;
}

}  // namespace firnfield::command
