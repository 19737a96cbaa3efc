// A run of a reduced network: as TimeRun steps through time, but from one known function of time to the next.

#include "reduce/reduced_run.hpp"

#include <firnfield/error.hpp>
#include <firnfield/quantity.hpp>

#include "base/memory.hpp"
#include "network/paths.hpp"
#include "network/whole_parts.hpp"
#include "reduce/reducible.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {
namespace {

/// A polynomial through values at the beginning, in the middle and at the end.
template <typename Values>
std::array<Values, 3> through(const Values& begin, const Values& middle, const Values& end) {
    std::array<Values, 3> out{begin, begin, begin};
    for (std::size_t i = 0; i < begin.size(); ++i) {
        out[1][i] = -3.0 * begin[i] + 4.0 * middle[i] - end[i];
        out[2][i] = 2.0 * begin[i] - 4.0 * middle[i] + 2.0 * end[i];
    }
    return out;
}

}  // namespace

ReducedCourse::ReducedCourse(std::shared_ptr<const ReducedFrame> frame, double begin, double end, Amplitudes from, ModalInput input,
                             std::array<std::vector<double>, 3> factors, double low, double high)
    : frame_(std::move(frame)),
      begin_(begin),
      end_(end),
      from_(std::move(from)),
      input_(std::move(input)),
      factors_(std::move(factors)),
      low_(low),
      high_(high),
      known_time_(begin),
      known_(from_) {}

const Amplitudes& ReducedCourse::at(double time) const {
    if (time != known_time_) {
        known_ = frame_->network->modes.fine.after(from_, input_, time - begin_, end_ - begin_);
        known_time_ = time;
        coordinates_.clear();
    }
    return known_;
}

const std::vector<double>& ReducedCourse::coordinates(double time) const {
    const Amplitudes& state = at(time);
    if (coordinates_.empty()) coordinates_ = frame_->network->modes.fine.coordinates(state);
    return coordinates_;
}

std::function<std::vector<double>()> ReducedCourse::keep(double time) const {
    return [network = frame_->network, kept = at(time), low = low_, high = high_] {
        std::vector<double> out = network->rises(kept);
        for (double& x : out) x = std::clamp(x, low, high);
        return out;
    };
}

std::vector<double> ReducedCourse::factors(double time) const {
    const double s = (time - begin_) / (end_ - begin_);
    std::vector<double> out = factors_[0];
    for (std::size_t i = 0; i < out.size(); ++i) out[i] += s * (factors_[1][i] + s * factors_[2][i]);
    return out;
}

ReducedRun::ReducedRun(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::vector<double>& start,
                       const TransientOptions& options, double phase, double length)
    : mesh_(std::move(mesh)),
      study_(study),
      clock_(std::chrono::steady_clock::now()),
      network_(options.network ? *options.network : build_network(model, *mesh_, study)),
      drive_(model, study, network_),
      thermostats_(model, *mesh_, network_, study),
      phase_(phase),
      reference_(reference_of(network_, start)),
      leads_out_(bodies_without_path(network_).empty()) {
    require_reducible(model, *mesh_, study, network_, drive_);
    if (const double bytes = memory_of_modes(network_, drive_); bytes > static_cast<double>(machine_memory())) {
        constexpr double giga = 1e9;
        throw ComputationError(
            fmt::format("the modes of this study take about {:.1f} GB, and the machine has {:.1f}; let powers follow fewer profiles, raise "
                        "mesh.cell, or write method = \"full\"",
                        bytes / giga, static_cast<double>(machine_memory()) / giga));
    }
    counts_.network_seconds = seconds_since(clock_);
    std::vector<double> rise = start;
    for (double& t : rise) t -= reference_;
    start_held(network_, reference_, rise);
    const auto [low, high] = std::minmax_element(rise.begin(), rise.end());
    start_low_ = *low;
    start_high_ = *high;
    longest_ = std::min(study_.longest_step.value_or(std::numeric_limits<double>::infinity()), drive_.longest_step() / 6.0);
    Reducer reducer({.network = network_,
                     .drive = drive_,
                     .reference = reference_,
                     .start = rise,
                     .begin = phase,
                     .longest = length,
                     .tolerance = study.tolerance,
                     .thermostats = model.thermostats.size(),
                     .progress = [&](int done) { announce(options.progress, {.stage = fmt::format("finding modes, {} solves so far", done)}); }});
    constexpr int most_rounds = 3;
    constexpr double enough = 0.5;  // of the tolerance
    for (int round = 1; round <= most_rounds; ++round) {
        reduced_ = reducer.next();
        frame_ = std::make_shared<ReducedFrame>(ReducedFrame{.network = reduced_, .linear = [this](const Reader& read) { return read_linear(read); }});
        told_.modes = static_cast<int>(reduced_->modes.fine.size());
        told_.basis_seconds += reduced_->seconds;
        begin();
        try_out(phase + length, options);
        if (told_.open <= enough * study.tolerance) break;
    }
    counts_of_basis_ = reducer.counts();
    told_.solves = counts_of_basis_.solves;
    flows_ = read_linear([](const Network& network, const NodeTemperatures& nodes) { return in_a_row(heat_flows(network, nodes)); });
}

