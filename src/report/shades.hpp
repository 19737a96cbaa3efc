/// What the colours of a picture or scene are of: temperatures or heat flux, in a unit, and where their scale ends.
#pragma once

#include <firnfield/model.hpp>

#include "base/unit_text.hpp"
#include "mesh/surface_pieces.hpp"
#include "report/drawing.hpp"

#include <array>
#include <span>
#include <vector>

namespace firnfield {

/// What the colours are of.
struct Shades {
    std::vector<double> value;  // at the corners, in the unit
    UnitOf unit;
    double lowest = 0.0, highest = 0.0;
    /// Where the colours end: a few corners with much more flux than all the rest would leave it without any.
    double scale_low = 0.0, scale_high = 0.0;
};

/// The values at the corners, given in SI units.
[[nodiscard]] Shades shades_of(std::vector<double> si, UnitOf unit);

/// Heat flux at the corners of a surface as the view tells it. `flux`: W/m², per cell.
[[nodiscard]] Shades flux_shades(const SurfacePieces& surface, const Picture& view, std::span<const Vec3> flux, const Units& units);

/// In cells that fill their boxes only in part the flux is the mean with their neighbours': what passes a small piece tells little by itself.
[[nodiscard]] std::vector<Vec3> evened(const Mesh& mesh, const std::vector<Vec3>& flux);

/// The part that each corner belongs to, by its number in the model.
[[nodiscard]] Shades part_shades(const SurfacePieces& surface, const Mesh& mesh);

/// A soft colour for each number; neighbours in a list differ much.
[[nodiscard]] std::array<double, 3> tint(std::size_t number);

/// The colour of each part of a model: its own, or one that is free.
[[nodiscard]] std::vector<std::array<double, 3>> part_colours(const Model& model);

/// The ends of the colours, as the view wants them or as the values ask for, in about so many steps.
[[nodiscard]] Scale scale_of(const Shades& shades, const Picture& view, int steps);

}  // namespace firnfield
