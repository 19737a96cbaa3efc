/// The bodies of a model as the grid sees them: without what mirrors and later parts take, and the grid laid over them.
#pragma once

#include <firnfield/mesh.hpp>

#include "mesh/face_rules.hpp"
#include "mesh/grid_lines.hpp"
#include "model/bodies.hpp"

#include <array>
#include <cmath>
#include <numbers>
#include <vector>

namespace firnfield {

/// A surface that the grid will cut, and which regions of rules its triangles lie in.
struct CutSurface {
    ClosedSurface surface{};
    std::vector<std::uint16_t> zone{};  ///< per triangle: index in Layout::zones
};

/// Bodies after symmetry planes and later parts cut them; index for index the same.
struct Layout {
    std::vector<Body> bodies{};
    std::vector<std::vector<Box>> holes{};  ///< of bodies built of boxes along the axes
    std::vector<std::vector<Box>> taken{};  ///< likewise: what later boxes take of them; the grid leaves it out when it is filled
    std::vector<double> chord{};            ///< m: how far facets may be from the true surface; 0 for flat bodies
    std::vector<CutSurface> surfaces{};     ///< Body::surface counts these
    std::vector<std::vector<Index>> zones{{}};
    std::vector<Overlap> overlaps{};  ///< that cutting found; those among boxes are found by filling
    std::vector<SymmetryPlane> planes{};
    std::vector<Shape> regions{};        ///< of rules
    std::vector<FaceRule> face_rules{};  ///< their marks on surfaces are numbered after those of the regions
    /// Of bodies built of boxes: the zone of each side, and of walls within; index in `zones`.
    std::vector<std::array<std::uint16_t, 7>> box_zones{};
    /// Sides of the whole domain that are planes of symmetry: no surface there.
    std::array<bool, 6> mirror_side{};
    std::vector<FirstCell> first_cells{};
    std::array<std::vector<SizeDemand>, 3> across{};  ///< of footprints, along their faces
    double target = 0.0;                              ///< m, cell size where nothing asks for a smaller one
    double tolerance = 0.0;                           ///< m, length below which two planes are one
};

/// Name of the face that a symmetry plane leaves: such faces are no surface. No face of a file can have it.
inline constexpr std::string_view symmetry_tag = "\1symmetry";

/// Width of the wedge that stands for a revolved model: narrow enough that its flat facets are round.
inline constexpr double wedge_degrees = 2.0;
/// How many wedges with flat facets at the true radius have the areas and volumes of the whole: a little less than fit into a turn.
[[nodiscard]] inline double wedges_in_turn() { return std::numbers::pi / std::tan(0.5 * wedge_degrees * std::numbers::pi / 180.0); }

/// The part of `box` inside `bounds`; no positive size along some axis when they do not meet.
[[nodiscard]] Box intersection(const Box& box, const Box& bounds);

/// Why a body has no cells. `by`: one that takes of it, or empty.
[[nodiscard]] std::string nothing_left(const std::string& body, const std::string& by);

/// Lays out the parts. Throws ModelError when the planes of symmetry leave nothing.
[[nodiscard]] Layout lay_out(const Model& model);

/// The grid for a layout. Throws ModelError when it would need more cells than allowed.
[[nodiscard]] Grid make_grid(const Model& model, const Layout& layout);

/// Range of boxes [first, last) between two planes of the grid.
struct Range {
    Index first = 0, last = 0;
};
[[nodiscard]] Range box_range(const Grid& grid, int axis, double from, double to);

}  // namespace firnfield
