// Figures that are asked of results after they were made.

#include <firnfield/compare.hpp>
#include <firnfield/probe.hpp>

#include "base/words.hpp"
#include "findings/figures.hpp"
#include "report/kept_results.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace firnfield {

void add_figures(const std::filesystem::path& folder, StudyOutcome& study, const std::vector<std::string>& figures) {
    std::vector<std::string> missing = figures;
    std::erase_if(missing, [&](const std::string& name) { return find_figure(study.figures, FigureKind::figure, name) != nullptr; });
    if (missing.empty()) return;
    const KeptResults kept(folder, study.study, [&](Model& model) {
        for (const std::string& figure : missing) ask_for(model, figure);
    });
    if (kept.study().kind != StudyKind::steady)
        throw Error(
            fmt::format("{}: its study {} in time does not tell {}, and only steady studies can be asked afterwards; choose others by --study, or give the "
                        "model a [[figure]] and solve it again",
                        folder.string(), in_quotes(study.study), in_quotes(missing.front())));
    SteadySolution solution = kept.record(0);
    solution.time.reset();  // settled, and no moment of a run
    const Findings found = findings(kept.model(), solution);
    for (const std::string& name : missing) {
        const Figure* figure = find_figure(found.figures, FigureKind::figure, name);
        if (figure == nullptr) {
            const auto why = std::find_if(found.warnings.begin(), found.warnings.end(), [&](const Warning& w) {
                return w.kind == "figure_not_told" && w.message.find(in_quotes(name)) != std::string::npos;
            });
            throw Error(fmt::format("{}: {}", folder.string(),
                                    why == found.warnings.end() ? fmt::format("figure {} is not defined for what was found", in_quotes(name)) : why->message));
        }
        study.figures.push_back(*figure);
    }
}

}  // namespace firnfield
