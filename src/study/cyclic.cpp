// The settled cycle of a periodic load, found by correcting what a cycle changes instead of marching until nothing changes any more.

#include <firnfield/error.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/transient.hpp>

#include "study/run.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

double largest(const std::vector<double>& v) {
    double most = 0.0;
    for (const double x : v) most = std::max(most, std::abs(x));
    return most;
}

/// Cycles from a deviation until it has faded to a hundredth of the rise at the place and phase that is hottest in the settled cycle.
/// The deviation fades as the linearised network without loads does, whatever the cycle.
class Fading {
public:
    Fading(TimeRun& run, double period) : run_(run), period_(period) {}

    /// `rise`: of the peak above the start, K.
    std::optional<double> cycles(std::vector<double> deviation, std::size_t node, double phase, double rise) const {
        // A-stable and exact enough: each cycle in two steps of a method that damps what is fast, longer ones as it goes on.
        const double close = 0.01 * std::abs(rise);
        double time = 0.0, step = 0.25 * period_, last = std::abs(deviation[node]);
        if (last <= close) return 0.0;
        constexpr int most = 400;
        for (int n = 0; n < most; ++n) {
            advance(deviation, step);
            time += step;
            const double left = std::abs(deviation[node]);
            if (left <= close) {
                const double passed = time - step + step * std::log(last / close) / std::log(last / std::max(left, 1e-12 * close));
                return std::max(1.0, std::ceil((passed - phase) / period_ - 1e-9) + 1.0);
            }
            last = left;
            if (n % 8 == 7) step *= 2.0;
        }
        return std::nullopt;
    }

private:
    /// Singly diagonally implicit with two stages, L-stable and of order 2 (R. Alexander, SIAM J. Numer. Anal. 14 (1977) 1006).
    void advance(std::vector<double>& x, double step) const {
        const double g = 1.0 - std::sqrt(0.5), shift = 1.0 / (g * step);
        // (C + g h K) y = C z, that is (K + shift C) y = shift C z.
        const auto implicit = [&](std::vector<double> z) {
            for (double& value : z) value *= shift;
            return run_.integrator().relax(shift, run_.integrator().heat_of(z), 1e-4);
        };
        const std::vector<double> first = implicit(x);
        std::vector<double> base = x;
        for (std::size_t i = 0; i < x.size(); ++i) base[i] += (1.0 - g) / g * (first[i] - x[i]);
        x = implicit(std::move(base));
    }

    TimeRun& run_;
    double period_;
};

/// What a change over a cycle, as it is when it is met, still leads to until the cycle repeats.
class Corrector {
public:
    Corrector(Integrator& integrator, double period) : integrator_(integrator), period_(period) {}

    /// `d`: change over a cycle, K per node.
    std::vector<double> of(std::vector<double> d, double tolerance) const {
        const std::vector<double> heat = integrator_.heat_of(d);
        const std::vector<double> slow = integrator_.relax(0.0, heat, tolerance), fast = integrator_.relax(4.0 / period_, heat, tolerance);
        for (std::size_t i = 0; i < d.size(); ++i) d[i] += (slow[i] - 2.0 * fast[i]) / period_;
        return d;
    }

private:
    Integrator& integrator_;
    double period_;
};

/// Takes what the mesh makes wrong to where it repeats, as the temperatures.
void settle(NodeErrors& at_begin, MeshErrorMarch& march, const Corrector& corrector) {
    constexpr double tolerance = 1e-3;  // the estimate is not as good
    for (std::size_t round = 0; round < at_begin.size(); ++round) {
        std::vector<double> change = march.content()[round];
        for (std::size_t i = 0; i < change.size(); ++i) change[i] -= at_begin[round][i];
        const std::vector<double> correction = corrector.of(std::move(change), tolerance);
        for (std::size_t i = 0; i < correction.size(); ++i) at_begin[round][i] += correction[i];
    }
    march.go_on_from(at_begin);
}

}  // namespace

