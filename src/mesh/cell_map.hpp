/// Which cells a box holds, while the mesh is being built.
#pragma once

#include <firnfield/mesh.hpp>

#include "mesh/cut.hpp"
#include "mesh/layout.hpp"

#include <vector>

namespace firnfield {

/// Cells by box, in constant time.
struct CellMap {
    std::vector<Index> first{};  ///< per box and one more: cells [first[b], first[b + 1])
    std::vector<Index> plain{};  ///< per box: the cell of a body built of boxes, or no_index

    [[nodiscard]] bool empty(std::size_t box) const { return first[box] == first[box + 1]; }
    /// A cell of the body in the box: the first of its pieces there.
    [[nodiscard]] Index cell(const Mesh& mesh, std::size_t box, Index body) const {
        for (Index c = first[box]; c < first[box + 1]; ++c) {
            if (mesh.cells.body[c] == body) return c;
        }
        return no_index;
    }
};

/// A cut box with next to nothing of the body in it makes no cell.
[[nodiscard]] bool makes_cell(const Grid& grid, const CutBox& box);

/// Fills the grid with the bodies built of boxes, adds those that the grid cuts, and numbers all cells.
/// Enters cells, volumes and overlaps into the mesh.
[[nodiscard]] CellMap number_cells(const Layout& layout, std::vector<CutBody>& cuts, Mesh& mesh);

/// A piece of surface of a cell, before it is known what of it is exposed.
struct SurfacePatch {
    Index cell = 0;
    std::uint16_t tag = 0, zone = 0;
    Vec3 vector{};       ///< ∫ n dS
    double area = 0.0;   ///< ∫ dS
    double depth = 0.0;  ///< ∫ (x − box centre) · n dS
};

/// Surface patches in the order of their cells.
struct SurfacePatches {
    std::vector<SurfacePatch> list{};
    std::vector<Index> first{};  ///< per cell and one more
};

}  // namespace firnfield
