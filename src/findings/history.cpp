// Follows a run in time step by step: peaks, crossings of limits, sums over time, rows of the history.

#include <firnfield/error.hpp>
#include <firnfield/history.hpp>

#include "findings/gauges.hpp"
#include "model/bodies.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <limits>

namespace firnfield {
namespace {

constexpr double infinity = std::numeric_limits<double>::infinity();

}  // namespace

class HistoryRecorder::Work {
public:
    Work(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::shared_ptr<const Network>& network)
        : gauges_(model, std::move(mesh), study, network) {
        record_.history.columns = gauges_.columns();
        record_.limits.resize(gauges_.subjects.size());
        record_.parts.resize(gauges_.groups.size());
        record_.sensors.resize(gauges_.sensors.size());
        record_.figures.resize(gauges_.named->figures().size());
        record_.thermostats.resize(model.thermostats.size());
        for (const Thermostat& thermostat : model.thermostats) {
            const auto read = std::find_if(gauges_.sensors.begin(), gauges_.sensors.end(), [&](const Sensor& s) { return s.name == thermostat.sensor; });
            thermostat_sensors_.push_back(static_cast<std::size_t>(read - gauges_.sensors.begin()));
        }
    }

    bool watch(const TimeStep& step) {
        take_errors(step);
        if (!record_.started || record_.jumped) {
            Sample first = sample(step, step.begin);
            note(first);
            add_row(step, first);
            before_ = std::move(first);
        } else if (!before_) {
            before_ = sample(step, step.begin);  // taken up again
        }
        record_.started = true;
        Sample middle = sample(step, 0.5 * (step.begin + step.end)), end = sample(step, step.end);
        integrate(step, *before_, middle, end);
        follow(step, *before_, middle, end);
        add_row(step, end);
        record_.time = step.end;
        record_.jumped = step.jump_at_end;
        before_ = std::move(end);
        record_.now = errors_.end;
        if (gauges_.study.stop_when == StopWhen::milestones_passed) return !all_passed();
        return gauges_.study.stop_when != StopWhen::limits_decided || !all_decided(step);
    }

    const TimeRecord& put_aside() {
        before_.reset();
        return record_;
    }
    void resume(TimeRecord record) {
        const std::size_t readings = gauges_.error_index(Gauges::ReadingOf::sensor, gauges_.sensors.size());
        if (record.limits.size() != record_.limits.size() || record.parts.size() != record_.parts.size() || record.sensors.size() != record_.sensors.size() ||
            record.figures.size() != record_.figures.size() || record.thermostats.size() != record_.thermostats.size() ||
            (!record.now.empty() && record.now.size() != readings))
            throw Error("the record to go on from is not one of this study");
        record_ = std::move(record);
        errors_ = {};
        before_.reset();
    }

    std::optional<WorstMoment> worst(const ExplainOptions& what) const {
        std::optional<WorstMoment> out;
        if (!record_.started) return out;
        const auto consider = [&](double time, double margin, ExplainOptions found) {
            if (!out || margin < out->margin) out = {time, margin, std::move(found)};
        };
        if (what.part.empty() && what.sensor.empty()) {
            for (std::size_t l = 0; l < gauges_.subjects.size(); ++l) {
                const LimitSubject& subject = gauges_.subjects[l];
                const TimeRecord::LimitTrack& track = record_.limits[l];
                if (!track.judged || !subject.judges() || subject.figure) continue;  // a figure is at no place
                ExplainOptions found{.coldest = !subject.upper && !subject.sensor, .limit = subject.value, .correction = added(track.worst_error)};
                (subject.sensor ? found.sensor : found.part) = subject.name;
                consider(track.worst.time, subject.margin(track.worst.spot.temperature), std::move(found));
            }
            if (out) return out;
        }
        for (std::size_t s = 0; s < gauges_.sensors.size() && !what.sensor.empty(); ++s) {
            if (gauges_.sensors[s].name != what.sensor) continue;
            ExplainOptions found = what;
            found.correction = added(record_.sensors[s].highest_error);
            consider(record_.sensors[s].highest_time, -record_.sensors[s].highest, std::move(found));
        }
        for (std::size_t g = 0; g < gauges_.groups.size() && what.sensor.empty(); ++g) {
            const std::string& name = gauges_.model.parts[gauges_.groups[g].part].name;
            if (!what.part.empty() && !picks(what.part, name, name)) continue;
            const Moment& moment = what.coldest ? record_.parts[g].coldest : record_.parts[g].hottest;
            ExplainOptions found = what;
            found.part = name;
            found.correction = added(what.coldest ? record_.parts[g].coldest_error : record_.parts[g].hottest_error);
            consider(moment.time, what.coldest ? moment.spot.temperature : -moment.spot.temperature, std::move(found));
        }
        return out;
    }

