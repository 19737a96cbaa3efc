/// The tables of a model file, in the order in which they are written.
#pragma once

#include "model/keys/geometry.hpp"
#include "model/keys/physics.hpp"

namespace firnfield {

template <typename V>
void describe(V& v, const Model&) {
    v.text(&Model::title, {.name = "title", .meaning = "shown at the top of every report", .lines = true});
    v.units();
    v.table(&Model::mesh, {.name = "mesh", .meaning = "size of the cells", .written = true, .meshed = Meshed::value});
    v.table(&Model::space, {.name = "space", .meaning = "two-dimensional models", .meshed = Meshed::value});
    v.table(&Model::sector, {.name = "sector", .meaning = "one of several equal sectors around an axis", .meshed = Meshed::value});
    v.tables(&Model::mirrors, {.name = "mirror", .meaning = "a plane of symmetry at which the geometry is cut", .meshed = Meshed::value});
    v.tables(&Model::materials, {.name = "material", .meaning = "adds to the library, or replaces the entry of the same name for this model"});
    v.tables(&Model::fluids, {.name = "fluid", .meaning = "a fluid for convection laws; each property is a value or a curve over temperature"});
    v.tables(&Model::parts, {.name = "part", .meaning = "a solid of one material", .meshed = Meshed::value});
    v.tables(&Model::surfaces, {.name = "surface", .meaning = "a named rule that picks exposed surfaces", .meshed = Meshed::value});
    v.tables(&Model::joints, {.name = "joint", .meaning = "how two parts that touch exchange heat", .meshed = Meshed::value});
    v.tables(&Model::nodes, {.name = "node", .meaning = "a lumped node: one temperature without a place, as the junction of a component"});
    v.tables(&Model::resistors, {.name = "resistor", .meaning = "a thermal resistance between nodes, parts, surfaces and the ambient"});
    v.tables(&Model::powers, {.name = "power", .meaning = "heat put into parts, onto a surface or onto faces in contact", .meshed = Meshed::value});
    v.tables(&Model::coolings, {.name = "cooling", .meaning = "heat exchange of a surface with its surroundings", .meshed = Meshed::value});
    v.tables(&Model::holds, {.name = "hold", .meaning = "an imposed temperature, of a surface or of whole parts", .meshed = Meshed::value});
    v.tables(&Model::sensors, {.name = "sensor", .meaning = "a point whose temperature is reported"});
    v.tables(&Model::figures, {.name = "figure", .meaning = "a number that results tell under a name of its own"});
    v.tables(&Model::limits, {.name = "limit", .meaning = "what a temperature or a figure must not exceed, or not fall below"});
    v.tables(&Model::milestones, {.name = "milestone", .meaning = "a temperature or a figure that passes a value: when, without a verdict"});
    v.tables(&Model::profiles, {.name = "profile", .meaning = "a factor or a temperature over time"});
    v.tables(&Model::thermostats, {.name = "thermostat", .meaning = "switches powers and coolings by the temperature of a sensor"});
    v.tables(&Model::studies, {.name = "study", .meaning = "one computation"});
    v.tables(&Model::pictures, {.name = "picture", .meaning = "a view of the assembly, drawn after a study"});
}

}  // namespace firnfield
