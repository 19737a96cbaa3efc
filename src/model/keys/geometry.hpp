/// Keys of solids, parts and rules that pick surfaces.
#pragma once

#include <firnfield/model.hpp>
#include <firnfield/quantity.hpp>

#include "model/keys/key.hpp"

namespace firnfield {

template <typename V>
void describe(V& v, const Box&) {
    v.point(&Box::size, {.name = "size",
                         .meaning = "edge lengths along x, y and z",
                         .example = "[80, 60, 4]",
                         .required = true,
                         .written = true,
                         .meshed = Meshed::value,
                         .stand_in = 1.0,
                         .range = Range::positive,
                         .what = "a size"});
    v.point(&Box::at, {.name = "at", .meaning = "its lower corner", .written = true, .meshed = Meshed::value});
}

inline constexpr Key along_key{.name = "along", .meaning = "axis of the shape", .meshed = Meshed::value};
inline constexpr Key length_key{
    .name = "length", .meaning = "length along its axis", .example = "30", .required = true, .written = true, .meshed = Meshed::value, .stand_in = 1.0};
inline constexpr Key angle_key{.name = "angle", .meaning = "degrees; less than 360 gives a sector", .meshed = Meshed::value};
inline constexpr Key foot_key{.name = "at", .meaning = "centre of its lower end", .written = true, .meshed = Meshed::value};

template <typename V>
void describe(V& v, const Cylinder&) {
    v.radius(&Cylinder::radius, "", {.meaning = "or its radius", .example = "12", .required = true, .stand_in = 1.0});
    v.quantity(&Cylinder::length, kinds::length, length_key);
    v.word(&Cylinder::along, axis_words, along_key);
    v.point(&Cylinder::at, foot_key);
}

template <typename V>
void describe(V& v, const Tube&) {
    v.radius(&Tube::outer_radius, "outer_", {.meaning = "or its outer radius", .example = "12", .required = true, .stand_in = 1.0});
    v.radius(&Tube::inner_radius, "inner_", {.meaning = "or its inner radius; without either the tube is solid"});
    v.quantity(&Tube::length, kinds::length, length_key);
    v.quantity(&Tube::angle, kinds::number, angle_key);
    v.word(&Tube::along, axis_words, along_key);
    v.point(&Tube::at, foot_key);
}

template <typename V>
void describe(V& v, const Sphere&) {
    v.radius(&Sphere::radius, "", {.meaning = "or its radius", .example = "12", .required = true, .stand_in = 1.0});
    v.point(&Sphere::at, {.name = "at", .meaning = "its centre", .written = true, .meshed = Meshed::value});
}

template <typename V>
void describe(V& v, const Cone&) {
    v.radius(&Cone::lower_radius, "lower_", {.meaning = "or its lower radius; may be 0", .example = "12", .required = true, .stand_in = 1.0});
    v.radius(&Cone::upper_radius, "upper_", {.meaning = "or its upper radius; may be 0", .example = "6", .required = true, .stand_in = 1.0});
    v.quantity(&Cone::length, kinds::length, length_key);
    v.word(&Cone::along, axis_words, along_key);
    v.point(&Cone::at, foot_key);
}

template <typename V>
void describe(V& v, const Prism&) {
    v.outline(&Prism::outline, {.name = "outline",
                                .meaning = "corners in the plane across `along`: the next two axes in the order x, y, z, x",
                                .example = "[[0, 0], [40, 0], [40, 25]]",
                                .required = true});
    v.outlines(&Prism::holes, {.name = "cutouts", .meaning = "outlines of openings through the prism"});
    v.quantity(&Prism::length, kinds::length, length_key);
    v.word(&Prism::along, axis_words, along_key);
    v.point(&Prism::at, {.name = "at", .meaning = "where the origin of the outline lies, at the lower end", .written = true, .meshed = Meshed::value});
}

template <typename V>
void describe(V& v, const Revolution&) {
    v.outline(&Revolution::outline,
              {.name = "outline", .meaning = "corners as radius and height", .example = "[[0, 0], [12, 0], [12, 30], [0, 30]]", .required = true});
    v.quantity(&Revolution::angle, kinds::number, angle_key);
    v.word(&Revolution::along, axis_words, along_key);
    v.point(&Revolution::at, {.name = "at", .meaning = "where radius and height are zero", .written = true, .meshed = Meshed::value});
}

template <typename V>
void describe(V& v, const Solid&) {
    v.surface_file(Words<4>{"file", "unit", "body", "checksum"});
    v.point(&Solid::at, {.name = "at", .meaning = "where the origin of the file is placed", .written = true, .meshed = Meshed::value});
}

template <typename V>
void describe(V& v, const CadSolid&) {
    v.cad_file(Words<4>{"file", "solid", "copies", "checksum"});
    v.point(&CadSolid::at, {.name = "at", .meaning = "where the origin of the file is placed", .written = true, .meshed = Meshed::value});
}

template <typename V>
void describe(V& v, const Rotation&) {
    v.direction(&Rotation::axis, {.name = "axis", .meaning = "axis of rotation", .written = true, .meshed = Meshed::value});
    v.quantity(&Rotation::angle, kinds::number,
               {.name = "angle", .meaning = "degrees, right-handed", .example = "30", .required = true, .written = true, .meshed = Meshed::value});
    v.point(&Rotation::about, {.name = "about", .meaning = "a point on the axis", .usual = "the part's own origin", .meshed = Meshed::value});
}

template <typename V>
void describe(V& v, const Repeat& now) {
    v.integer(
        &Repeat::count,
        {.name = "count", .meaning = "number of copies, including the first", .example = "4", .required = true, .written = true, .meshed = Meshed::value});
    constexpr Key step{.name = "step", .meaning = "offset from one copy to the next", .meshed = Meshed::value};
    v.either(
        "turn", now.turn != 0.0,
        [&] {
            v.point(&Repeat::step, step);
            v.quantity(&Repeat::turn, kinds::number, {.name = "turn", .meaning = "for a ring: degrees from one copy to the next", .meshed = Meshed::value});
            v.direction(&Repeat::axis, {.name = "axis", .meaning = "axis of the ring", .written = true, .meshed = Meshed::value});
            v.point(&Repeat::about, {.name = "about", .meaning = "a point on the ring's axis", .written = true, .meshed = Meshed::value});
        },
        [&] {
            Key row = step;
            row.example = "[15, 0, 0]";
            row.required = row.written = true;
            v.point(&Repeat::step, row);
        });
}

template <typename V>
void describe(V& v, const HalfSpace&) {
    v.direction(
        &HalfSpace::normal,
        {.name = "normal", .meaning = "points to the side that counts", .example = "\"+z\"", .required = true, .written = true, .meshed = Meshed::value});
    v.point(&HalfSpace::through,
            {.name = "through", .meaning = "a point on the plane", .example = "[0, 0, 12]", .required = true, .written = true, .meshed = Meshed::value});
}

template <typename V>
void describe(V& v, const Part&) {
    v.text(&Part::name, {.name = "name", .meaning = "unique among the parts", .example = "\"base\"", .required = true, .meshed = Meshed::value});
    v.shape(
        &Part::shape,
        {.name = "shape", .meaning = "one of the shapes below, with its keys and `at`, where its own origin goes", .usual = "box", .meshed = Meshed::value});
    v.text(&Part::material,
           {.name = "material", .meaning = "name of a `[[material]]` of the file, or of the library", .example = "\"aluminium 6061-T6\"", .required = true});
    v.flag(&Part::stirred, {.name = "stirred",
                            .meaning = "`true` for a liquid that is stirred, or contents that are shaken: one temperature throughout. What it touches sees it "
                                       "through a joint with a `coefficient` (a value, a curve or a law), the air through a cooling",
                            .meshed = Meshed::value});
    v.shapes(&Part::also, {.name = "also",
                           .meaning = "further solids of the same part, as `{ shape = \"cylinder\", … }`; their `at` is relative to that of the part",
                           .meshed = Meshed::value});
    v.shapes(&Part::holes, {.name = "holes", .meaning = "solids cut out of the part; their `at` is relative to that of the part", .meshed = Meshed::value});
    v.quantity(
        &Part::scale, kinds::number,
        {.name = "scale", .meaning = "factor on the size, about the origin of the part", .meshed = Meshed::value, .range = Range::positive, .what = "a scale"});
    v.word(&Part::mirrored, axis_words,
           {.name = "mirrored", .meaning = "axis along which the part is mirrored, about its own origin", .meshed = Meshed::value});
    v.tables(&Part::rotate, {.name = "rotate", .meaning = "one rotation `{ axis, angle, about }`, or a list applied in order", .meshed = Meshed::value});
    v.tables(&Part::repeat,
             {.name = "repeat",
              .meaning = "one `{ count, step }` or a list of up to three: a row, a grid or a lattice of copies; `{ count, turn, axis, about }` gives a ring",
              .meshed = Meshed::value});
    v.flag(&Part::include, {.name = "include",
                            .meaning = "`false` leaves the part out, with every joint, power, rule and sensor that names no other part",
                            .meshed = Meshed::value});
    v.quantity(&Part::cell, kinds::length,
               {.name = "cell", .meaning = "largest cell size inside this part", .meshed = Meshed::value, .range = Range::positive, .what = "the cell size"});
    v.text(&Part::colour, {.name = "colour",
                           .meaning = "in pictures that show the parts: red, green and blue as `\"#rrggbb\"`",
                           .example = "\"#b87333\"",
                           .usual = "of a CAD file, else one that is free"});
}

template <typename V>
void describe(V& v, const FacePick&) {
    v.texts(&FacePick::kind, {.name = "kind",
                              .meaning = "kinds of faces: `\"plane\"`, `\"cylinder\"`, `\"bore\"` (a cylinder seen from inside), `\"cone\"`, `\"sphere\"`, "
                                         "`\"torus\"` or `\"curved\"`",
                              .meshed = Meshed::value});
    v.quantities(&FacePick::diameter, kinds::length,
                 {.name = "diameter",
                  .meaning = "of cylinders, bores and spheres: one value, or `[smallest, largest]`",
                  .meshed = Meshed::value,
                  .range = Range::positive,
                  .what = "a diameter"});
    v.quantities(&FacePick::area, kinds::area,
                 {.name = "area",
                  .meaning = "area of the whole face, as its part is described: one value, or `[smallest, largest]`",
                  .meshed = Meshed::value,
                  .range = Range::not_negative,
                  .what = "an area"});
    v.point(&FacePick::smooth_from,
            {.name = "smooth_from", .meaning = "a point: the face there, and all that join it without an edge", .meshed = Meshed::value});
    v.flag(&FacePick::inside,
           {.name = "inside",
            .meaning = "`true`: bores, walls of cavities, and faces that see their own part in more than half of all directions; `false`: the "
                       "others",
            .meshed = Meshed::value});
}

template <typename V>
void describe(V& v, const Selection&) {
    v.texts(&Selection::parts, {.name = "parts", .meaning = "part names"});
    v.texts(&Selection::sides, {.name = "sides", .meaning = "names of faces, see the shapes; wildcards, as in `\"side *\"`"});
    v.inside(&Selection::faces);
    v.directions(&Selection::facing, {.name = "facing", .meaning = "outward directions: `\"-z\"`, or three numbers, or a list; walls of holes count, too"});
    v.quantity(&Selection::within, kinds::number, {.name = "within", .meaning = "degrees by which a surface may deviate from those directions"});
    v.texts(&Selection::surfaces, {.name = "surfaces", .meaning = "named surfaces to pick from, instead of all exposed ones"});
    v.texts(&Selection::except, {.name = "except", .meaning = "named surfaces to leave out"});
    v.texts(&Selection::touching, {.name = "touching", .meaning = "only surfaces of parts that touch one of these parts"});
    v.region(&Selection::region,
             {.name = "region",
              .meaning = "a shape, `{ size, at }` for a box: only what lies inside. Surfaces are divided at its boundary, so areas are exact",
              .meshed = Meshed::value});
    v.tables(&Selection::beyond, {.name = "beyond", .meaning = "one `{ normal, through }` or a list: only the side of the plane to which the normal points"});
}

template <typename V>
void describe(V& v, const Surface&) {
    v.text(&Surface::name, {.name = "name", .meaning = "by which other rules refer to it", .example = "\"outer skin\"", .required = true});
    v.inside(&Surface::pick);
}

template <typename V>
void describe(V& v, const Mirror& now) {
    v.either(
        "normal", now.keep.has_value(), [&] { v.inside(&Mirror::keep); },
        [&] {
            v.word(&Mirror::axis, axis_words,
                   {.name = "across", .meaning = "axis normal to the plane", .example = "\"x\"", .required = true, .written = true, .meshed = Meshed::value});
            v.quantity(&Mirror::at, kinds::length, {.name = "at", .meaning = "position of the plane along the axis", .written = true, .meshed = Meshed::value});
            v.word(&Mirror::keep_plus, Words<2>{"-", "+"},
                   {.name = "keep", .meaning = "side that is kept", .example = "\"+\"", .required = true, .written = true, .meshed = Meshed::value});
        });
}

template <typename V>
void describe(V& v, const Sector&) {
    v.integer(&Sector::pieces,
              {.name = "pieces", .meaning = "sectors in a full turn", .example = "6", .required = true, .written = true, .meshed = Meshed::value});
    v.word(&Sector::along, axis_words, {.name = "along", .meaning = "the axis", .written = true, .meshed = Meshed::value});
    v.point(&Sector::about, {.name = "about", .meaning = "a point on the axis", .written = true, .meshed = Meshed::value});
    v.quantity(&Sector::from, kinds::number,
               {.name = "from",
                .meaning = "degrees at which the sector begins, counted from the next axis (about z: from x)",
                .written = true,
                .meshed = Meshed::value});
}

template <typename V>
void describe(V& v, const Space& now) {
    v.word(&Space::revolved, Words<2>{"plane", "revolved"},
           {.name = "kind",
            .meaning = "`\"plane\"`: nothing varies along z; `\"revolved\"`: nothing varies around it",
            .example = "\"plane\"",
            .required = true,
            .written = true,
            .meshed = Meshed::value});
    v.quantity(&Space::depth, kinds::length,
               {.name = "depth",
                .meaning = "extent of a plane model along z; a revolved model has none",
                .example = "\"10 mm\"",
                .required = !now.revolved,
                .written = !now.revolved,
                .meshed = Meshed::value,
                .stand_in = now.revolved ? 0.0 : 1.0});
}

template <typename V>
void describe(V& v, const RegionSize&) {
    v.inside(&RegionSize::box);
    v.quantity(&RegionSize::cell, kinds::length,
               {.name = "cell",
                .meaning = "largest cell size inside the box",
                .example = "0.5",
                .required = true,
                .written = true,
                .meshed = Meshed::value,
                .stand_in = 1.0,
                .range = Range::positive,
                .what = "the cell size"});
}

template <typename V>
void describe(V& v, const LayerSize&) {
    v.word(&LayerSize::axis, axis_words,
           {.name = "along", .meaning = "the axis", .example = "\"x\"", .required = true, .written = true, .meshed = Meshed::value});
    v.quantity(&LayerSize::from, kinds::length,
               {.name = "from", .meaning = "where the layer begins", .example = "0", .required = true, .written = true, .meshed = Meshed::value});
    v.quantity(&LayerSize::to, kinds::length,
               {.name = "to", .meaning = "where it ends", .example = "5", .required = true, .written = true, .meshed = Meshed::value});
    v.quantity(&LayerSize::cell, kinds::length,
               {.name = "cell",
                .meaning = "largest cell size along the axis",
                .example = "0.5",
                .required = true,
                .written = true,
                .meshed = Meshed::value,
                .range = Range::positive,
                .what = "the cell size"});
    v.flag(&LayerSize::coarser, {.name = "coarser",
                                 .meaning = "the layer may be coarser than by default, where neither `mesh.cell` nor the part's `cell` is given",
                                 .example = "true",
                                 .meshed = Meshed::value});
}

template <typename V>
void describe(V& v, const MeshOptions&) {
    v.quantity(&MeshOptions::cell, kinds::length,
               {.name = "cell",
                .meaning = "largest cell size",
                .usual = "1/40 of the longest edge",
                .meshed = Meshed::value,
                .range = Range::positive,
                .what = "the cell size"});
    v.integer(&MeshOptions::through, {.name = "through",
                                      .meaning = "least number of cells through each part, and through the walls beside holes",
                                      .written = true,
                                      .meshed = Meshed::value});
    v.quantity(&MeshOptions::growth, kinds::number,
               {.name = "growth", .meaning = "largest ratio of neighbouring cell sizes, 1.05 to 1.5", .written = true, .meshed = Meshed::value});
    v.quantity(&MeshOptions::coarsening, kinds::number,
               {.name = "coarsening", .meaning = "factor on all cell sizes, including those of parts and regions", .meshed = Meshed::value});
    v.flag(&MeshOptions::refine,
           {.name = "refine",
            .meaning = "solving refines the mesh where the error comes from, until limits, sensors and the hottest place are known to 1 % of their rise",
            .written = true});
    v.quantity(&MeshOptions::error_target, kinds::temperature_difference,
               {.name = "error_target",
                .meaning = "refining ends when these, and the hottest place of every part, are known to this instead",
                .range = Range::positive,
                .what = "an error target"});
    v.integer(&MeshOptions::max_cells, {.name = "max_cells",
                                        .meaning = "larger meshes are refused; so is one that would not fit into the machine's memory",
                                        .written = true,
                                        .meshed = Meshed::value});
    v.planes(&MeshOptions::planes, {.name = "planes",
                                    .meaning = "`{ x = [0, 12.5] }`: further grid planes normal to x, y and z; they may lie outside the assembly",
                                    .meshed = Meshed::value});
    v.tables(&MeshOptions::regions,
             {.name = "regions", .meaning = "one `{ size, at, cell }` or a list: finer cells inside these boxes", .meshed = Meshed::value});
    v.tables(&MeshOptions::layers,
             {.name = "layers",
              .meaning = "one `{ along, from, to, cell, coarser }` or a list: finer or coarser cells along one axis, between two planes normal to it",
              .meshed = Meshed::value});
}

}  // namespace firnfield