    TimeFindings findings(const TransientSolution& solution) const { return time_findings(gauges_, record_, solution); }

private:
    Sample sample(const TimeStep& step, double time) const { return gauges_.sample(step, time, errors_, range_); }
    double beyond_limit(const TimeStep& step, std::size_t limit, double time) const { return gauges_.beyond_limit(step, limit, time, errors_, range_); }
    /// Nothing where errors are not worked out.
    std::optional<double> added(const ReadingError& error) const { return record_.errors.value_or(false) ? std::optional(error.added) : std::nullopt; }
    ReadingError error_of(const Sample& s, Gauges::ReadingOf kind, std::size_t which) const {
        return s.errors.empty() ? ReadingError{} : s.errors[gauges_.error_index(kind, which)];
    }

    /// What the mesh makes wrong of the readings over a step, and between what they can lie.
    void take_errors(const TimeStep& step) {
        if (step.errors_end == nullptr) {
            record_.errors = false;
            errors_ = {};
            return;
        }
        if (!record_.errors) begin_range(step);
        record_.errors = true;
        errors_.begin = step.errors_begin != nullptr ? gauges_.errors_at(step, step.begin, *step.errors_begin) : record_.now;
        widen_range(step.network(step.begin), {step.reference, step.rise_begin});
        errors_.end = gauges_.errors_at(step, step.end, *step.errors_end);
        if (errors_.begin.empty()) errors_.begin = errors_.end;  // a record that knew none
        widen_range(step.network(step.end), {step.reference, step.rise_end});
        range_ = possible_range(record_);
    }

    void begin_range(const TimeStep& step) {
        const auto [low, high] = std::minmax_element(step.rise_begin.begin(), step.rise_begin.end());
        record_.lowest_known = step.reference + *low;
        record_.highest_known = step.reference + *high;
    }
    void widen_range(const Network& network, const NodeTemperatures& nodes) {
        for (const Known& known : network.knowns) {
            record_.lowest_known = std::min(record_.lowest_known, known.temperature);
            record_.highest_known = std::max(record_.highest_known, known.temperature);
        }
        for (const double watt : heat_flows(network, nodes).loads) (watt > 0.0 ? record_.heated : record_.cooled) |= watt != 0.0;
    }

    /// Widens peaks by what a sample shows.
    void note(const Sample& s) {
        for (std::size_t g = 0; g < gauges_.groups.size(); ++g) {
            TimeRecord::PartTrack& track = record_.parts[g];
            if (!record_.started) take(s, gauges_.groups[g].bodies.front(), true, track), take(s, gauges_.groups[g].bodies.front(), false, track);
            for (const Index b : gauges_.groups[g].bodies) {
                if (s.bodies.coldest[b].temperature < track.coldest.spot.temperature) take(s, b, false, track);
                if (s.bodies.hottest[b].temperature > track.hottest.spot.temperature) take(s, b, true, track);
            }
            if (!gauges_.melts) continue;
            track.melted_most = std::max(track.melted_most, s.melted[g]);
            track.melted_last = s.melted[g];
        }
        for (std::size_t n = 0; n < gauges_.sensors.size(); ++n) {
            TimeRecord::SensorTrack& track = record_.sensors[n];
            if (!record_.started || s.sensors[n] < track.lowest) track.lowest = s.sensors[n], track.lowest_time = s.time;
            if (record_.started && !(s.sensors[n] > track.highest)) continue;
            track.highest = s.sensors[n];
            track.highest_time = s.time;
            track.highest_error = error_of(s, Gauges::ReadingOf::sensor, n);
        }
        for (std::size_t f = 0; f < s.figures.size(); ++f) {
            TimeRecord::FigureTrack& track = record_.figures[f];
            const double value = s.figures[f];
            if (!std::isfinite(value)) continue;
            if (!track.known || value < track.lowest) track.lowest = value, track.lowest_time = s.time, track.lowest_error = s.figure_errors[f];
            if (!track.known || value > track.highest) track.highest = value, track.highest_time = s.time, track.highest_error = s.figure_errors[f];
            track.known = true;
        }
        for (std::size_t l = 0; l < gauges_.subjects.size(); ++l) {
            TimeRecord::LimitTrack& track = record_.limits[l];
            const bool is_beyond = s.limits[l] > 0.0;
            if (!track.started) {
                track.started = true;
                track.started_beyond = track.was_beyond = is_beyond;
                track.beyond_since = s.time;
            } else if (is_beyond != track.was_beyond) {
                change(track, is_beyond, s.time, {});  // at a jump; elsewhere the crossing has been located before
            }
            if (s.time < gauges_.subjects[l].after || !std::isfinite(s.limits[l])) continue;
            const double worst = gauges_.subjects[l].beyond(track.worst.spot.temperature);
            if (!track.judged || s.limits[l] > worst) {
                track.worst = {s.limit_spots[l], s.time};
                track.worst_error = s.limit_errors[l];
            }
            track.judged = true;
        }
    }

