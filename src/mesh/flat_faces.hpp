/// The faces of bodies that stand across an axis, and where they meet: what can be told about contacts before there is a mesh.
#pragma once

#include "mesh/layout.hpp"

#include <functional>

namespace firnfield {

/// A face across one axis. Pieces of a cut surface in one plane are one face, with the box around them.
struct FlatFace {
    Index body = 0;
    int axis = 0;
    bool upper = false;                  ///< the body lies below: the outward normal points along +axis
    Box extent{};                        ///< flat along the axis
    double area = 0.0;                   ///< m²
    std::vector<std::uint16_t> zones{};  ///< marks of its pieces, index in Layout::zones
    [[nodiscard]] double at() const { return extent.lower()[axis]; }
};

/// Outer faces, walls of holes, and what later boxes leave of earlier ones around them; planes of symmetry are no faces.
[[nodiscard]] std::vector<FlatFace> flat_faces(const Layout& layout);

/// Calls `meet` with every two faces that look at each other over at most `reach` (m) of both their bodies, the lower body's first, and
/// the box in which they overlap.
void for_each_meeting(const Layout& layout, const std::vector<FlatFace>& faces, const std::function<double(Index, Index)>& reach, double longest_reach,
                      const std::function<void(const FlatFace& below, const FlatFace& above, const Box& common)>& meet);

}  // namespace firnfield
