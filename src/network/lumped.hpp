/// Lumped nodes and resistors of the model in the network.
///
/// A node stands for itself and all its images by planes of symmetry, and a resistance is that of the whole product: the kept piece has its share of both.
/// Where a resistor is spread over a surface each patch has a resistance of its own in the proportion of its area, behind what lies between its cell and the
/// surface; over a part, likewise by volume. A resistor that is spread at both ends has a node of its own in its middle.
#pragma once

#include <firnfield/network.hpp>

namespace firnfield {

/// What an owner of nodes is called: a body, a lumped node, or the resistor whose middle it is.
[[nodiscard]] std::string name_of_owner(const Model& model, const Mesh& mesh, Index owner);

/// Adds what the nodes that are no cells have: capacity, heat content, owner, place in the order.
void add_lumped_nodes(const Model& model, const Mesh& mesh, const Study& study, Network& network);

/// Adds the resistors. `to_surface` in K/W per patch of the mesh. What a node without capacity gets in time is added here, too.
void add_resistors(const Model& model, const Mesh& mesh, const Study& study, const std::vector<double>& to_surface, Network& network);

/// W/(m² K) of the resistor behind the patches that one of its ends covers: what decides about the links of their cells.
[[nodiscard]] double film_of_resistor(const Model& model, const Mesh& mesh, std::size_t resistor, const Coverage& coverage);

/// Adds the heat that a power of the model, with this amount, puts into lumped nodes, with a factor on it; false where it goes into parts.
bool add_node_load(const Model& model, const Mesh& mesh, std::size_t power, const Power& amount, double factor, Network& network);

}  // namespace firnfield