    void take(const Sample& s, Index body, bool hottest, TimeRecord::PartTrack& track) const {
        if (hottest) {
            track.hottest = {s.bodies.hottest[body], s.time};
            track.hottest_error = error_of(s, Gauges::ReadingOf::hottest, body);
        } else {
            track.coldest = {s.bodies.coldest[body], s.time};
            track.coldest_error = error_of(s, Gauges::ReadingOf::coldest, body);
        }
    }
    ReadingError mean_error(const Sample& s, std::size_t group) const {
        ReadingError sum;
        double volume = 0.0;
        for (const Index b : gauges_.groups[group].bodies) {
            const ReadingError error = error_of(s, Gauges::ReadingOf::mean, b);
            sum.added += gauges_.mesh->bodies[b].volume * error.added;
            sum.open += gauges_.mesh->bodies[b].volume * error.open;
            volume += gauges_.mesh->bodies[b].volume;
        }
        return {sum.added / volume, sum.open / volume};
    }

    static void change(TimeRecord::LimitTrack& track, bool beyond, double time, ReadingError error) {
        if (beyond) {
            track.beyond_since = time;
            track.since_error = error;
        } else {
            track.beyond.push_back({track.beyond_since, time});
            track.beyond_errors.push_back({track.since_error, error});
        }
        track.was_beyond = beyond;
    }

    /// Crossings and peaks within a step, in the order of time.
    void follow(const TimeStep& step, const Sample& begin, const Sample& middle, const Sample& end) {
        std::vector<Sample> samples{begin, middle, end};
        add_peaks(step, samples);
        add_asked(step, samples);
        for (std::size_t n = 1; n < samples.size(); ++n) {
            locate_crossings(step, samples[n - 1], samples[n]);
            note(samples[n]);
            if (n + 1 < samples.size()) add_row(step, samples[n]);
        }
        // Where a limit begins to count within the step, the temperature of that moment is judged.
        for (const LimitSubject& subject : gauges_.subjects) {
            const double after = subject.after;
            if (after > step.begin && after < step.end) note(sample(step, after));
        }
    }

