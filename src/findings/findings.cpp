// Findings of a steady solution: reductions of its network over origins, verdicts and remarks.

#include <firnfield/findings.hpp>
#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "findings/extremes.hpp"
#include "findings/figure_errors.hpp"
#include "findings/figures.hpp"
#include "findings/grouping.hpp"
#include "findings/heat_flux.hpp"
#include "findings/named_figures.hpp"
#include "findings/readings.hpp"
#include "findings/remarks.hpp"
#include "model/bodies.hpp"
#include "model/lumped.hpp"
#include "network/probe.hpp"
#include "network/reduce.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <functional>
#include <limits>
#include <numeric>
#include <optional>

namespace firnfield {
namespace {

/// Reductions of a solution over parts, joints, surfaces and loads.
class Evaluation {
public:
    Evaluation(const Model& model, const SteadySolution& solution, const ErrorReader* error, bool doubted, const std::optional<PossibleRange>& range)
        : model_(model),
          solution_(solution),
          mesh_(*solution.mesh),
          network_(*solution.network),
          error_(error),
          doubted_(doubted),
          range_(range),
          groups_(group_parts(mesh_)),
          bodies_(Extremes(mesh_).of(solution.nodes(), solution.patch_temperature, solution.contacts)) {}

    Findings evaluate() {
        out_.title = model_.title;
        out_.study = solution_.study;
        out_.summary = solution_.summary;
        out_.cells = mesh_.cells.size();
        out_.layers = model_.mesh.layers;
        out_.multiplicity = mesh_.multiplicity;
        for (const Index p : network_.unclaimed) out_.unclaimed_area += mesh_.multiplicity * mesh_.patches.area[p];
        out_.warnings = model_warnings(model_, mesh_, network_);
        sum_heat();
        if (error_ != nullptr) correct_bodies();
        out_.hottest = bodies_.hottest_of_all();
        find_parts();
        find_sensors();
        find_named();
        find_limits();
        find_milestones();
        find_joints();
        find_resistors();
        close_ledger();
        // Once a solution: fluxes have no errors.
        if (!solution_.time && error_ == nullptr) out_.fluxes = highest_fluxes(model_, mesh_, heat_flux(solution_));
        add_remarks(model_, solution_, out_);
        drop_left_out();
        out_.figures = figures_of(out_);
        return std::move(out_);
    }

private:
    /// Loads, coolings and holds: one pass over the legs to the outside, booked to their origins.
    void sum_heat() {
        body_power_.assign(mesh_.bodies.size() + network_.nodes - mesh_.cells.size(), 0.0);
        out_.loads.resize(model_.powers.size());
        out_.coolings.resize(model_.coolings.size());
        out_.holds.resize(model_.holds.size());
        const double times = mesh_.multiplicity;
        flows_ = heat_flows(network_, solution_.nodes());
        for (std::size_t p = 0; p < out_.loads.size(); ++p) out_.loads[p].heat = times * flows_.loads[p];
        for (std::size_t h = 0; h < out_.holds.size(); ++h) out_.holds[h].flow = times * flows_.holds[h];
        for (std::size_t c = 0; c < out_.coolings.size(); ++c) {
            out_.coolings[c].convection = times * flows_.convection[c];
            out_.coolings[c].radiation = times * flows_.radiation[c];
        }
        reduce_outside(network_, solution_.nodes(), [&](const Leg& leg) {
            if (leg.channel == Channel::load) {
                body_power_[network_.owner[node_of(network_, leg.from)]] -= times * leg.heat;
                (leg.heat < 0.0 ? heated_ : cooled_) |= leg.heat != 0.0;
            } else if (leg.channel == Channel::convection) {
                out_.coolings[leg.origin.index].convection += times * heat_change(leg);
            } else if (leg.channel == Channel::radiation) {
                out_.coolings[leg.origin.index].radiation += times * heat_change(leg);
            } else if (leg.channel == Channel::hold) {
                out_.holds[leg.origin.index].flow += times * heat_change(leg);
            }
        });
        const std::vector<bool> acting = acting_in(model_, solution_.study).coolings;
        for (std::size_t c = 0; c < model_.coolings.size(); ++c) {
            const Cooling& cooling = model_.coolings[c];
            CoolingFinding& row = out_.coolings[c];
            row.name = display_name(cooling, c);
            row.area = times * network_.cooling_coverage[c].area;
            row.mean_surface = mean_surface(network_.cooling_coverage[c]);
            if (acting[c]) row.ambient = ambient_of(model_, cooling, solution_.study);
            row.radiates = cooling.radiates();
        }
        for (std::size_t h = 0; h < model_.holds.size(); ++h) {
            out_.holds[h].name = display_name(model_.holds[h], h);
            out_.holds[h].area = times * network_.hold_coverage[h].area;
            out_.holds[h].temperature = model_.holds[h].temperature;
        }
        for (std::size_t p = 0; p < model_.powers.size(); ++p) {
            LoadFinding& row = out_.loads[p];
            row.name = display_name(model_.powers[p]);
            const Coverage& coverage = network_.load_coverage[p];
            if (coverage.area > 0.0) row.area = times * coverage.area;
            if (model_.powers[p].between) read_contact_load(p, row);
            if (coverage.patches.empty()) continue;
            row.mean_surface = mean_surface(coverage);
            const Index hottest = *std::max_element(coverage.patches.begin(), coverage.patches.end(),
                                                    [&](Index a, Index b) { return solution_.patch_temperature[a] < solution_.patch_temperature[b]; });
            row.hottest_surface = solution_.patch_temperature[hottest];
            if (error_ != nullptr) row.hottest_surface = bounded(*row.hottest_surface + error_->of_extreme({Place::Kind::patch, hottest}, true));
        }
    }

