/// Cuts one closed surface by the grid: which boxes it fills, how much of the others, through which open areas.
///
/// Triangles are clipped to grid boxes and only their area vectors are summed. The open area ("aperture") of a grid face
/// is then the running sum of these along its row of boxes, since a closed surface has no net area vector: no rays, no
/// sampling, and every cell closes to rounding, also where the surface does not.
#pragma once

#include <firnfield/mesh.hpp>

#include "mesh/layout.hpp"

#include <limits>
#include <vector>

namespace firnfield {

/// Pieces within this angle of each other (its cosine, for 35°) count as one; sharp edges keep their sides apart.
inline constexpr double same_direction = 0.82;

/// A piece of surface in one box, of one face and about one direction.
struct CutPatch {
    std::uint16_t tag = 0, zone = 0;
    Index next = no_index;                                ///< next patch of the same box
    Vec3 vector{};                                        ///< ∫ n dS
    double area = 0.0;                                    ///< ∫ dS
    double depth = 0.0;                                   ///< ∫ (x − box centre) · n dS
    double nearest = std::numeric_limits<double>::max();  ///< m, least distance of a piece from the box centre along n
};

/// A box that the surface passes through.
struct CutBox {
    Index box = 0;                                  ///< of the grid
    double volume = 0.0;                            ///< m³ of the solid
    std::array<double, 3> low_area{}, high_area{};  ///< m², open area of the lower and upper face along each axis
    Index first_patch = no_index;
    std::int32_t next_piece = -1;  ///< further separate piece of the body in the same box
    Index cell = no_index;         ///< of the mesh, once cells are numbered
};

/// Open area between pieces of two neighbouring boxes that are both split.
struct CutFace {
    std::int32_t first = 0, second = 0;  ///< indices in CutBody::cut
    std::uint8_t axis = 0;
    double area = 0.0;  ///< m²
};

/// What the grid makes of a surface.
struct CutBody {
    std::array<Range, 3> range{};       ///< boxes that the body lies in
    std::vector<std::int32_t> state{};  ///< per box of the range, x fastest: index in `cut`, or one of the two below
    std::vector<CutBox> cut{};          ///< ascending by box; further pieces of split boxes at the end
    std::vector<CutPatch> patches{};
    std::vector<CutFace> between{};
    SurfaceQuality quality{};

    static constexpr std::int32_t outside = -1, inside = -2;

    [[nodiscard]] Index count(std::size_t axis) const { return range[axis].last - range[axis].first; }
    /// Adds a piece of surface: area vector, and its centroid as seen from the box centre.
    void add_to_patch(CutBox& box, std::uint16_t tag, std::uint16_t zone, Vec3 normal, Vec3 vector, Vec3 from_centre);

    [[nodiscard]] std::size_t local(Index i, Index j, Index k) const { return (std::size_t{k} * count(1) + j) * count(0) + i; }
};

[[nodiscard]] CutBody cut_by_grid(const Grid& grid, const CutSurface& surface);

}  // namespace firnfield
