/// The fields of the findings of a study in time.
#pragma once

#include <firnfield/history.hpp>

#include "findings/schema/steady.hpp"

namespace firnfield {

inline constexpr FieldWords<5> heat_words{"load", "convection", "radiation", "hold", "resistor"};

template <typename V>
void fields(V& v, const Moment&) {
    v.inside(&Moment::spot);
    v.value(&Moment::time, kinds::time, {.name = "time"});
}

template <typename V>
void fields(V& v, const Interval&) {
    v.value(&Interval::from, kinds::time, {.name = "from"});
    v.value(&Interval::to, kinds::time, {.name = "to"});
}

template <typename V>
void fields(V& v, const LimitOverTime& now) {
    v.text(&LimitOverTime::subject, {.name = "subject", .meaning = "part, sensor, node or figure"});
    v.word(&LimitOverTime::of, subject_words, {.name = "of", .meaning = "what the subject is; a node is read like a sensor"});
    v.quantity(&LimitOverTime::quantity, {.name = "quantity", .meaning = "that limit and found are of"});
    v.word(&LimitOverTime::upper, side_words, {.name = "kind"});
    v.value(&LimitOverTime::limit, *now.quantity, {.name = "limit"});
    v.value(&LimitOverTime::after, kinds::time, {.name = "after", .meaning = "counts from here on"});
    v.value(&LimitOverTime::found, *now.quantity, {.name = "found", .meaning = "the worst, from `after` on"});
    v.flag(&LimitOverTime::of_run, {.name = "of_run", .meaning = "found is told of the whole run, and found_time is its end"});
    v.value(&LimitOverTime::found_time, kinds::time, {.name = "found_time", .meaning = "when"});
    if (v.all_kinds() || now.of != SubjectKind::figure) v.row(&LimitOverTime::worst, {.name = "worst", .meaning = "where that is; of a figure nowhere"});
    v.figure(&LimitOverTime::margin, FigureKind::margin, {.name = "margin", .meaning = "negative: missed"}, measured_by(now));
    v.flag(&LimitOverTime::kept, {.name = "kept"});
    v.figure(&LimitOverTime::first_crossing, FigureKind::first_beyond, {.name = "first_crossing", .meaning = "null: never; 0: from the start"},
             measured_by(now));
    v.rows(&LimitOverTime::beyond, {.name = "beyond", .meaning = "all intervals beyond it, also before `after`"});
    v.value(&LimitOverTime::time_beyond, kinds::time, {.name = "time_beyond"});
    v.figure(&LimitOverTime::met_from, FigureKind::met_from,
             {.name = "holds_from", .meaning = "from when on it holds until the end after it did not: warm-up or cool-down time"}, measured_by(now));
    v.flag(&LimitOverTime::beyond_at_end, {.name = "beyond_at_end"});
}

template <typename V>
void fields(V& v, const MilestoneOverTime& now) {
    v.text(&MilestoneOverTime::name, {.name = "name", .head = "milestone"});
    v.text(&MilestoneOverTime::subject, {.name = "subject", .meaning = "part, sensor, node or figure"});
    v.quantity(&MilestoneOverTime::quantity, {.name = "quantity", .meaning = "that value is of"});
    v.word(&MilestoneOverTime::rising, passing_words, {.name = "kind"});
    v.amount(&MilestoneOverTime::value, *now.quantity, {.name = "value", .head = "passes"});
    v.figure(&MilestoneOverTime::first, FigureKind::milestone,
             {.name = "first", .meaning = "when it is first passed; null: never; 0: past from the start", .head = "first", .none = "not reached"});
    v.count([](const MilestoneOverTime& m) { return m.past.size(); }, {.name = "times", .meaning = "how often it is past", .head = "times"});
    v.value(&MilestoneOverTime::stays_from, kinds::time, {.name = "stays_from", .meaning = "from when on it is past until the end", .head = "stays from"});
    v.rows(&MilestoneOverTime::past, {.name = "past", .meaning = "all intervals past it"});
}

template <typename V>
void fields(V& v, const LiquidShare&) {
    v.value(&LiquidShare::most, kinds::number, {.name = "most", .head = "liquid at most"});
    v.value(&LiquidShare::end, kinds::number, {.name = "end", .head = "at the end"});
}

template <typename V>
void fields(V& v, const PartOverTime&) {
    v.text(&PartOverTime::name, {.name = "name", .head = "part"});
    v.spot(&PartOverTime::coldest, FigureKind::min, {.name = "coldest", .head = "coldest"});
    v.figure(&PartOverTime::mean, FigureKind::mean, {.name = "mean", .meaning = "by volume and time", .head = "mean"});
    v.spot(&PartOverTime::hottest, FigureKind::max, {.name = "hottest", .head = "hottest"});
    v.value(&PartOverTime::end_min, kinds::temperature, {.name = "end_min", .meaning = "at the end"});
    v.value(&PartOverTime::end_mean, kinds::temperature, {.name = "end_mean", .meaning = "at the end", .head = "end mean"});
    v.value(&PartOverTime::end_max, kinds::temperature, {.name = "end_max", .meaning = "at the end", .head = "end max"});
    v.row(&PartOverTime::liquid, {.name = "liquid", .meaning = "share of the volume, where it can melt"});
}

template <typename V>
void fields(V& v, const SensorOverTime&) {
    v.text(&SensorOverTime::name, {.name = "name", .meaning = "of a sensor; lumped nodes stand behind the sensors", .head = "sensor"});
    v.text_or_null(&SensorOverTime::part, {.name = "in", .meaning = "part; null for a node"});
    v.flag(&SensorOverTime::lumped, {.name = "lumped", .meaning = "a node"});
    v.value(&SensorOverTime::lowest, kinds::temperature, {.name = "lowest", .head = "lowest"});
    v.value(&SensorOverTime::lowest_time, kinds::time, {.name = "lowest_time", .head = "at"});
    v.value(&SensorOverTime::mean, kinds::temperature, {.name = "mean", .meaning = "by time", .head = "mean"});
    v.figure(&SensorOverTime::highest, FigureKind::sensor, {.name = "highest", .head = "highest"});
    v.value(&SensorOverTime::highest_time, kinds::time, {.name = "highest_time", .head = "at"});
    v.value(&SensorOverTime::end, kinds::temperature, {.name = "end", .head = "end"});
}

template <typename V>
void fields(V& v, const NamedOverTime& now) {
    v.text(&NamedOverTime::name, {.name = "name", .meaning = "of the figure in the model", .head = "figure"});
    v.quantity(&NamedOverTime::quantity, {.name = "quantity"});
    v.figure(&NamedOverTime::lowest, FigureKind::figure_min, {.name = "lowest", .meaning = "null: never defined", .head = "lowest", .none = "not defined"},
             now.quantity);
    v.value(&NamedOverTime::lowest_time, kinds::time, {.name = "lowest_time", .head = "at"});
    v.figure(&NamedOverTime::mean, FigureKind::figure_mean, {.name = "mean", .meaning = "by time", .head = "mean"}, now.quantity);
    v.figure(&NamedOverTime::highest, FigureKind::figure, {.name = "highest", .head = "highest"}, now.quantity);
    v.value(&NamedOverTime::highest_time, kinds::time, {.name = "highest_time", .head = "at"});
    v.amount(&NamedOverTime::end, *now.quantity, {.name = "end", .head = "end"});
}

template <typename V>
void fields(V& v, const RunFigure& now) {
    v.text(&RunFigure::name, {.name = "name", .meaning = "of the figure in the model", .head = "figure of the run"});
    v.quantity(&RunFigure::quantity, {.name = "quantity"});
    v.figure(&RunFigure::value, FigureKind::figure,
             {.name = "value", .meaning = "null: not defined, as the first time of what never happens", .head = "value", .none = "not defined"}, now.quantity);
}

template <typename V>
void fields(V& v, const Switching&) {
    v.value(&Switching::time, kinds::time, {.name = "time"});
    v.count(&Switching::thermostat, {.name = "thermostat", .meaning = "its place in the model, counted from 0"});
    v.flag(&Switching::on, {.name = "on", .meaning = "what it switched to"});
}

template <typename V>
void fields(V& v, const ThermostatFinding&) {
    v.text(&ThermostatFinding::name, {.name = "name", .head = "thermostat"});
    v.count([](const ThermostatFinding& t) { return t.switchings.size(); }, {.name = "switched", .meaning = "how often", .head = "times switched"});
    v.value([](const ThermostatFinding& t) { return t.switchings.empty() ? std::nullopt : std::optional(t.switchings.front().time); }, kinds::time,
            {.name = "first", .meaning = "when it switched first", .head = "first"});
    v.value([](const ThermostatFinding& t) { return t.switchings.empty() ? std::nullopt : std::optional(t.switchings.back().time); }, kinds::time,
            {.name = "last", .meaning = "when it switched last", .head = "last"});
    v.figure(&ThermostatFinding::duty, FigureKind::duty,
             {.name = "duty", .meaning = "share of the time that it is on; of whole periods where there are some", .head = "duty"});
    v.figure(&ThermostatFinding::period, FigureKind::period, {.name = "period", .meaning = "mean of the last periods, at most ten", .head = "period"});
    v.value(&ThermostatFinding::on_time, kinds::time, {.name = "on_time"});
    v.value(&ThermostatFinding::energy, kinds::energy, {.name = "energy", .meaning = "of the powers that it switches", .head = "energy"});
    v.rows(&ThermostatFinding::switchings, {.name = "switchings"});
}

template <typename V>
void fields(V& v, const EnergyFinding&) {
    v.word(&EnergyFinding::kind, heat_words, {.name = "kind"});
    v.text(&EnergyFinding::name, {.name = "name"});
    v.value(&EnergyFinding::energy, kinds::energy, {.name = "energy", .meaning = "of a load what it put in, else what left"});
}

template <typename V>
void fields(V& v, const EnergyBalance&) {
    v.rows(&EnergyBalance::entries, {.name = "entries"});
    v.value(&EnergyBalance::stored, kinds::energy, {.name = "stored", .meaning = "more than at the beginning"});
    v.value(&EnergyBalance::throughput, kinds::energy, {.name = "throughput", .meaning = "that entered, plus what parts gave out of their own"});
    v.value(&EnergyBalance::residual, kinds::energy, {.name = "residual", .meaning = "unaccounted for"});
    v.value(&EnergyBalance::relative_residual, kinds::number, {.name = "relative_residual"});
}

template <typename V>
void fields(V& v, const SettledCycle&) {
    v.value(&SettledCycle::period, kinds::time, {.name = "period"});
    v.value(&SettledCycle::within, kinds::temperature_difference, {.name = "repeats_within", .meaning = "estimated"});
    v.count(&SettledCycle::computed, {.name = "computed", .meaning = "cycles, to find it"});
    v.value(&SettledCycle::cycles_to_settle, kinds::number,
            {.name = "cycles_to_settle", .meaning = "from the start, until the hottest spot is within 1 % of it"});
}

template <typename V>
void fields(V& v, const Reduction&) {
    v.count(&Reduction::modes, {.name = "modes", .meaning = "of the network, that were marched"});
    v.count(&Reduction::solves, {.name = "solves", .meaning = "of the whole network, to find them"});
    v.value(&Reduction::basis_seconds, kinds::time, {.name = "basis_seconds"});
    v.value(&Reduction::march_seconds, kinds::time, {.name = "march_seconds"});
    v.count(&Reduction::bent,
            {.name = "bent", .meaning = "surfaces and links whose heat depends on temperature other than in proportion, or that vary in time"});
    v.count(&Reduction::acting, {.name = "acting", .meaning = "of those, so many that stand for all of them"});
    v.value(&Reduction::open, kinds::temperature_difference,
            {.name = "within", .meaning = "by which temperatures may differ from those of the whole network, anywhere and at any time; estimated"});
}

template <typename V>
void fields(V& v, const TransientSummary&) {
    v.count(&TransientSummary::steps, {.name = "steps"});
    v.count(&TransientSummary::rejected, {.name = "repeated"});
    v.count(&TransientSummary::solves, {.name = "solves"});
    v.count(&TransientSummary::linear_iterations, {.name = "linear_iterations"});
    v.count(&TransientSummary::factorisations, {.name = "factorisations"});
    v.value(&TransientSummary::smallest_step, kinds::time, {.name = "smallest_step"});
    v.value(&TransientSummary::largest_step, kinds::time, {.name = "largest_step"});
    v.value(&TransientSummary::mesh_seconds, kinds::time, {.name = "mesh_seconds"});
    v.value(&TransientSummary::network_seconds, kinds::time, {.name = "network_seconds"});
    v.value(&TransientSummary::solve_seconds, kinds::time, {.name = "solve_seconds"});
}

template <typename V>
void fields(V& v, const TimeFindings&) {
    v.row(&TimeFindings::study, {.name = "study"});
    v.word(&TimeFindings::verdict, verdict_words, {.name = "verdict"});
    v.row(&TimeFindings::hottest, {.name = "hottest", .meaning = "of the whole assembly, over the whole time"});
    v.rows(&TimeFindings::limits, {.name = "limits"});
    v.rows(&TimeFindings::named, {.name = "named_figures", .meaning = "figures that the model names"});
    v.rows(&TimeFindings::of_run, {.name = "run_figures", .meaning = "figures that are told of the run as a whole"});
    v.rows(&TimeFindings::milestones, {.name = "milestones"});
    v.rows(&TimeFindings::parts, {.name = "parts"});
    v.rows(&TimeFindings::sensors, {.name = "sensors"});
    v.rows(&TimeFindings::thermostats, {.name = "thermostats"});
    v.row(&TimeFindings::energy, {.name = "energy", .meaning = "of the whole time; of a cyclic study over one cycle"});
    v.rows(&TimeFindings::layers, {.name = "layers", .meaning = "`mesh.layers` of the mesh, with those that the refinement of a steady study added"});
    v.row(&TimeFindings::why, {.name = "why", .meaning = "of the worst moment"});
    v.value(&TimeFindings::end_time, kinds::time, {.name = "end_time"});
    v.text(&TimeFindings::stopped, {.name = "stopped", .meaning = "why it ended"});
    v.value(&TimeFindings::remaining_change, kinds::temperature_difference,
            {.name = "remaining_change", .meaning = "that temperatures would still move by, if nothing changed any more; null: that makes no sense"});
    v.value(&TimeFindings::steady_time, kinds::time, {.name = "steady_time", .meaning = "from when on that is less than `steady_within`"});
    v.value(&TimeFindings::time_constant, kinds::time, {.name = "time_constant", .meaning = "the slowest"});
    v.row(&TimeFindings::cycle, {.name = "cycle", .meaning = "of a cyclic study"});
    v.row(&TimeFindings::reduction, {.name = "reduction", .meaning = "of a study by a reduced model"});
    v.rows(&TimeFindings::warnings, {.name = "warnings"});
    v.row(&TimeFindings::summary, {.name = "solver"});
    v.row(&TimeFindings::end, {.name = "end", .meaning = "what is found at the end, as of a steady study"}, AtTheEnd{});
    v.rows(&TimeFindings::figures, {.name = "figures", .meaning = "what designs are compared by"});
}

}  // namespace firnfield
