// Studies in time by the method that they ask for: with the whole network, or with its modes.

#include <firnfield/error.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/transient.hpp>

#include "reduce/reduced_run.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

TransientSolution reduced_transient(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::vector<double>& start,
                                    const TransientOptions& options) {
    ReducedRun run(model, std::move(mesh), study, start, options, 0.0, study.lasts);
    run.compare(false);
    run.begin();
    return run_transient(run, study, options);
}

/// What is left of every mode after a period, and what the state has to be to return.
void correct(const Modes& modes, double period, const Amplitudes& begin, const Amplitudes& end, Amplitudes& state) {
    for (std::size_t k = 0; k < modes.size(); ++k) {
        const double left = -std::expm1(-modes.rate()[k] * period);
        if (left > 0.0) state[k] += (end[k] - begin[k]) / left;
    }
}

/// Cycles until what the start differs by has faded to a hundredth of the rise, at one node and phase.
std::optional<double> cycles_to_settle(const ReducedNetwork& reduced, double period, Amplitudes deviation, std::size_t node, double phase, double rise) {
    const double close = 0.01 * std::abs(rise);
    const Modes& modes = reduced.modes.fine;
    const auto left = [&] { return std::abs(reduced.basis->at(node, modes.coordinates(deviation))); };
    const auto fade = [&](double time) {
        for (std::size_t k = 0; k < deviation.size(); ++k) deviation[k] *= std::exp(-modes.rate()[k] * time);
    };
    if (left() <= close) return 0.0;
    fade(phase);
    constexpr int most = 100'000;
    for (int n = 1; n <= most; ++n) {
        if (left() <= close) return n;
        fade(period);
    }
    return std::nullopt;
}

TransientSolution reduced_cycle(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::vector<double>& start,
                                const TransientOptions& options) {
    const double period = study.period ? *study.period : period_of(model, study).value();
    const double phase = settled_phase(model, study, period);
    ReducedRun run(model, std::move(mesh), study, start, options, phase, period);
    TransientSolution out;
    out.period = period;
    const ReducedNetwork& reduced = run.reduced();
    Nested<Amplitudes> state = reduced.start;
    constexpr int most = 30;
    double distance = 0.0;
    while (true) {
        run.begin(state);
        run.advance(phase + period, options, [](const TimeStep&) { return true; });
        ++out.cycles_computed;
        const Nested<Amplitudes> before = state;
        correct(reduced.modes.fine, period, before.fine, run.state().fine, state.fine);
        correct(reduced.modes.coarse, period, before.coarse, run.state().coarse, state.coarse);
        Amplitudes moved = state.fine;
        for (std::size_t k = 0; k < moved.size(); ++k) moved[k] -= before.fine[k];
        // Where nothing bends one correction is all there is.
        distance = !run.is_linear() ? largest_rise(*reduced.basis, {reduced.modes.fine.coordinates(moved)}) : 0.0;
        if (distance <= 0.1 * study.tolerance) break;
        if (out.cycles_computed == most) {
            throw ComputationError(fmt::format("the cycle of {} did not settle: after {} cycles temperatures still move by {:.2g} K",
                                               show_quantity(period, kinds::time), most, distance));
        }
    }
    run.begin(state);
    run.try_out(phase + period, options);
    run.compare(false);
    run.begin(state);
    double hottest = -1e300, hottest_at = 0.0;
    std::size_t hottest_node = 0;
    run.advance(phase + period, options, [&](const TimeStep& step) {
        const std::vector<double> rise = step.rises(step.end);
        const auto here = std::max_element(rise.begin(), rise.end());
        if (*here > hottest) {
            hottest = *here;
            hottest_node = static_cast<std::size_t>(here - rise.begin());
            hottest_at = step.end;
        }
        return !options.observe || options.observe(step);
    });
    Amplitudes deviation = reduced.start.fine;
    for (std::size_t k = 0; k < deviation.size(); ++k) deviation[k] -= state.fine[k];
    out.cycles_to_settle = cycles_to_settle(reduced, period, std::move(deviation), hottest_node, hottest_at,
                                            hottest - reduced.basis->at(hottest_node, reduced.modes.fine.coordinates(reduced.start.fine)));
    out.settled_within = distance;
    run.finish(out, options.time_constant);
    out.stopped = fmt::format("the cycle repeats within {:.2g} K", distance);
    return out;
}

}  // namespace

TransientSolution solve_in_time(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::vector<double>& start,
                                const TransientOptions& options) {
    const bool cyclic = study.kind == StudyKind::cyclic;
    if (study.method == TimeMethod::full)
        return cyclic ? solve_cyclic(model, std::move(mesh), study, start, options) : solve_transient(model, std::move(mesh), study, start, options);
    if (options.resume) throw Error("a reduced model marches in seconds and does not go on from where a run was put aside: begin anew");
    TransientSolution out =
        cyclic ? reduced_cycle(model, std::move(mesh), study, start, options) : reduced_transient(model, std::move(mesh), study, start, options);
    if (options.errors) out.no_errors = "a reduced model does not tell that";
    return out;
}

}  // namespace firnfield
