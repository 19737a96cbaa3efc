/// The fields of what `firnfield check` tells.
#pragma once

#include "findings/schema/steady.hpp"

namespace firnfield {

template <typename V>
void fields(V& v, const PartInspection&) {
    v.text(&PartInspection::name, {.name = "name", .head = "part"});
    v.copies(&PartInspection::copies, {.name = "copies"});
    v.text(&PartInspection::material, {.name = "material", .head = "material"});
    v.point(&PartInspection::size, {.name = "size", .meaning = "of one copy", .head = "size"});
    v.value(&PartInspection::volume, kinds::volume, {.name = "volume"});
    v.value(&PartInspection::mass, kinds::mass, {.name = "mass", .meaning = "null: its density is not known", .head = "mass", .none = "?"});
    v.value(&PartInspection::exposed, kinds::area, {.name = "exposed", .meaning = "area", .head = "exposed", .none = "-", .zero_is_none = true});
    v.count(&PartInspection::cells, {.name = "cells", .head = "cells"});
    v.count(&PartInspection::thinnest, {.name = "thinnest", .meaning = "smallest number of cells through one of its copies", .head = "through"});
}

template <typename V>
void fields(V& v, const NodeInspection&) {
    v.text(&NodeInspection::name, {.name = "name", .head = "node"});
    v.value(&NodeInspection::capacity, kinds::heat_capacity, {.name = "capacity", .meaning = "null: next to none", .head = "capacity", .none = "next to none"});
    v.text_or_null(&NodeInspection::material, {.name = "material", .meaning = "null where the capacity is given", .head = "material"});
}

template <typename V>
void fields(V& v, const RuleInspection&) {
    v.text(&RuleInspection::name, {.name = "name", .head = "surface rule"});
    v.text(&RuleInspection::role, {.name = "role", .meaning = "cooling, hold, resistor, power or surface", .head = "for"});
    v.value(&RuleInspection::area, kinds::area, {.name = "area", .head = "area"});
    v.count(&RuleInspection::patches, {.name = "patches", .head = "patches"});
}

template <typename V>
void fields(V& v, const Inspection::Displacement&) {
    using Row = Inspection::Displacement;
    v.text(&Row::displaced, {.name = "displaced"});
    v.text(&Row::by, {.name = "by"});
    v.value(&Row::volume, kinds::volume, {.name = "volume"});
}

template <typename V>
void fields(V& v, const Inspection::NearMissInspection&) {
    using Row = Inspection::NearMissInspection;
    v.text(&Row::first, {.name = "first"});
    v.text(&Row::second, {.name = "second"});
    v.value(&Row::gap, kinds::length, {.name = "gap"});
    v.value(&Row::area, kinds::area, {.name = "area"});
}

template <typename V>
void fields(V& v, const Inspection::StudyInspection&) {
    using Row = Inspection::StudyInspection;
    v.inside(&Row::study);
    v.value(&Row::power, kinds::power, {.name = "power", .meaning = "of all loads"});
    v.texts(&Row::in_time, {.name = "in_time", .meaning = "what changes with time, in words"});
    v.flag(&Row::nonlinear, {.name = "nonlinear"});
    v.value(&Row::seconds, kinds::time,
            {.name = "seconds", .meaning = "about what a steady solve takes on two cores of a usual workstation, or a step in time"});
}

template <typename V>
void fields(V& v, const Inspection::PoorestResolution&) {
    using Row = Inspection::PoorestResolution;
    v.text(&Row::part, {.name = "part"});
    v.count(&Row::through, {.name = "through", .meaning = "cells through its thickness"});
    v.value(&Row::thickness, kinds::length, {.name = "thickness"});
    v.value(&Row::cell, kinds::length, {.name = "finer_cell", .meaning = "size for twice as many"});
    v.value(&Row::cells, kinds::number, {.name = "finer_cells", .meaning = "about how many that makes in all; null: more than allowed"});
}

template <typename V>
void fields(V& v, const Inspection::ThinCells&) {
    using Row = Inspection::ThinCells;
    v.text(&Row::part, {.name = "part", .head = "part"});
    v.text(&Row::along, {.name = "along", .head = "along"});
    v.value(&Row::at, kinds::length, {.name = "at", .meaning = "the plane that they begin at", .head = "from"});
    v.value(&Row::cell, kinds::length, {.name = "cell", .meaning = "thickness of the first one", .head = "first cell"});
    v.text(&Row::footprint, {.name = "footprint", .meaning = "what touches or acts there", .head = "for the footprint of"});
    v.value(&Row::width, kinds::length, {.name = "width", .meaning = "of the footprint, where that decides", .head = "width"});
    v.value(&Row::time, kinds::time, {.name = "time", .meaning = "how long heat stays the same there, where that decides", .head = "within"});
}

template <typename V>
void fields(V& v, const FigureInspection& now) {
    v.text(&FigureInspection::name, {.name = "name", .head = "figure"});
    v.text(&FigureInspection::value, {.name = "value", .meaning = "as it stands in the model", .head = "made of"});
    v.quantity(&FigureInspection::quantity, {.name = "quantity"});
    v.text([&now](const FigureInspection&) { return std::string(now.quantity->unit); }, {.name = "unit", .head = "unit"});
}

template <typename V>
void fields(V& v, const Inspection&) {
    v.text(&Inspection::title, {.name = "title"});
    v.count(&Inspection::cells, {.name = "cells"});
    v.counts(&Inspection::grid, {.name = "grid", .meaning = "boxes along x, y and z"});
    v.texts(&Inspection::mirrors, {.name = "mirrors", .meaning = "planes of symmetry and sectors, in words"});
    v.value(&Inspection::multiplicity, kinds::number, {.name = "multiplicity", .meaning = "how many times the product contains the computed piece"});
    v.rows(&Inspection::parts, {.name = "parts"});
    v.rows(&Inspection::joints, {.name = "joints"});
    v.rows(&Inspection::nodes, {.name = "nodes"});
    v.rows(&Inspection::resistors, {.name = "resistors"});
    v.rows(&Inspection::rules, {.name = "rules"});
    v.rows(&Inspection::figures, {.name = "figures", .meaning = "that the model names, and addresses that limits and milestones are on"});
    v.value(&Inspection::exposed_area, kinds::area, {.name = "exposed_area"});
    v.value(&Inspection::unclaimed_area, kinds::area, {.name = "unclaimed_area", .meaning = "exposed surface without cooling and hold"});
    v.rows(&Inspection::overlaps, {.name = "overlaps"});
    v.rows(&Inspection::near_misses, {.name = "near_misses"});
    v.rows(&Inspection::studies, {.name = "studies"});
    v.number(&Inspection::memory, {.name = "memory", .meaning = "bytes that the study which takes most of them needs at most, about"});
    v.value(&Inspection::refined_up_to, kinds::number, {.name = "refined_up_to", .meaning = "cells at which refining the mesh ends; null: it is not refined"});
    v.value(&Inspection::error_target, kinds::temperature_difference, {.name = "error_target"});
    v.row(&Inspection::poorest, {.name = "coarsest", .meaning = "the part with the fewest cells through it"});
    v.rows(&Inspection::thin_cells,
           {.name = "thin_cells", .meaning = "where cells are thin because heat spreads from a footprint or has little time; twelve at most"});
    v.rows(&Inspection::warnings, {.name = "warnings"});
}

}  // namespace firnfield