    /// The faces in contact that a power heats, both of them.
    void read_contact_load(std::size_t power, LoadFinding& row) const {
        double sum = 0.0, area = 0.0;
        for (const ContactLoad& load : network_.contact_loads) {
            if (load.power != power) continue;
            const Index c = load.contact;
            const std::array<double, 2> change = error_ == nullptr ? std::array<double, 2>{} : error_->defects().of_contact(c);
            const double first = solution_.contacts.first[c] + change[0], second = solution_.contacts.second[c] + change[1];
            sum += mesh_.contacts.area[c] * (first + second);
            area += 2.0 * mesh_.contacts.area[c];
            row.hottest_surface = std::max({row.hottest_surface.value_or(first), first, second});
        }
        if (area > 0.0) row.mean_surface = bounded(sum / area);
        if (row.hottest_surface) row.hottest_surface = bounded(*row.hottest_surface);
    }

    double mean_surface(const Coverage& coverage) const {
        if (coverage.patches.empty()) return solution_.network->lowest_known;  // rests with a left-out part
        double sum = 0.0;
        for (const Index patch : coverage.patches) sum += mesh_.patches.area[patch] * (solution_.patch_temperature[patch] + patch_change(patch));
        return bounded(sum / coverage.area);
    }

    /// Extremes by what is off at the place that was found: the extremes of a corrected field overshoot at corners.
    void correct_bodies() {
        std::vector<double> change(mesh_.bodies.size(), 0.0);
        for (Index cell = 0; cell < mesh_.cells.size(); ++cell) change[mesh_.cells.body[cell]] += mesh_.cells.volume[cell] * error_->defects().of_node(cell);
        for (Index b = 0; b < mesh_.bodies.size(); ++b) {
            double &cold = bodies_.coldest[b].temperature, &hot = bodies_.hottest[b].temperature;
            hot = bounded(hot + error_->of_extreme(bodies_.hottest_place[b], true));
            cold = std::min(hot, bounded(cold + error_->of_extreme(bodies_.coldest_place[b], false)));
            bodies_.mean[b] = std::clamp(bodies_.mean[b] + change[b] / mesh_.bodies[b].volume, cold, hot);
            if (!doubted_) continue;
            cold += error_->doubt_in_extreme(bodies_.coldest_place[b], false);
            hot += error_->doubt_in_extreme(bodies_.hottest_place[b], true);
        }
    }

    /// Nothing gets colder than all surroundings where no load takes heat out, nor hotter where none puts any in.
    double bounded(double temperature) const {
        if (error_ == nullptr) return temperature;
        if (range_) return range_->moved_into(temperature);
        if (!cooled_ && temperature < network_.lowest_known) return network_.lowest_known;
        if (!heated_ && temperature > network_.highest_known) return network_.highest_known;
        return temperature;
    }

    // What the mesh is off, where that is known.
    double heat_change(const Leg& leg) const { return error_ == nullptr ? 0.0 : error_->defects().of_heat(leg); }
    double patch_change(Index patch) const { return error_ == nullptr ? 0.0 : error_->defects().of_patch(patch); }
    const Defects* defects() const { return error_ == nullptr ? nullptr : &error_->defects(); }

