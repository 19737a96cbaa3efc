// Follows a run in time step by step: peaks, crossings of limits, sums over time, rows of the history.

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
        record_.on_energy.assign(model.thermostats.size(), 0.0);
        record_.on_time.assign(model.thermostats.size(), 0.0);
    }

    bool watch(const TimeStep& step) {
        if (!record_.started || record_.jumped) {
            Sample first = gauges_.sample(step, step.begin);
            note(first);
            add_row(step, first);
            before_ = std::move(first);
        } else if (!before_) {
            before_ = gauges_.sample(step, step.begin);  // taken up again
        }
        record_.started = true;
        Sample middle = gauges_.sample(step, 0.5 * (step.begin + step.end)), end = gauges_.sample(step, step.end);
        integrate(step, *before_, middle, end);
        follow(step, *before_, middle, end);
        add_row(step, end);
        record_.time = step.end;
        record_.jumped = step.jump_at_end;
        before_ = std::move(end);
        return gauges_.study.stop_when != StopWhen::limits_decided || !all_decided(step);
    }

    const TimeRecord& put_aside() {
        before_.reset();
        return record_;
    }
    void resume(TimeRecord record) {
        record_ = std::move(record);
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
                if (!track.judged) continue;
                ExplainOptions found{.coldest = !subject.upper && !subject.sensor, .limit = subject.value};
                (subject.sensor ? found.sensor : found.part) = subject.name;
                consider(track.worst.time, subject.margin(track.worst.spot.temperature), std::move(found));
            }
            if (out) return out;
        }
        for (std::size_t s = 0; s < gauges_.sensors.size() && !what.sensor.empty(); ++s) {
            if (gauges_.sensors[s].name == what.sensor) consider(record_.sensors[s].highest_time, -record_.sensors[s].highest, what);
        }
        for (std::size_t g = 0; g < gauges_.groups.size() && what.sensor.empty(); ++g) {
            const std::string& name = gauges_.model.parts[gauges_.groups[g].part].name;
            if (!what.part.empty() && !picks(what.part, name, name)) continue;
            const Moment& moment = what.coldest ? record_.parts[g].coldest : record_.parts[g].hottest;
            ExplainOptions found = what;
            found.part = name;
            consider(moment.time, what.coldest ? moment.spot.temperature : -moment.spot.temperature, std::move(found));
        }
        return out;
    }

    TimeFindings findings(const TransientSolution& solution) const { return time_findings(gauges_, record_, solution); }

