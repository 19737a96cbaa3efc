// A run from step to step: step lengths, edges of profiles, thermostats, ends, checkpoints.

#include <firnfield/error.hpp>
#include <firnfield/quantity.hpp>

#include "network/paths.hpp"
#include "network/whole_parts.hpp"
#include "study/read_surfaces.hpp"
#include "study/run.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <new>

namespace firnfield {
namespace {

/// The longest of 2^(n/2) s that is not above `length`: few different steps, so that few matrices are made ready.
double rung_below(double length) { return std::exp2(0.5 * std::floor(2.0 * std::log2(length) + 1e-9)); }

}  // namespace

double TimeStep::rise(Index node, double time) const {
    if (course != nullptr) return course->rise(node, time);
    // Heat content goes smoothly through a change of phase, where temperature does not.
    const bool varies = !content_begin.empty();
    const double from = varies ? content_begin[node] : rise_begin[node], to = varies ? content_end[node] : rise_end[node];
    const double h = end - begin, x = (time - begin) / h, y = 1.0 - x, change = to - from;
    double first = h * rate_begin[node], last = h * rate_end[node];
    if (steep) {
        // So long a step that rates tell nothing about all of it. Slopes of up to three times the mean one keep a cubic between its ends:
        // F. N. Fritsch and R. E. Carlson, SIAM J. Numer. Anal. 17 (1980) 238.
        first = change > 0.0 ? std::clamp(first, 0.0, 3.0 * change) : std::clamp(first, 3.0 * change, 0.0);
        last = change > 0.0 ? std::clamp(last, 0.0, 3.0 * change) : std::clamp(last, 3.0 * change, 0.0);
    }
    const double value = y * y * (1.0 + 2.0 * x) * from + x * x * (1.0 + 2.0 * y) * to + x * y * (y * first - x * last);
    return varies ? rise_of_content(*driven, reference, node, value) : value;
}

std::vector<double> TimeStep::rises(double time) const {
    if (course != nullptr) return course->rises(time);
    std::vector<double> out(rise_begin.size());
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = rise(static_cast<Index>(i), time);
    return out;
}

std::function<std::vector<double>()> TimeStep::keep(double time) const {
    if (course != nullptr) return course->keep(time);
    return [kept = rises(time)] { return kept; };
}

const Network& TimeStep::network(double time) const {
    // Just inside, so that a jump at the end is not seen yet.
    const double margin = 1e-7 * (end - begin);
    drive->set(clock + std::clamp(time, begin + margin, end - margin), on);
    return *driven;
}

std::string TransientSummary::text() const {
    return fmt::format("{} steps of {} to {} ({} repeated), {} solves with {} linear iterations, {} factorisation{} or hierarch{}", steps,
                       show_quantity(smallest_step, kinds::time), show_quantity(largest_step, kinds::time), rejected, solves, linear_iterations, factorisations,
                       factorisations == 1 ? "" : "s", factorisations == 1 ? "y" : "ies");
}

TimeRun::TimeRun(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::vector<double>& start, const TransientOptions& options)
    : mesh_(std::move(mesh)),
      study_(study),
      clock_(std::chrono::steady_clock::now()),
      network_(options.network ? *options.network : build_network(model, *mesh_, study)),
      drive_(model, study, network_),
      thermostats_(model, *mesh_, network_, study),
      reference_(reference_of(network_, start)),
      integrator_(
          network_, reference_, study.tolerance, [this](double time) { drive_.set(time, thermostats_.on()); },
          [this] { return drive_.coefficient_changes(); }) {
    std::vector<double> rise = start;
    for (double& t : rise) t -= reference_;
    start_held(network_, reference_, rise);
    integrator_.start(0.0, std::move(rise));
    if (options.errors && mesh_->cells.size() > 0) {
        errors_.emplace(model, *mesh_, network_, thermostats_.contacts());
        if (!options.start_errors[0].empty()) errors_->go_on_from(options.start_errors);
    }
    network_seconds_ = seconds_since(clock_);
}

double reference_of(const Network& network, const std::vector<double>& start) {
    if (network.lowest_known <= network.highest_known) return 0.5 * (network.lowest_known + network.highest_known);
    double sum = 0.0;
    for (const double t : start) sum += t;
    return sum / static_cast<double>(start.size());
}

void count_step(TransientSummary& summary, double length) {
    ++summary.steps;
    summary.smallest_step = summary.steps == 1 ? length : std::min(summary.smallest_step, length);
    summary.largest_step = std::max(summary.largest_step, length);
}

void TimeRun::set_limits() { longest_ = std::min(study_.longest_step.value_or(std::numeric_limits<double>::infinity()), drive_.longest_step()); }

void TimeRun::begin(double time, const std::vector<bool>& on) {
    origin_ = time;
    ledger_ = {};
    std::vector<double> rise = integrator_.rise();
    integrator_.move_to(time, std::move(rise));
    drive_.set(time, thermostats_.on());
    thermostats_.begin(network_, NodeTemperatures{reference_, integrator_.rise()});
    if (on.size() == thermostats_.on().size()) thermostats_.resume(on, thermostats_.since());
    set_limits();
}

/// After a jump the first step is so short that what jumped changes temperatures by about the tolerance.
void TimeRun::restart(double remaining) {
    const double jump = integrator_.restart();
    double first = jump > 0.0 ? study_.tolerance / jump : std::numeric_limits<double>::infinity();
    if (length_ > 0.0) first = std::min(first, length_);
    length_ = std::min({first, longest_, remaining});
    if (!(length_ > 0.0) || std::isinf(length_)) length_ = remaining;
}

void TimeRun::advance(double to, const TransientOptions& options, const std::function<bool(const TimeStep&)>& after) {
    bool fresh = !resumed_, anew = true;  // what the mesh makes wrong is looked at anew where something jumped, and after a checkpoint
    resumed_ = false;
    while (integrator_.time() < to * (1.0 - 1e-14)) {
        const double now = integrator_.time();
        const double edge = std::min(drive_.next_edge(now), to);
        if (fresh) restart(edge - now);
        fresh = step_towards(edge);
        if (errors_) march_errors(anew);
        thermostats_.take_errors(errors(), last_);
        anew = fresh;
        if (!after(last_)) return;
        announce(options.progress,
                 {.stage = "marching", .time = integrator_.time() - origin_, .end = to - origin_, .step = last_.end - last_.begin, .steps = counts_.steps});
        if (options.checkpoint && counts_.steps % std::max(options.checkpoint_steps, 1LL) == 0 && integrator_.time() < to) {
            if (fresh) restart(std::min(drive_.next_edge(integrator_.time()), to) - integrator_.time());
            fresh = false;
            integrator_.forget();
            anew = true;
            options.checkpoint(state());
        }
    }
}

/// One accepted step; true when something jumps at its end.
bool TimeRun::step_towards(double edge) {
    rise_begin_ = integrator_.rise();
    rate_begin_ = integrator_.rate();
    const double begin = integrator_.time();
    double planned = study_.fixed_step ? *study_.fixed_step : std::min(rung_below(length_), longest_);
    double end = begin;
    std::vector<Switching> switchings;
    while (true) {
        double length = planned;
        const double remaining = edge - begin;
        const bool reaches = length >= remaining * (1.0 - 1e-9);
        if (reaches) {
            length = remaining;
        } else if (length > 0.5 * remaining && !study_.fixed_step) {
            length = 0.5 * remaining;  // two equal steps rather than a long and a tiny one
        }
        if (length <= 1e-13 * std::max(begin, 1e-9)) {
            throw ComputationError(fmt::format("the time step fell to {} at {}; the temperatures there do not settle", show_quantity(length, kinds::time),
                                               show_quantity(begin, kinds::time)));
        }
        const double error = integrator_.attempt(length);
        const bool accepted = study_.fixed_step ? !std::isinf(error) : error <= 1.0;
        if (!accepted) {
            ++counts_.rejected;
            if (study_.fixed_step)
                throw ComputationError(
                    fmt::format("the equations of a step did not settle at {}; take a shorter fixed_step", show_quantity(begin, kinds::time)));
            const double factor = std::isinf(error) ? 0.1 : std::clamp(0.85 * std::pow(error, -0.25), 0.1, 0.7);
            planned = rung_below(length * factor);
            continue;
        }
        end = reaches ? edge : begin + length;
        fill(begin, end);
        switchings = thermostats_.first_in(last_);
        const bool within = !switchings.empty() && switchings.front().time < end;
        if (within && switchings.front().time > begin * (1.0 + 1e-14) + 1e-12 * length) {
            // The step is taken anew to the moment of switching, so that the state there is as exact as any other.
            if (std::isinf(integrator_.attempt(switchings.front().time - begin)))
                throw ComputationError("the equations of a step did not settle before a thermostat switched");
            end = switchings.front().time;
            fill(begin, end);
        } else if (within) {
            // At once: the step is taken anew with the switches thrown.
            for (const Switching& s : switchings) throw_switch({begin, s.thermostat, s.on});
            restart(remaining);
            rate_begin_ = integrator_.rate();
            planned = study_.fixed_step ? planned : std::min(rung_below(length_), longest_);
            continue;
        }
        if (!study_.fixed_step) {
            // A step that an edge cut short says nothing against the length that was planned.
            const double next = length * std::clamp(error > 0.0 ? 0.85 * std::pow(error, -0.25) : 6.0, 0.2, 6.0);
            length_ = length < planned ? std::max(next, planned) : next;
        }
        break;
    }
    const bool at_edge = end >= edge * (1.0 - 1e-14);
    last_.jump_at_end = at_edge || !switchings.empty();
    book();
    integrator_.accept(end);
    for (const Switching& s : switchings) throw_switch(s);
    return last_.jump_at_end;
}

/// What the mesh makes wrong over the step that was taken last. Where that cannot be worked out the run goes on without.
void TimeRun::march_errors(bool anew) {
    try {
        if (anew) {
            static_cast<void>(last_.network(last_.begin));
            errors_->look_at_beginning(integrator_, {reference_, rise_begin_});
        }
        static_cast<void>(last_.network(last_.end));
        errors_->advance(integrator_);
        last_.errors_begin = errors_->beginning();
        last_.errors_end = errors_->end();
    } catch (const ComputationError& error) {
        errors_.reset();
        no_errors_ = error.what();
    } catch (const std::bad_alloc&) {
        errors_.reset();
        no_errors_ = "not enough memory";
    }
}

void TimeRun::throw_switch(const Switching& switching) {
    thermostats_.apply(switching);
    switchings_.push_back(switching);
}

void TimeRun::fill(double begin, double end) {
    rate_end_ = integrator_.next_rate();
    last_ = {};
    last_.begin = begin - origin_;
    last_.end = end - origin_;
    last_.clock = origin_;
    last_.reference = reference_;
    last_.rise_begin = rise_begin_;
    last_.rise_end = integrator_.next_rise();
    last_.rate_begin = rate_begin_;
    last_.rate_end = rate_end_;
    if (!network_.heat_content.empty()) {
        content_begin_ = integrator_.content_begin();
        content_end_ = integrator_.content_end();
        last_.content_begin = content_begin_;
        last_.content_end = content_end_;
    }
    last_.on = thermostats_.on();
    last_.steep = study_.fixed_step.has_value();
    last_.drive = &drive_;
    last_.driven = &network_;
}

void TimeRun::book() {
    const double length = last_.end - last_.begin;
    ledger_.moved.add(mesh_->multiplicity, integrator_.moved());
    ledger_.stored += mesh_->multiplicity * integrator_.stored();
    ledger_.throughput += mesh_->multiplicity * (integrator_.moved().throughput() + integrator_.released());
    count_step(counts_, length);
}

TransientState TimeRun::state() const {
    return {.time = integrator_.time(),
            .next_length = length_,
            .reference = reference_,
            .rise = integrator_.rise(),
            .rate = integrator_.rate(),
            .errors = errors_ ? errors_->content() : NodeErrors{},
            .flows = integrator_.flows(),
            .on = thermostats_.on(),
            .since = thermostats_.since(),
            .drifts = thermostats_.drifts(),
            .switchings = switchings_,
            .ledger = ledger_,
            .summary = summary(),
            .remaining_change = remaining_.now()};
}

void TimeRun::resume(const TransientState& state) {
    set_limits();
    if (state.rise.size() != network_.nodes || state.rate.size() != network_.nodes)
        throw Error(
            fmt::format("the state to go on from has {} temperatures where this mesh has {}: it is of another mesh", state.rise.size(), network_.nodes));
    if (!errors_ && !state.errors[0].empty()) throw Error("the state to go on from was left by a run that worked out errors: go on with them");
    if (errors_ && state.errors[0].empty()) {
        errors_.reset();
        no_errors_ = "they were not known when the run was put aside";
    }
    if (errors_ && (state.errors[0].size() != network_.nodes || state.errors[1].size() != network_.nodes))
        throw Error("the errors in the state to go on from are not those of this mesh");
    if (errors_) errors_->go_on_from(state.errors);
    integrator_.resume(state.time, state.rise, state.rate, state.flows);
    thermostats_.resume(state.on, state.since, state.drifts);
    drive_.set(state.time, thermostats_.on());
    switchings_ = state.switchings;
    ledger_ = state.ledger;
    length_ = state.next_length;
    counts_ = state.summary;
    remaining_.resume(state.remaining_change);
    resumed_ = true;
}

TransientSummary TimeRun::summary() const {
    TransientSummary out = counts_;
    out.solves += integrator_.counts().solves;
    out.linear_iterations += integrator_.counts().linear_iterations;
    out.factorisations += integrator_.counts().factorisations;
    out.network_seconds += network_seconds_;
    out.solve_seconds += seconds_since(clock_) - network_seconds_;
    return out;
}

/// Where temperatures tend to if nothing changes any more. Nothing where loads go on changing or heat cannot get away.
bool TimeRun::project() {
    if (!settles()) return false;
    std::vector<double> change;
    try {
        change = integrator_.remaining_change();
    } catch (const ComputationError&) {
        return false;  // nothing leads to the surroundings yet: natural convection before there is a difference
    }
    remaining_.take(last_, integrator_.rise(), change);
    return true;
}

/// Also not where loads have changed at the end of the last step: its rates belong to what was before.
bool TimeRun::settles() const { return bodies_without_path(network_).empty() && !drive_.changes_after(origin_ + last_.begin) && !thermostats_.any(); }

void RemainingChange::take(TimeStep& step, const std::vector<double>& rise, std::span<const double> change) {
    step.projected = rise;
    double most = 0.0;
    for (std::size_t i = 0; i < change.size(); ++i) {
        step.projected[i] += change[i];
        most = std::max(most, std::abs(change[i]));
    }
    before_ = now_;
    now_ = most;
}

std::optional<double> RemainingChange::time_within(double bound, const TimeStep& step) const {
    if (!now_ || *now_ > bound) return std::nullopt;
    if (!before_ || *before_ <= bound) return before_ ? step.begin : step.end;
    return step.begin + (step.end - step.begin) * std::log(*before_ / bound) / std::log(*before_ / std::max(*now_, 1e-300));
}

void TimeRun::restore(std::vector<double> rise) { integrator_.move_to(integrator_.time(), std::move(rise)); }

void TimeRun::finish(TransientSolution& out, bool time_constant) {
    out.end_time = integrator_.time() - origin_;
    if (time_constant && bodies_without_path(network_).empty()) {
        try {
            out.time_constant = integrator_.slowest_time_constant();
        } catch (const ComputationError&) {
            // As things stand at the end nothing leads to the surroundings, so there is none.
        }
    }
    // Loads as they are at the end, not what a jump there makes of them.
    drive_.set(integrator_.time() * (1.0 - 1e-9), last_.on.empty() ? thermostats_.on() : last_.on);
    out.end = moment(mesh_, network_, thermostats_.contacts(), study_, reference_, integrator_.rise());
    out.end.time = out.end_time;
    if (errors_) out.errors = errors_->of_nodes();
    out.no_errors = no_errors_;
    out.switchings = switchings_;
    out.ledger = ledger_;
    out.summary = summary();
}

SteadySolution moment(std::shared_ptr<const Mesh> mesh, const Network& network, const ContactReader& contacts, const Study& study, double reference,
                      std::vector<double> rise) {
    SteadySolution out;
    out.study = study;
    out.reference = reference;
    out.temperature.resize(rise.size());
    for (std::size_t i = 0; i < rise.size(); ++i) out.temperature[i] = reference + rise[i];
    out.network = std::make_shared<const Network>(network);
    out.summary.throughput = heat_flows(network, {reference, rise}).throughput();
    out.rise = std::move(rise);
    out.mesh = std::move(mesh);
    read_surfaces(out, contacts);
    return out;
}

Moments::Moments(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::shared_ptr<const Network>& network)
    : model_(model),
      mesh_(std::move(mesh)),
      study_(study),
      network_(network ? *network : build_network(model, *mesh_, study)),
      drive_(std::make_unique<Drive>(model, study, network_)),
      contacts_(std::make_unique<ContactReader>(model, *mesh_)) {}

Moments::~Moments() = default;

SteadySolution Moments::at(double time, double reference, std::vector<double> rise, std::vector<bool> on) {
    if (on.empty()) on.assign(model_.thermostats.size(), true);
    // Just before: what a step that ends here has seen.
    drive_->set(std::max(0.0, time * (1.0 - 1e-9)), on);
    SteadySolution out = moment(mesh_, network_, *contacts_, study_, reference, std::move(rise));
    out.time = time;
    return out;
}

}  // namespace firnfield
