// What is read of a run in time at one time.

#include "findings/gauges.hpp"

#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "findings/error_reader.hpp"
#include "findings/figures.hpp"
#include "findings/readings.hpp"
#include "model/bodies.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {

Gauges::Gauges(const Model& the_model, std::shared_ptr<const Mesh> its_mesh, const Study& the_study, std::shared_ptr<const Network> network)
    : model(the_model),
      mesh(std::move(its_mesh)),
      study(the_study),
      groups(group_parts(*mesh)),
      joints(group_joints(model, *mesh)),
      acting_(acting_in(model, study)),
      extremes_(*mesh),
      contacts_(model, *mesh) {
    const std::vector<Sensor> all = sensors_of(model);
    for (std::size_t s = 0; s < all.size(); ++s) {
        const Sensor& sensor = all[s];
        if (picks_only_left_out(model, {&sensor.in, 1})) continue;
        sensors.push_back(sensor);
        if (!network) network = std::make_shared<const Network>(build_network(model, *mesh, study));
        const std::string address = fmt::format("sensor[{}].at", s);
        probes_.emplace_back(model, *mesh, *network, contacts_, sensor.in, sensor.at, address);
        sensor_cells_.push_back(find_node(model, sensor.in) ? no_index : cell_at_point(model, *mesh, sensor.in, sensor.at, address));
    }
    find_figures();
    find_subjects();
    find_melting();
}

void Gauges::find_figures() {
    std::vector<std::string> names;
    for (const Sensor& sensor : sensors) names.push_back(sensor.name);
    named.emplace(model, *mesh, study, names);
    for (std::size_t f = 0; f < named->figures().size(); ++f) {
        if (const std::string why = named->remark(f); !why.empty())
            not_told.push_back({"figure_not_told", fmt::format("figure {} is not told: {}", in_quotes(named->figures()[f].name), why)});
    }
}

void Gauges::find_subjects() {
    for (const Limit& limit : model.limits) {
        if (!counts_in(limit.studies, study)) continue;
        add_subjects(limit.part, limit.sensor, limit.figure, [&](LimitSubject subject) {
            for (const bool upper : {true, false}) {
                const std::optional<Threshold>& value = upper ? limit.below : limit.above;
                if (!value) continue;
                subject.upper = subject.hottest = upper;
                subject.after = limit.after;
                subject.value = *value;
                subject.quantity = value->kind;
                subjects.push_back(subject);
            }
        });
    }
    for (const Milestone& milestone : model.milestones) {
        if (!counts_in(milestone.studies, study)) continue;
        add_subjects(milestone.part, milestone.sensor, milestone.figure, [&](LimitSubject subject) {
            subject.role = LimitSubject::Role::milestone;
            subject.milestone = &milestone;
            subject.upper = milestone.rises_above.has_value();
            subject.hottest = !milestone.coldest.value_or(false);
            const Threshold& held = subject.upper ? *milestone.rises_above : *milestone.falls_below;
            subject.value = held;
            subject.quantity = held.kind;
            subjects.push_back(std::move(subject));
        });
    }
    for (const RunTerm& term : named->run_terms()) {
        passings.emplace_back();
        if (!term.passed || !named->missing(*term.figure).empty()) continue;
        passings.back() = subjects.size();
        subjects.push_back({.role = LimitSubject::Role::asked,
                            .upper = term.above,
                            .value = *term.passed,
                            .quantity = named->figures()[*term.figure].quantity,
                            .figure = term.figure});
    }
}

