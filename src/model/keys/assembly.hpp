/// Keys of assemblies from CAD files.
#pragma once

#include <firnfield/assembly.hpp>

#include "model/keys/geometry.hpp"

namespace firnfield {

template <typename V>
void describe(V& v, const AssemblyPart&) {
    v.text(&AssemblyPart::name, {.name = "name", .meaning = "of parts of the assembly; wildcards", .example = "\"lid\"", .required = true});
    v.flag(&AssemblyPart::include, {.name = "include", .meaning = "`false` leaves them out"});
    v.text(&AssemblyPart::material, {.name = "material", .meaning = "instead of that by `materials`"});
    v.flag(&AssemblyPart::stirred, {.name = "stirred", .meaning = "as of a part"});
    v.quantity(&AssemblyPart::cell, kinds::length,
               {.name = "cell", .meaning = "largest cell size inside them", .range = Range::positive, .what = "the cell size"});
    v.text(&AssemblyPart::colour, {.name = "colour", .meaning = "as of a part", .usual = "that of the file"});
}

template <typename V>
void describe(V& v, const Assembly&) {
    v.text(&Assembly::file, {.name = "file", .meaning = "a STEP file, its path relative to the model file", .example = "\"case.step\"", .required = true});
    v.text_table(&Assembly::materials,
                 {.name = "materials",
                  .meaning = "from names of parts, wildcards among them, to materials: `{ \"screw *\" = \"steel C45\", \"*\" = \"copper\" }`. The "
                             "first that matches counts; what matches none has the material that the file names, where the library has it"});
    v.point(&Assembly::at, {.name = "at", .meaning = "where the origin of the file is placed"});
    v.quantity(&Assembly::scale, kinds::number,
               {.name = "scale", .meaning = "factor on the size, about that origin", .range = Range::positive, .what = "a scale"});
    v.word(&Assembly::mirrored, axis_words, {.name = "mirrored", .meaning = "axis along which it is mirrored, about that origin"});
    v.tables(&Assembly::rotate, {.name = "rotate", .meaning = "as of a part"});
    v.texts(&Assembly::pick,
            {.name = "pick",
             .meaning = "takes only these: solids, copies (`\"screw 2\"`), sub-assemblies with all in them (`\"gearbox\"`), or both (`\"gearbox/screw\"`); "
                        "wildcards",
             .usual = "everything"});
    v.texts(&Assembly::leave_out, {.name = "leave_out", .meaning = "takes none of these, likewise"});
    v.text(&Assembly::prefix, {.name = "prefix", .meaning = "put before the names of all its parts"});
    v.quantity(&Assembly::cell, kinds::length,
               {.name = "cell", .meaning = "largest cell size inside its parts", .range = Range::positive, .what = "the cell size"});
    v.tables(&Assembly::parts, {.name = "part", .meaning = "`[[assembly.part]]`: what differs for some of its parts"});
}

}  // namespace firnfield
