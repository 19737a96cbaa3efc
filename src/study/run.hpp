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
#include <vector>

namespace firnfield {

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
    [[nodiscard]] std::optional<double> remaining_change() const { return remaining_; }
    [[nodiscard]] std::optional<double> steady_time(double within) const;

    void finish(TransientSolution& out, bool time_constant);

    [[nodiscard]] Integrator& integrator() { return integrator_; }
    [[nodiscard]] const Network& network() const { return network_; }
    [[nodiscard]] const std::vector<bool>& on() const { return thermostats_.on(); }
    [[nodiscard]] TimeStep& last() { return last_; }
    /// What the mesh makes wrong; null where that is not asked for.
    [[nodiscard]] MeshErrorMarch* errors() { return errors_ ? &*errors_ : nullptr; }

private:
    [[nodiscard]] double reference_of(const std::vector<double>& start) const;
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
    std::optional<double> remaining_, remaining_before_;
};

/// When the change that remains passed a bound within a step: it fades about exponentially. K before and after the step.
[[nodiscard]] std::optional<double> time_of_fading(const TimeStep& step, std::optional<double> before, std::optional<double> after, double within);

/// When the cycle that is looked at begins, s: profiles may begin with a delay, and what counts is what repeats after it.
[[nodiscard]] double settled_phase(const Model& model, const Study& study, double period);

/// The field of a moment: `rise` above `reference`, in a network as it is then.
[[nodiscard]] SteadySolution moment(std::shared_ptr<const Mesh> mesh, const Network& network, const ContactReader& contacts, const Study& study,
                                    double reference, std::vector<double> rise);

}  // namespace firnfield