double settled_phase(const Model& model, const Study& study, double period) {
    double delay = 0.0;
    for (const Profile* profile : profiles_in(model, study)) {
        if (profile->duty) delay = std::max(delay, profile->duty->delay);
        if (!profile->points.empty()) delay = std::max(delay, profile->points.at.front());
    }
    return period * std::ceil(delay / period - 1e-9);
}

TransientSolution solve_cyclic(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::vector<double>& start,
                               const TransientOptions& options) {
    const double period = study.period ? *study.period : period_of(model, study).value();
    const double phase = settled_phase(model, study, period);
    TimeRun run(model, std::move(mesh), study, start, options);
    TransientSolution out;
    out.period = period;
    std::vector<double> rise = run.integrator().rise();
    const std::vector<double> first = rise;
    constexpr int most = 30;
    TransientOptions quiet;
    quiet.progress = options.progress;
    double distance = 0.0, last = 0.0;
    const Corrector corrector(run.integrator(), period);
    NodeErrors errors = run.errors() != nullptr ? run.errors()->content() : NodeErrors{};
    while (true) {
        run.restore(rise);
        run.begin(phase);
        run.advance(phase + period, quiet, [](const TimeStep&) { return true; });
        ++out.cycles_computed;
        std::vector<double> d = run.integrator().rise();
        for (std::size_t i = 0; i < d.size(); ++i) d[i] -= rise[i];
        run.integrator().relinearise();
        const std::vector<double> correction = corrector.of(d, 1e-5);
        const double moved = largest(correction);
        for (std::size_t i = 0; i < rise.size(); ++i) rise[i] += correction[i];
        // The next correction would be smaller by about as much as this one is than the last.
        distance = out.cycles_computed == 1 ? moved : moved * std::min(1.0, moved / last);
        last = moved;
        if (run.errors() != nullptr) settle(errors, *run.errors(), corrector);
        if (distance <= 0.1 * study.tolerance) break;
        if (out.cycles_computed == most) {
            throw ComputationError(fmt::format("the cycle of {} did not settle: after {} cycles temperatures still move by {:.2g} K",
                                               show_quantity(period, kinds::time), most, distance));
        }
    }
    out.settled_within = distance;
    // The settled cycle itself, for those who watch, with times from its beginning.
    run.restore(rise);
    run.begin(phase);
    double hottest = -1e300, hottest_at = 0.0;
    std::size_t hottest_node = 0;
    run.advance(phase + period, quiet, [&](const TimeStep& step) {
        for (std::size_t i = 0; i < step.rise_end.size(); ++i) {
            if (step.rise_end[i] > hottest) {
                hottest = step.rise_end[i];
                hottest_node = i;
                hottest_at = step.end;
            }
        }
        return !options.observe || options.observe(step);
    });
    std::vector<double> deviation = rise;
    for (std::size_t i = 0; i < rise.size(); ++i) deviation[i] = first[i] - rise[i];
    run.finish(out, options.time_constant);
    out.cycles_to_settle = Fading(run, period).cycles(std::move(deviation), hottest_node, hottest_at, hottest - first[hottest_node]);
    out.stopped = fmt::format("the cycle repeats within {:.2g} K", distance);
    return out;
}

SteadySolution run_on(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const KeptMoment& from, double to) {
    double phase = 0.0;
    if (study.kind == StudyKind::cyclic) {
        const double period = study.period ? *study.period : period_of(model, study).value();
        phase = settled_phase(model, study, period);
    }
    std::vector<double> start = from.rise;
    for (double& t : start) t += from.reference;
    TimeRun run(model, std::move(mesh), study, start);
    run.begin(phase + from.time, from.on);
    run.advance(phase + to, {}, [](const TimeStep&) { return true; });
    TransientSolution out;
    run.finish(out, false);
    out.end.time = to;
    return std::move(out.end);
}

}  // namespace firnfield
