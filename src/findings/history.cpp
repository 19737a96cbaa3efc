#include <firnfield/history.hpp>
#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "findings/extremes.hpp"
#include "findings/grouping.hpp"
#include "material/heat_content.hpp"
#include "model/bodies.hpp"
#include "network/probe.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <limits>
#include <numeric>

namespace firnfield {
namespace {

/// What is looked at, at one time.
struct Sample {
    double time = 0.0;
    BodyTemperatures bodies;
    std::vector<double> sensors;  // K
    std::vector<double> limits;   // K beyond each limit; positive is missed
    std::vector<Spot> limit_spots;
    std::vector<double> melted;   // share, per part
    HeatFlows flows;
};

constexpr double infinity = std::numeric_limits<double>::infinity();

}  // namespace

double LimitOverTime::time_beyond() const {
    return std::accumulate(beyond.begin(), beyond.end(), 0.0, [](double sum, const Interval& i) { return sum + i.length(); });
}

bool TimeFindings::all_limits_kept() const {
    return std::all_of(limits.begin(), limits.end(), [](const LimitOverTime& l) { return l.kept(); });
}

class HistoryRecorder::Work {
public:
    Work(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study)
        : model_(model), mesh_(std::move(mesh)), study_(study), extremes_(*mesh_), contacts_(model, *mesh_), groups_(group_parts(*mesh_)) {
        const Network network = build_network(model, *mesh_, study);
        for (std::size_t s = 0; s < model.sensors.size(); ++s) {
            const Sensor& sensor = model.sensors[s];
            if (picks_only_left_out(model, {&sensor.in, 1})) continue;
            sensors_.push_back(s);
            probes_.emplace_back(model, *mesh_, network, contacts_, sensor.in, sensor.at, fmt::format("sensor[{}].at", s));
        }
        find_subjects();
        find_melting();
        name_columns();
        record_.limits.resize(subjects_.size());
        record_.parts.resize(groups_.size());
        record_.sensors.resize(sensors_.size());
        record_.on_energy.assign(model.thermostats.size(), 0.0);
        record_.on_time.assign(model.thermostats.size(), 0.0);
    }

    bool watch(const TimeStep& step) {
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
        return study_.stop_when != StopWhen::limits_decided || !all_decided(step);
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
            for (std::size_t l = 0; l < subjects_.size(); ++l) {
                const Subject& subject = subjects_[l];
                const TimeRecord::LimitTrack& track = record_.limits[l];
                if (!track.judged) continue;
                ExplainOptions found{.coldest = !subject.upper && !subject.sensor, .limit = subject.value};
                (subject.sensor ? found.sensor : found.part) = subject.name;
                consider(track.worst.time, margin_of(subject, track), std::move(found));
            }
            if (out) return out;
        }
        for (std::size_t s = 0; s < sensors_.size() && !what.sensor.empty(); ++s) {
            if (model_.sensors[sensors_[s]].name == what.sensor) consider(record_.sensors[s].highest_time, -record_.sensors[s].highest, what);
        }
        for (std::size_t g = 0; g < groups_.size() && what.sensor.empty(); ++g) {
            const std::string& name = model_.parts[groups_[g].part].name;
            if (!what.part.empty() && !picks(what.part, name, name)) continue;
            const Moment& moment = what.coldest ? record_.parts[g].coldest : record_.parts[g].hottest;
            ExplainOptions found = what;
            found.part = name;
            consider(moment.time, what.coldest ? moment.spot.temperature : -moment.spot.temperature, std::move(found));
        }
        return out;
    }

    TimeFindings findings(const TransientSolution& solution) const {
        TimeFindings out;
        out.title = model_.title;
        out.study = study_;
        out.end = firnfield::findings(model_, solution.end);
        out.end_time = record_.time;
        out.stopped = solution.stopped;
        out.ledger = solution.ledger;
        out.remaining_change = solution.remaining_change;
        out.steady_time = solution.steady_time;
        out.time_constant = solution.time_constant;
        out.period = solution.period;
        out.cycles_computed = solution.cycles_computed;
        out.cycles_to_settle = solution.cycles_to_settle;
        out.summary = solution.summary;
        out.history = record_.history;
        out.warnings = out.end.warnings;
        tell_melting(out);
        tell_open_ledger(out.warnings, out.ledger.relative_residual());
        tell_limits(out);
        tell_parts(out);
        tell_sensors(out);
        tell_thermostats(out, solution);
        out.end.limits.clear();  // judged over the whole time instead
        return out;
    }

private:
    struct Subject {
        const Limit* limit = nullptr;
        bool upper = true;
        double value = 0.0;               // K
        std::string name;
        std::vector<Index> bodies;        // of a limit on a part
        std::optional<std::size_t> sensor;  // index in sensors_
    };

