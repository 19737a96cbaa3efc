/// What lies between the cells of bodies built of boxes: they meet in whole grid faces.
#pragma once

#include <firnfield/mesh.hpp>

#include "mesh/cell_map.hpp"
#include "mesh/joint_table.hpp"

#include <vector>

namespace firnfield {

/// Tag of a wall that is none of the six sides of such a body.
inline constexpr std::uint16_t inner_tag = 6;

/// Enters faces and contacts into the mesh and adds what nothing covers to the patches.
void find_neighbours(const Model& model, const Layout& layout, const CellMap& map, JointTable& joints, Mesh& mesh, std::vector<SurfacePatch>& patches);

}  // namespace firnfield
