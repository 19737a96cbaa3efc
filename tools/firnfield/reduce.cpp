// `firnfield reduce`: a study as a few linear equations for other programs.

#include "commands.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <numeric>

namespace firnfield::command {
namespace {

/// As many curves as can be told apart, those that end highest.
Curves strongest(Curves all) {
    constexpr std::size_t most = 10;
    if (all.names.size() <= most || all.x.empty()) return all;
    std::vector<std::size_t> order(all.names.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return all.y[a].back() > all.y[b].back(); });
    Curves out = all;
    out.title += fmt::format(" (the strongest {} of {})", most, order.size());
    out.names.clear();
    out.units.clear();
    out.y.clear();
    for (std::size_t i = 0; i < most; ++i) {
        out.names.push_back(all.names[order[i]]);
        out.units.push_back(all.units[order[i]]);
        out.y.push_back(std::move(all.y[order[i]]));
    }
    return out;
}

}  // namespace

int reduce(const ReduceOptions& options) {
    const ModelFile file = read_to_tell(options.model, options.units);
    const Model model = file.model(file.design(options.variant), changes_of(options.set));
    if (!options.study.empty()) require_studies(model, {options.study});
    const std::vector<Study> studies = studies_of(model);
    const auto study = std::find_if(studies.begin(), studies.end(),
                                    [&](const Study& s) { return options.study.empty() ? s.kind != StudyKind::steady : s.name == options.study; });
    if (study == studies.end()) throw Error(fmt::format("{} has no study in time, whose length would say what rates matter", options.model.string()));
    std::filesystem::path folder = options.out;
    if (folder.empty()) folder = options.model.parent_path() / (options.model.stem().string() + ".reduced");
    ProgressLine progress(options.quiet);
    const StateSpace system = reduce_study(model, *study, {}, progress.callback());
    progress.close();
    write_state_space(folder, system);
    if (const Curves curves = strongest(step_responses(system)); charts_possible() && !curves.x.empty()) draw_curves(folder / "responses", curves);
    say("{}\n{}\nEquations, netlist and step responses in {}\n", model.title, to_text(system, model.units), folder.string());
    return done;
}

}  // namespace firnfield::command