    /// Values whose peaks are of interest, as functions of a sample.
    void add_peaks(const TimeStep& step, std::vector<Sample>& samples) const {
        struct Watched {
            std::function<double(const Sample&)> value;
            double record;  // the highest so far
        };
        std::vector<Watched> values;
        for (std::size_t l = 0; l < gauges_.subjects.size(); ++l) {
            const TimeRecord::LimitTrack& track = record_.limits[l];
            const double worst = gauges_.subjects[l].beyond(track.worst.spot.temperature);
            values.push_back({[l](const Sample& s) { return s.limits[l]; }, track.judged ? worst : -infinity});
        }
        for (std::size_t n = 0; n < gauges_.sensors.size(); ++n) {
            values.push_back({[n](const Sample& s) { return s.sensors[n]; }, record_.sensors[n].highest});
            values.push_back({[n](const Sample& s) { return -s.sensors[n]; }, -record_.sensors[n].lowest});
        }
        for (std::size_t f = 0; f < record_.figures.size(); ++f) {
            const TimeRecord::FigureTrack& track = record_.figures[f];
            values.push_back({[f](const Sample& s) { return s.figures[f]; }, track.known ? track.highest : -infinity});
            values.push_back({[f](const Sample& s) { return -s.figures[f]; }, track.known ? -track.lowest : -infinity});
        }
        for (std::size_t g = 0; g < gauges_.groups.size(); ++g) {
            const PartGroup& group = gauges_.groups[g];
            values.push_back({[&group](const Sample& s) {
                                  double most = -infinity;
                                  for (const Index b : group.bodies) most = std::max(most, s.bodies.hottest[b].temperature);
                                  return most;
                              },
                              record_.parts[g].hottest.spot.temperature});
            values.push_back({[&group](const Sample& s) {
                                  double most = -infinity;
                                  for (const Index b : group.bodies) most = std::max(most, -s.bodies.coldest[b].temperature);
                                  return most;
                              },
                              -record_.parts[g].coldest.spot.temperature});
        }
        const Sample begin = samples[0], middle = samples[1], end = samples[2];
        std::vector<double> places;
        for (const auto& [value, record] : values) {
            // A parabola through the three; its top where it lies inside and matters.
            const double b = value(begin), m = value(middle), e = value(end), curvature = b - 2.0 * m + e;
            if (!(curvature < 0.0)) continue;
            const double x = 0.5 - 0.25 * (e - b) / curvature, top = m - 0.125 * (e - b) * (e - b) / curvature;
            if (x <= 0.0 || x >= 1.0) continue;
            // Small humps on the way matter little; the highest of all is located well, however flat it is.
            const bool highest = top >= record - 1e-3 * gauges_.study.tolerance;
            if (!highest && (x <= 0.02 || x >= 0.98 || top - std::max(b, e) < 0.02 * gauges_.study.tolerance)) continue;
            places.push_back(x);
            if (highest) refine_peak(step, value, {0.0, b}, {0.5, m}, {1.0, e}, x, samples);
        }
        std::sort(places.begin(), places.end());
        double last = -1.0;
        for (const double x : places) {
            if (x - last < 0.02 || std::abs(x - 0.5) < 0.01) continue;
            last = x;
            samples.push_back(sample(step, step.begin + x * (step.end - step.begin)));
        }
        std::sort(samples.begin(), samples.end(), [](const Sample& a, const Sample& b) { return a.time < b.time; });
    }

    /// Successive parabolic interpolation of a top within a step (as in R. P. Brent, Algorithms for Minimization without Derivatives, 1973).
    void refine_peak(const TimeStep& step, const std::function<double(const Sample&)>& value, std::array<double, 2> low, std::array<double, 2> middle,
                     std::array<double, 2> high, double x, std::vector<Sample>& samples) const {
        constexpr int most = 4;
        constexpr double close = 2e-3;  // of the step
        for (int n = 0; n < most; ++n) {
            Sample there = sample(step, step.begin + x * (step.end - step.begin));
            const std::array<double, 2> found{x, value(there)};
            samples.push_back(std::move(there));
            if (found[1] >= middle[1]) {
                (x < middle[0] ? high : low) = middle;
                middle = found;
            } else {
                (x < middle[0] ? low : high) = found;
            }
            // The top of the parabola through the three.
            const double p = (middle[0] - low[0]) * (middle[1] - high[1]), q = (middle[0] - high[0]) * (middle[1] - low[1]);
            if (!(std::abs(p - q) > 0.0)) return;
            const double next = middle[0] - 0.5 * ((middle[0] - low[0]) * p - (middle[0] - high[0]) * q) / (p - q);
            if (!(next > low[0] && next < high[0]) || std::abs(next - middle[0]) < close) return;
            x = next;
        }
    }

    void locate_crossings(const TimeStep& step, const Sample& from, const Sample& to) {
        for (std::size_t l = 0; l < gauges_.subjects.size(); ++l) {
            TimeRecord::LimitTrack& track = record_.limits[l];
            const bool beyond = to.limits[l] > 0.0;
            if (beyond == track.was_beyond || (from.limits[l] > 0.0) == beyond) continue;
            const double time = crossing(step, l, from, to);
            change(track, beyond, time, crossing_error(step, l, time, to));
        }
    }

