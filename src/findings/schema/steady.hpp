/// The fields of the findings of a steady study, and of what is found at any moment.
#pragma once

#include <firnfield/findings.hpp>

#include "findings/schema/field.hpp"

#include <string>
#include <type_traits>

namespace firnfield {

inline constexpr FieldWords<3> verdict_words{"no limits", "kept", "missed"};
inline constexpr FieldWords<3> study_words{"steady", "transient", "cyclic"};
inline constexpr FieldWords<2> side_words{"above", "below"};
inline constexpr FieldWords<2> extreme_words{"hottest", "coldest"};
inline constexpr FieldWords<3> axis_names{"x", "y", "z"};
inline constexpr FieldWords<10> contribution_words{"part", "joint",        "resistor",   "convection", "radiation",
                                                   "load", "surroundings", "warming up", "mesh",       "rest"};
inline constexpr FieldWords<8> sensitivity_words{"conductivity", "joint resistance", "resistance", "convection", "radiation", "power", "ambient", "hold"};

template <typename V>
void fields(V& v, const Study& now) {
    v.text(&Study::name, {.name = "name"});
    v.word(&Study::kind, study_words, {.name = "kind"});
    v.value(&Study::ambient, kinds::temperature, {.name = "ambient", .meaning = "null: those of the model hold"});
    v.factors(&Study::scale, {.name = "scale", .meaning = "factors of powers, by name"});
    if (v.all_kinds() || now.kind == StudyKind::transient) v.value(&Study::lasts, kinds::time, {.name = "lasts", .meaning = "of a transient study"});
    if (v.all_kinds() || now.kind != StudyKind::steady)
        v.value(&Study::tolerance, kinds::temperature_difference, {.name = "tolerance", .meaning = "of a study in time"});
}

template <typename V>
void fields(V& v, const Spot&) {
    v.value(&Spot::temperature, kinds::temperature, {.name = "temperature"});
    v.place(&Spot::at, &Spot::lumped, {.name = "at", .meaning = "null: a lumped node, which has no place"});
    v.text(&Spot::body, {.name = "body", .meaning = "copy of the part, or lumped node"});
}

template <typename V>
void fields(V& v, const DiscretisationError&) {
    v.number(&DiscretisationError::error, {.name = "error", .meaning = "in the unit of the value, K for a temperature"});
    v.value(&DiscretisationError::order, kinds::number, {.name = "order", .meaning = "observed order of convergence; null: it cannot be told"});
    v.flag(&DiscretisationError::exact, {.name = "exact", .meaning = "all meshes give the same"});
    v.flag(&DiscretisationError::trusted, {.name = "trusted", .meaning = "the meshes agree on an order, or on the value; one mesh: it is fine enough to tell"});
    v.value(
        &DiscretisationError::correction, kinds::number,
        {.name = "correction", .meaning = "in that unit: what was added to the value that the mesh gives; null: told from several meshes, nothing was added"});
}

/// What a figure is of, whatever its value.
template <typename V>
void fields(V& v, const Figure& now, WithoutValue) {
    v.figure_kind(&Figure::kind, {.name = "kind", .meaning = "one of the kinds of figures"});
    v.text(&Figure::name, {.name = "name", .meaning = "of the part, sensor, node, joint, resistor, surface rule, thermostat, or of a figure of the model"});
    v.quantity(&Figure::of, {.name = "of", .meaning = "what the figure of the model measures that it tells or is a limit of; else the kind says it"});
    if (v.all_kinds() || of_limit(now.kind)) {
        v.value(&Figure::limit, now.of != nullptr ? *now.of : kinds::temperature, {.name = "limit", .meaning = "that it is of"});
        v.word(&Figure::upper, side_words, {.name = "side", .meaning = "of the limit"});
    }
}

template <typename V>
void fields(V& v, const Figure& now) {
    fields(v, now, WithoutValue{});
    v.measured(&Figure::value, quantity_of(now), {.name = "value", .meaning = "in that unit"});
    v.measured(&Figure::solved, quantity_of(now),
               {.name = "solved", .meaning = "in that unit: what the mesh gives, before the correction; null: nothing was added"});
    v.row(&Figure::bar, {.name = "error_bar", .meaning = "how far the mesh lets it be off"});
}

inline constexpr FieldWords<2> passing_words{"falls below", "rises above"};

inline constexpr FieldWords<3> subject_words{"part", "sensor", "figure"};

/// What the figures of a limit are of: nothing where it is of a temperature of a part or a sensor.
template <typename Row>
[[nodiscard]] const QuantityKind* measured_by(const Row& limit) {
    return limit.of == SubjectKind::figure ? limit.quantity : nullptr;
}

template <typename V>
void fields(V& v, const MilestoneFinding& now) {
    v.text(&MilestoneFinding::name, {.name = "name", .head = "milestone"});
    v.text(&MilestoneFinding::subject, {.name = "subject", .meaning = "part, sensor, node or figure"});
    v.quantity(&MilestoneFinding::quantity, {.name = "quantity", .meaning = "that value and found are of"});
    v.word(&MilestoneFinding::rising, passing_words, {.name = "kind"});
    v.amount(&MilestoneFinding::value, *now.quantity, {.name = "value", .head = "passes"});
    v.amount(&MilestoneFinding::found, *now.quantity, {.name = "found", .head = "found"});
    v.flag(&MilestoneFinding::past, {.name = "past", .meaning = "what was found lies beyond the value"});
}

template <typename V>
void fields(V& v, const NamedFinding& now) {
    v.text(&NamedFinding::name, {.name = "name", .meaning = "of the figure in the model", .head = "figure"});
    v.quantity(&NamedFinding::quantity, {.name = "quantity"});
    v.figure(&NamedFinding::value, FigureKind::figure, {.name = "value", .meaning = "null: not defined", .head = "value", .none = "not defined"}, now.quantity);
}

template <typename V>
void fields(V& v, const LimitFinding& now) {
    v.text(&LimitFinding::subject, {.name = "subject", .meaning = "part, sensor, node or figure"});
    v.word(&LimitFinding::of, subject_words, {.name = "of", .meaning = "what the subject is; a node is read like a sensor"});
    v.quantity(&LimitFinding::quantity, {.name = "quantity", .meaning = "that limit and found are of"});
    v.word(&LimitFinding::upper, side_words, {.name = "kind"});
    v.value(&LimitFinding::limit, *now.quantity, {.name = "limit"});
    v.value(&LimitFinding::found, *now.quantity, {.name = "found"});
    if (v.all_kinds() || now.of != SubjectKind::figure) v.row(&LimitFinding::worst, {.name = "worst", .meaning = "the place that counts; of a figure none"});
    v.figure(&LimitFinding::margin, FigureKind::margin, {.name = "margin", .meaning = "negative: missed"}, measured_by(now));
    v.flag(&LimitFinding::kept, {.name = "kept"});
}

template <typename V>
void fields(V& v, const PartFinding&) {
    v.text(&PartFinding::name, {.name = "name", .meaning = "a part, its copies taken together", .head = "part"});
    v.copies(&PartFinding::copies, {.name = "copies", .meaning = "in the piece that is computed"});
    v.value(&PartFinding::volume, kinds::volume, {.name = "volume"});
    v.value(&PartFinding::mass, kinds::mass, {.name = "mass", .meaning = "null: its density is not known"});
    v.value(&PartFinding::power, kinds::power, {.name = "power", .meaning = "put into it", .head = "power", .zero_is_none = true});
    v.spot(&PartFinding::coldest, FigureKind::min, {.name = "coldest", .head = "min"});
    v.figure(&PartFinding::mean, FigureKind::mean, {.name = "mean", .meaning = "by volume", .head = "mean"});
    v.spot(&PartFinding::hottest, FigureKind::max, {.name = "hottest", .head = "max"}, "hottest at");
    v.text(&PartFinding::material, {.name = "material", .head = "material"});
}

template <typename V>
void fields(V& v, const SensorFinding&) {
    v.text(&SensorFinding::name, {.name = "name", .meaning = "of a sensor; lumped nodes stand behind the sensors", .head = "sensor"});
    v.figure(&SensorFinding::temperature, FigureKind::sensor, {.name = "temperature", .head = "reads"});
    v.text_or_null(&SensorFinding::part, {.name = "in", .meaning = "part; null for a node", .head = "in", .none = "lumped node"});
    v.place(&SensorFinding::at, &SensorFinding::lumped, {.name = "at", .meaning = "null for a node", .head = "at"});
}

/// What is known before anything is solved, of an inspection or a finding.
template <typename Row, typename V>
void fields_of_contact(V& v) {
    constexpr bool inspected = std::is_same_v<Row, JointInspection>;  // what its table shows is told of the geometry then
    v.text(&Row::name, {.name = "name"});
    v.ends(&Row::first, &Row::second, {.head = inspected ? "touching" : "joint"});
    v.copies(&Row::pairs, {.name = "pairs", .meaning = "pairs of bodies in the whole product"});
    v.text(&Row::contact, {.name = "contact", .meaning = "how they touch, in words", .head = "contact"});
    v.flag(&Row::specified, {.name = "specified", .meaning = "a joint of the model names them"});
    v.value(&Row::area, kinds::area, {.name = "area", .head = "area"});
    v.value(&Row::nominal_area, kinds::area, {.name = "nominal_area", .meaning = "whole area of the faces that touch, of the part where they are smaller"});
    v.value([](const Row& row) { return row.area / row.nominal_area; }, kinds::number,
            {.name = "coverage", .meaning = "share of that area that touches", .head = inspected ? "of faces" : ""});
    v.value(&Row::mean_gap, kinds::length, {.name = "mean_gap", .head = inspected ? "mean gap" : "", .none = "-", .zero_is_none = true});
    v.value(&Row::largest_gap, kinds::length, {.name = "largest_gap", .head = inspected ? "largest" : "", .none = "-", .zero_is_none = true});
    v.text(&Row::found, {.name = "found", .meaning = "\"in common planes\" or \"facing each other\"", .head = inspected ? "found" : ""});
    v.value(&Row::resistance, kinds::area_resistance, {.name = "resistance", .meaning = "null for insulation and radiation"});
}

template <typename V>
void fields(V& v, const JointInspection&) {
    fields_of_contact<JointInspection>(v);
}

template <typename V>
void fields(V& v, const JointFinding&) {
    fields_of_contact<JointFinding>(v);
    v.figure(&JointFinding::flow, FigureKind::joint_flow, {.name = "flow", .meaning = "from first to second", .head = "flow", .magnitude = true});
    v.figure(&JointFinding::drop, FigureKind::joint_drop, {.name = "drop", .meaning = "mean over the area", .head = "drop", .magnitude = true});
}

template <typename Row, typename V>
void fields_of_resistor(V& v) {
    v.text(&Row::name, {.name = "name", .head = "resistor"});
    v.ends(&Row::first, &Row::second, {.meaning = "the ambient stands second", .head = std::is_same_v<Row, ResistorInspection> ? "between" : "heat from → to"});
    v.flag(&Row::to_ambient, {.name = "to_ambient"});
    v.value(&Row::resistance, kinds::thermal_resistance, {.name = "resistance", .meaning = "at the temperatures found", .head = "resistance"});
}

template <typename V>
void fields(V& v, const ResistorInspection&) {
    fields_of_resistor<ResistorInspection>(v);
}

template <typename V>
void fields(V& v, const ResistorFinding&) {
    fields_of_resistor<ResistorFinding>(v);
    v.figure(&ResistorFinding::flow, FigureKind::resistor_flow, {.name = "flow", .meaning = "from first to second", .head = "flow", .magnitude = true});
    v.figure(&ResistorFinding::drop, FigureKind::resistor_drop, {.name = "drop", .head = "drop", .magnitude = true});
}

template <typename V>
void fields(V& v, const CoolingFinding& now) {
    const bool both = now.radiates && now.convection != 0.0;
    v.text(&CoolingFinding::name, {.name = "name"});
    v.value(&CoolingFinding::area, kinds::area, {.name = "area"});
    v.figure(&CoolingFinding::heat, FigureKind::cooling, {.name = "heat", .meaning = "leaving, by both ways"});
    v.figure(&CoolingFinding::convection, FigureKind::convection, {.name = "convection", .meaning = "leaving", .counts = both});
    v.figure(&CoolingFinding::radiation, FigureKind::radiation, {.name = "radiation", .meaning = "leaving", .counts = both});
    v.flag(&CoolingFinding::radiates, {.name = "radiates"});
    v.figure(&CoolingFinding::mean_coefficient, FigureKind::coefficient, {.name = "mean_coefficient", .meaning = "of convection", .zero_is_none = true});
    v.value(&CoolingFinding::mean_surface, kinds::temperature, {.name = "mean_surface"});
    v.value(&CoolingFinding::ambient, kinds::temperature, {.name = "ambient"});
}

template <typename V>
void fields(V& v, const HoldFinding&) {
    v.text(&HoldFinding::name, {.name = "name"});
    v.value(&HoldFinding::area, kinds::area, {.name = "area"});
    v.figure(&HoldFinding::flow, FigureKind::hold, {.name = "flow", .meaning = "leaving"});
    v.value(&HoldFinding::temperature, kinds::temperature, {.name = "temperature"});
}

template <typename V>
void fields(V& v, const FluxFinding&) {
    v.text(&FluxFinding::part, {.name = "part"});
    v.value(&FluxFinding::flux, kinds::heat_flux, {.name = "flux", .meaning = "size of the heat flux where it is largest"});
    v.text(&FluxFinding::body, {.name = "body", .meaning = "the part, or its copy"});
    v.point(&FluxFinding::at, {.name = "at", .meaning = "centre of the cell"});
}

template <typename V>
void fields(V& v, const LoadFinding&) {
    v.text(&LoadFinding::name, {.name = "name"});
    v.value(&LoadFinding::heat, kinds::power, {.name = "heat"});
    v.value(&LoadFinding::area, kinds::area, {.name = "area", .meaning = "of a load on a surface"});
    v.figure(&LoadFinding::mean_surface, FigureKind::surface_mean, {.name = "mean_surface", .meaning = "likewise"});
    v.figure(&LoadFinding::hottest_surface, FigureKind::surface_max, {.name = "hottest_surface", .meaning = "likewise"});
}

template <typename V>
void fields(V& v, const Ledger&) {
    v.value(&Ledger::loads, kinds::power, {.name = "loads"});
    v.value(&Ledger::convection, kinds::power, {.name = "convection", .meaning = "leaving"});
    v.value(&Ledger::radiation, kinds::power, {.name = "radiation", .meaning = "leaving"});
    v.value(&Ledger::holds, kinds::power, {.name = "holds", .meaning = "leaving"});
    v.value(&Ledger::resistors, kinds::power, {.name = "resistors", .meaning = "leaving, to the ambient"});
    v.value(&Ledger::residual, kinds::power, {.name = "residual", .meaning = "unaccounted for"});
    v.value(&Ledger::throughput, kinds::power, {.name = "throughput", .meaning = "entering, from powers and warmer surroundings"});
    v.value(&Ledger::relative_residual, kinds::number, {.name = "relative_residual"});
}

template <typename V>
void fields(V& v, const Warning&) {
    v.text(&Warning::kind, {.name = "kind", .meaning = "a stable word, see below"});
    v.text(&Warning::message, {.name = "message"});
}

template <typename V>
void fields(V& v, const Contribution&) {
    v.word(&Contribution::kind, contribution_words, {.name = "kind"});
    v.text(&Contribution::name, {.name = "name"});
    v.value(&Contribution::rise, kinds::temperature_difference, {.name = "rise", .meaning = "negative for what makes the place colder"});
    v.point(&Contribution::at, {.name = "at", .meaning = "of a part or joint: where the copy lies that matters most"});
}

template <typename V>
void fields(V& v, const Sensitivity&) {
    v.word(&Sensitivity::kind, sensitivity_words, {.name = "kind"});
    v.text(&Sensitivity::name, {.name = "name"});
    v.text([](const Sensitivity& s) { return std::string(s.per_kelvin() ? "1 K" : "10 %"); }, {.name = "step", .meaning = "how much more of it"});
    v.value(&Sensitivity::change, kinds::temperature_difference, {.name = "change"});
}

template <typename V>
void fields(V& v, const Explanation&) {
    v.text(&Explanation::study, {.name = "study"});
    v.text(&Explanation::subject, {.name = "subject", .meaning = "part, sensor or node"});
    v.word(&Explanation::coldest, extreme_words, {.name = "place"});
    v.row(&Explanation::spot, {.name = "spot"});
    v.value(&Explanation::base, kinds::temperature, {.name = "base", .meaning = "lowest temperature of the surroundings"});
    v.value(&Explanation::rise, kinds::temperature_difference, {.name = "rise", .meaning = "of the spot above the base"});
    v.value(&Explanation::time, kinds::time, {.name = "time", .meaning = "null for steady studies"});
    v.flag(&Explanation::linear, {.name = "linear", .meaning = "nothing depends on temperature"});
    v.value(&Explanation::limit, kinds::temperature, {.name = "limit"});
    v.text_or_null(&Explanation::held_by, {.name = "held_by", .meaning = "the hold that imposes this temperature on the place"});
    v.rows(&Explanation::along, {.name = "along", .meaning = "by what the heat passes; adds up to the rise"});
    v.rows(&Explanation::by_load, {.name = "by_load", .meaning = "by what heats; adds up to the rise"});
    v.rows(&Explanation::sensitivities, {.name = "sensitivities", .meaning = "largest first"});
}

template <typename V>
void fields(V& v, const LayerSize&) {
    v.word(&LayerSize::axis, axis_names, {.name = "along"});
    v.value(&LayerSize::from, kinds::length, {.name = "from"});
    v.value(&LayerSize::to, kinds::length, {.name = "to"});
    v.value(&LayerSize::cell, kinds::length, {.name = "cell"});
    v.flag(&LayerSize::coarser, {.name = "coarser"});
}

template <typename V>
void fields(V& v, const MeshRefinement::Round&) {
    using Row = MeshRefinement::Round;
    v.count(&Row::cells, {.name = "cells"});
    v.text(&Row::worst, {.name = "worst", .meaning = "part, sensor or node whose temperature was known worst for what it may be off"});
    v.value(&Row::error, kinds::temperature_difference, {.name = "error", .meaning = "of that"});
    v.value(&Row::allowed, kinds::temperature_difference, {.name = "allowed"});
}

template <typename V>
void fields(V& v, const MeshRefinement&) {
    v.rows(&MeshRefinement::rounds, {.name = "rounds", .meaning = "one for each solve"});
    v.flag(&MeshRefinement::met, {.name = "met", .meaning = "limits, sensors and the hottest place are known as well as they have to be"});
    v.text(&MeshRefinement::outlook, {.name = "outlook", .meaning = "where they are not: what was reached, and what stood in the way"});
}

template <typename V>
void fields(V& v, const ErrorBars&) {
    v.counts(&ErrorBars::cells, {.name = "cells", .meaning = "of the meshes, finest first"});
    v.value(&ErrorBars::ratio, kinds::number, {.name = "ratio", .meaning = "of the cell sizes from one mesh to the next"});
    v.value(&ErrorBars::scale, kinds::number, {.name = "scale", .meaning = "of the finest mesh's cells to the model's own"});
    v.value(&ErrorBars::largest_temperature_error, kinds::temperature_difference, {.name = "largest_temperature_error"});
}

template <typename V>
void fields(V& v, const SolveSummary&) {
    v.flag(&SolveSummary::converged, {.name = "converged"});
    v.count(&SolveSummary::newton_iterations, {.name = "newton_iterations"});
    v.count(&SolveSummary::linear_iterations, {.name = "linear_iterations"});
    v.text(&SolveSummary::linear_method, {.name = "linear_method"});
    v.value(&SolveSummary::throughput, kinds::power, {.name = "throughput", .meaning = "heat entering the piece that is computed"});
    v.value(&SolveSummary::residual, kinds::number, {.name = "residual", .meaning = "norm of the heat residuals over the throughput"});
    v.flag(&SolveSummary::rounding_limited, {.name = "rounding_limited", .meaning = "settled short of 1e-10, where double precision ends"});
    v.value(&SolveSummary::mesh_seconds, kinds::time, {.name = "mesh_seconds"});
    v.value(&SolveSummary::network_seconds, kinds::time, {.name = "network_seconds"});
    v.value(&SolveSummary::solve_seconds, kinds::time, {.name = "solve_seconds"});
}

template <typename V>
void fields(V& v, const Findings&, AtTheEnd) {
    v.row(&Findings::hottest, {.name = "hottest", .meaning = "of the whole assembly"});
    v.rows(&Findings::parts, {.name = "parts"});
    v.rows(&Findings::sensors, {.name = "sensors"});
    v.rows(&Findings::joints, {.name = "joints"});
    v.rows(&Findings::resistors, {.name = "resistors"});
    v.rows(&Findings::coolings, {.name = "coolings"});
    v.rows(&Findings::holds, {.name = "holds"});
    v.rows(&Findings::loads, {.name = "loads"});
    v.rows(&Findings::fluxes, {.name = "fluxes", .meaning = "where the heat flux of each part is largest; of steady studies"});
    v.row(&Findings::ledger, {.name = "ledger", .meaning = "heat in and out, W"});
    v.value(&Findings::unclaimed_area, kinds::area, {.name = "unclaimed_area", .meaning = "exposed surface without cooling and hold"});
    v.rows(&Findings::warnings, {.name = "warnings"});
    v.count(&Findings::cells, {.name = "cells", .meaning = "of the mesh"});
    v.value(&Findings::multiplicity, kinds::number, {.name = "multiplicity", .meaning = "how many times the product contains the computed piece"});
}

template <typename V>
void fields(V& v, const Findings& now) {
    v.row(&Findings::study, {.name = "study"});
    v.word(&Findings::verdict, verdict_words, {.name = "verdict"});
    v.rows(&Findings::named, {.name = "named_figures", .meaning = "figures that the model names"});
    v.rows(&Findings::milestones, {.name = "milestones"});
    v.rows(&Findings::limits, {.name = "limits"});
    fields(v, now, AtTheEnd{});
    v.row(&Findings::why, {.name = "why", .meaning = "of the tightest limit, or of the hottest place"});
    v.row(&Findings::error_bars, {.name = "error_bars", .meaning = "where they were worked out"});
    v.row(&Findings::refinement, {.name = "refinement", .meaning = "where the mesh was refined"});
    v.rows(&Findings::layers, {.name = "layers", .meaning = "`mesh.layers` of the mesh, with those that refinement added"});
    v.row(&Findings::summary, {.name = "solver"});
    v.rows(&Findings::figures, {.name = "figures", .meaning = "what designs are compared by"});
}

}  // namespace firnfield