    void find_subjects() {
        for (const Limit& limit : model_.limits) {
            if (!counts_in(limit.studies, study_)) continue;
            const auto add = [&](Subject subject) {
                subject.limit = &limit;
                for (const bool upper : {true, false}) {
                    const std::optional<double>& value = upper ? limit.below : limit.above;
                    if (!value) continue;
                    subject.upper = upper;
                    subject.value = *value;
                    subjects_.push_back(subject);
                }
            };
            if (!limit.sensor.empty()) {
                for (std::size_t s = 0; s < sensors_.size(); ++s) {
                    if (model_.sensors[sensors_[s]].name == limit.sensor) add({.name = limit.sensor, .bodies = {}, .sensor = s});
                }
                continue;
            }
            for (const PartGroup& group : groups_) {
                Subject subject;
                bool single = false;
                for (const Index b : group.bodies) {
                    if (!picks(limit.part, mesh_->bodies[b].name, model_.parts[group.part].name)) continue;
                    subject.bodies.push_back(b);
                    single = single || mesh_->bodies[b].name == limit.part;
                }
                subject.name = single ? limit.part : model_.parts[group.part].name;
                if (!subject.bodies.empty()) add(std::move(subject));
            }
        }
    }

    void find_melting() {
        for (const PartGroup& group : groups_) {
            const Material* material = find_material(model_.materials, model_.parts[group.part].material);
            melting_.push_back(material->melting ? std::make_shared<const HeatContent>(*material, study_.tolerance) : nullptr);
        }
        melts_ = std::any_of(melting_.begin(), melting_.end(), [](const auto& m) { return m != nullptr; });
        if (!melts_) return;
        group_of_body_.assign(mesh_->bodies.size(), 0);
        for (std::size_t g = 0; g < groups_.size(); ++g) {
            for (const Index b : groups_[g].bodies) group_of_body_[b] = g;
        }
    }

    void name_columns() {
        std::vector<std::string>& columns = record_.history.columns;
        for (const PartGroup& group : groups_) {
            for (const std::string_view what : {"min", "mean", "max"}) columns.push_back(fmt::format("{} {} (degC)", model_.parts[group.part].name, what));
        }
        for (std::size_t g = 0; g < groups_.size(); ++g) {
            if (melting_[g]) columns.push_back(fmt::format("{} melted (1)", model_.parts[groups_[g].part].name));
        }
        for (const std::size_t s : sensors_) columns.push_back(fmt::format("{} (degC)", model_.sensors[s].name));
        for (const Power& p : model_.powers) columns.push_back(fmt::format("{} in (W)", display_name(p)));
        for (std::size_t c = 0; c < model_.coolings.size(); ++c) columns.push_back(fmt::format("{} out (W)", display_name(model_.coolings[c], c)));
        for (std::size_t h = 0; h < model_.holds.size(); ++h) columns.push_back(fmt::format("{} out (W)", display_name(model_.holds[h], h)));
        columns.emplace_back("stored (W)");
        for (const Thermostat& t : model_.thermostats) columns.push_back(fmt::format("{} on (1)", t.name));
    }

    Sample sample(const TimeStep& step, double time) const {
        Sample out;
        out.time = time;
        const std::vector<double> rise = step.rises(time);
        const Network& network = step.network(time);
        const std::vector<double> patches = patch_temperatures(*mesh_, network, step.reference, rise);
        out.bodies = extremes_.of(step.reference, rise, patches, contact_temperatures(contacts_, *mesh_, network, step.reference, rise));
        const RiseOf of = [&](Index i) { return rise[i]; };
        for (const Probe& probe : probes_) out.sensors.push_back(probe.read(network, step.reference, of));
        out.flows = heat_flows(network, step.reference, rise);
        if (melts_) out.melted = melted(step.reference, rise);
        judge(out);
        return out;
    }