    /// Where a limit is crossed between two samples, by the Illinois variant of false position.
    double crossing(const TimeStep& step, std::size_t l, const Sample& from, const Sample& to) const {
        double a = from.time, b = to.time, fa = from.limits[l], fb = to.limits[l];
        if (!std::isfinite(fa) || !std::isfinite(fb)) return b;  // of what was not defined before, or is not any more
        const LimitSubject& subject = gauges_.subjects[l];
        const double close =
            is_kelvin(*subject.quantity) ? 1e-4 * gauges_.study.tolerance : 1e-6 * std::max({std::abs(subject.value), std::abs(fa), std::abs(fb)});
        int side = 0;
        for (int i = 0; i < 30; ++i) {
            const double t = b - fb * (b - a) / (fb - fa);
            const double f = beyond_limit(step, l, t);
            if (!std::isfinite(f)) return t;
            if (std::abs(f) <= close || b - a <= 1e-12 * b) return t;
            if ((f > 0.0) == (fb > 0.0)) {
                b = t, fb = f;
                if (side == 1) fa *= 0.5;
                side = 1;
            } else {
                a = t, fa = f;
                if (side == -1) fb *= 0.5;
                side = -1;
            }
        }
        return 0.5 * (a + b);
    }

    /// The error of a temperature over how fast it passes the limit is that of the time at which it does.
    ReadingError crossing_error(const TimeStep& step, std::size_t l, double time, const Sample& to) const {
        if (to.errors.empty() || !std::isfinite(to.limit_errors[l].open)) return to.limit_errors[l];
        const double reach = 0.01 * (step.end - step.begin), before = std::max(step.begin, time - reach), after = std::min(step.end, time + reach);
        const double rate = (beyond_limit(step, l, after) - beyond_limit(step, l, before)) / (after - before);
        const Study& study = gauges_.study;
        const double longest = study.kind == StudyKind::transient ? study.lasts : study.period ? *study.period : period_of(gauges_.model, study).value();
        const double by_steps = is_kelvin(*gauges_.subjects[l].quantity) ? open_by_steps(gauges_.study) : 0.0;
        const double open = (to.limit_errors[l].open + by_steps) / std::abs(rate);
        const double added = (gauges_.subjects[l].upper ? -1.0 : 1.0) * to.limit_errors[l].added / rate;
        return {std::isfinite(added) ? std::clamp(added, -longest, longest) : 0.0, std::isfinite(open) ? std::min(open, longest) : longest};
    }

    void integrate(const TimeStep& step, const Sample& begin, const Sample& middle, const Sample& end) {
        const double sixth = (step.end - step.begin) / 6.0;
        for (std::size_t g = 0; g < gauges_.groups.size(); ++g) {
            record_.parts[g].integral += sixth * (gauges_.mean_of(begin, g) + 4.0 * gauges_.mean_of(middle, g) + gauges_.mean_of(end, g));
            const ReadingError error = mean_error(middle, g);
            record_.parts[g].integral_error.added += (step.end - step.begin) * error.added;
            record_.parts[g].integral_error.open += (step.end - step.begin) * error.open;
        }
        for (std::size_t n = 0; n < gauges_.sensors.size(); ++n)
            record_.sensors[n].integral += sixth * (begin.sensors[n] + 4.0 * middle.sensors[n] + end.sensors[n]);
        for (std::size_t f = 0; f < record_.figures.size(); ++f) {
            const double sum = begin.figures[f] + 4.0 * middle.figures[f] + end.figures[f];
            if (!std::isfinite(sum)) continue;
            const double length = step.end - step.begin;
            record_.figures[f].integral += sixth * sum;
            record_.figures[f].length += length;
            record_.figures[f].integral_error.added += length * middle.figure_errors[f].added;
            record_.figures[f].integral_error.open += length * middle.figure_errors[f].open;
        }
        for (std::size_t t = 0; t < gauges_.model.thermostats.size(); ++t) {
            TimeRecord::ThermostatTrack& track = record_.thermostats[t];
            follow_switching(step, begin, middle, end, t);
            if (step.on[t]) track.on_time += step.end - step.begin;
            for (std::size_t p = 0; p < gauges_.model.powers.size(); ++p) {
                const std::vector<std::string>& names = gauges_.model.thermostats[t].switches;
                if (std::find(names.begin(), names.end(), display_name(gauges_.model.powers[p])) == names.end()) continue;
                track.energy += gauges_.mesh->multiplicity * sixth * (begin.flows.loads[p] + 4.0 * middle.flows.loads[p] + end.flows.loads[p]);
            }
        }
    }

