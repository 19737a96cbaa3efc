/// Keys of materials, joints, powers, coolings, holds, sensors, limits and studies.
#pragma once

#include <firnfield/model.hpp>
#include <firnfield/quantity.hpp>

#include "model/keys/key.hpp"

namespace firnfield {

template <typename V>
void describe(V& v, const Melting&) {
    v.quantity(&Melting::from, kinds::temperature,
               {.name = "from", .meaning = "solidus: solid below it", .example = "\"52 degC\"", .required = true, .written = true, .stand_in = 300.0});
    v.quantity(&Melting::to, kinds::temperature,
               {.name = "to", .meaning = "liquidus: liquid above it", .example = "\"54 degC\"", .required = true, .written = true, .stand_in = 301.0});
    v.quantity(&Melting::latent_heat, kinds::latent_heat,
               {.name = "latent_heat", .example = "\"200 kJ/kg\"", .required = true, .written = true, .range = Range::positive});
}

template <typename V>
void describe(V& v, const Material&) {
    v.text(&Material::name, {.name = "name", .meaning = "by which parts and layers refer to it", .example = "\"my alloy\"", .required = true});
    v.text(&Material::group, {.name = "group", .meaning = "for information", .lines = true});
    v.conductivity({.name = "conductivity",
                    .meaning = "one value or `[along x, along y, along z]`, or a curve over temperature",
                    .example = "\"167 W/(m K)\"",
                    .required = true});
    v.curve(&Material::conductivity_factor, kinds::temperature, kinds::number,
            {.name = "conductivity_factor", .meaning = "for a conductivity given as values", .range = Range::positive, .what = "a conductivity"});
    v.quantity(&Material::density, kinds::density,
               {.name = "density", .meaning = "for masses; needed in transient and cyclic studies", .range = Range::positive});
    v.value_or_curve(&Material::specific_heat, &Material::specific_heat_factor, kinds::specific_heat, "a specific heat", "specific_heat_factor",
                     {.name = "specific_heat", .meaning = "needed in transient and cyclic studies; may be a curve over temperature", .range = Range::positive});
    v.curve(&Material::specific_heat_factor, kinds::temperature, kinds::number,
            {.name = "specific_heat_factor", .meaning = "for a specific heat given as a value", .range = Range::positive, .what = "a specific heat"});
    v.table(
        &Material::melting,
        {.name = "melting",
         .meaning =
             "`{ from, to, latent_heat }`. Where both temperatures are the same, it is spread over a fifth of the study's tolerance, and a remark says so"});
    v.quantity(&Material::emissivity, kinds::number,
               {.name = "emissivity", .meaning = "for coolings with `emissivity = \"material\"`", .range = Range::share, .what = "an emissivity"});
    v.quantity(&Material::resistivity, kinds::resistivity,
               {.name = "resistivity", .meaning = "electrical resistivity, for information", .range = Range::positive, .what = "a resistivity"});
    v.quantity(&Material::service_limit, kinds::temperature,
               {.name = "service_limit", .meaning = "a warning is given for parts of this material that get hotter"});
    v.range(&Material::valid_from, &Material::valid_to,
            {.name = "valid", .meaning = "range of temperatures in which the values hold", .example = "[\"-40 degC\", \"150 degC\"]"});
    v.text(&Material::note, {.name = "note", .meaning = "where the values come from", .lines = true});
}

template <typename V>
void describe(V& v, const Fluid&) {
    v.text(&Fluid::name, {.name = "name", .meaning = "by which laws name it; not that of a built-in fluid", .example = "\"coolant\"", .required = true});
    v.property(&Fluid::conductivity, kinds::conductivity, {.name = "conductivity", .required = true});
    v.property(&Fluid::density, kinds::density, {.name = "density", .required = true});
    v.property(&Fluid::viscosity, kinds::viscosity, {.name = "viscosity", .meaning = "dynamic", .required = true});
    v.property(&Fluid::specific_heat, kinds::specific_heat, {.name = "specific_heat", .required = true});
    v.property(&Fluid::expansion, kinds::expansion, {.name = "expansion", .meaning = "of volume", .required = true});
}

template <typename V>
void describe(V& v, const Layer&) {
    v.text(&Layer::material, {.name = "material", .meaning = "of the layer", .example = "\"thermal grease\"", .required = true});
    v.quantity(&Layer::thickness, kinds::length,
               {.name = "thickness",
                .meaning = "of the layer",
                .example = "\"0.1 mm\"",
                .usual = "in a joint with `reach`: the gap, as wide as it is in each place",
                .range = Range::positive,
                .what = "a thickness"});
}

template <typename V>
void describe(V& v, const Joint&) {
    v.text(&Joint::name, {.name = "name", .meaning = "shown in reports", .usual = "the names of the two"});
    v.pair(&Joint::between, {.name = "between",
                             .meaning = "two part names or wildcards. Each touching pair may be named by one joint only",
                             .example = "[\"amplifier\", \"base\"]",
                             .required = true,
                             .meshed = Meshed::value});
    v.value_or_curve(&Joint::resistance, &Joint::resistance_factor, kinds::area_resistance, "a resistance", "resistance_factor",
                     {.name = "resistance",
                      .meaning = "area resistance, or a curve of it over the mean temperature of the two faces",
                      .range = Range::not_negative,
                      .what = "a resistance"});
    v.film(&Joint::coefficient, &Joint::coefficient_curve, &Joint::law,
           {.name = "coefficient",
            .meaning = "of a film instead of a resistance, as of a stirred liquid on its wall; a curve is over the temperature difference between the two "
                       "faces; with a law, which names its `fluid`, one of the two is `stirred` or held as a whole",
            .range = Range::not_negative,
            .what = "a coefficient"});
    v.quantity(&Joint::total, kinds::thermal_resistance,
               {.name = "total",
                .meaning = "resistance of each touching pair of bodies over its whole contact area. Copies of a repeat and images by a mirror or sector are "
                           "bodies of their own, so four posts have it four times; "
                           "a pair that a plane of symmetry cuts is one pair with its whole area. Reports say `0.400 K/W, each of 4`",
                .range = Range::not_negative,
                .what = "a resistance"});
    v.curve(&Joint::resistance_factor, kinds::temperature, kinds::number,
            {.name = "resistance_factor",
             .meaning = "for `resistance`, `coefficient`, `total` or `layer`: on the resistance, over the mean temperature of the two faces",
             .range = Range::not_negative,
             .what = "a resistance"});
    v.table(&Joint::layer,
            {.name = "layer",
             .meaning = "`{ material, thickness }`: thickness over conductivity (the third value of a directional one). Without a thickness the material fills "
                        "the gap that `reach` bridges: `{ material = \"air\" }`"});
    v.curve(&Joint::resistance_over_pressure, kinds::pressure, kinds::area_resistance,
            {.name = "resistance_over_pressure",
             .meaning = "area resistance over the pressure between the faces, with `pressure`",
             .range = Range::not_negative,
             .what = "a resistance"});
    v.quantity(&Joint::pressure, kinds::pressure,
               {.name = "pressure", .meaning = "between the faces, within the curve", .range = Range::not_negative, .what = "a pressure"});
    v.flag(&Joint::insulated, {.name = "insulated", .meaning = "no heat crosses", .meshed = Meshed::value});
    v.quantity(
        &Joint::exchange_factor, kinds::number,
        {.name = "exchange_factor",
         .meaning =
             "radiation across the gap: 1/(1/ε₁ + 1/ε₂ − 1) for wide faces that see only each other, times the view factor otherwise. The faces stay exposed",
         .meshed = Meshed::presence,
         .range = Range::share,
         .what = "an exchange factor"});
    v.quantity(&Joint::reach, kinds::length,
               {.name = "reach",
                .meaning = "faces that look at each other over at most this gap touch. What lies in the gap is not meshed",
                .meshed = Meshed::value,
                .range = Range::not_negative,
                .what = "the reach"});
    v.flag(&Joint::may_be_open,
           {.name = "may_be_open",
            .meaning = "`true`: where no faces of the two touch, or look at each other within `reach`, the contact is open; without it that is an error",
            .meshed = Meshed::value});
    v.flag(&Joint::include, {.name = "include", .meaning = "`false` leaves it out, as if it were not there", .meshed = Meshed::value});
}

template <typename V>
void describe(V& v, const Node&) {
    v.text(&Node::name, {.name = "name",
                         .meaning = "unique among nodes, parts, surfaces and sensors. A node is read like a sensor of that name",
                         .example = "\"junction\"",
                         .required = true});
    v.quantity(&Node::capacity, kinds::heat_capacity,
               {.name = "capacity",
                .meaning = "heat capacity, of all its images by mirrors and sectors together; or",
                .usual = "next to none",
                .range = Range::positive,
                .what = "a capacity"});
    v.text(&Node::material, {.name = "material", .meaning = "whose specific heat and melting it has, with `mass`"});
    v.quantity(&Node::mass, kinds::mass, {.name = "mass", .meaning = "of that material", .range = Range::positive, .what = "a mass"});
}

template <typename V>
void describe(V& v, const Resistor&) {
    v.text(&Resistor::name, {.name = "name", .meaning = "shown in reports", .usual = "the names of the two"});
    v.pair(&Resistor::between,
           {.name = "between",
            .meaning = "two of: a node; a part, spread over its volume; a named surface, spread over its area, which no cooling or hold may claim; "
                       "`\"ambient\"`",
            .example = "[\"junction\", \"footprint\"]",
            .required = true});
    v.value_or_curve(&Resistor::total, &Resistor::resistance_factor, kinds::thermal_resistance, "a resistance", "resistance_factor",
                     {.name = "total",
                      .meaning = "resistance of the whole product, or a curve of it over the mean temperature of the two ends",
                      .range = Range::positive,
                      .what = "a resistance"});
    v.curve(
        &Resistor::resistance_factor, kinds::temperature, kinds::number,
        {.name = "resistance_factor", .meaning = "for `total`, over the mean temperature of the two ends", .range = Range::positive, .what = "a resistance"});
    v.quantity(&Resistor::ambient, kinds::temperature, {.name = "ambient", .meaning = "temperature of the `\"ambient\"`; may be left to the study"});
    v.text(&Resistor::ambient_profile,
           {.name = "ambient_profile", .meaning = "name of a profile of temperatures: the ambient over time, in transient and cyclic studies"});
}

template <typename V>
void describe(V& v, const Power&) {
    v.text(&Power::name, {.name = "name", .meaning = "for reports, and for `scale` in a study", .usual = "what it heats"});
    v.texts(&Power::into, {.name = "into", .meaning = "parts heated throughout their volume, or nodes; or"});
    v.on(&Power::on, {.name = "on", .meaning = "a surface that takes up heat (it can be cooled at the same time); or"});
    v.optional_pair(&Power::between, {.name = "between",
                                      .meaning = "two parts or wildcards: the heat is set free where they touch, as by friction or by a glue that cures",
                                      .example = "[\"belt\", \"pulley\"]"});
    v.quantity(&Power::share, kinds::number,
               {.name = "share",
                .meaning = "with `between`: how much of it on the faces of the first of the two, 0 to 1; what lies between them decides how it goes on",
                .usual = "0.5",
                .range = Range::not_negative,
                .what = "a share"});
    v.flag(&Power::by_effusivities, {.name = "by_effusivities", .meaning = "with `between`: shared in proportion to √(k ρ c) of the two instead"});
    v.quantity(&Power::total, kinds::power, {.name = "total", .meaning = "of all together, shared in proportion to volume or area, among nodes evenly; or"});
    v.quantity(&Power::each, kinds::power, {.name = "each", .meaning = "of each part (or copy) or node; or"});
    v.quantity(&Power::density, kinds::power_density, {.name = "density", .meaning = "per volume; or"});
    v.quantity(&Power::flux, kinds::heat_flux, {.name = "flux", .meaning = "per area of a surface, or of contact"});
    v.curve(
        &Power::temperature_factor, kinds::temperature, kinds::number,
        {.name = "temperature_factor", .meaning = "factor on the heat over the local temperature", .range = Range::not_negative, .what = "a factor on heat"});
    v.texts(&Power::profile,
            {.name = "profile",
             .meaning = "name of a profile: a factor over time; several in a list are multiplied. One may give powers: then it is all the heat of the power, "
                        "which has no amount, and its mean acts in steady studies"});
    v.flag(&Power::include, {.name = "include", .meaning = "`false` leaves it out, as if it were not there"});
}

template <typename V>
void describe(V& v, const ConvectionLaw&) {
    v.text(&ConvectionLaw::law,
           {.name = "law", .meaning = "one of those that `firnfield convection` lists", .example = "\"vertical plate\"", .required = true});
    v.text(
        &ConvectionLaw::fluid,
        {.name = "fluid", .meaning = "`\"air\"`, `\"water\"`, `\"water-glycol 50/50\"`, `\"transformer oil\"`, or the name of a `[[fluid]]`", .written = true});
    v.quantity(&ConvectionLaw::length, kinds::length, {.name = "length", .meaning = "where the law asks for it"});
    v.quantity(&ConvectionLaw::diameter, kinds::length, {.name = "diameter", .meaning = "likewise"});
    v.quantity(&ConvectionLaw::spacing, kinds::length, {.name = "spacing", .meaning = "likewise"});
    v.quantity(&ConvectionLaw::angle, kinds::number, {.name = "angle", .meaning = "degrees from the vertical, likewise"});
    v.quantity(&ConvectionLaw::speed, kinds::speed, {.name = "speed", .meaning = "likewise"});
    v.quantity(&ConvectionLaw::pressure, kinds::pressure, {.name = "pressure", .meaning = "of a gas"});
}

template <typename V>
void describe(V& v, const Cooling&) {
    v.text(&Cooling::name, {.name = "name", .meaning = "for reports", .usual = "cooling 1, …"});
    v.on(&Cooling::on, {.name = "on", .meaning = "surface", .example = "\"exposed\"", .required = true});
    v.film(&Cooling::convection, &Cooling::convection_curve, &Cooling::law,
           {.name = "convection",
            .meaning = "heat transfer coefficient; a curve is over the temperature difference between surface and ambient; for laws see below",
            .range = Range::not_negative});
    v.emissivity({.name = "emissivity",
                  .meaning = "adds grey radiation with view factor 1; a curve is over the temperature of the surface; `\"material\"` takes the emissivity of "
                             "each part's material"});
    v.quantity(&Cooling::ambient, kinds::temperature, {.name = "ambient", .meaning = "ambient temperature; may be left to the study"});
    v.quantity(&Cooling::radiant, kinds::temperature,
               {.name = "radiant", .meaning = "radiant temperature of the surroundings, where it differs from the ambient", .usual = "the ambient"});
    v.texts(&Cooling::profile, {.name = "profile", .meaning = "name of a profile, or a list: a factor on the convection over time"});
    v.texts(&Cooling::radiation_profile, {.name = "radiation_profile", .meaning = "likewise on the radiation, as a shade that is drawn or a door that opens"});
    v.text(&Cooling::ambient_profile,
           {.name = "ambient_profile", .meaning = "name of a profile of temperatures: the ambient over time, in transient and cyclic studies"});
    v.flag(&Cooling::beside,
           {.name = "beside", .meaning = "acts in parallel with other coolings of the same surface; otherwise two rules for one surface are an error"});
    v.flag(&Cooling::include, {.name = "include", .meaning = "`false` leaves it out, as if it were not there"});
}

template <typename V>
void describe(V& v, const Hold& now) {
    v.text(&Hold::name, {.name = "name", .meaning = "for reports", .usual = "hold 1, …"});
    v.either(
        "in", !now.in.empty(),
        [&] {
            v.texts(&Hold::in, {.name = "in",
                                .meaning = "instead of `on`: parts that have the temperature throughout, as a tank of water, a melt, a hot wire",
                                .example = "[\"bath\"]",
                                .required = true});
        },
        [&] { v.on(&Hold::on, {.name = "on", .meaning = "surface", .example = "\"mounting face\"", .required = true}); });
    v.quantity(&Hold::temperature, kinds::temperature,
               {.name = "temperature",
                .meaning = "imposed on the surface or the parts",
                .example = "\"20 degC\"",
                .required = true,
                .written = true,
                .stand_in = zero_celsius});
    v.text(&Hold::profile, {.name = "profile", .meaning = "name of a profile of temperatures to follow instead, in transient and cyclic studies"});
    v.flag(&Hold::include, {.name = "include", .meaning = "`false` leaves it out, as if it were not there"});
}

template <typename V>
void describe(V& v, const Sensor&) {
    v.text(&Sensor::name, {.name = "name", .meaning = "unique among the sensors", .example = "\"flange\"", .required = true});
    v.text(&Sensor::in, {.name = "in", .meaning = "part", .example = "\"amplifier\"", .required = true});
    v.point(&Sensor::at, {.name = "at", .meaning = "position", .example = "[90, 60, 8]", .required = true, .written = true});
}

template <typename V>
void describe(V& v, const NamedFigure&) {
    v.text(&NamedFigure::name, {.name = "name", .meaning = "unlike that of any other figure, part, sensor or node", .example = "\"spread\"", .required = true});
    v.text(&NamedFigure::value, {.name = "value",
                                 .meaning = "an address (see below), or `=` and an expression of addresses in single quotes, earlier figures and quantities",
                                 .example = "\"= 'die.max' - 'die.min'\"",
                                 .required = true});
}

template <typename V>
void describe(V& v, const Limit& now) {
    v.text(&Limit::part, {.name = "part", .meaning = "part that is judged by its hottest or coldest place, over all copies; or"});
    v.text(&Limit::sensor, {.name = "sensor", .meaning = "sensor or node that is judged, or a wildcard: each of them; or"});
    v.text(&Limit::figure, {.name = "figure", .meaning = "name of a figure that is judged, or an address"});
    v.threshold(&Limit::below, !now.figure.empty(), {.name = "below", .meaning = "highest temperature or value allowed; or"});
    v.threshold(&Limit::above, !now.figure.empty(), {.name = "above", .meaning = "lowest one; or both"});
    v.quantity(&Limit::after, kinds::time,
               {.name = "after",
                .meaning = "in a transient the limit counts from this time on: what has to be warm within ten minutes has `above` and `after = \"10 min\"`",
                .range = Range::not_negative});
    v.texts(&Limit::studies, {.name = "studies", .meaning = "studies in which the limit counts", .usual = "all"});
}

template <typename V>
void describe(V& v, const Milestone& now) {
    v.text(&Milestone::name, {.name = "name", .meaning = "shown in reports", .usual = "what passes which value"});
    v.text(&Milestone::part, {.name = "part", .meaning = "part whose hottest place is watched, over all copies; or"});
    v.text(&Milestone::sensor, {.name = "sensor", .meaning = "sensor or node that is watched, or a wildcard; or"});
    v.text(&Milestone::figure, {.name = "figure", .meaning = "name of a figure that is watched, or an address"});
    v.threshold(&Milestone::rises_above, !now.figure.empty(), {.name = "rises_above", .meaning = "the value that it passes on its way up; or"});
    v.threshold(&Milestone::falls_below, !now.figure.empty(), {.name = "falls_below", .meaning = "on its way down"});
    v.word(&Milestone::coldest, Words<2>{"hottest", "coldest"},
           {.name = "of", .meaning = "the place of the part: `\"coldest\"` with `rises_above` tells when all of it is warm", .usual = "\"hottest\""});
    v.texts(&Milestone::studies, {.name = "studies", .meaning = "studies in which it is told", .usual = "all"});
}

template <typename V>
void describe(V& v, const Profile&) {
    v.text(&Profile::name,
           {.name = "name", .meaning = "by which powers, coolings, holds and studies refer to it", .example = "\"transmit\"", .required = true});
    v.course(std::array{
        Key{.name = "on", .meaning = "time on of each cycle; together with `off`: a duty cycle", .example = "\"60 s\""},
        Key{.name = "off", .meaning = "time off of each cycle", .example = "\"180 s\""},
        Key{.name = "delay", .meaning = "before the first cycle", .usual = "0 s"},
        Key{.name = "ramp", .meaning = "duration of each rise and each fall, both within the time on", .usual = "0 s"},
        Key{.name = "cycles", .meaning = "number of cycles", .usual = "no end"},
        Key{.name = "high", .meaning = "value while on, a factor or a temperature", .usual = "1"},
        Key{.name = "low", .meaning = "value while off; or", .usual = "0"},
        Key{.name = "points", .meaning = "pairs of time and factor, `[[\"0 s\", 0], [\"5 s\", 1]]`, straight lines between; or"},
        Key{.name = "temperatures", .meaning = "pairs of time and temperature; or"},
        Key{.name = "powers", .meaning = "pairs of time and power, for a power without an amount of its own; or"},
        Key{.name = "csv",
            .meaning = "`{ file, time, value, time_unit, unit, scale }`: columns of a file by the names in its first line (without: the first two); `unit = "
                       "\"degC\"` makes them temperatures, `\"W\"` powers; `scale` multiplies factors and powers; or"},
        Key{.name = "sine", .meaning = "`{ mean, amplitude, period, delay }`"},
    });
    v.flag(&Profile::stepped, {.name = "stepped", .meaning = "each value holds until the next point, instead of straight lines between them"});
    v.flag(&Profile::repeat, {.name = "repeat", .meaning = "starts over after the last point"});
}

template <typename V>
void describe(V& v, const Thermostat&) {
    v.text(&Thermostat::name, {.name = "name", .meaning = "unique among the thermostats", .example = "\"oven\"", .required = true});
    v.text(&Thermostat::sensor, {.name = "sensor", .meaning = "sensor or node that it switches by", .example = "\"oven wall\"", .required = true});
    v.texts(&Thermostat::switches, {.name = "switches",
                                    .meaning = "names of powers (their heat) and coolings (their convection; of one that only radiates its radiation)",
                                    .example = "[\"heater\"]",
                                    .required = true});
    v.quantity(
        &Thermostat::lower, kinds::temperature,
        {.name = "lower", .meaning = "switches on at or below it", .example = "\"68 degC\"", .required = true, .written = true, .stand_in = zero_celsius});
    v.quantity(&Thermostat::upper, kinds::temperature,
               {.name = "upper",
                .meaning = "switches off at or above it",
                .example = "\"70 degC\"",
                .required = true,
                .written = true,
                .stand_in = zero_celsius + 1.0});
    v.word(&Thermostat::cools, Words<2>{"heating", "cooling"}, {.name = "acts", .meaning = "`\"cooling\"`: switches the other way round, as for a fan"});
    v.word(&Thermostat::starts_on, Words<2>{"off", "on"},
           {.name = "starts", .meaning = "state at the start where the sensor reads between the two", .usual = "off"});
    v.quantity(&Thermostat::least_on, kinds::time, {.name = "least_on", .meaning = "stays on at least this long", .range = Range::not_negative});
    v.quantity(&Thermostat::least_off, kinds::time, {.name = "least_off", .meaning = "stays off at least this long", .range = Range::not_negative});
    v.texts(&Thermostat::studies, {.name = "studies", .meaning = "transient studies in which it acts", .usual = "all transient studies"});
    v.flag(&Thermostat::include, {.name = "include", .meaning = "`false` leaves it out, as if it were not there; what it switches is on"});
}

template <typename V>
void describe(V& v, const Study& now) {
    v.text(&Study::name, {.name = "name", .meaning = "unique among the studies", .example = "\"steady\"", .required = true});
    v.word(&Study::kind, Words<3>{"steady", "transient", "cyclic"},
           {.name = "kind", .meaning = "the steady state; a transient from a start; or the periodic state that duty cycles settle to", .written = true});
    v.quantity(&Study::ambient, kinds::temperature, {.name = "ambient", .meaning = "ambient of every cooling that does not name its own"});
    v.text(&Study::ambient_profile, {.name = "ambient_profile", .meaning = "name of a profile of temperatures: the ambient over time"});
    v.factors(&Study::scale, {.name = "scale", .meaning = "factors on powers by name, as `{ burst = 0.25 }`"});
    v.texts(&Study::without,
            {.name = "without", .meaning = "names of powers, coolings, holds and thermostats that are left out of this study, as `[\"jet\"]`; wildcards"});
    v.quantity(&Study::coarsening, kinds::number,
               {.name = "coarsening", .meaning = "factor on all cell sizes, on top of `mesh.coarsening`: transient and cyclic studies take many solves"});
    v.integer(
        &Study::through,
        {.name = "through",
         .meaning = "least number of cells through each part in this study: 1 makes studies in time of assemblies with many thin walls several times faster, "
                    "and leaves their own temperature drops to the error estimate",
         .usual = "as `mesh.through`"});
    if (v.one_kind() && now.kind == StudyKind::steady) return;
    v.start({.name = "start",
             .meaning =
                 "a temperature; `{ \"*\" = 20, oscillator = -30 }` by part or node; `{ study = \"idle\" }`: where an earlier study of the model ended; with "
                 "`results = \"DIR\"` from a results folder of the same geometry and mesh",
             .usual = "the ambient"});
    v.quantity(&Study::tolerance, kinds::temperature_difference,
               {.name = "tolerance", .meaning = "allowed error of the time steps", .range = Range::positive, .what = "a tolerance"});
    v.word(
        &Study::method, Words<2>{"full", "reduced"},
        {.name = "method",
         .meaning = "`\"reduced\"`: a few dozen modes of the whole network are marched instead of all of it, which takes seconds for days of pulses and says "
                    "how far that may be off; not where something melts or a specific heat depends on temperature",
         .usual = "full"});
    v.quantity(&Study::longest_step, kinds::time,
               {.name = "longest_step", .meaning = "longest time step; a study may have at most a million steps", .range = Range::positive});
    if (!v.one_kind() || now.kind == StudyKind::cyclic)
        v.quantity(&Study::period, kinds::time,
                   {.name = "period", .meaning = "period of a cyclic study", .usual = "of its profiles", .range = Range::positive});
    if (v.one_kind() && now.kind == StudyKind::cyclic) return;
    v.quantity(&Study::lasts, kinds::time,
               {.name = "lasts",
                .meaning = "duration of a transient",
                .example = "\"8 h\"",
                .usual = "needed for a transient",
                .required = true,
                .written = true,
                .stand_in = 1.0,
                .range = Range::positive});
    v.word(&Study::stop_when, Words<4>{"never", "steady", "all limits decided", "all milestones passed"},
           {.name = "stop_when",
            .meaning = "ends a transient early: when every temperature is within `steady_within` of its final value, when all limits are decided, or when "
                       "every milestone has been passed"});
    v.quantity(
        &Study::steady_within, kinds::temperature_difference,
        {.name = "steady_within", .meaning = "how close to its final value a temperature counts as steady", .range = Range::positive, .what = "a tolerance"});
    v.quantities(&Study::fields_at, kinds::time,
                 {.name = "fields_at", .meaning = "times, at most 2000, at which fields are written and the first picture is drawn"});
    v.quantity(&Study::fields_every, kinds::time, {.name = "fields_every", .meaning = "interval at which they are written as well", .range = Range::positive});
    v.quantity(&Study::history_every, kinds::time,
               {.name = "history_every", .meaning = "interval of further rows in the history, besides those of the time steps", .range = Range::positive});
    v.quantity(
        &Study::fixed_step, kinds::time,
        {.name = "fixed_step", .meaning = "length of all time steps, without error control; steps still end at jumps of profiles", .range = Range::positive});
}

template <typename V>
void describe(V& v, const Picture&) {
    v.text(&Picture::name, {.name = "name", .meaning = "part of the file name", .example = "\"inside\"", .required = true});
    v.word(&Picture::show, Words<3>{"temperature", "heat flux", "parts"},
           {.name = "show",
            .meaning = "`\"heat flux\"`: the size of the heat flux in the parts, with arrows along it; `\"parts\"`: each part in its own colour, with its name "
                       "and material",
            .usual = "temperature"});
    v.direction(&Picture::along,
                {.name = "along", .meaning = "with `show = \"heat flux\"`: only the component in this direction, negative where heat flows against it"});
    v.flag(&Picture::arrows, {.name = "arrows", .meaning = "`false` leaves out the arrows of the heat flux"});
    v.texts(&Picture::hide, {.name = "hide", .meaning = "parts that are not shown"});
    v.quantity(&Picture::azimuth, kinds::number,
               {.name = "azimuth", .meaning = "degrees; 0 looks along +y, positive turns the eye towards +x", .written = true});
    v.quantity(&Picture::elevation, kinds::number, {.name = "elevation", .meaning = "degrees above the horizon", .written = true});
    v.flag(&Picture::bands, {.name = "bands", .meaning = "colours in steps"});
    v.integer(&Picture::band_count, {.name = "band_count", .meaning = "about how many steps, from 2 to 40; with it `bands` need not be set", .usual = "12"});
    v.flag(&Picture::isotherms, {.name = "isotherms", .meaning = "lines of equal temperature, or of equal size of the heat flux"});
    v.word(
        &Picture::palette, Words<3>{"ember", "umber", "grey"},
        {.name = "palette", .meaning = "`\"umber\"`: from blue to brown, for readers who do not tell red from green; `\"grey\"`: for print", .usual = "ember"});
    v.flag(&Picture::light_is_high, {.name = "light_is_high", .meaning = "`true` turns the palette round: light where it is hot"});
    v.flag(&Picture::low_on_top, {.name = "low_on_top", .meaning = "`true` turns the legend round"});
    v.table(&Picture::section,
            {.name = "section",
             .meaning = "`{ normal, through }`: cuts the assembly open and shows what lies on the side of the normal, with the temperatures inside"});
    v.quantity(&Picture::above, kinds::temperature, {.name = "above", .meaning = "shows only what is hotter than this, and the rest as outlines"});
    v.ends(&Picture::range, kinds::temperature,
           {.name = "range", .meaning = "ends of the colour scale, so that pictures can be compared", .example = "[20, 120]", .usual = "what is there"});
    v.ends(&Picture::flux_range, kinds::heat_flux,
           {.name = "flux_range", .meaning = "likewise of the heat flux, with `show = \"heat flux\"`", .example = "[\"0 W/m^2\", \"5 kW/m^2\"]"});
}

}  // namespace firnfield