private:
    /// Widens peaks by what a sample shows.
    void note(const Sample& s) {
        for (std::size_t g = 0; g < gauges_.groups.size(); ++g) {
            TimeRecord::PartTrack& track = record_.parts[g];
            if (!record_.started)
                track.coldest = {s.bodies.coldest[gauges_.groups[g].bodies.front()], s.time},
                track.hottest = {s.bodies.hottest[gauges_.groups[g].bodies.front()], s.time};
            for (const Index b : gauges_.groups[g].bodies) {
                if (s.bodies.coldest[b].temperature < track.coldest.spot.temperature) track.coldest = {s.bodies.coldest[b], s.time};
                if (s.bodies.hottest[b].temperature > track.hottest.spot.temperature) track.hottest = {s.bodies.hottest[b], s.time};
            }
            if (!gauges_.melts) continue;
            track.melted_most = std::max(track.melted_most, s.melted[g]);
            track.melted_last = s.melted[g];
        }
        for (std::size_t n = 0; n < gauges_.sensors.size(); ++n) {
            TimeRecord::SensorTrack& track = record_.sensors[n];
            if (!record_.started || s.sensors[n] < track.lowest) track.lowest = s.sensors[n], track.lowest_time = s.time;
            if (!record_.started || s.sensors[n] > track.highest) track.highest = s.sensors[n], track.highest_time = s.time;
        }
        for (std::size_t l = 0; l < gauges_.subjects.size(); ++l) {
            TimeRecord::LimitTrack& track = record_.limits[l];
            const bool is_beyond = s.limits[l] > 0.0;
            if (!track.started) {
                track.started = true;
                track.started_beyond = track.was_beyond = is_beyond;
                track.beyond_since = s.time;
            } else if (is_beyond != track.was_beyond) {
                change(track, is_beyond, s.time);  // at a jump; elsewhere the crossing has been located before
            }
            if (s.time < gauges_.subjects[l].limit->after) continue;
            const double worst = gauges_.subjects[l].beyond(track.worst.spot.temperature);
            if (!track.judged || s.limits[l] > worst) track.worst = {s.limit_spots[l], s.time};
            track.judged = true;
        }
    }

    static void change(TimeRecord::LimitTrack& track, bool beyond, double time) {
        if (beyond) {
            track.beyond_since = time;
        } else {
            track.beyond.push_back({track.beyond_since, time});
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
            const double after = subject.limit->after;
            if (after > step.begin && after < step.end) note(gauges_.sample(step, after));
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
            samples.push_back(gauges_.sample(step, step.begin + x * (step.end - step.begin)));
        }
        std::sort(samples.begin(), samples.end(), [](const Sample& a, const Sample& b) { return a.time < b.time; });
    }

    /// Successive parabolic interpolation of a top within a step (as in R. P. Brent, Algorithms for Minimization without Derivatives, 1973).
    void refine_peak(const TimeStep& step, const std::function<double(const Sample&)>& value, std::array<double, 2> low, std::array<double, 2> middle,
                     std::array<double, 2> high, double x, std::vector<Sample>& samples) const {
        constexpr int most = 4;
        constexpr double close = 2e-3;  // of the step
        for (int n = 0; n < most; ++n) {
            Sample there = gauges_.sample(step, step.begin + x * (step.end - step.begin));
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
            change(track, beyond, crossing(step, l, from, to));
        }
    }

    /// Where a limit is crossed between two samples, by the Illinois variant of false position.
    double crossing(const TimeStep& step, std::size_t l, const Sample& from, const Sample& to) const {
        double a = from.time, b = to.time, fa = from.limits[l], fb = to.limits[l];
        const double close = 1e-4 * gauges_.study.tolerance;
        int side = 0;
        for (int i = 0; i < 30; ++i) {
            const double t = b - fb * (b - a) / (fb - fa);
            const double f = gauges_.beyond_limit(step, l, t);
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

    void integrate(const TimeStep& step, const Sample& begin, const Sample& middle, const Sample& end) {
        const double sixth = (step.end - step.begin) / 6.0;
        for (std::size_t g = 0; g < gauges_.groups.size(); ++g) {
            record_.parts[g].integral += sixth * (gauges_.mean_of(begin, g) + 4.0 * gauges_.mean_of(middle, g) + gauges_.mean_of(end, g));
        }
        for (std::size_t n = 0; n < gauges_.sensors.size(); ++n)
            record_.sensors[n].integral += sixth * (begin.sensors[n] + 4.0 * middle.sensors[n] + end.sensors[n]);
        for (std::size_t t = 0; t < gauges_.model.thermostats.size(); ++t) {
            if (step.on[t]) record_.on_time[t] += step.end - step.begin;
            for (std::size_t p = 0; p < gauges_.model.powers.size(); ++p) {
                const std::vector<std::string>& names = gauges_.model.thermostats[t].switches;
                if (std::find(names.begin(), names.end(), display_name(gauges_.model.powers[p])) == names.end()) continue;
                record_.on_energy[t] += gauges_.mesh->multiplicity * sixth * (begin.flows.loads[p] + 4.0 * middle.flows.loads[p] + end.flows.loads[p]);
            }
        }
    }

    /// Times at which rows are asked for join the samples of a step, so that rows come in their order.
    void add_asked(const TimeStep& step, std::vector<Sample>& samples) {
        if (!gauges_.study.history_every) return;
        double& next = record_.next_row;
        while (next <= step.begin) next += *gauges_.study.history_every;
        for (; next < step.end; next += *gauges_.study.history_every) samples.push_back(gauges_.sample(step, next));
        std::sort(samples.begin(), samples.end(), [](const Sample& a, const Sample& b) { return a.time < b.time; });
    }

    void add_row(const TimeStep& step, const Sample& s) {
        record_.history.time.push_back(s.time);
        record_.history.rows.push_back(gauges_.row(s, step.on));
    }

    /// A limit is decided when it has been missed, when it holds again after it did not, or when temperatures tend to where it holds.
    bool all_decided(const TimeStep& step) const {
        const Sample tends = gauges_.tendency(step);
        for (std::size_t l = 0; l < gauges_.subjects.size(); ++l) {
            const TimeRecord::LimitTrack& track = record_.limits[l];
            const bool missed = !track.started_beyond && (track.was_beyond || !track.beyond.empty());
            const bool back = track.started_beyond && !track.was_beyond;
            const bool rests = !tends.limits.empty() && (tends.limits[l] <= 0.0) == !track.was_beyond;
            if (step.end < gauges_.subjects[l].limit->after || !(missed || back || rests)) return false;
        }
        return true;
    }

    Gauges gauges_;
    TimeRecord record_;
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
