// When thermostats switch within a step.

#include "study/thermostats.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {

Thermostats::Thermostats(const Model& model, const Mesh& mesh, const Network& network, const Study& study)
    : model_(model), contacts_(model, mesh), on_(model.thermostats.size(), true), since_(model.thermostats.size(), -std::numeric_limits<double>::infinity()) {
    for (const Thermostat& thermostat : model.thermostats) {
        probes_.emplace_back();
        if (study.kind != StudyKind::transient || !counts_in(thermostat.studies, study)) continue;
        const std::vector<Sensor> sensors = sensors_of(model);
        const auto sensor = std::find_if(sensors.begin(), sensors.end(), [&](const Sensor& s) { return s.name == thermostat.sensor; });
        probes_.back().emplace(model, mesh, network, contacts_, sensor->in, sensor->at, fmt::format("sensor[{}].at", sensor - sensors.begin()));
    }
}

void Thermostats::begin(const Network& network, const NodeTemperatures& nodes) {
    for (std::size_t t = 0; t < on_.size(); ++t) {
        if (!probes_[t]) continue;
        const Thermostat& thermostat = model_.thermostats[t];
        const double reads = probes_[t]->read(network, nodes);
        const bool between = reads > thermostat.lower && reads < thermostat.upper;
        on_[t] = between ? thermostat.starts_on.value_or(false) : thermostat.cools ? reads >= thermostat.upper : reads <= thermostat.lower;
    }
}

void Thermostats::resume(std::vector<bool> on, std::vector<double> since) {
    on_ = std::move(on);
    since_ = std::move(since);
}

double Thermostats::reading(std::size_t t, const TimeStep& step, double time) const {
    return probes_[t]->read(step.network(time), {step.reference, [&](Index i) { return step.rise(i, time); }});
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
