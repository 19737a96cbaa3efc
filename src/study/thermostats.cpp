// When thermostats switch within a step.

#include "study/thermostats.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {

Thermostats::Thermostats(const Model& model, const Mesh& mesh, const Network& network, const Study& study)
    : model_(model),
      contacts_(model, mesh),
      drifts_(model.thermostats.size()),
      on_(model.thermostats.size(), true),
      since_(model.thermostats.size(), -std::numeric_limits<double>::infinity()) {
    const Acting acting = acting_in(model, study);
    for (const Thermostat& thermostat : model.thermostats) {
        probes_.emplace_back();
        cells_.push_back(no_index);
        points_.emplace_back();
        if (!acting.thermostats[probes_.size() - 1]) continue;
        const std::vector<Sensor> sensors = sensors_of(model);
        const auto sensor = std::find_if(sensors.begin(), sensors.end(), [&](const Sensor& s) { return s.name == thermostat.sensor; });
        const std::string address = fmt::format("sensor[{}].at", sensor - sensors.begin());
        probes_.back().emplace(model, mesh, network, contacts_, sensor->in, sensor->at, address);
        if (!find_node(model, sensor->in)) cells_.back() = cell_at_point(model, mesh, sensor->in, sensor->at, address);
        points_.back() = sensor->at;
    }
}

void Thermostats::begin(const Network& network, const NodeReading& nodes) {
    for (std::size_t t = 0; t < on_.size(); ++t) {
        if (!probes_[t]) continue;
        const Thermostat& thermostat = model_.thermostats[t];
        const double reads = probes_[t]->read(network, nodes);
        const bool between = reads > thermostat.lower && reads < thermostat.upper;
        on_[t] = between ? thermostat.starts_on.value_or(false) : thermostat.cools ? reads >= thermostat.upper : reads <= thermostat.lower;
    }
}

void Thermostats::resume(std::vector<bool> on, std::vector<double> since, std::vector<ReadingDrift> drifts) {
    on_ = std::move(on);
    since_ = std::move(since);
    if (drifts.size() == drifts_.size()) drifts_ = std::move(drifts);
}

void Thermostats::take_errors(const MeshErrorMarch* errors, const TimeStep& step) {
    for (std::size_t t = 0; t < on_.size(); ++t) {
        if (!probes_[t]) continue;
        if (errors == nullptr) {
            drifts_[t] = {};
            continue;
        }
        const auto added = [&](const MeshErrors& found) { return found.second().of_reading(probes_[t]->readout(), cells_[t], points_[t]); };
        const double before = errors->beginning() != nullptr ? added(*errors->beginning()) : drifts_[t].added, now = added(*errors->end());
        drifts_[t] = {step.end, now, step.jump_at_end ? 0.0 : (now - before) / (step.end - step.begin)};
    }
}

/// A correction that jumps with what is switched must not switch it back: at most a quarter of the way between both temperatures.
double Thermostats::added(std::size_t t, double time) const {
    const double most = 0.25 * (model_.thermostats[t].upper - model_.thermostats[t].lower);
    return std::clamp(drifts_[t].added + drifts_[t].rate * (time - drifts_[t].time), -most, most);
}

double Thermostats::reading(std::size_t t, const TimeStep& step, double time) const {
    return probes_[t]->read(step.network(time), {step.reference, [&](Index i) { return step.rise(i, time); }}) + added(t, time);
}

std::optional<double> Thermostats::switch_time(std::size_t t, const TimeStep& step) const {
    const Thermostat& thermostat = model_.thermostats[t];
    const bool waits_for_upper = on_[t] != thermostat.cools;
    const double earliest = since_[t] + (on_[t] ? thermostat.least_on : thermostat.least_off);
    if (earliest > step.end) return std::nullopt;
    // Positive where it switches.
    const auto beyond = [&](double time) { return waits_for_upper ? reading(t, step, time) - thermostat.upper : thermostat.lower - reading(t, step, time); };
    double low = std::max(step.begin, earliest);
    if (earliest > step.begin && beyond(low) >= 0.0) return low;
    constexpr int pieces = 4;
    const double length = step.end - low;
    for (int n = 1; n <= pieces; ++n) {
        double high = n == pieces ? step.end : std::max(step.begin, earliest) + length * n / pieces;
        if (beyond(high) < 0.0) {
            low = high;
            continue;
        }
        // Halving, not secants: readings may bend at contacts and walls, and it costs next to nothing.
        constexpr int halvings = 52;
        for (int i = 0; i < halvings && low < high; ++i) {
            const double middle = 0.5 * (low + high);
            (beyond(middle) >= 0.0 ? high : low) = middle;
        }
        return high;
    }
    return std::nullopt;
}

std::vector<Switching> Thermostats::first_in(const TimeStep& step) const {
    std::vector<Switching> all;
    for (std::size_t t = 0; t < on_.size(); ++t) {
        if (!probes_[t]) continue;
        if (const auto time = switch_time(t, step)) all.push_back({*time, static_cast<Index>(t), !on_[t]});
    }
    const auto earlier = [](const Switching& a, const Switching& b) { return a.time < b.time; };
    const auto first = std::min_element(all.begin(), all.end(), earlier);
    if (first == all.end()) return all;
    // The same moment but for rounding, as of two at one sensor.
    const double moment = first->time, margin = 1e-9 * (step.end - step.begin);
    std::erase_if(all, [&](const Switching& s) { return s.time > moment + margin; });
    for (Switching& s : all) s.time = moment;
    return all;
}

void Thermostats::apply(const Switching& switching) {
    on_[switching.thermostat] = switching.on;
    since_[switching.thermostat] = switching.time;
}

}  // namespace firnfield
