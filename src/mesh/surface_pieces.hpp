/// The visible surface of an assembly in flat convex pieces, and what each of them lies on: for pictures, viewers, and whatever acts between
/// surfaces. Temperatures are no matter here.
#pragma once

#include <firnfield/mesh.hpp>

#include <cstdint>
#include <functional>
#include <optional>
#include <span>
#include <vector>

namespace firnfield {

/// A flat convex piece of surface.
struct SurfacePiece {
    /// What its value is that of.
    enum class On : std::uint8_t {
        cell,               ///< the cell itself: a plane of symmetry, a section
        patch,              ///< `place` is one of Mesh::patches
        first_of_contact,   ///< `place` is one of Mesh::contacts
        second_of_contact,  ///< likewise
    };
    Index first = 0, count = 0;  ///< corners: SurfacePieces::index[first … first + count)
    Index body = 0, cell = 0, place = no_index;
    On on = On::cell;
    std::uint16_t tag = 0;  ///< face of the body, as in Mesh::tags
    std::uint8_t side = 0;  ///< main direction where the body has flat faces of this tag in several directions
    bool inner = false;     ///< closes a section; no face of the part
    bool cuts = false;      ///< lies anywhere in its cell's box; others are a whole face of it
    Vec3 normal{};
};

struct SurfacePieces {
    std::vector<Vec3> corners{};  ///< m
    std::vector<Index> index{};
    std::vector<SurfacePiece> pieces{};

    [[nodiscard]] std::span<const Index> of(const SurfacePiece& p) const { return std::span(index).subspan(p.first, p.count); }
};

/// What is to be seen.
struct PieceView {
    std::vector<bool> hidden{};          ///< per body; what hidden bodies cover shows
    std::optional<HalfSpace> section{};  ///< only what lies on this side, closed by the plane
};

/// The pieces of what is seen. A face of a grid box that several patches and contacts share is there once for each of them.
[[nodiscard]] SurfacePieces surface_pieces(const Mesh& mesh, const PieceView& view);

/// A value for each corner: the mean of what the pieces that meet there tell of it by `value(piece, point)`.
template <typename Value>
[[nodiscard]] std::vector<double> corner_values(const SurfacePieces& surface, const Value& value) {
    std::vector<double> sum(surface.corners.size(), 0.0), pieces(surface.corners.size(), 0.0);
    for (const SurfacePiece& piece : surface.pieces) {
        for (const Index corner : surface.of(piece)) {
            sum[corner] += value(piece, surface.corners[corner]);
            pieces[corner] += 1.0;
        }
    }
    for (std::size_t c = 0; c < sum.size(); ++c) sum[c] /= pieces[c];
    return sum;
}

}  // namespace firnfield
