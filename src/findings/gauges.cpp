// What is read of a run in time at one time.

#include "findings/gauges.hpp"

#include <firnfield/quantity.hpp>

#include "model/bodies.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <limits>

namespace firnfield {

Gauges::Gauges(const Model& the_model, std::shared_ptr<const Mesh> its_mesh, const Study& the_study, std::shared_ptr<const Network> network)
    : model(the_model), mesh(std::move(its_mesh)), study(the_study), groups(group_parts(*mesh)), extremes_(*mesh), contacts_(model, *mesh) {
    const std::vector<Sensor> all = sensors_of(model);
    for (std::size_t s = 0; s < all.size(); ++s) {
        const Sensor& sensor = all[s];
        if (picks_only_left_out(model, {&sensor.in, 1})) continue;
        sensors.push_back(sensor);
        if (!network) network = std::make_shared<const Network>(build_network(model, *mesh, study));
        probes_.emplace_back(model, *mesh, *network, contacts_, sensor.in, sensor.at, fmt::format("sensor[{}].at", s));
    }
    find_subjects();
    find_melting();
}

void Gauges::find_subjects() {
    for (const Limit& limit : model.limits) {
        if (!counts_in(limit.studies, study)) continue;
        const auto add = [&](LimitSubject subject) {
            subject.limit = &limit;
            for (const bool upper : {true, false}) {
                const std::optional<double>& value = upper ? limit.below : limit.above;
                if (!value) continue;
                subject.upper = upper;
                subject.value = *value;
                subjects.push_back(subject);
            }
        };
        if (!limit.sensor.empty()) {
            for (std::size_t s = 0; s < sensors.size(); ++s) {
                if (sensors[s].name == limit.sensor) add({.name = limit.sensor, .bodies = {}, .sensor = s});
            }
            continue;
        }
        for (const PartGroup& group : groups) {
            LimitSubject subject;
            bool single = false;
            for (const Index b : group.bodies) {
                if (!picks(limit.part, mesh->bodies[b].name, model.parts[group.part].name)) continue;
                subject.bodies.push_back(b);
                single = single || mesh->bodies[b].name == limit.part;
            }
            subject.name = single ? limit.part : model.parts[group.part].name;
            if (!subject.bodies.empty()) add(std::move(subject));
        }
    }
}

void Gauges::find_melting() {
    for (const PartGroup& group : groups) {
        const Material& material = material_named(model, model.parts[group.part].material);
        melting.push_back(material.melting ? std::make_shared<const HeatContent>(material, study.tolerance) : nullptr);
    }
    melts = std::any_of(melting.begin(), melting.end(), [](const auto& m) { return m != nullptr; });
    if (!melts) return;
    group_of_body_.assign(mesh->bodies.size(), 0);
    for (std::size_t g = 0; g < groups.size(); ++g) {
        for (const Index b : groups[g].bodies) group_of_body_[b] = g;
    }
}

Sample Gauges::sample(const TimeStep& step, double time) const {
    Sample out;
    out.time = time;
    const std::vector<double> rise = step.rises(time);
    const NodeTemperatures nodes{step.reference, rise};
    read_temperatures(step.network(time), nodes, out);
    out.flows = heat_flows(step.network(time), nodes);
    if (melts) out.melted = melted(nodes);
    judge(out);
    return out;
}

Sample Gauges::tendency(const TimeStep& step) const {
    Sample out;
    if (step.projected.empty()) return out;
    read_temperatures(step.network(step.end), {step.reference, step.projected}, out);
    judge(out);
    return out;
}

void Gauges::read_temperatures(const Network& network, const NodeTemperatures& nodes, Sample& out) const {
    out.bodies = extremes_.of(nodes, patch_temperatures(*mesh, network, nodes), contact_temperatures(contacts_, *mesh, network, nodes));
    const NodeReading reading = nodes;
    for (const Probe& probe : probes_) out.sensors.push_back(probe.read(network, reading));
}

std::vector<double> Gauges::melted(const NodeTemperatures& nodes) const {
    std::vector<double> share(groups.size(), 0.0), volume(groups.size(), 0.0);
    for (Index i = 0; i < mesh->cells.size(); ++i) {
        const std::size_t g = group_of_body_[mesh->cells.body[i]];
        if (!melting[g]) continue;
        share[g] += mesh->cells.volume[i] * melting[g]->melted(nodes.at(i));
        volume[g] += mesh->cells.volume[i];
    }
    for (std::size_t g = 0; g < share.size(); ++g) share[g] = volume[g] > 0.0 ? share[g] / volume[g] : 0.0;
    return share;
}

void Gauges::judge(Sample& out) const {
    for (const LimitSubject& subject : subjects) {
        Spot spot;
        if (subject.sensor) {
            const Sensor& sensor = sensors[*subject.sensor];
            spot = {out.sensors[*subject.sensor], sensor.at, sensor.in, find_node(model, sensor.in).has_value()};
        } else {
            spot = subject.upper ? out.bodies.hottest[subject.bodies.front()] : out.bodies.coldest[subject.bodies.front()];
            for (const Index b : subject.bodies) {
                const Spot& other = subject.upper ? out.bodies.hottest[b] : out.bodies.coldest[b];
                if (subject.upper ? other.temperature > spot.temperature : other.temperature < spot.temperature) spot = other;
            }
        }
        out.limits.push_back(subject.beyond(spot.temperature));
        out.limit_spots.push_back(spot);
    }
}

double Gauges::beyond_limit(const TimeStep& step, std::size_t limit, double time) const {
    const LimitSubject& subject = subjects[limit];
    if (!subject.sensor) return sample(step, time).limits[limit];
    const double reads = probes_[*subject.sensor].read(step.network(time), {step.reference, [&](Index i) { return step.rise(i, time); }});
    return subject.beyond(reads);
}

double Gauges::mean_of(const Sample& s, std::size_t group) const {
    double sum = 0.0, volume = 0.0;
    for (const Index b : groups[group].bodies) {
        sum += mesh->bodies[b].volume * s.bodies.mean[b];
        volume += mesh->bodies[b].volume;
    }
    return sum / volume;
}

std::vector<std::string> Gauges::columns() const {
    std::vector<std::string> columns;
    for (const PartGroup& group : groups) {
        for (const std::string_view what : {"min", "mean", "max"}) columns.push_back(fmt::format("{} {} (degC)", model.parts[group.part].name, what));
    }
    for (std::size_t g = 0; g < groups.size(); ++g) {
        if (melting[g]) columns.push_back(fmt::format("{} melted (1)", model.parts[groups[g].part].name));
    }
    for (const Sensor& s : sensors) columns.push_back(fmt::format("{} (degC)", s.name));
    for (const Power& p : model.powers) columns.push_back(fmt::format("{} in (W)", display_name(p)));
    for (std::size_t c = 0; c < model.coolings.size(); ++c) columns.push_back(fmt::format("{} out (W)", display_name(model.coolings[c], c)));
    for (std::size_t h = 0; h < model.holds.size(); ++h) columns.push_back(fmt::format("{} out (W)", display_name(model.holds[h], h)));
    for (const Resistor& r : model.resistors) columns.push_back(fmt::format("{} out (W)", display_name(r)));
    columns.emplace_back("stored (W)");
    for (const Thermostat& t : model.thermostats) columns.push_back(fmt::format("{} on (1)", t.name));
    return columns;
}

std::vector<double> Gauges::row(const Sample& s, const std::vector<bool>& on) const {
    constexpr double infinity = std::numeric_limits<double>::infinity();
    std::vector<double> row;
    for (const PartGroup& group : groups) {
        double low = infinity, high = -infinity;
        for (const Index b : group.bodies) {
            low = std::min(low, s.bodies.coldest[b].temperature);
            high = std::max(high, s.bodies.hottest[b].temperature);
        }
        const std::size_t g = static_cast<std::size_t>(&group - groups.data());
        row.insert(row.end(), {low - zero_celsius, mean_of(s, g) - zero_celsius, high - zero_celsius});
    }
    for (std::size_t g = 0; g < groups.size(); ++g) {
        if (melting[g]) row.push_back(s.melted[g]);
    }
    for (const double t : s.sensors) row.push_back(t - zero_celsius);
    const double times = mesh->multiplicity;
    for (const double w : s.flows.loads) row.push_back(times * w);
    for (std::size_t c = 0; c < s.flows.convection.size(); ++c) row.push_back(times * (s.flows.convection[c] + s.flows.radiation[c]));
    for (const double w : s.flows.holds) row.push_back(times * w);
    for (const double w : s.flows.resistors) row.push_back(times * w);
    row.push_back(times * s.flows.net());
    for (std::size_t t = 0; t < model.thermostats.size(); ++t) row.push_back(on[t] ? 1.0 : 0.0);
    return row;
}

}  // namespace firnfield
