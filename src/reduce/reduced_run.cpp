// A run of a reduced network: as TimeRun steps through time, but from one known function of time to the next.

#include "reduce/reduced_run.hpp"

#include <firnfield/error.hpp>
#include <firnfield/quantity.hpp>

#include "base/memory.hpp"
#include "network/paths.hpp"
#include "network/whole_parts.hpp"
#include "reduce/middle_state.hpp"
#include "reduce/reducible.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {
namespace {

/// Steps became too short.
class CannotFollow : public ComputationError {
public:
    using ComputationError::ComputationError;
};

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

HeatFlows ReducedCourse::flows_beyond(double time, const Drive::Values& driven) const {
    return frame_->bent->flows(frame_->bent->rises(coordinates(time)), driven);
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
    require_reducible(model, study, network_);
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
    take_tangent(model, rise, length);
    Network& linear = tangent_ ? tangent_->network : network_;
    std::vector<std::vector<double>> patterns;
    for (const std::vector<double>& pattern : patterns_) patterns.push_back(all_bent_->spread(pattern, network_.nodes));
    Reducer reducer({.network = linear,
                     .drive = tangent_ ? tangent_->drive : drive_,
                     .reference = reference_,
                     .start = rise,
                     .begin = phase,
                     .longest = length,
                     .tolerance = study.tolerance,
                     .thermostats = model.thermostats.size(),
                     .patterns = std::move(patterns),
                     .progress = [&](int done) { announce(options.progress, {.stage = fmt::format("finding modes, {} solves so far", done)}); }});
    find_modes(reducer, length, options);
    if (all_bent_) {
        told_.bent = static_cast<long long>(all_bent_->elements().size());
        told_.acting = static_cast<long long>(frame_->bent->elements());
    }
    counts_of_basis_ = reducer.counts();
    told_.solves = counts_of_basis_.solves;
    flows_ = read_linear([](const Network& network, const NodeTemperatures& nodes) { return in_a_row(heat_flows(network, nodes)); });
}

/// More of them, and more moments of what bends, until what is open is well within the tolerance.
void ReducedRun::find_modes(Reducer& reducer, double length, const TransientOptions& options) {
    constexpr int most_rounds = 4;
    constexpr double enough = 0.5;  // of the tolerance
    std::vector<std::vector<double>> more;
    for (int round = 1; round <= most_rounds; ++round) {
        reduced_ = more.empty() ? reducer.next() : reducer.next_with(more);
        more.clear();
        frame_ = std::make_shared<ReducedFrame>(ReducedFrame{.network = reduced_, .linear = [this](const Reader& read) { return read_linear(read); }});
        told_.modes = static_cast<int>(reduced_->modes.fine.size());
        told_.basis_seconds += reduced_->seconds;
        if (all_bent_) pattern_space_ = std::make_shared<const PatternSpace>(*all_bent_, reduced_, patterns_, length);
        double of_thinning = 0.0;
        constexpr int most_thinnings = 3;
        double within = 1e-3;
        open_beyond_ = 0.0;
        for (int thinning = 1; thinning <= most_thinnings; ++thinning) {
            thin_out(within, length, all_are_needed_);
            begin();
            try {
                try_out(phase_ + length, options);
                of_thinning = learn_from_tried(length);
                if (of_thinning <= 0.2 * study_.tolerance) break;
            } catch (const CannotFollow&) {
                // What a few elements say rocks; all of them do not.
                if (all_are_needed_ || !all_bent_) throw;
                all_are_needed_ = thinning + 1 >= most_thinnings;
            }
            within *= 0.2;
        }
        double of_patterns = 0.0;
        more = unknown_patterns(reducer, length, of_patterns);
        open_beyond_ = of_thinning + of_patterns;
        told_.open += open_beyond_;
        if (told_.open <= enough * study_.tolerance) break;
    }
}

/// Around the middle of what the run is about.
void ReducedRun::take_tangent(const Model& model, const std::vector<double>& rise, double length) {
    const VariesInTime varies = [&](Index cooling, Channel channel) { return drive_.varies(cooling, channel); };
    const std::vector<BentElement> elements = bent_elements(network_, varies);
    if (elements.empty()) return;
    constexpr int looks = 200;
    const std::vector<bool> on(thermostats_.on().size(), true);
    Drive::Values mean = drive_.values(phase_, on);
    for (int n = 1; n < looks; ++n) {
        const Drive::Values now = drive_.values(phase_ + length * n / looks, on);
        for (std::vector<double> Drive::Values::*list : {&Drive::Values::load, &Drive::Values::convection, &Drive::Values::radiation, &Drive::Values::known}) {
            for (std::size_t i = 0; i < (mean.*list).size(); ++i) (mean.*list)[i] += (now.*list)[i];
        }
    }
    for (std::vector<double> Drive::Values::*list : {&Drive::Values::load, &Drive::Values::convection, &Drive::Values::radiation, &Drive::Values::known}) {
        for (double& x : mean.*list) x /= looks;
    }
    drive_.set(mean);
    const bool for_ever = study_.kind == StudyKind::cyclic && leads_out_;
    middle_ = middle_state(network_, reference_, rise, for_ever ? std::numeric_limits<double>::infinity() : 0.5 * length);
    middle_values_ = mean;
    tangent_ = std::make_unique<Tangent>(model, study_, tangent_network(network_, {reference_, middle_}, varies));
    all_bent_ = std::make_unique<Remainder>(model, study_, network_, tangent_->network, reference_, elements);
    // On the way there and a little beyond, as things are in the mean and at a few moments.
    std::vector<std::vector<double>> heat;
    for (const double share : {0.0, 0.3, 0.7, 1.0, 1.3}) {
        std::vector<double> at;
        for (const Index node : all_bent_->nodes()) at.push_back((1.0 - share) * rise[node] + share * middle_[node]);
        known_.push_back(known_at(at, mean));
        heat.push_back(known_.back().heat);
        if (share != 0.3 && share != 1.0) continue;
        constexpr int moments = 4;
        for (int n = 0; n < moments; ++n) {
            known_.push_back(known_at(at, drive_.values(phase_ + length * (n + 0.37) / moments, on)));
            heat.push_back(known_.back().heat);
        }
    }
    constexpr std::size_t most = 6;
    patterns_ = patterns_in(heat, most);
}

Amplitudes ReducedRun::constant_input() {
    const Modes& modes = reduced_->modes.fine;
    if (!all_bent_) return Amplitudes(modes.size(), 0.0);
    std::vector<double> at;
    for (const Index node : all_bent_->nodes()) at.push_back(middle_[node]);
    return modes.from_vectors(reduced_->basis->project(all_bent_->nodes(), all_bent_->heat(at, middle_values_)));
}

KnownMoment ReducedRun::known_at(std::vector<double> rise, Drive::Values values) {
    KnownMoment out{.rise = std::move(rise), .values = std::move(values)};
    out.heat = all_bent_->heat(out.rise, out.values);
    return out;
}

void ReducedRun::thin_out(double within, double length, bool all) {
    if (!all_bent_) return;
    constexpr std::size_t few = 1000;
    frame_->bent = all || all_bent_->elements().size() <= few ? std::make_shared<BentHeat>(*all_bent_, reduced_)
                                                              : std::make_shared<BentHeat>(*all_bent_, reduced_, pattern_space_, known_, within, length);
}

/// What all elements do at moments that were tried; K that the few that stood for them were off by at most, if that stayed.
double ReducedRun::learn_from_tried(double length) {
    if (!all_bent_) return 0.0;
    std::vector<std::vector<double>> off;
    std::vector<KnownMoment> seen;
    // Fewer of them where each takes much memory.
    const std::size_t most = std::clamp<std::size_t>(30'000'000 / std::max<std::size_t>(all_bent_->nodes().size(), 1), 12, 60);
    const std::size_t stride = (frame_->tried.size() + most - 1) / most;
    const Modes& modes = reduced_->modes.fine;
    for (std::size_t i = 0; i < frame_->tried.size(); i += stride) {
        const TriedMoment& moment = frame_->tried[i];
        const std::vector<double> coordinates = modes.coordinates(moment.state);
        const Drive::Values values = drive_.values(phase_ + moment.time * (1.0 - 1e-9), moment.on);
        seen.push_back(known_at(all_bent_->rises(*reduced_->basis, coordinates), values));
        if (all_bent_->elements().size() == frame_->bent->elements()) continue;
        // What the patterns leave out is told apart from this.
        const std::vector<double> amounts = pattern_space_->amounts(seen.back().heat);
        Amplitudes moves(modes.size(), 0.0);
        for (std::size_t n = 0; n < amounts.size(); ++n) {
            for (std::size_t k = 0; k < moves.size(); ++k) moves[k] += amounts[n] * pattern_space_->input(n).fine[k];
        }
        const Amplitudes said = frame_->bent->input(frame_->bent->rises(coordinates), values, &Nested<Amplitudes>::fine);
        for (std::size_t k = 0; k < moves.size(); ++k) moves[k] = (moves[k] - said[k]) / (modes.rate()[k] + 1.0 / length);
        off.push_back(modes.coordinates(moves));
    }
    known_.resize(std::min<std::size_t>(known_.size(), 13));
    known_.insert(known_.end(), std::make_move_iterator(seen.begin()), std::make_move_iterator(seen.end()));
    return off.empty() ? 0.0 : largest_rise(*reduced_->basis, off);
}

/// Patterns of what bends that the modes have no responses to, and K that they would move at most.
std::vector<std::vector<double>> ReducedRun::unknown_patterns(Reducer& reducer, double length, double& moves) {
    std::vector<std::vector<double>> out;
    moves = 0.0;
    if (!all_bent_) return out;
    std::vector<std::vector<double>> left;
    for (const KnownMoment& moment : known_) {
        left.push_back(moment.heat);
        const std::vector<double> amounts = pattern_space_->amounts(moment.heat);
        for (std::size_t n = 0; n < amounts.size(); ++n) {
            for (std::size_t i = 0; i < left.back().size(); ++i) left.back()[i] -= amounts[n] * patterns_[n][i];
        }
    }
    constexpr std::size_t most = 6;
    for (const std::vector<double>& pattern : patterns_in(left, most)) {
        double share = 0.0;
        for (const std::vector<double>& heat : left) {
            double product = 0.0;
            for (std::size_t i = 0; i < heat.size(); ++i) product += pattern[i] * heat[i];
            share = std::max(share, std::abs(product));
        }
        const std::vector<double> heat = all_bent_->spread(pattern, network_.nodes);
        double largest = 0.0;
        for (const double x : reducer.response(heat, length)) largest = std::max(largest, std::abs(x));
        if (share * largest <= 0.05 * study_.tolerance) continue;
        moves += share * largest;
        patterns_.push_back(pattern);
        out.push_back(heat);
    }
    return out;
}

LinearReading ReducedRun::read_linear(const Reader& read) {
    Network& network = tangent_ ? tangent_->network : network_;
    Drive& drive = tangent_ ? tangent_->drive : drive_;
    const Drive::Values before = drive.values(time_, thermostats_.on());
    const std::vector<double> cold(network.nodes, 0.0);
    LinearReading out;
    each_input(drive, before, reference_, [&] { out.input.push_back(read(network, {reference_, cold})); });
    out.nothing = read(network, {reference_, cold});
    // A mode is as large as one may be whose temperatures are none below absolute zero: surfaces would stop there.
    const double most = 0.3 * reference_;
    std::vector<double> size;
    for (std::size_t m = 0; m < reduced_->modes.fine.size(); ++m) {
        Amplitudes one(reduced_->modes.fine.size(), 0.0);
        one[m] = 1.0;
        std::vector<double> rise = reduced_->rises(one);
        double largest = 0.0;
        for (const double x : rise) largest = std::max(largest, std::abs(x));
        size.push_back(std::min(1.0, most / largest));
        for (double& x : rise) x *= size.back();
        out.mode.push_back(read(network, {reference_, rise}));
    }
    for (std::vector<std::vector<double>>* list : {&out.input, &out.mode}) {
        for (std::vector<double>& values : *list) {
            for (std::size_t i = 0; i < values.size(); ++i) values[i] -= out.nothing[i];
        }
    }
    for (std::size_t m = 0; m < size.size(); ++m) {
        for (double& value : out.mode[m]) value /= size[m];
    }
    drive.set(before);
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
    told_.open = safety * largest_rise(*reduced_->basis, differences) + open_beyond_;
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
    allowed_ = std::numeric_limits<double>::infinity();
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

void ReducedRun::refuse_to_follow(double time) const {
    throw CannotFollow(
        fmt::format("a reduced model cannot follow at {} what depends on temperature; write method = \"full\"", show_quantity(time - phase_, kinds::time)));
}

/// Steps are short after a jump and double from there, so that what is read at their ends and in between tells all that happens.
void ReducedRun::step_towards(double edge, double jump) {
    constexpr double share = 1.0 / 6.0;  // of the time between two jumps
    const double begin = time_;
    const double remaining = edge - begin;
    double length = std::min({std::max(reduced_->shortest, begin - jump), longest_, std::max(share * (edge - jump), reduced_->shortest)});
    if (frame_->bent) length = std::min(length, allowed_);
    if (length > 0.5 * remaining) length = length >= remaining * (1.0 - 1e-9) ? remaining : 0.5 * remaining;
    double end = length == remaining ? edge : begin + length;
    if (!(end > begin)) {
        throw ComputationError(fmt::format("the time step fell to {} at {}", show_quantity(length, kinds::time), show_quantity(begin, kinds::time)));
    }
    std::vector<Switching> switchings;
    int at_once = 0;
    while (true) {
        set_inputs(begin, end);
        if (!take(begin, end)) {
            end = begin + std::min(allowed_, 0.7 * (end - begin));
            if (constexpr double least = 1e-9; !(end - begin > least * reduced_->shortest)) refuse_to_follow(begin);
            ++counts_.rejected;
            continue;
        }
        switchings = thermostats_.first_in(last_);
        if (switchings.empty() || !(switchings.front().time + phase_ < end)) break;
        const double when = switchings.front().time + phase_;
        if (when > begin * (1.0 + 1e-14) + 1e-12 * (end - begin)) {
            end = when;
            set_inputs(begin, end);
            if (!take(begin, end)) refuse_to_follow(begin);
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
    if (compares_) next_.coarse = reduced_->modes.coarse.after(state_.coarse, input_.coarse, end - begin, end - begin);
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

/// What bends is found for the step; false where the step is too long for it.
bool ReducedRun::solve_bent(double begin, double end) {
    const double length = end - begin;
    const auto values = [&](double share) { return drive_.values(begin + share * length, thermostats_.on()); };
    constexpr double close = 2e-3, share = 0.1;  // of the tolerance
    const double close_by = close * study_.tolerance;
    BentStep::Solution fine =
        BentStep{.modes = reduced_->modes.fine, .bent = *frame_->bent, .which = &Nested<Amplitudes>::fine, .values = values, .length = length}.solve(
            state_.fine, input_.fine, close_by);
    const double ratio = fine.settled ? fine.error / (share * study_.tolerance) : std::numeric_limits<double>::infinity();
    allowed_ = length * std::clamp(0.9 * std::pow(ratio, -0.25), 0.2, 2.0);
    if (!(ratio <= 1.0)) return false;
    beyond_ = std::move(fine.flows);
    input_.fine = std::move(fine.input);
    if (compares_) {
        BentStep::Solution coarse =
            BentStep{.modes = reduced_->modes.coarse, .bent = *frame_->bent, .which = &Nested<Amplitudes>::coarse, .values = values, .length = length}.solve(
                state_.coarse, input_.coarse, close_by);
        if (!coarse.settled) {
            allowed_ = 0.5 * length;
            return false;
        }
        input_.coarse = std::move(coarse.input);
    }
    return true;
}

bool ReducedRun::take(double begin, double end) {
    if (frame_->bent && !solve_bent(begin, end)) return false;
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
    return true;
}

/// J by the model's entries over the last step.
HeatFlows ReducedRun::moved() const {
    if (!flows_) return {};  // while it is only being tried
    const double length = last_.end - last_.begin;
    const Amplitudes sum = reduced_->modes.fine.integral(state_.fine, input_.fine, length);
    std::vector<double> factors;
    for (std::size_t i = 0; i < factors_[0].size(); ++i) factors.push_back(length * (factors_[0][i] + factors_[1][i] / 2.0 + factors_[2][i] / 3.0));
    HeatFlows out = from_row(flows_->added(sum, factors), network_);
    if (frame_->bent) out.add(length, beyond_);
    return out;
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

/// What the state would still change by if nothing else changed, where something bends: heat from temperatures and temperatures from heat, round by round.
Amplitudes ReducedRun::change_to_rest() {
    const Modes& modes = reduced_->modes.fine;
    const double length = last_.end - last_.begin;
    const auto values = [&](double share) { return drive_.values(phase_ + last_.begin + share * length, last_.on); };
    const BentStep step{.modes = modes, .bent = *frame_->bent, .which = &Nested<Amplitudes>::fine, .values = values, .length = length};
    constexpr double end = 1.0 - 1e-7;
    const Drive::Values now = values(end);
    const std::size_t loads = reduced_->load.size();
    Amplitudes input(modes.size(), 0.0), at = state_.fine;
    for (std::size_t i = 0; i < factors_[0].size(); ++i) {
        const double factor = factors_[0][i] + factors_[1][i] + factors_[2][i];
        const Amplitudes& pattern = (i < loads ? reduced_->load[i] : reduced_->known[i - loads]).fine;
        for (std::size_t k = 0; k < modes.size(); ++k) input[k] += factor * pattern[k];
    }
    constexpr int most = 50;
    constexpr double close = 0.01;  // of what is left
    std::vector<double> rise, before;
    for (int round = 0; round < most; ++round) {
        const Amplitudes bent = step.input_at(at, now, rise);
        for (std::size_t k = 0; k < modes.size(); ++k) at[k] = (input[k] + bent[k]) / modes.rate()[k];
        double moved = 0.0, open = 0.0;
        for (std::size_t i = 0; round > 0 && i < rise.size(); ++i) moved = std::max(moved, std::abs(rise[i] - before[i]));
        for (std::size_t k = 0; k < modes.size(); ++k) open = std::max(open, std::abs(at[k] - state_.fine[k]));
        if (round > 1 && moved <= std::max(close * study_.tolerance, 1e-12 * open)) break;
        before = rise;
    }
    for (std::size_t k = 0; k < modes.size(); ++k) at[k] -= state_.fine[k];
    return at;
}

bool ReducedRun::project() {
    if (!leads_out_ || drive_.changes_after(phase_ + last_.begin) || thermostats_.any()) return false;
    const Modes& modes = reduced_->modes.fine;
    Amplitudes input(modes.size());
    for (std::size_t k = 0; k < modes.size(); ++k) {
        for (const Amplitudes& coefficient : input_.fine.coefficient) input[k] += coefficient[k];
    }
    Amplitudes change(modes.size(), 0.0);
    if (!frame_->bent) {
        change = modes.slope(state_.fine, input);
        for (std::size_t k = 0; k < modes.size(); ++k) change[k] /= modes.rate()[k];
    } else {
        change = change_to_rest();
    }
    remaining_.take(last_, course_->rises(last_.end), reduced_->rises(change));
    return true;
}

double ReducedRun::slowest_rate_at_end() const {
    const Modes& modes = reduced_->modes.fine;
    if (!frame_->bent) return modes.rate().front();
    const Drive::Values now = drive_.values(phase_ + last_.end - 1e-7 * (last_.end - last_.begin), last_.on);
    const auto input_at = [&](const Amplitudes& state) {
        return frame_->bent->input(frame_->bent->rises(modes.coordinates(state)), now, &Nested<Amplitudes>::fine);
    };
    constexpr double little = 0.01;  // K
    const Amplitudes here = input_at(state_.fine);
    std::vector<Amplitudes> follows;
    for (std::size_t k = 0; k < modes.size(); ++k) {
        Amplitudes one(modes.size(), 0.0), moved = state_.fine;
        one[k] = 1.0;
        double largest = 1.0;
        for (const double x : frame_->bent->rises(modes.coordinates(one))) largest = std::max(largest, std::abs(x));
        const double step = little / largest;
        moved[k] += step;
        follows.push_back(input_at(moved));
        for (std::size_t j = 0; j < here.size(); ++j) follows.back()[j] = (follows.back()[j] - here[j]) / step;
    }
    return slowest_rate(modes, follows);
}

void ReducedRun::finish(TransientSolution& out, bool time_constant) {
    out.end_time = time_ - phase_;
    if (const double slowest = leads_out_ && time_constant ? slowest_rate_at_end() : 0.0; slowest > 0.0) out.time_constant = 1.0 / slowest;
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