    void find_parts() {
        for (const PartGroup& group : groups_) {
            PartFinding row;
            row.name = model_.parts[group.part].name;
            row.material = model_.parts[group.part].material;
            row.copies = static_cast<Index>(group.bodies.size());
            row.coldest = bodies_.coldest[group.bodies.front()];
            row.hottest = bodies_.hottest[group.bodies.front()];
            for (const Index b : group.bodies) {
                row.volume += mesh_.bodies[b].volume;
                row.mean += mesh_.bodies[b].volume * bodies_.mean[b];
                row.power += body_power_[b];
                if (bodies_.coldest[b].temperature < row.coldest.temperature) row.coldest = bodies_.coldest[b];
                if (bodies_.hottest[b].temperature > row.hottest.temperature) row.hottest = bodies_.hottest[b];
            }
            row.mean /= row.volume;
            row.volume *= mesh_.multiplicity;
            const Material& material = material_named(model_, row.material);
            if (material.density) row.mass = *material.density * row.volume;
            out_.parts.push_back(std::move(row));
        }
    }

    void find_sensors() {
        const std::vector<Sensor> sensors = sensors_of(model_);
        std::optional<ContactReader> contacts;
        for (std::size_t s = 0; s < sensors.size(); ++s) {
            const Sensor& sensor = sensors[s];
            if (picks_only_left_out(model_, {&sensor.in, 1})) continue;
            const std::string address = fmt::format("sensor[{}].at", s);
            double reads = temperature_at(model_, solution_, sensor.in, sensor.at, address);
            const bool lumped = find_node(model_, sensor.in).has_value();
            if (error_ != nullptr) {
                if (!contacts) contacts.emplace(model_, mesh_);
                const Probe probe(model_, mesh_, network_, *contacts, sensor.in, sensor.at, address);
                const Index cell = lumped ? no_index : cell_at_point(model_, mesh_, sensor.in, sensor.at, address);
                reads = bounded(reads + error_->defects().of_reading(probe.readout(), cell, sensor.at));
            }
            out_.sensors.push_back({sensor.name, lumped ? std::string() : sensor.in, sensor.at, reads, lumped});
            if (lumped && reads > out_.hottest.temperature) out_.hottest = {.temperature = reads, .body = sensor.name, .lumped = true};
        }
    }

    /// The figures that the model names, from what was found of parts, sensors and surfaces.
    void find_named() {
        std::vector<std::string> sensors;
        std::vector<double> readings;
        for (const SensorFinding& sensor : out_.sensors) sensors.push_back(sensor.name), readings.push_back(sensor.temperature);
        named_.emplace(model_, mesh_, solution_.study, sensors);
        if (named_->figures().empty()) return;
        HeatFlows flows;
        for (const LoadFinding& load : out_.loads) flows.loads.push_back(load.heat);
        for (const CoolingFinding& cooling : out_.coolings) flows.convection.push_back(cooling.convection), flows.radiation.push_back(cooling.radiation);
        for (const HoldFinding& hold : out_.holds) flows.holds.push_back(hold.flow);
        const std::vector<double> terms = named_->read({.network = network_,
                                                        .nodes = solution_.nodes(),
                                                        .bodies = bodies_,
                                                        .sensors = readings,
                                                        .flows = flows,
                                                        .patch_temperature = solution_.patch_temperature,
                                                        .contacts = solution_.contacts,
                                                        .error = error_,
                                                        .doubted = doubted_,
                                                        .bounded = [this](double temperature) { return bounded(temperature); }});
        const std::vector<double> values = named_->combine(terms);
        for (std::size_t f = 0; f < values.size(); ++f) {
            const FigureForm& form = named_->figures()[f];
            if (const std::string why = named_->remark(f); !why.empty())
                warn("figure_not_told", fmt::format("figure {} is not told: {}", in_quotes(form.name), why));
            if (!named_->of_moments(f)) continue;
            out_.named.push_back({form.name, form.quantity, std::isfinite(values[f]) ? std::optional(values[f]) : std::nullopt});
        }
    }
    std::optional<double> value_of(const std::string& figure) const {
        const auto found = std::find_if(out_.named.begin(), out_.named.end(), [&](const NamedFinding& n) { return n.name == figure; });
        return found == out_.named.end() ? std::nullopt : found->value;
    }
    std::string why_not(const std::string& figure) const {
        const std::string why = named_->missing(named_->index_of(figure));
        return why.empty() ? "it is not defined for what was found" : why;
    }

