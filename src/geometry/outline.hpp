/// Plane outlines: arcs into chords, triangulation of polygons with holes.
#pragma once

#include <firnfield/geometry.hpp>

#include <array>
#include <cstdint>
#include <vector>

namespace firnfield {

using Point2 = std::array<double, 2>;

/// What a piece of an outline is like.
struct OutlineArc {
    Point2 centre{};
    double radius = 0.0;  ///< 0: straight
    bool bulges = true;   ///< away from what the outline encloses
};

/// An outline as a polygon; every edge knows which piece of the outline it comes from.
struct FlatOutline {
    std::vector<Point2> corner{};
    std::vector<std::uint16_t> piece{};   ///< of the edge that starts at the corner: index of the outline point it leads to
    std::vector<double> length_factor{};  ///< per outline point: true length over the length of the chords
    std::vector<OutlineArc> arc{};        ///< likewise
};

/// Chords stay within `chord` of arcs. The result runs counter-clockwise.
[[nodiscard]] FlatOutline flatten(const Outline& outline, double chord);

/// Signed area, positive for counter-clockwise.
[[nodiscard]] double signed_area(const std::vector<Point2>& polygon);

/// Whether two edges of the closed curves meet other than at shared corners.
[[nodiscard]] bool crosses_itself(const std::vector<std::vector<Point2>>& loops);

/// Triangles of a counter-clockwise polygon without its holes, as indices into all corners in the order given:
/// ear clipping, holes joined by bridges (Eberly, "Triangulation by ear clipping", 2002).
[[nodiscard]] std::vector<std::array<std::uint32_t, 3>> triangulate_polygon(const std::vector<std::vector<Point2>>& loops);

/// Chords of a full circle that stay within `chord` of it; a multiple of four.
[[nodiscard]] int facets_of_turn(double radius, double chord);

}  // namespace firnfield
