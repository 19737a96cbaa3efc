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
    Index part = 0;       ///< index in Model::parts
    Box box{};            ///< extent after mirrors have cut it
    double volume = 0.0;  ///< m³, of the kept piece
    Index cells = 0;
    Index surface = no_index;     ///< in Mesh::surfaces, of a body that the grid cuts; no_index: built of boxes along the axes
    std::uint32_t on_planes = 0;  ///< bit n: touches symmetry plane n, so that its image there is part of the same body
    Vec3 thickness{};             ///< m, typical thinnest extent along x, y, z
};

/// A plane of symmetry that bounds the kept piece, from a mirror or a sector.
struct SymmetryPlane {
    Vec3 outward{};       ///< unit normal, towards what is left out
    double offset = 0.0;  ///< m, outward · x on the plane
    bool of_sector = false;
};

/// Cells, structure of arrays, by ascending box; a box shared by several bodies holds several cells.
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
    std::vector<Index> first{}, second{};               ///< cells
    std::vector<Index> pair{};                          ///< index in Mesh::pairs
    std::vector<Vec3> normal{};                         ///< unit normal from the first to the second
    std::vector<double> area{};                         ///< m²
    std::vector<double> depth_first{}, depth_second{};  ///< m, signed distance from the box centre to the surface: negative when it lies outside
    std::vector<double> gap{};                          ///< m
    [[nodiscard]] std::size_t size() const { return first.size(); }
};

/// Two bodies that touch, and which joint of the model rules them.
struct ContactPair {
    Index first = 0, second = 0;  ///< bodies
    Index joint = no_index;       ///< index in Model::joints; no_index: nothing said, perfect contact
    double area = 0.0;            ///< m², of the kept piece
    /// Whole area of the faces that touch, of the body where it is smaller, m²: what a joint covers when nothing is left out.
    double nominal_area = 0.0;
    double largest_gap = 0.0;  ///< m
    double mean_gap = 0.0;     ///< m
};

/// Exposed surface pieces: those that touch nothing. Ascending by cell.
struct Patches {
    std::vector<Index> cell{};
    std::vector<std::uint16_t> tag{};   ///< face of the part: index in Mesh::tags
    std::vector<std::uint16_t> zone{};  ///< index in Mesh::zones: which regions of rules it lies in, and which rules mean its face
    std::vector<Vec3> normal{};         ///< unit, outward
    std::vector<double> area{};         ///< m²
    std::vector<double> depth{};        ///< m, signed distance from the box centre to the surface: negative when it lies outside
    [[nodiscard]] std::size_t size() const { return cell.size(); }
};

/// Volume that a later part took from an earlier one.
struct Overlap {
    Index displaced = 0, by = 0;  ///< bodies
    double volume = 0.0;          ///< m³
};

/// Two bodies that nearly touch: their surfaces face each other just beyond what counts as contact.
struct NearMiss {
    Index first = 0, second = 0;  ///< bodies
    double gap = 0.0;             ///< m, smallest
    double area = 0.0;            ///< m², of the kept piece
};

/// A joint that found no faces to join, and may be open (Joint::may_be_open).
struct OpenJoint {
    Index joint = 0;    ///< index in Model::joints
    std::string why{};  ///< how far apart the two are, and what is in the way
};

/// Why cells are thin along an axis: heat that enters or leaves a body through less than its whole face spreads there within a short depth.
struct FirstCell {
    int axis = 0;
    double at = 0.0;       ///< m, the plane of the face
    bool upper = false;    ///< the cell lies above the plane
    double size = 0.0;     ///< m, what the footprint asks for before MeshOptions::coarsening; the grid may be finer for other reasons
    Index body = 0;        ///< whose cells
    std::string with{};    ///< the body that touches there, or the power, hold or cooling that acts there
    bool of_rule = false;  ///< the latter
    double width = 0.0;    ///< m, of the footprint, where it is narrowest for the conductivities along the face; 0: time decides
    double time = 0.0;     ///< s, how long heat stays the same there; 0: the footprint decides
};

/// How well a surface encloses its solid, as the grid found it.
struct SurfaceQuality {
    double surface_volume = 0.0;  ///< m³ by the divergence theorem, of the triangles
    double volume_spread = 0.0;   ///< largest difference of a cell's volumes along the three axes, over the mean cell's
    double leak = 0.0;            ///< largest area that did not close along a row of cells, over a cell's face
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
    std::vector<NearMiss> near_misses{};
    std::vector<OpenJoint> open_joints{};
    /// Surfaces of the bodies that the grid cuts: without their holes, what later parts take, and what mirrors cut away.
    std::vector<ClosedSurface> surfaces{};
    std::vector<SurfaceQuality> quality{};  ///< per surface
    std::vector<FirstCell> first_cells{};   ///< by axis, side and place; one for each plane and side
    std::vector<std::string> tags{};        ///< names of faces; the first is that of planes of symmetry
    /// Sets of marks that surfaces have: regions of rules that they lie in, numbered as rule_regions() lists them, and after those the rules that pick faces by
    /// what they are like. The first is empty.
    std::vector<std::vector<Index>> zones{};
    std::vector<SymmetryPlane> planes{};
    /// How many times the whole product contains the kept piece: 2 for each mirror, the pieces of a sector.
    double multiplicity = 1.0;
    double usual_cell = 0.0;  ///< m, where nothing asks for another size

    [[nodiscard]] Vec3 centre(Index cell) const { return grid.centre(cells.box[cell]); }
    /// Point of the patch straight in front of its cell's centre.
    [[nodiscard]] Vec3 foot(std::size_t patch) const { return centre(patches.cell[patch]) + patches.depth[patch] * patches.normal[patch]; }
    /// How many images of a piece that touches the planes of the mask make up the whole of it.
    [[nodiscard]] double images(std::uint32_t on_planes) const;
};

/// Divides space and finds what touches. Throws ModelError for a model that validate() refuses, for joints that
/// find nothing to join or claim the same pair, and when the mesh would pass MeshOptions::max_cells.
[[nodiscard]] Mesh build_mesh(const Model& model);

/// The grid alone, without cutting or touching: what a mesh of the model would be like. Throws as build_mesh() does.
[[nodiscard]] Grid plan_grid(const Model& model);

/// Cells of a box: [first, last), one for each body that has a share in it.
struct CellRange {
    Index first = 0, last = 0;
};
[[nodiscard]] CellRange cells_in_box(const Mesh& mesh, std::size_t box);
/// The cell of a body in a box, or no_index.
[[nodiscard]] Index cell_in_box(const Mesh& mesh, std::size_t box, Index body);

/// Every region that a rule of the model names, each once, in the order of the model.
[[nodiscard]] std::vector<Shape> rule_regions(const Model& model);

/// A cell of the part (or copy) `part` that holds the point; any of them when it lies between several.
/// Throws ModelError (at `address`) when there is none.
[[nodiscard]] Index cell_at_point(const Model& model, const Mesh& mesh, const std::string& part, Vec3 point, const std::string& address);

/// The patches a rule picks, ascending. Throws ModelError (at `address`) when it picks none.
/// A rule with FacePick has to be one of the model that the mesh was made of: its faces are marked there; so are the regions of rules.
/// A rule for the rest (`Selection::rest`) picks as if nothing else were claimed; claims are settled in the network.
[[nodiscard]] std::vector<Index> select_patches(const Model& model, const Mesh& mesh, const Selection& pick, const std::string& address);

}  // namespace firnfield