    void find_limits() {
        const bool moment = solution_.study.kind != StudyKind::steady;  // the run tells what is defined at no time
        for (const Limit& limit : model_.limits) {
            if (!counts_in(limit.studies, solution_.study)) continue;
            const std::size_t before = out_.limits.size();
            const auto judge = [&](const std::string& subject, SubjectKind of, const Spot& cold, const Spot& hot) {
                for (const bool upper : {true, false}) {
                    const std::optional<Threshold>& held = upper ? limit.below : limit.above;
                    if (!held) continue;
                    const Spot& worst = upper ? hot : cold;
                    const double margin = upper ? *held - worst.temperature : worst.temperature - *held;
                    out_.limits.push_back({subject, of, held->kind, upper, *held, worst.temperature, worst, margin});
                }
            };
            each_subject(limit.part, limit.sensor, [&](const std::string& subject, const Spot& cold, const Spot& hot) {
                judge(subject, limit.sensor.empty() ? SubjectKind::part : SubjectKind::sensor, cold, hot);
            });
            if (!limit.figure.empty()) {
                if (const auto value = value_of(limit.figure)) {
                    const Spot nowhere{.temperature = *value, .body = limit.figure, .lumped = true};
                    judge(limit.figure, SubjectKind::figure, nowhere, nowhere);
                } else if (!moment || !named_->missing(named_->index_of(limit.figure)).empty()) {
                    warn("limit_not_judged", fmt::format("the limit on {} was not judged: {}", in_quotes(limit.figure), why_not(limit.figure)));
                }
            }
            if (!limit.part.empty() && out_.limits.size() == before)
                warn("limit_not_judged", fmt::format("the limit on {} was not judged: no such part is in the assembly", in_quotes(limit.part)));
        }
    }

    void find_milestones() {
        const bool moment = solution_.study.kind != StudyKind::steady;
        for (const Milestone& milestone : model_.milestones) {
            if (!counts_in(milestone.studies, solution_.study)) continue;
            const std::size_t before = out_.milestones.size();
            const Threshold& held = milestone.rises_above ? *milestone.rises_above : *milestone.falls_below;
            const auto tell = [&](const std::string& subject, double found) {
                out_.milestones.push_back({.name = display_name(milestone),
                                           .subject = subject,
                                           .quantity = held.kind,
                                           .rising = milestone.rises_above.has_value(),
                                           .value = held,
                                           .found = found});
            };
            each_subject(milestone.part, milestone.sensor, [&](const std::string& subject, const Spot& cold, const Spot& hot) {
                tell(subject, (milestone.coldest.value_or(false) ? cold : hot).temperature);
            });
            if (!milestone.figure.empty()) {
                if (const auto value = value_of(milestone.figure)) {
                    tell(milestone.figure, *value);
                } else if (!moment || !named_->missing(named_->index_of(milestone.figure)).empty()) {
                    warn("milestone_not_told", fmt::format("milestone {} is not told: {}", in_quotes(display_name(milestone)), why_not(milestone.figure)));
                }
            }
            if (!milestone.part.empty() && out_.milestones.size() == before)
                warn("milestone_not_told", fmt::format("milestone {} is not told: no such part is in the assembly", in_quotes(display_name(milestone))));
            if (out_.milestones.size() - before < 2) continue;
            for (std::size_t m = before; m < out_.milestones.size(); ++m) out_.milestones[m].name += ": " + out_.milestones[m].subject;
        }
    }

    /// The sensor, or each part that is meant, its copies taken together: with its coldest and its hottest place.
    void each_subject(const std::string& part, const std::string& sensor,
                      const std::function<void(const std::string&, const Spot&, const Spot&)>& visit) const {
        for (const SensorFinding& found : out_.sensors) {
            const Spot spot{found.temperature, found.at, found.lumped ? found.name : found.part, found.lumped};
            if (!sensor.empty() && matches_wildcard(sensor, found.name)) visit(found.name, spot, spot);
        }
        for (const PartGroup& group : groups_) {
            std::optional<Spot> cold, hot;
            for (const Index b : group.bodies) {
                if (part.empty() || !picks(part, mesh_.bodies[b].name, model_.parts[group.part].name)) continue;
                if (!cold || bodies_.coldest[b].temperature < cold->temperature) cold = bodies_.coldest[b];
                if (!hot || bodies_.hottest[b].temperature > hot->temperature) hot = bodies_.hottest[b];
            }
            if (hot) visit(matches_copy(part, group) ? part : model_.parts[group.part].name, *cold, *hot);
        }
    }

