/// The parts of a model laid out in space: repeats expanded, left-out parts dropped.
#pragma once

#include <firnfield/model.hpp>

#include "geometry/placement.hpp"

#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

/// One copy of a part.
struct PlacedPart {
    std::string name;        ///< "fin 3" for a copy, the part's own name otherwise
    std::uint32_t part = 0;  ///< index in Model::parts
    std::size_t piece = 0;   ///< of a part whose file has several bodies: which of them
    Placement placement;     ///< of the shape as the part describes it
    bool aligned = false;    ///< made of boxes along the axes only: then `box` and `holes` say all
    Box box;                 ///< before mirrors cut it
    std::vector<Box> holes;  ///< in model coordinates
};

/// Every copy of every part, in the model's order; left-out parts only when asked for.
[[nodiscard]] std::vector<PlacedPart> place_parts(const Model& model, bool with_left_out = false);

/// The part with the shape that this copy of it has: of several bodies of a file its own.
[[nodiscard]] Part part_of(const Model& model, const PlacedPart& copy);

/// The surface of a copy: its shape with everything added and cut out, where it stands. Curved faces stay within `chord` (m).
[[nodiscard]] ClosedSurface surface_of(const Part& part, const PlacedPart& copy, double chord);

/// A plane model is as deep as it says, whatever its parts say; others stay as they are.
[[nodiscard]] Model as_deep_as_it_says(Model model);
/// One wedge, `degrees` wide, of a part of a revolved model, where the copy stands.
[[nodiscard]] ClosedSurface wedge_of_part(const Part& part, const PlacedPart& copy, double degrees, double chord);

/// The shape with its origin shifted, as holes and additions are given relative to their part.
[[nodiscard]] Shape shifted(Shape shape, Vec3 step);

/// Whether `pattern` picks a copy: it matches the copy's name, or the name of the part it is a copy of.
[[nodiscard]] bool picks(std::string_view pattern, std::string_view copy_name, std::string_view part_name);

/// Whether some of the patterns pick left-out parts and none picks an included one: then what names them rests, too.
[[nodiscard]] bool picks_only_left_out(const Model& model, std::span<const std::string> patterns);

}  // namespace firnfield
