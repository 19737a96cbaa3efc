/// The order in which linear solvers take the nodes.
#pragma once

#include <firnfield/mesh.hpp>

#include <vector>

namespace firnfield {

/// The cells body by body; in each, lines along its longest extent, then the shortest, then the middle one. So lines are long, neighbours
/// across them near, and where threads share the cells they share few faces.
[[nodiscard]] std::vector<Index> node_order(const Mesh& mesh);

}  // namespace firnfield
