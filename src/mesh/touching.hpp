/// Which surfaces of cut bodies touch others, and over what area.
///
/// Surfaces that face each other are overlaid by two one-sided projections: every piece of either side is projected
/// along its own normal onto what lies in front of it. Areas are the mean of both passes. A projection onto a bisecting
/// plane would cover more than all of one side and less than all of the other where both are curved.
#pragma once

#include <firnfield/mesh.hpp>

#include "mesh/cell_map.hpp"
#include "mesh/joint_table.hpp"

namespace firnfield {

/// Finds contacts, gaps and near misses in which a cut body takes part, enters them into the mesh, and takes the
/// touching area from the patches.
void find_touching(const Model& model, const Layout& layout, const CellMap& map, JointTable& joints, SurfacePatches& patches, Mesh& mesh);

}  // namespace firnfield