LinearReading ReducedRun::read_linear(const Reader& read) {
    const Drive::Values before = drive_.values(time_, thermostats_.on());
    const std::vector<double> cold(network_.nodes, 0.0);
    LinearReading out;
    each_input(drive_, before, reference_, [&] { out.input.push_back(read(network_, {reference_, cold})); });
    out.nothing = read(network_, {reference_, cold});
    for (std::size_t m = 0; m < reduced_->modes.fine.size(); ++m) {
        Amplitudes one(reduced_->modes.fine.size(), 0.0);
        one[m] = 1.0;
        const std::vector<double> rise = reduced_->rises(one);
        out.mode.push_back(read(network_, {reference_, rise}));
    }
    for (std::vector<std::vector<double>>* list : {&out.input, &out.mode}) {
        for (std::vector<double>& values : *list) {
            for (std::size_t i = 0; i < values.size(); ++i) values[i] -= out.nothing[i];
        }
    }
    drive_.set(before);
    return out;
}

void ReducedRun::try_out(double to, const TransientOptions& options) {
    noted_.clear();
    lately_.clear();
    next_note_ = 0.0;
    advance(to, options, [&](const TimeStep&) {
        note();
        return true;
    });
    constexpr double safety = 2.0;
    std::vector<std::vector<double>> differences;
    frame_->tried.clear();
    for (std::vector<Noted>* list : {&noted_, &lately_}) {
        for (Noted& noted : *list) {
            differences.push_back(std::move(noted.difference));
            frame_->tried.push_back(std::move(noted.moment));
        }
        list->clear();
    }
    told_.open = safety * largest_rise(*reduced_->basis, differences);
}

/// Takes the state at hand to those that the two bases are compared at.
void ReducedRun::note() {
    constexpr std::size_t first = 50, last = 50;
    constexpr double further = 1.1;
    Noted now{reduced_->difference(state_), {last_.end, state_.fine, last_.on}};
    if (noted_.size() < first || last_.end >= next_note_) {
        next_note_ = further * last_.end;
        noted_.push_back(std::move(now));
        return;
    }
    lately_.push_back(std::move(now));
    if (lately_.size() > 2 * last) lately_.erase(lately_.begin(), lately_.end() - static_cast<std::ptrdiff_t>(last));
}

void ReducedRun::begin() { begin(reduced_->start); }

void ReducedRun::begin(Nested<Amplitudes> state) {
    state_ = std::move(state);
    low_ = start_low_;
    high_ = start_high_;
    time_ = phase_;
    ledger_ = {};
    switchings_.clear();
    remaining_.forget();
    const double network_seconds = counts_.network_seconds;
    counts_ = {};
    counts_.network_seconds = network_seconds;
    thermostats_.resume(std::vector<bool>(thermostats_.on().size(), true),
                        std::vector<double>(thermostats_.since().size(), -std::numeric_limits<double>::infinity()));
    drive_.set(time_, thermostats_.on());
    const std::vector<double> coordinates = reduced_->modes.fine.coordinates(state_.fine);
    thermostats_.begin(network_, NodeReading{reference_, [&](Index node) { return reduced_->basis->at(node, coordinates); }});
    drive_.set(time_, thermostats_.on());
}

