/// One run through time: steps, edges, thermostats, the ledger. Transient and cyclic studies are made of it.
#pragma once

#include <firnfield/transient.hpp>

#include "network/drive.hpp"
#include "study/integrator.hpp"
#include "study/mesh_error_march.hpp"
#include "study/thermostats.hpp"

#include <chrono>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <vector>

namespace firnfield {

/// What temperatures would still move by if nothing changed any more, from step to step.
class RemainingChange {
public:
    /// At the end of a step, where temperatures are `rise` and would move by `change` (K per node); fills TimeStep::projected.
    void take(TimeStep& step, const std::vector<double>& rise, std::span<const double> change);
    void forget() { now_ = before_ = std::nullopt; }
    void resume(std::optional<double> now) { now_ = now; }
    /// The largest, K.
    [[nodiscard]] std::optional<double> now() const { return now_; }
    /// When it passed a bound within the last step: it fades about exponentially.
    [[nodiscard]] std::optional<double> time_within(double bound, const TimeStep& step) const;

private:
    std::optional<double> now_, before_;
};

/// Temperatures count from here, so that they have more digits.
[[nodiscard]] double reference_of(const Network& network, const std::vector<double>& start);
/// One step more, of this length.
void count_step(TransientSummary& summary, double length);
[[nodiscard]] inline double seconds_since(std::chrono::steady_clock::time_point start) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

class TimeRun {
public:
    TimeRun(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::vector<double>& start, const TransientOptions& options = {});
    TimeRun(const TimeRun&) = delete;
    TimeRun& operator=(const TimeRun&) = delete;

    /// Sets clock, loads and thermostats to a time, with the temperatures as they are. `on`: of every thermostat, where that is known.
    void begin(double time, const std::vector<bool>& on = {});
    void resume(const TransientState& state);
    /// Other temperatures at the same time.
    void restore(std::vector<double> rise);

    /// Steps on to a time; `after` sees every step and may end the run by returning false.
    void advance(double to, const TransientOptions& options, const std::function<bool(const TimeStep&)>& after);

    /// Fills TimeStep::projected of the last step and the remaining change; false where there is nothing to tend to.
    bool project();
    [[nodiscard]] bool settles() const;
    [[nodiscard]] const RemainingChange& remaining() const { return remaining_; }

    void finish(TransientSolution& out, bool time_constant);

    [[nodiscard]] Integrator& integrator() { return integrator_; }
    [[nodiscard]] const Network& network() const { return network_; }
    [[nodiscard]] const std::vector<bool>& on() const { return thermostats_.on(); }
    [[nodiscard]] TimeStep& last() { return last_; }
    /// What the mesh makes wrong; null where that is not asked for.
    [[nodiscard]] MeshErrorMarch* errors() { return errors_ ? &*errors_ : nullptr; }

private:
    void set_limits();
    void restart(double remaining);
    bool step_towards(double edge);
    void fill(double begin, double end);
    void book();
    void throw_switch(const Switching& switching);
    void march_errors(bool anew);
    [[nodiscard]] TransientState state() const;
    [[nodiscard]] TransientSummary summary() const;

    std::shared_ptr<const Mesh> mesh_;
    const Study& study_;
    std::chrono::steady_clock::time_point clock_;
    Network network_;
    Drive drive_;
    Thermostats thermostats_;
    double reference_;
    Integrator integrator_;
    std::optional<MeshErrorMarch> errors_;
    std::string no_errors_;  // why not, where they were asked for

    double origin_ = 0.0;                  // s, told times count from here
    double length_ = 0.0, longest_ = 0.0;  // s, of the next step; of any
    bool resumed_ = false;
    TimeStep last_;
    std::vector<double> rise_begin_, rate_begin_, rate_end_, content_begin_, content_end_;  // of the last step
    std::vector<Switching> switchings_;
    TimeLedger ledger_;
    TransientSummary counts_;
    double network_seconds_ = 0.0;
    RemainingChange remaining_;
};

/// Takes a run that has begun to where a transient study ends, and tells how it ended.
template <typename Run>
TransientSolution run_transient(Run& run, const Study& study, const TransientOptions& options) {
    TransientSolution out;
    out.stopped = "the time is over";
    const bool watches = study.stop_when != StopWhen::never;
    run.advance(study.lasts, options, [&](const TimeStep& step) {
        const bool projected = watches && run.project();
        if (options.observe && !options.observe(step)) {
            out.stopped = study.stop_when == StopWhen::milestones_passed ? "all milestones are passed" : "all limits are decided";
            return false;
        }
        if (study.stop_when == StopWhen::steady && projected && *run.remaining().now() <= study.steady_within) {
            out.stopped = "steady";
            return false;
        }
        return true;
    });
    if (!watches) run.project();
    out.remaining_change = run.remaining().now();
    if (watches) out.steady_time = run.remaining().time_within(study.steady_within, run.last());
    run.finish(out, options.time_constant);
    return out;
}

/// When the cycle that is looked at begins, s: profiles may begin with a delay, and what counts is what repeats after it.
[[nodiscard]] double settled_phase(const Model& model, const Study& study, double period);

/// The field of a moment: `rise` above `reference`, in a network as it is then.
[[nodiscard]] SteadySolution moment(std::shared_ptr<const Mesh> mesh, const Network& network, const ContactReader& contacts, const Study& study,
                                    double reference, std::vector<double> rise);

}  // namespace firnfield