    std::vector<double> melted(double reference, const std::vector<double>& rise) const {
        std::vector<double> share(groups_.size(), 0.0), volume(groups_.size(), 0.0);
        for (Index i = 0; i < mesh_->cells.size(); ++i) {
            const std::size_t g = group_of_body_[mesh_->cells.body[i]];
            if (!melting_[g]) continue;
            share[g] += mesh_->cells.volume[i] * melting_[g]->melted(reference + rise[i]);
            volume[g] += mesh_->cells.volume[i];
        }
        for (std::size_t g = 0; g < share.size(); ++g) share[g] = volume[g] > 0.0 ? share[g] / volume[g] : 0.0;
        return share;
    }

    void judge(Sample& out) const {
        for (const Subject& subject : subjects_) {
            Spot spot;
            if (subject.sensor) {
                const Sensor& sensor = model_.sensors[sensors_[*subject.sensor]];
                spot = {out.sensors[*subject.sensor], sensor.at, sensor.in};
            } else {
                spot = subject.upper ? out.bodies.hottest[subject.bodies.front()] : out.bodies.coldest[subject.bodies.front()];
                for (const Index b : subject.bodies) {
                    const Spot& other = subject.upper ? out.bodies.hottest[b] : out.bodies.coldest[b];
                    if (subject.upper ? other.temperature > spot.temperature : other.temperature < spot.temperature) spot = other;
                }
            }
            out.limits.push_back(subject.upper ? spot.temperature - subject.value : subject.value - spot.temperature);
            out.limit_spots.push_back(spot);
        }
    }