    /// Whether the rule names a single copy rather than a part.
    bool matches_copy(const std::string& pattern, const PartGroup& group) const {
        return std::any_of(group.bodies.begin(), group.bodies.end(), [&](Index b) { return mesh_.bodies[b].name == pattern; });
    }

    void find_joints() {
        const PairReadings readings = read_pairs(mesh_, network_, solution_.nodes(), solution_.contacts, defects());
        const std::vector<double> resistances = joint_resistances(mesh_, network_, solution_.nodes());
        for (const JointGroup& group : group_joints(model_, mesh_)) {
            JointFinding row{describe_joint(model_, mesh_, resistances, group)};
            double area = 0.0;
            for (std::size_t i = 0; i < group.pairs.size(); ++i) {
                const double sign = group.swapped[i] ? -1.0 : 1.0;
                row.flow += sign * mesh_.multiplicity * readings.flow[group.pairs[i]];
                row.drop += sign * readings.drop[group.pairs[i]];
                area += mesh_.pairs[group.pairs[i]].area;
            }
            row.drop /= area;
            out_.joints.push_back(std::move(row));
        }
    }

    void find_resistors() {
        const ResistorReadings readings = read_resistors(model_, mesh_, network_, solution_.nodes(), defects());
        for (std::size_t r = 0; r < model_.resistors.size(); ++r) {
            ResistorFinding row{describe_resistor(model_, model_.resistors[r])};
            row.flow = readings.flow[r];
            row.resistance = readings.resistance[r];
            row.drop = readings.drop(r);
            if (row.to_ambient) out_.ledger.resistors += readings.solved_flow[r];
            out_.resistors.push_back(std::move(row));
        }
    }

    /// Of the solved network, whatever is known of its error.
    void close_ledger() {
        Ledger& ledger = out_.ledger;
        const auto sum = [&](const std::vector<double>& flows) { return mesh_.multiplicity * std::accumulate(flows.begin(), flows.end(), 0.0); };
        ledger.loads = sum(flows_.loads);
        ledger.convection = sum(flows_.convection);
        ledger.radiation = sum(flows_.radiation);
        ledger.holds = sum(flows_.holds);
        ledger.residual = ledger.loads - ledger.convection - ledger.radiation - ledger.holds - ledger.resistors;
        ledger.throughput = mesh_.multiplicity * solution_.summary.throughput;
    }

    /// What does not act has no row.
    void drop_left_out() {
        const Acting acting = acting_in(model_, solution_.study);
        const auto drop = [](auto& rows, const std::vector<bool>& acts) {
            std::size_t n = 0;
            std::erase_if(rows, [&](const auto&) { return !acts[n++]; });
        };
        drop(out_.loads, acting.powers);
        drop(out_.coolings, acting.coolings);
        drop(out_.holds, acting.holds);
    }

    void warn(std::string kind, std::string message) { out_.warnings.push_back({std::move(kind), std::move(message)}); }

    const Model& model_;
    const SteadySolution& solution_;
    const Mesh& mesh_;
    const Network& network_;
    const ErrorReader* error_;
    bool doubted_;
    std::optional<PossibleRange> range_;
    bool heated_ = false, cooled_ = false;
    std::vector<PartGroup> groups_;
    BodyTemperatures bodies_;
    std::vector<double> body_power_;
    HeatFlows flows_;
    std::optional<NamedFigures> named_;
    Findings out_;
};

}  // namespace

Findings evaluate(const Model& model, const SteadySolution& solution, const ErrorReader* error, bool doubted, const std::optional<PossibleRange>& range) {
    return Evaluation(model, solution, error, doubted, range).evaluate();
}

Findings findings(const Model& model, const SteadySolution& solution, const FindingsOptions& options) {
    Findings out = evaluate(model, solution);
    const bool steady = solution.study.kind == StudyKind::steady && !solution.time;
    if (!options.errors || !steady) return out;
    out = with_errors(model, solution, std::move(out), options.progress);
    tell_uncertain(out, solution.network->lowest_known, model.units);
    return out;
}

}  // namespace firnfield