/// Once for the sensor or the figure, or for each part that is meant.
void Gauges::add_subjects(const std::string& part, const std::string& sensor, const std::string& figure, const std::function<void(LimitSubject)>& add) const {
    if (!figure.empty()) {
        LimitSubject subject;
        subject.name = figure;
        subject.figure = named->index_of(figure);
        if (named->missing(*subject.figure).empty()) add(std::move(subject));
        return;
    }
    if (!sensor.empty()) {
        for (std::size_t s = 0; s < sensors.size(); ++s) {
            LimitSubject subject;
            subject.name = sensors[s].name;
            subject.sensor = s;
            if (matches_wildcard(sensor, sensors[s].name)) add(std::move(subject));
        }
        return;
    }
    for (const PartGroup& group : groups) {
        LimitSubject subject;
        bool single = false;
        for (const Index b : group.bodies) {
            if (!picks(part, mesh->bodies[b].name, model.parts[group.part].name)) continue;
            subject.bodies.push_back(b);
            single = single || mesh->bodies[b].name == part;
        }
        subject.name = single ? part : model.parts[group.part].name;
        if (!subject.bodies.empty()) add(std::move(subject));
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

namespace {

/// Straight from the beginning of a step to its end.
ReadingError between(const StepErrors& errors, std::size_t i, double share) {
    const ReadingError &from = errors.begin[i], &to = errors.end[i];
    return {from.added + share * (to.added - from.added), from.open + share * (to.open - from.open)};
}

ReadingErrors between(const StepErrors& errors, double share) {
    ReadingErrors out(errors.end.size());
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = between(errors, i, share);
    return out;
}

double share_of(const TimeStep& step, double time) { return std::clamp((time - step.begin) / (step.end - step.begin), 0.0, 1.0); }

}  // namespace

Sample Gauges::sample(const TimeStep& step, double time, const StepErrors& errors, const PossibleRange& range) const {
    if (std::optional<Sample> reduced = reduced_sample(step, time)) return *std::move(reduced);
    Sample out;
    out.time = time;
    const std::vector<double> rise = step.rises(time);
    const NodeTemperatures nodes{step.reference, rise};
    const Network& network = step.network(time);
    const Surfaces surfaces = read_temperatures(network, nodes, out);
    out.flows = heat_flows(network, nodes);
    const PairReadings pairs = read_pairs(*mesh, network, nodes, surfaces.contacts);
    for (const JointGroup& group : joints) {
        double sum = 0.0;
        for (std::size_t i = 0; i < group.pairs.size(); ++i) sum += (group.swapped[i] ? -1.0 : 1.0) * mesh->multiplicity * pairs.flow[group.pairs[i]];
        out.joint_flows.push_back(sum);
    }
    if (melts) out.melted = melted(nodes);
    correct(out, between(errors, share_of(step, time)), range);
    read_figures(network, nodes, surfaces, out);
    judge(out);
    return out;
}

Sample Gauges::tendency(const TimeStep& step, const StepErrors& errors, const PossibleRange& range) const {
    Sample out;
    if (step.projected.empty()) return out;
    const NodeTemperatures nodes{step.reference, step.projected};
    const Surfaces surfaces = read_temperatures(step.network(step.end), nodes, out);
    if (!named->figures().empty()) out.flows = heat_flows(step.network(step.end), nodes);
    correct(out, errors.end, range);
    read_figures(step.network(step.end), nodes, surfaces, out);
    judge(out);
    return out;
}

Gauges::Surfaces Gauges::read_temperatures(const Network& network, const NodeTemperatures& nodes, Sample& out) const {
    Surfaces surfaces{patch_temperatures(*mesh, network, nodes), contact_temperatures(contacts_, *mesh, network, nodes)};
    out.bodies = extremes_.of(nodes, surfaces.patches, surfaces.contacts);
    const NodeReading reading = nodes;
    for (const Probe& probe : probes_) out.sensors.push_back(probe.read(network, reading));
    return surfaces;
}

void Gauges::read_figures(const Network& network, const NodeTemperatures& nodes, const Surfaces& surfaces, Sample& out) const {
    if (named->figures().empty()) return;
    HeatFlows whole;
    whole.add(mesh->multiplicity, out.flows);
    const std::vector<double> terms = named->read({.network = network,
                                                   .nodes = nodes,
                                                   .bodies = out.bodies,
                                                   .sensors = out.sensors,
                                                   .flows = whole,
                                                   .patch_temperature = surfaces.patches,
                                                   .contacts = surfaces.contacts});
    out.figures = named->combine(terms);
    // What the mesh leaves open of each term alone, one after the other; and all that was added to them taken away again.
    constexpr double unknown = std::numeric_limits<double>::quiet_NaN();
    out.figure_errors.assign(out.figures.size(), {0.0, out.errors.empty() ? unknown : 0.0});
    if (out.errors.empty()) return;
    std::vector<double> solved = terms;
    for (std::size_t t = 0; t < terms.size(); ++t) {
        const std::optional<ReadingError> error = term_error(named->terms()[t], out);
        std::vector<double> moved = terms;
        moved[t] = error ? terms[t] + error->open : unknown;
        if (error) solved[t] -= error->added;
        const std::vector<double> others = named->combine(moved);
        for (std::size_t f = 0; f < others.size(); ++f) out.figure_errors[f].open += std::abs(others[f] - out.figures[f]);
    }
    const std::vector<double> before = named->combine(solved);
    for (std::size_t f = 0; f < before.size(); ++f) {
        const double added = out.figures[f] - before[f];
        out.figure_errors[f].added = std::isfinite(added) ? added : 0.0;
    }
}

/// Nothing for what is not corrected: surfaces, flows, fluxes and shares.
std::optional<ReadingError> Gauges::term_error(const NamedFigures::Bound& term, const Sample& sample) const {
    if (!term.missing.empty()) return std::nullopt;
    const TermWhat what = term.info->what;
    if (what == TermWhat::mass) return ReadingError{};
    if (term.info->of == TermOf::part && what != TermWhat::max && what != TermWhat::min && what != TermWhat::mean) return std::nullopt;
    if (term.info->of == TermOf::part && what != TermWhat::mean)
        return sample.errors[error_index(what == TermWhat::max ? ReadingOf::hottest : ReadingOf::coldest, named->body_of(term, sample.bodies))];
    if (term.info->of == TermOf::sensor && what != TermWhat::mean) {
        const auto counts = [&](std::size_t a, std::size_t b) {
            return what == TermWhat::min ? sample.sensors[a] > sample.sensors[b] : sample.sensors[a] < sample.sensors[b];
        };
        return sample.errors[error_index(ReadingOf::sensor, *std::max_element(term.entries.begin(), term.entries.end(), counts))];
    }
    if (term.info->of != TermOf::part && term.info->of != TermOf::sensor) return std::nullopt;
    ReadingError sum;
    double weights = 0.0;
    const auto add = [&](const ReadingError& error, double weight) {
        sum.added += weight * error.added;
        sum.open += weight * error.open;
        weights += weight;
    };
    for (const Index b : term.bodies) add(sample.errors[error_index(ReadingOf::mean, b)], mesh->bodies[b].volume);
    for (const std::size_t s : term.entries) add(sample.errors[error_index(ReadingOf::sensor, s)], 1.0);
    return ReadingError{sum.added / weights, sum.open / weights};
}

ReadingErrors Gauges::errors_at(const TimeStep& step, double time, const MeshErrors& found) const {
    const Network& network = step.network(time);
    const std::span<const double> rise = time == step.end ? step.rise_end : step.rise_begin;
    Sample read;
    read_temperatures(network, {step.reference, rise}, read);
    const auto readings = [&](const Defects& defects) {
        const ErrorReader reader(*mesh, network, rise, defects);
        std::vector<double> out(error_index(ReadingOf::sensor, sensors.size()), 0.0);
        for (Index cell = 0; cell < mesh->cells.size(); ++cell)
            out[error_index(ReadingOf::mean, mesh->cells.body[cell])] += mesh->cells.volume[cell] * defects.of_node(cell);
        for (std::size_t b = 0; b < mesh->bodies.size(); ++b) {
            out[error_index(ReadingOf::coldest, b)] = reader.of_extreme(read.bodies.coldest_place[b], false);
            out[error_index(ReadingOf::hottest, b)] = reader.of_extreme(read.bodies.hottest_place[b], true);
            out[error_index(ReadingOf::mean, b)] /= mesh->bodies[b].volume;
        }
        for (std::size_t s = 0; s < sensors.size(); ++s)
            out[error_index(ReadingOf::sensor, s)] = defects.of_reading(probes_[s].readout(), sensor_cells_[s], sensors[s].at);
        return out;
    };
    const std::vector<double> first = readings(found.first()), second = readings(found.second());
    ReadingErrors out(second.size());
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = {second[i], left_open(second[i] - first[i], second[i])};
    const ErrorReader reader(*mesh, network, rise, found.second());
    for (std::size_t b = 0; b < mesh->bodies.size(); ++b) {
        out[error_index(ReadingOf::coldest, b)].open += std::abs(reader.doubt_in_extreme(read.bodies.coldest_place[b], false));
        out[error_index(ReadingOf::hottest, b)].open += std::abs(reader.doubt_in_extreme(read.bodies.hottest_place[b], true));
    }
    return out;
}

/// As findings of a steady solution are: the place that was found, by what is off there.
void Gauges::correct(Sample& sample, ReadingErrors errors, const PossibleRange& range) const {
    sample.errors = std::move(errors);
    if (sample.errors.empty()) return;
    for (std::size_t b = 0; b < mesh->bodies.size(); ++b) {
        double &cold = sample.bodies.coldest[b].temperature, &hot = sample.bodies.hottest[b].temperature;
        hot = range.moved_into(hot + sample.errors[error_index(ReadingOf::hottest, b)].added);
        cold = std::min(hot, range.moved_into(cold + sample.errors[error_index(ReadingOf::coldest, b)].added));
        sample.bodies.mean[b] = std::clamp(sample.bodies.mean[b] + sample.errors[error_index(ReadingOf::mean, b)].added, cold, hot);
    }
    for (std::size_t s = 0; s < sensors.size(); ++s)
        sample.sensors[s] = range.moved_into(sample.sensors[s] + sample.errors[error_index(ReadingOf::sensor, s)].added);
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
        if (subject.figure) {
            // What is not defined passes nothing.
            const double found = out.figures[*subject.figure];
            out.limits.push_back(std::isfinite(found) ? subject.beyond(found) : -std::numeric_limits<double>::infinity());
            out.limit_spots.push_back({.temperature = found, .body = subject.name, .lumped = true});
            out.limit_errors.push_back(out.figure_errors[*subject.figure]);
            continue;
        }
        Spot spot;
        std::size_t read = 0;  // of out.errors
        if (subject.sensor) {
            read = error_index(ReadingOf::sensor, *subject.sensor);
            const Sensor& sensor = sensors[*subject.sensor];
            spot = {out.sensors[*subject.sensor], sensor.at, sensor.in, find_node(model, sensor.in).has_value()};
        } else {
            const std::vector<Spot>& spots = subject.hottest ? out.bodies.hottest : out.bodies.coldest;
            Index worst = subject.bodies.front();
            for (const Index b : subject.bodies) {
                const double further = spots[b].temperature - spots[worst].temperature;
                if (subject.hottest ? further > 0.0 : further < 0.0) worst = b;
            }
            spot = spots[worst];
            read = error_index(subject.hottest ? ReadingOf::hottest : ReadingOf::coldest, worst);
        }
        out.limits.push_back(subject.beyond(spot.temperature));
        out.limit_spots.push_back(spot);
        out.limit_errors.push_back(out.errors.empty() ? ReadingError{} : out.errors[read]);
    }
}

double Gauges::beyond_limit(const TimeStep& step, std::size_t limit, double time, const StepErrors& errors, const PossibleRange& range) const {
    const LimitSubject& subject = subjects[limit];
    if (!subject.sensor) return sample(step, time, errors, range).limits[limit];
    double reads = probes_[*subject.sensor].read(step.network(time), {step.reference, [&](Index i) { return step.rise(i, time); }});
    if (!errors.end.empty()) reads = range.moved_into(reads + between(errors, error_index(ReadingOf::sensor, *subject.sensor), share_of(step, time)).added);
    return subject.beyond(reads);
}

PossibleRange possible_range(const TimeRecord& record) {
    PossibleRange out;
    if (!record.cooled) out.lowest = record.lowest_known;
    if (!record.heated) out.highest = record.highest_known;
    return out;
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
    for (std::size_t f = 0; f < named->figures().size(); ++f) {
        const FigureForm& form = named->figures()[f];
        if (named->of_moments(f)) columns.push_back(fmt::format("{} ({})", form.name, form.quantity->unit));
    }
    for (std::size_t p = 0; p < model.powers.size(); ++p) {
        if (acting_.powers[p]) columns.push_back(fmt::format("{} in (W)", display_name(model.powers[p])));
    }
    for (std::size_t c = 0; c < model.coolings.size(); ++c) {
        if (acting_.coolings[c]) columns.push_back(fmt::format("{} out (W)", display_name(model.coolings[c], c)));
    }
    for (std::size_t h = 0; h < model.holds.size(); ++h) {
        if (acting_.holds[h]) columns.push_back(fmt::format("{} out (W)", display_name(model.holds[h], h)));
    }
    for (const Resistor& r : model.resistors) columns.push_back(fmt::format("{} out (W)", display_name(r)));
    for (const JointGroup& group : joints) columns.push_back(fmt::format("{} flow (W)", figure_name(JointFinding{name_joint(model, group)})));
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
    for (std::size_t f = 0; f < s.figures.size(); ++f) {
        if (named->of_moments(f)) row.push_back(named->figures()[f].quantity->out(s.figures[f]));
    }
    const double times = mesh->multiplicity;
    for (std::size_t p = 0; p < s.flows.loads.size(); ++p) {
        if (acting_.powers[p]) row.push_back(times * s.flows.loads[p]);
    }
    for (std::size_t c = 0; c < s.flows.convection.size(); ++c) {
        if (acting_.coolings[c]) row.push_back(times * (s.flows.convection[c] + s.flows.radiation[c]));
    }
    for (std::size_t h = 0; h < s.flows.holds.size(); ++h) {
        if (acting_.holds[h]) row.push_back(times * s.flows.holds[h]);
    }
    for (const double w : s.flows.resistors) row.push_back(times * w);
    row.insert(row.end(), s.joint_flows.begin(), s.joint_flows.end());
    row.push_back(times * s.flows.net());
    for (std::size_t t = 0; t < model.thermostats.size(); ++t) row.push_back(on[t] ? 1.0 : 0.0);
    return row;
}

}  // namespace firnfield
