// A study in time from its start to its findings, and the explanation of its worst moment.

#include <firnfield/history.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/refine.hpp>

#include "base/words.hpp"
#include "findings/beginning.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace firnfield {
namespace {

TransientSolution solve_from(const Model& model, const std::shared_ptr<const Mesh>& mesh, const Study& study, Beginning start, TransientOptions options) {
    options.start_errors = std::move(start.errors);
    return solve_in_time(model, mesh, study, start.temperature, options);
}

}  // namespace

TimeFindings solve_over_time(const Model& model, const Study& study, std::shared_ptr<const Mesh> mesh, const ProgressCallback& progress, bool errors) {
    if (!mesh) mesh = std::make_shared<const Mesh>(build_mesh(meshed_for(model, study)));
    const auto network = std::make_shared<const Network>(build_network(model, *mesh, study));
    HistoryRecorder recorder(model, mesh, study, network);
    TransientOptions options{.network = network, .errors = errors};
    options.observe = [&](const TimeStep& step) { return recorder(step); };
    options.progress = progress;
    return recorder.findings(solve_from(model, mesh, study, start_of(model, mesh, study, errors), options));
}

Explanation solve_and_explain(const Model& model, const Study& study, ExplainOptions what) {
    const bool named = !what.part.empty() || !what.sensor.empty(), refines = what.errors && model.mesh.refine && !model.parts.empty();
    if (study.kind == StudyKind::steady) {
        const Model meshed = meshed_for(model, study);
        const SteadyOptions steady{.progress = what.progress};
        RefinedSolution solved;
        if (refines) {
            solved = solve_refined(model, study, {.steady = steady});
        } else {
            solved.solution = solve_steady(model, std::make_shared<const Mesh>(build_mesh(meshed)), study, steady);
            if (!named) solved.findings = firnfield::findings(model, solved.solution, {.errors = what.errors, .progress = what.progress});
        }
        if (!named) {
            what = tightest(solved.findings);
            what.progress = steady.progress;
        }
        return explain(model, solved.solution, what);
    }
    const std::vector<LayerSize> layers = refines ? refined_layers(model, {.steady = {.progress = what.progress}}) : model.mesh.layers;
    const auto mesh = std::make_shared<const Mesh>(build_mesh(with_layers(meshed_for(model, study), layers)));
    const auto network = std::make_shared<const Network>(build_network(model, *mesh, study));
    HistoryRecorder recorder(model, mesh, study, network);
    PeakCatcher peak(recorder, what);
    TransientOptions options{.network = network, .errors = what.errors};
    options.progress = what.progress;
    options.time_constant = false;
    options.observe = [&](const TimeStep& step) {
        const bool go_on = recorder(step);
        peak.see(step);
        return go_on;
    };
    static_cast<void>(solve_from(model, mesh, study, start_of(model, mesh, study, options.errors), options));
    Moments moments(model, mesh, study, network);
    const std::optional<SteadySolution> at = peak.solution(moments);
    if (!at) {
        std::vector<std::string> names;
        for (const Part& part : model.parts) names.push_back(part.name);
        for (const Sensor& sensor : sensors_of(model)) names.push_back(sensor.name);
        throw ModelError("part",
                         fmt::format("a transient or cyclic study is explained for a part with all its copies, or a sensor; {} is neither: there are {}",
                                     in_quotes(named ? what.part + what.sensor : "nothing"), quoted_list(names, 20)));
    }
    return explain(model, *at, peak.what());
}

void PeakCatcher::see(const TimeStep& step) {
    const std::optional<WorstMoment> worst = recorder_.worst(what_);
    if (!worst || (worst_ && worst->margin >= worst_->margin) || worst->time < step.begin) return;
    worst_ = worst;
    reference_ = step.reference;
    rise_ = step.keep(std::min(worst->time, step.end));
    on_ = step.on;
}

std::optional<SteadySolution> PeakCatcher::solution(Moments& moments) const {
    if (!worst_ || recorder_.worst(what_)->time != worst_->time) return std::nullopt;
    return moments.at(worst_->time, reference_, rise_(), on_);
}

}  // namespace firnfield