void ReducedRun::advance(double to, const TransientOptions& options, const std::function<bool(const TimeStep&)>& after) {
    double jump = time_;  // when something jumped or bent last
    while (time_ < to * (1.0 - 1e-14)) {
        const double edge = std::min(drive_.next_edge(time_), to);
        step_towards(edge, jump);
        if (last_.jump_at_end) jump = time_;
        if (!after(last_)) return;
        announce(options.progress, {.stage = "marching", .time = time_ - phase_, .end = to - phase_, .step = last_.end - last_.begin, .steps = counts_.steps});
    }
}

/// Steps are short after a jump and double from there, so that what is read at their ends and in between tells all that happens.
void ReducedRun::step_towards(double edge, double jump) {
    constexpr double share = 1.0 / 6.0;  // of the time between two jumps
    const double begin = time_;
    const double remaining = edge - begin;
    double length = std::min({std::max(reduced_->shortest, begin - jump), longest_, std::max(share * (edge - jump), reduced_->shortest)});
    if (length > 0.5 * remaining) length = length >= remaining * (1.0 - 1e-9) ? remaining : 0.5 * remaining;
    double end = length == remaining ? edge : begin + length;
    if (!(end > begin)) {
        throw ComputationError(fmt::format("the time step fell to {} at {}", show_quantity(length, kinds::time), show_quantity(begin, kinds::time)));
    }
    std::vector<Switching> switchings;
    int at_once = 0;
    while (true) {
        set_inputs(begin, end);
        take(begin, end);
        switchings = thermostats_.first_in(last_);
        if (switchings.empty() || !(switchings.front().time + phase_ < end)) break;
        const double when = switchings.front().time + phase_;
        if (when > begin * (1.0 + 1e-14) + 1e-12 * (end - begin)) {
            end = when;
            set_inputs(begin, end);
            take(begin, end);
            break;
        }
        constexpr int most_at_once = 1000;
        if (++at_once > most_at_once)
            throw ComputationError(fmt::format("thermostats switch back and forth at {} without end", show_quantity(begin - phase_, kinds::time)));
        for (const Switching& s : switchings) {
            thermostats_.apply({begin - phase_, s.thermostat, s.on});
            switchings_.push_back({begin - phase_, s.thermostat, s.on});
        }
    }
    last_.jump_at_end = end >= edge * (1.0 - 1e-14) || !switchings.empty();
    next_.fine = course_->at(last_.end);
    next_.coarse = reduced_->modes.coarse.after(state_.coarse, input_.coarse, end - begin, end - begin);
    book();
    state_ = next_;
    time_ = end;
    for (const Switching& s : switchings) {
        thermostats_.apply(s);
        switchings_.push_back(s);
    }
}

/// Loads and known temperatures over a step as polynomials: exact where at most two profiles that are straight multiply.
void ReducedRun::set_inputs(double begin, double end) {
    constexpr double margin = 1e-7;  // just inside, so that jumps at the ends are not seen
    const auto factors_at = [&](double share) {
        const Drive::Values v = drive_.values(begin + share * (end - begin), thermostats_.on());
        std::vector<double> out = v.load;
        for (const double known : v.known) out.push_back(known - reference_);
        return out;
    };
    factors_ = through(factors_at(margin), factors_at(0.5), factors_at(1.0 - margin));
    const auto gather = [&](Amplitudes Nested<Amplitudes>::*which, std::size_t modes) {
        ModalInput input;
        for (std::size_t power = 0; power < factors_.size(); ++power) {
            input.coefficient[power].assign(modes, 0.0);
            for (std::size_t i = 0; i < factors_[power].size(); ++i) {
                if (factors_[power][i] == 0.0) continue;
                const std::size_t loads = reduced_->load.size();
                const Amplitudes& pattern = (i < loads ? reduced_->load[i] : reduced_->known[i - loads]).*which;
                for (std::size_t k = 0; k < modes; ++k) input.coefficient[power][k] += factors_[power][i] * pattern[k];
            }
        }
        return input;
    };
    input_ = {gather(&Nested<Amplitudes>::fine, reduced_->modes.fine.size()), gather(&Nested<Amplitudes>::coarse, reduced_->modes.coarse.size())};
}

