/// Control volumes: grid boxes cut by the parts, what lies between them, and what they show to the outside.
///
/// A rectilinear grid lies over the assembly. A *cell* is the piece of one body in one grid box and carries one
/// temperature, located at the centre of the box. Everything downstream reads only the arrays below, so it does
/// not matter whether a box is filled by one part or shared by several.
#pragma once

#include <firnfield/geometry.hpp>
#include <firnfield/model.hpp>

#include <array>
#include <cstdint>
#include <string>
#include <vector>

namespace firnfield {

using Index = std::uint32_t;
inline constexpr Index no_index = 0xFFFFFFFFU;

/// Planes across the three axes; a box lies between two neighbouring planes of each.
struct Grid {
    std::array<std::vector<double>, 3> lines{};  ///< m, ascending

    [[nodiscard]] Index count(int axis) const { return static_cast<Index>(lines[static_cast<std::size_t>(axis)].size()) - 1; }
    [[nodiscard]] std::size_t boxes() const { return std::size_t{count(0)} * count(1) * count(2); }
    /// Place of a box along each axis; boxes are numbered with x fastest.
    [[nodiscard]] std::array<Index, 3> place(Index box) const {
        const Index row = box / count(0);
        return {box % count(0), row % count(1), row / count(1)};
    }
    [[nodiscard]] double lower(int axis, Index i) const { return lines[static_cast<std::size_t>(axis)][i]; }
    [[nodiscard]] double upper(int axis, Index i) const { return lines[static_cast<std::size_t>(axis)][i + 1]; }
    [[nodiscard]] double width(int axis, Index i) const { return upper(axis, i) - lower(axis, i); }
    [[nodiscard]] double middle(int axis, Index i) const { return 0.5 * (lower(axis, i) + upper(axis, i)); }
    [[nodiscard]] Vec3 centre(Index box) const {
        const auto at = place(box);
        return {middle(0, at[0]), middle(1, at[1]), middle(2, at[2])};
    }
};

/// One copy of a part, as it stands in the mesh.
struct Body {
    std::string name{};
    Index part = 0;           ///< index in Model::parts
    Box box{};                  ///< extent after mirrors have cut it
    double volume = 0.0;      ///< m³, of the kept piece
    Index cells = 0;
    std::array<bool, 3> on_mirror{};  ///< touches the mirror plane across x, y, z: its image is part of the same body
};

/// Cells, structure of arrays.
struct Cells {
    std::vector<Index> box{};
    std::vector<Index> body{};
    std::vector<double> volume{};  ///< m³
    [[nodiscard]] Index size() const { return static_cast<Index>(box.size()); }
};

/// Faces between cells of the same body in neighbouring boxes, from the lower to the upper cell along `axis`.
struct Faces {
    std::vector<Index> first{}, second{};
    std::vector<std::uint8_t> axis{};
    std::vector<double> area{};      ///< m², open area
    std::vector<double> distance{};  ///< m, between the box centres
    [[nodiscard]] std::size_t size() const { return first.size(); }
};

/// Facing surface pieces of two bodies that touch, or look at each other across a bridged gap.
struct Contacts {
    std::vector<Index> first{}, second{};         ///< cells
    std::vector<Index> pair{};                  ///< index in Mesh::pairs
    std::vector<std::uint8_t> side{};           ///< Side of the first cell that looks at the second
    std::vector<double> area{};                 ///< m²
    std::vector<double> depth_first{}, depth_second{};  ///< m, signed distance from the box centre to the surface
    std::vector<double> gap{};                  ///< m
    [[nodiscard]] std::size_t size() const { return first.size(); }
};

/// Two bodies that touch, and which joint of the model rules them.
struct ContactPair {
    Index first = 0, second = 0;     ///< bodies
    Index joint = no_index;          ///< index in Model::joints; no_index: nothing said, perfect contact
    double area = 0.0;               ///< m², of the kept piece
    double largest_gap = 0.0;        ///< m
    double mean_gap = 0.0;           ///< m
};

/// Which face of its part a patch belongs to: one of the six outer sides, or the wall of a hole or cut-out.
enum class FaceTag : std::uint8_t { minus_x, plus_x, minus_y, plus_y, minus_z, plus_z, inner };

/// "-x" … "+z", "inner".
[[nodiscard]] std::string_view name_of(FaceTag tag);

/// Exposed surface pieces: those that touch nothing.
struct Patches {
    std::vector<Index> cell{};
    std::vector<FaceTag> tag{};
    std::vector<Side> side{};      ///< direction of the outward normal
    std::vector<double> area{};    ///< m²
    std::vector<double> depth{};   ///< m, signed distance from the box centre to the surface
    [[nodiscard]] std::size_t size() const { return cell.size(); }
};

/// Volume that a later part took from an earlier one.
struct Overlap {
    Index displaced = 0, by = 0;  ///< bodies
    double volume = 0.0;          ///< m³
};

struct Mesh {
    Grid grid{};
    std::vector<Body> bodies{};
    Cells cells{};
    Faces faces{};
    Contacts contacts{};
    std::vector<ContactPair> pairs{};
    /// Faces that look at each other across a gap ruled by an exchange factor; both stay exposed patches.
    Contacts gaps{};
    Patches patches{};
    std::vector<Overlap> overlaps{};
    /// How many times the whole product contains the kept piece: 2 to the number of mirrors.
    double multiplicity = 1.0;

    [[nodiscard]] Vec3 centre(Index cell) const { return grid.centre(cells.box[cell]); }
    /// Point of the patch straight in front of its cell's centre.
    [[nodiscard]] Vec3 foot(std::size_t patch) const;
};

/// Divides space and finds what touches. Throws ModelError for a model that validate() refuses, for joints that
/// find nothing to join or claim the same pair, and when the mesh would pass MeshOptions::max_cells.
[[nodiscard]] Mesh build_mesh(const Model& model);

/// The cell in a box, or no_index. Cells are numbered by ascending box.
[[nodiscard]] Index cell_in_box(const Mesh& mesh, std::size_t box);

/// A cell of the part (or copy) `part` that holds the point; any of them when it lies between several.
/// Throws ModelError (at `address`) when there is none.
[[nodiscard]] Index cell_at_point(const Model& model, const Mesh& mesh, const std::string& part, Vec3 point, const std::string& address);

/// The patches a rule picks, ascending. Throws ModelError (at `address`) when it picks none.
/// A rule for the rest (`Selection::rest`) picks as if nothing else were claimed; claims are settled in the network.
[[nodiscard]] std::vector<Index> select_patches(const Model& model, const Mesh& mesh, const Selection& pick, const std::string& address);

}  // namespace firnfield