    /// Widens peaks by what a sample shows.
    void note(const Sample& s) {
        for (std::size_t g = 0; g < groups_.size(); ++g) {
            TimeRecord::PartTrack& track = record_.parts[g];
            if (!record_.started) track.coldest = {s.bodies.coldest[groups_[g].bodies.front()], s.time}, track.hottest = {s.bodies.hottest[groups_[g].bodies.front()], s.time};
            for (const Index b : groups_[g].bodies) {
                if (s.bodies.coldest[b].temperature < track.coldest.spot.temperature) track.coldest = {s.bodies.coldest[b], s.time};
                if (s.bodies.hottest[b].temperature > track.hottest.spot.temperature) track.hottest = {s.bodies.hottest[b], s.time};
            }
            if (!melts_) continue;
            track.melted_most = std::max(track.melted_most, s.melted[g]);
            track.melted_last = s.melted[g];
        }
        for (std::size_t n = 0; n < sensors_.size(); ++n) {
            TimeRecord::SensorTrack& track = record_.sensors[n];
            if (!record_.started || s.sensors[n] < track.lowest) track.lowest = s.sensors[n], track.lowest_time = s.time;
            if (!record_.started || s.sensors[n] > track.highest) track.highest = s.sensors[n], track.highest_time = s.time;
        }
        for (std::size_t l = 0; l < subjects_.size(); ++l) {
            TimeRecord::LimitTrack& track = record_.limits[l];
            const bool is_beyond = s.limits[l] > 0.0;
            if (!track.started) {
                track.started = true;
                track.started_beyond = track.was_beyond = is_beyond;
                track.beyond_since = s.time;
            } else if (is_beyond != track.was_beyond) {
                change(track, is_beyond, s.time);  // at a jump; elsewhere the crossing has been located before
            }
            if (s.time < subjects_[l].limit->after) continue;
            const double worst = subjects_[l].upper ? track.worst.spot.temperature - subjects_[l].value : subjects_[l].value - track.worst.spot.temperature;
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
        for (const Subject& subject : subjects_) {
            const double after = subject.limit->after;
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
        for (std::size_t l = 0; l < subjects_.size(); ++l) {
            const TimeRecord::LimitTrack& track = record_.limits[l];
            const double worst = subjects_[l].upper ? track.worst.spot.temperature - subjects_[l].value : subjects_[l].value - track.worst.spot.temperature;
            values.push_back({[l](const Sample& s) { return s.limits[l]; }, track.judged ? worst : -infinity});
        }
        for (std::size_t n = 0; n < sensors_.size(); ++n) {
            values.push_back({[n](const Sample& s) { return s.sensors[n]; }, record_.sensors[n].highest});
            values.push_back({[n](const Sample& s) { return -s.sensors[n]; }, -record_.sensors[n].lowest});
        }
        for (std::size_t g = 0; g < groups_.size(); ++g) {
            const PartGroup& group = groups_[g];
            values.push_back({[&group](const Sample& s) {
                double most = -infinity;
                for (const Index b : group.bodies) most = std::max(most, s.bodies.hottest[b].temperature);
                return most;
            }, record_.parts[g].hottest.spot.temperature});
            values.push_back({[&group](const Sample& s) {
                double most = -infinity;
                for (const Index b : group.bodies) most = std::max(most, -s.bodies.coldest[b].temperature);
                return most;
            }, -record_.parts[g].coldest.spot.temperature});
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
            const bool highest = top >= record - 1e-3 * study_.tolerance;
            if (!highest && (x <= 0.02 || x >= 0.98 || top - std::max(b, e) < 0.02 * study_.tolerance)) continue;
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
    void refine_peak(const TimeStep& step, const std::function<double(const Sample&)>& value, std::array<double, 2> low, std::array<double, 2> middle, std::array<double, 2> high, double x,
                     std::vector<Sample>& samples) const {
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
        for (std::size_t l = 0; l < subjects_.size(); ++l) {
            TimeRecord::LimitTrack& track = record_.limits[l];
            const bool beyond = to.limits[l] > 0.0;
            if (beyond == track.was_beyond || (from.limits[l] > 0.0) == beyond) continue;
            change(track, beyond, crossing(step, l, from, to));
        }
    }

    /// Where a limit is crossed between two samples, by the Illinois variant of false position.
    double crossing(const TimeStep& step, std::size_t l, const Sample& from, const Sample& to) const {
        double a = from.time, b = to.time, fa = from.limits[l], fb = to.limits[l];
        const double close = 1e-4 * study_.tolerance;
        int side = 0;
        for (int i = 0; i < 30; ++i) {
            const double t = b - fb * (b - a) / (fb - fa);
            const double f = value_at_time(step, l, t);
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

    double value_at_time(const TimeStep& step, std::size_t l, double time) const {
        const Subject& subject = subjects_[l];
        if (!subject.sensor) return sample(step, time).limits[l];
        const double reads = probes_[*subject.sensor].read(step.network(time), step.reference, [&](Index i) { return step.rise(i, time); });
        return subject.upper ? reads - subject.value : subject.value - reads;
    }

    void integrate(const TimeStep& step, const Sample& begin, const Sample& middle, const Sample& end) {
        const double sixth = (step.end - step.begin) / 6.0;
        for (std::size_t g = 0; g < groups_.size(); ++g) {
            record_.parts[g].integral += sixth * (mean_of(begin, g) + 4.0 * mean_of(middle, g) + mean_of(end, g));
        }
        for (std::size_t n = 0; n < sensors_.size(); ++n) record_.sensors[n].integral += sixth * (begin.sensors[n] + 4.0 * middle.sensors[n] + end.sensors[n]);
        for (std::size_t t = 0; t < model_.thermostats.size(); ++t) {
            if (step.on[t]) record_.on_time[t] += step.end - step.begin;
            for (std::size_t p = 0; p < model_.powers.size(); ++p) {
                const std::vector<std::string>& names = model_.thermostats[t].switches;
                if (std::find(names.begin(), names.end(), display_name(model_.powers[p])) == names.end()) continue;
                record_.on_energy[t] += mesh_->multiplicity * sixth * (begin.flows.loads[p] + 4.0 * middle.flows.loads[p] + end.flows.loads[p]);
            }
        }
    }

    double mean_of(const Sample& s, std::size_t group) const {
        double sum = 0.0, volume = 0.0;
        for (const Index b : groups_[group].bodies) {
            sum += mesh_->bodies[b].volume * s.bodies.mean[b];
            volume += mesh_->bodies[b].volume;
        }
        return sum / volume;
    }

    /// Times at which rows are asked for join the samples of a step, so that rows come in their order.
    void add_asked(const TimeStep& step, std::vector<Sample>& samples) {
        if (!study_.history_every) return;
        double& next = record_.next_row;
        while (next <= step.begin) next += *study_.history_every;
        for (; next < step.end; next += *study_.history_every) samples.push_back(sample(step, next));
        std::sort(samples.begin(), samples.end(), [](const Sample& a, const Sample& b) { return a.time < b.time; });
    }

    void add_row(const TimeStep& step, const Sample& s) {
        std::vector<double> row;
        for (const PartGroup& group : groups_) {
            double low = infinity, high = -infinity;
            for (const Index b : group.bodies) {
                low = std::min(low, s.bodies.coldest[b].temperature);
                high = std::max(high, s.bodies.hottest[b].temperature);
            }
            const std::size_t g = static_cast<std::size_t>(&group - groups_.data());
            row.insert(row.end(), {low - zero_celsius, mean_of(s, g) - zero_celsius, high - zero_celsius});
        }
        for (std::size_t g = 0; g < groups_.size(); ++g) {
            if (melting_[g]) row.push_back(s.melted[g]);
        }
        for (const double t : s.sensors) row.push_back(t - zero_celsius);
        const double times = mesh_->multiplicity;
        for (const double w : s.flows.loads) row.push_back(times * w);
        for (std::size_t c = 0; c < s.flows.convection.size(); ++c) row.push_back(times * (s.flows.convection[c] + s.flows.radiation[c]));
        for (const double w : s.flows.holds) row.push_back(times * w);
        row.push_back(times * s.flows.net());
        for (std::size_t t = 0; t < model_.thermostats.size(); ++t) row.push_back(step.on[t] ? 1.0 : 0.0);
        record_.history.time.push_back(s.time);
        record_.history.rows.push_back(std::move(row));
    }

    /// A limit is decided when it has been missed, when it holds again after it did not, or when temperatures tend to where it holds.
    bool all_decided(const TimeStep& step) const {
        Sample tends;
        if (!step.projected.empty()) {
            const Network& network = step.network(step.end);
            tends.bodies = extremes_.of(step.reference, step.projected, patch_temperatures(*mesh_, network, step.reference, step.projected),
                                        contact_temperatures(contacts_, *mesh_, network, step.reference, step.projected));
            const RiseOf of = [&](Index i) { return step.projected[i]; };
            for (const Probe& probe : probes_) tends.sensors.push_back(probe.read(network, step.reference, of));
            judge(tends);
        }
        for (std::size_t l = 0; l < subjects_.size(); ++l) {
            const TimeRecord::LimitTrack& track = record_.limits[l];
            const bool missed = !track.started_beyond && (track.was_beyond || !track.beyond.empty());
            const bool back = track.started_beyond && !track.was_beyond;
            const bool rests = !tends.limits.empty() && (tends.limits[l] <= 0.0) == !track.was_beyond;
            if (step.end < subjects_[l].limit->after || !(missed || back || rests)) return false;
        }
        return true;
    }

    static double margin_of(const Subject& subject, const TimeRecord::LimitTrack& track) {
        return subject.upper ? subject.value - track.worst.spot.temperature : track.worst.spot.temperature - subject.value;
    }

    void tell_limits(TimeFindings& out) const {
        for (std::size_t l = 0; l < subjects_.size(); ++l) {
            const Subject& subject = subjects_[l];
            const TimeRecord::LimitTrack& track = record_.limits[l];
            LimitOverTime row{.subject = subject.name, .upper = subject.upper, .limit = subject.value, .after = subject.limit->after, .beyond = track.beyond,
                              .worst = track.worst, .beyond_at_end = track.was_beyond};
            if (track.was_beyond) row.beyond.push_back({track.beyond_since, record_.time});
            if (!row.beyond.empty()) row.first_crossing = row.beyond.front().from;
            if (!row.beyond.empty() && !track.was_beyond) row.met_from = row.beyond.back().to;
            if (!track.judged) {
                out.warnings.push_back({"limit_not_judged", fmt::format("the limit on {} counts only after {}, which the study does not reach", in_quotes(subject.name),
                                                                         show_quantity(row.after, kinds::time))});
                continue;
            }
            row.margin = margin_of(subject, track);
            out.limits.push_back(std::move(row));
        }
    }

    /// What melts at one temperature does so over a range here.
    void tell_melting(TimeFindings& out) const {
        std::vector<std::string> told;
        for (const PartGroup& group : groups_) {
            const Material& material = *find_material(model_.materials, model_.parts[group.part].material);
            if (!material.melting || material.melting->to > material.melting->from || std::find(told.begin(), told.end(), material.name) != told.end()) continue;
            told.push_back(material.name);
            const Melting range = melting_range(*material.melting, study_.tolerance);
            out.warnings.push_back({"melts_at_one_temperature", fmt::format("{} melts at one temperature, {}; it was let melt over {} around that, a fifth of the study's tolerance",
                                                                            material.name, show_celsius(material.melting->from), show_quantity(range.to - range.from, kinds::temperature_difference, 2))});
        }
    }

    void tell_parts(TimeFindings& out) const {
        const double length = record_.time;
        for (std::size_t g = 0; g < groups_.size(); ++g) {
            const TimeRecord::PartTrack& track = record_.parts[g];
            PartOverTime row{.name = model_.parts[groups_[g].part].name, .coldest = track.coldest, .hottest = track.hottest, .mean = track.integral / length,
                             .melted_end = {}, .melted_most = {}};
            if (out.parts.empty() || row.hottest.spot.temperature > out.hottest.spot.temperature) out.hottest = row.hottest;
            for (const PartFinding& part : out.end.parts) {
                if (part.name != row.name) continue;
                row.end_min = part.coldest.temperature;
                row.end_mean = part.mean;
                row.end_max = part.hottest.temperature;
            }
            if (melting_[g]) {
                row.melted_most = track.melted_most;
                row.melted_end = track.melted_last;
            }
            out.parts.push_back(std::move(row));
        }
    }

    void tell_sensors(TimeFindings& out) const {
        for (std::size_t n = 0; n < sensors_.size(); ++n) {
            const Sensor& sensor = model_.sensors[sensors_[n]];
            const TimeRecord::SensorTrack& track = record_.sensors[n];
            out.sensors.push_back({sensor.name, sensor.in, track.lowest, track.highest, track.integral / record_.time, out.end.sensors[n].temperature, track.lowest_time,
                                   track.highest_time});
        }
    }

    void tell_thermostats(TimeFindings& out, const TransientSolution& solution) const {
        for (std::size_t t = 0; t < model_.thermostats.size(); ++t) {
            if (!counts_in(model_.thermostats[t].studies, study_) || study_.kind != StudyKind::transient) continue;
            ThermostatFinding row{.name = model_.thermostats[t].name, .switchings = {}, .on_time = record_.on_time[t], .duty = record_.on_time[t] / record_.time, .period = {},
                                  .energy = record_.on_energy[t]};
            for (const Switching& s : solution.switchings) {
                if (s.thermostat == t) row.switchings.push_back(s);
            }
            // Whole periods at the end: from one switching to the same one later.
            const std::size_t count = row.switchings.size();
            if (const std::size_t periods = std::min<std::size_t>((std::max<std::size_t>(count, 1) - 1) / 2, 10); periods > 0) {
                const std::size_t first = count - 1 - 2 * periods;
                const double length = row.switchings.back().time - row.switchings[first].time;
                row.period = length / static_cast<double>(periods);
                double on = 0.0;
                for (std::size_t i = first; i + 1 < count; ++i) {
                    if (row.switchings[i].on) on += row.switchings[i + 1].time - row.switchings[i].time;
                }
                row.duty = on / length;
            }
            out.thermostats.push_back(std::move(row));
        }
    }

    const Model& model_;
    std::shared_ptr<const Mesh> mesh_;
    const Study& study_;
    Extremes extremes_;
    ContactReader contacts_;
    std::vector<PartGroup> groups_;
    std::vector<std::size_t> sensors_;  // in the model
    std::vector<Probe> probes_;
    std::vector<Subject> subjects_;
    std::vector<std::shared_ptr<const HeatContent>> melting_;  // per part
    std::vector<std::size_t> group_of_body_;
    bool melts_ = false;
    TimeRecord record_;
    std::optional<Sample> before_;  // at the end of the last step
};

namespace {

/// K per cell at the beginning of a study in time.
std::vector<double> start_of(const Model& model, const std::shared_ptr<const Mesh>& mesh, const Study& study) {
    if (study.start.study.empty()) return start_temperatures(model, *mesh, study);
    if (!study.start.results.empty()) throw ModelError("study", fmt::format("study {} starts from a results folder: read its temperatures and call solve_transient()", in_quotes(study.name)));
    const auto before = std::find_if(model.studies.begin(), model.studies.end(), [&](const Study& s) { return s.name == study.start.study; });
    if (before == model.studies.end()) throw ModelError("study", fmt::format("study {} starts from {}, which is not there", in_quotes(study.name), in_quotes(study.start.study)));
    if (before->kind == StudyKind::steady) return solve_steady(model, mesh, *before).temperature;
    TransientOptions options;
    options.time_constant = false;
    const std::vector<double> start = start_of(model, mesh, *before);
    return (before->kind == StudyKind::cyclic ? solve_cyclic(model, mesh, *before, start, options) : solve_transient(model, mesh, *before, start, options)).end.temperature;
}

}  // namespace

TimeFindings solve_over_time(const Model& model, const Study& study, std::shared_ptr<const Mesh> mesh, const std::function<bool(const TimeProgress&)>& progress) {
    if (!mesh) mesh = std::make_shared<const Mesh>(build_mesh(meshed_for(model, study)));
    HistoryRecorder recorder(model, mesh, study);
    TransientOptions options;
    options.observe = [&](const TimeStep& step) { return recorder(step); };
    options.progress = progress;
    const std::vector<double> start = start_of(model, mesh, study);
    return recorder.findings(study.kind == StudyKind::cyclic ? solve_cyclic(model, mesh, study, start, options) : solve_transient(model, mesh, study, start, options));
}

Explanation solve_and_explain(const Model& model, const Study& study, ExplainOptions what, const std::function<bool(const TimeProgress&)>& progress) {
    const auto mesh = std::make_shared<const Mesh>(build_mesh(meshed_for(model, study)));
    const bool named = !what.part.empty() || !what.sensor.empty();
    if (study.kind == StudyKind::steady) {
        const SteadySolution solution = solve_steady(model, mesh, study, {.progress = what.progress});
        if (!named) {
            const ProgressCallback shown = what.progress;
            what = tightest(firnfield::findings(model, solution));
            what.progress = shown;
        }
        return explain(model, solution, what);
    }
    HistoryRecorder recorder(model, mesh, study);
    PeakCatcher peak(recorder, what);
    TransientOptions options;
    options.progress = progress;
    options.time_constant = false;
    options.observe = [&](const TimeStep& step) {
        const bool go_on = recorder(step);
        peak.see(step);
        return go_on;
    };
    const std::vector<double> start = start_of(model, mesh, study);
    static_cast<void>(study.kind == StudyKind::cyclic ? solve_cyclic(model, mesh, study, start, options) : solve_transient(model, mesh, study, start, options));
    Moments moments(model, mesh, study);
    const std::optional<SteadySolution> at = peak.solution(moments);
    if (!at) {
        std::vector<std::string> names;
        for (const Part& part : model.parts) names.push_back(part.name);
        for (const Sensor& sensor : model.sensors) names.push_back(sensor.name);
        throw ModelError("part", fmt::format("a study in time is explained for a part with all its copies, or a sensor; {} is neither: there are {}", in_quotes(named ? what.part + what.sensor : "nothing"),
                                             quoted_list(names, 20)));
    }
    return explain(model, *at, peak.what());
}

HistoryRecorder::HistoryRecorder(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study) : work_(std::make_unique<Work>(model, std::move(mesh), study)) {}
HistoryRecorder::~HistoryRecorder() = default;
bool HistoryRecorder::operator()(const TimeStep& step) { return work_->watch(step); }
const TimeRecord& HistoryRecorder::put_aside() { return work_->put_aside(); }
void HistoryRecorder::resume(TimeRecord record) { work_->resume(std::move(record)); }
TimeFindings HistoryRecorder::findings(const TransientSolution& solution) const { return work_->findings(solution); }
std::optional<WorstMoment> HistoryRecorder::worst(const ExplainOptions& what) const { return work_->worst(what); }

void PeakCatcher::see(const TimeStep& step) {
    const std::optional<WorstMoment> worst = recorder_.worst(what_);
    if (!worst || (worst_ && worst->margin >= worst_->margin) || worst->time < step.begin) return;
    worst_ = worst;
    reference_ = step.reference;
    rise_ = step.rises(std::min(worst->time, step.end));
    on_ = step.on;
}

std::optional<SteadySolution> PeakCatcher::solution(Moments& moments) const {
    if (!worst_ || recorder_.worst(what_)->time != worst_->time) return std::nullopt;
    return moments.at(worst_->time, reference_, rise_, on_);
}

}  // namespace firnfield