void ReducedRun::take(double begin, double end) {
    widen_bounds();
    course_.emplace(frame_, begin - phase_, end - phase_, state_.fine, input_.fine, factors_, low_, high_);
    last_ = {};
    last_.begin = begin - phase_;
    last_.end = end - phase_;
    last_.clock = phase_;
    last_.reference = reference_;
    last_.on = thermostats_.on();
    last_.drive = &drive_;
    last_.driven = &network_;
    last_.course = &*course_;
}

/// J by the model's entries over the last step.
HeatFlows ReducedRun::moved() const {
    if (!flows_) return {};  // while it is only being tried
    const double length = last_.end - last_.begin;
    const Amplitudes sum = reduced_->modes.fine.integral(state_.fine, input_.fine, length);
    std::vector<double> factors;
    for (std::size_t i = 0; i < factors_[0].size(); ++i) factors.push_back(length * (factors_[0][i] + factors_[1][i] / 2.0 + factors_[2][i] / 3.0));
    return from_row(flows_->added(sum, factors), network_);
}

/// No temperature leaves the range of all that was there and all that it is tied to, unless heat is put in or taken out.
void ReducedRun::widen_bounds() {
    const std::size_t loads = reduced_->load.size();
    for (const double share : {0.0, 0.5, 1.0}) {
        for (std::size_t i = 0; i < factors_[0].size(); ++i) {
            const double factor = factors_[0][i] + share * (factors_[1][i] + share * factors_[2][i]);
            if (i >= loads) {
                low_ = std::min(low_, factor);
                high_ = std::max(high_, factor);
            } else if (factor * reduced_->heat_of_load[i] > 0.0) {
                high_ = std::numeric_limits<double>::infinity();
            } else if (factor * reduced_->heat_of_load[i] < 0.0) {
                low_ = -std::numeric_limits<double>::infinity();
            }
        }
    }
}

void ReducedRun::book() {
    const double length = last_.end - last_.begin, times = mesh_->multiplicity;
    const HeatFlows moved = this->moved();
    double stored = 0.0;
    for (std::size_t k = 0; k < state_.fine.size(); ++k) stored += reduced_->stored[k] * (next_.fine[k] - state_.fine[k]);
    ledger_.moved.add(times, moved);
    ledger_.stored += times * stored;
    ledger_.throughput += times * (moved.throughput() + std::max(0.0, -stored));
    count_step(counts_, length);
}

bool ReducedRun::project() {
    if (!leads_out_ || drive_.changes_after(phase_ + last_.begin) || thermostats_.any()) return false;
    const Modes& modes = reduced_->modes.fine;
    Amplitudes input(modes.size());
    for (std::size_t k = 0; k < modes.size(); ++k) {
        for (const Amplitudes& coefficient : input_.fine.coefficient) input[k] += coefficient[k];
    }
    Amplitudes change = modes.slope(state_.fine, input);
    for (std::size_t k = 0; k < modes.size(); ++k) change[k] /= modes.rate()[k];
    remaining_.take(last_, course_->rises(last_.end), reduced_->rises(change));
    return true;
}

void ReducedRun::finish(TransientSolution& out, bool time_constant) {
    out.end_time = time_ - phase_;
    if (time_constant && leads_out_ && reduced_->modes.fine.rate().front() > 0.0) out.time_constant = 1.0 / reduced_->modes.fine.rate().front();
    drive_.set(time_ * (1.0 - 1e-9), last_.on.empty() ? thermostats_.on() : last_.on);
    out.end = moment(mesh_, network_, thermostats_.contacts(), study_, reference_, course_->rises(last_.end));
    out.end.time = out.end_time;
    out.switchings = switchings_;
    out.ledger = ledger_;
    told_.march_seconds = seconds_since(clock_) - told_.basis_seconds - counts_.network_seconds;
    out.reduction = told_;
    out.summary = counts_;
    out.summary.solves = counts_of_basis_.solves;
    out.summary.linear_iterations = counts_of_basis_.linear_iterations;
    out.summary.factorisations = counts_of_basis_.factorisations;
    out.summary.solve_seconds = seconds_since(clock_) - counts_.network_seconds;
}

}  // namespace firnfield