    /// What the mesh leaves open of what a thermostat reads when it switches, over how fast that changes.
    void follow_switching(const TimeStep& step, const Sample& begin, const Sample& middle, const Sample& end, std::size_t t) {
        const std::size_t n = thermostat_sensors_[t];
        if (n == gauges_.sensors.size()) return;
        TimeRecord::ThermostatTrack& track = record_.thermostats[t];
        const double length = step.end - step.begin, from = begin.sensors[n], half = middle.sensors[n], to = end.sensors[n];
        if (record_.time > 0.0 && track.was_on != step.on[t]) {
            const double open = (error_of(begin, Gauges::ReadingOf::sensor, n).open + open_by_steps(gauges_.study)) / std::abs(track.rate);
            track.switches.push_back({step.begin, std::isfinite(open) ? open : infinity});
        }
        track.was_on = step.on[t];
        track.rate = (from - 4.0 * half + 3.0 * to) / length;
    }

    /// Times at which rows are asked for join the samples of a step, so that rows come in their order.
    void add_asked(const TimeStep& step, std::vector<Sample>& samples) {
        if (!gauges_.study.history_every) return;
        double& next = record_.next_row;
        while (next <= step.begin) next += *gauges_.study.history_every;
        for (; next < step.end; next += *gauges_.study.history_every) samples.push_back(sample(step, next));
        std::sort(samples.begin(), samples.end(), [](const Sample& a, const Sample& b) { return a.time < b.time; });
    }

    void add_row(const TimeStep& step, const Sample& s) {
        record_.history.time.push_back(s.time);
        record_.history.rows.push_back(gauges_.row(s, step.on));
    }

    bool all_passed() const {
        for (std::size_t l = 0; l < gauges_.subjects.size(); ++l) {
            const TimeRecord::LimitTrack& track = record_.limits[l];
            if (gauges_.subjects[l].role == LimitSubject::Role::milestone && !track.was_beyond && track.beyond.empty()) return false;
        }
        return true;
    }

    /// A limit is decided when it has been missed, when it holds again after it did not, or when temperatures tend to where it holds.
    bool all_decided(const TimeStep& step) const {
        const Sample tends = gauges_.tendency(step, errors_, range_);
        for (std::size_t l = 0; l < gauges_.subjects.size(); ++l) {
            if (!gauges_.subjects[l].judges()) continue;
            if (gauges_.is_of_run(gauges_.subjects[l])) return false;
            const TimeRecord::LimitTrack& track = record_.limits[l];
            const bool missed = !track.started_beyond && (track.was_beyond || !track.beyond.empty());
            const bool back = track.started_beyond && !track.was_beyond;
            const bool rests = !tends.limits.empty() && (tends.limits[l] <= 0.0) == !track.was_beyond;
            if (step.end < gauges_.subjects[l].after || !(missed || back || rests)) return false;
        }
        return true;
    }

    Gauges gauges_;
    TimeRecord record_;
    std::vector<std::size_t> thermostat_sensors_;  // in Gauges::sensors; its size where that is not read
    StepErrors errors_;                            // of the last step
    PossibleRange range_;
    std::optional<Sample> before_;  // at the end of the last step
};

HistoryRecorder::HistoryRecorder(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::shared_ptr<const Network>& network)
    : work_(std::make_unique<Work>(model, std::move(mesh), study, network)) {}
HistoryRecorder::~HistoryRecorder() = default;
bool HistoryRecorder::operator()(const TimeStep& step) { return work_->watch(step); }
const TimeRecord& HistoryRecorder::put_aside() { return work_->put_aside(); }
void HistoryRecorder::resume(TimeRecord record) { work_->resume(std::move(record)); }
TimeFindings HistoryRecorder::findings(const TransientSolution& solution) const { return work_->findings(solution); }
std::optional<WorstMoment> HistoryRecorder::worst(const ExplainOptions& what) const { return work_->worst(what); }

}  // namespace firnfield
