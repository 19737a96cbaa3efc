/// What bends in a network, apart from the rest: the elements whose heat depends on temperature otherwise than in proportion, or whose coefficient varies in
/// time. The network with tangents in their place is linear; what the two differ by is told by these elements alone.
#pragma once

#include <firnfield/network.hpp>

#include <functional>
#include <span>
#include <vector>

namespace firnfield {

/// Whether the coefficients of a cooling, by convection or radiation, vary in time.
using VariesInTime = std::function<bool(Index cooling, Channel channel)>;

/// An element of a family of nodes, or a wall with all of its films.
struct BentElement {
    Index family = no_index;             ///< no_index: of walls
    Index index = 0;                     ///< of the element in its family, or of the wall
    Index first = 0, second = no_index;  ///< nodes; no second one where the heat leaves the network
};

/// All of them, in the order of the network.
[[nodiscard]] std::vector<BentElement> bent_elements(const Network& network, const VariesInTime& varies);

/// The network with all that bends replaced by its tangent at these temperatures; the factors that vary in time stay what they are in it now.
/// Heat that depends on temperature keeps what it is there.
[[nodiscard]] Network tangent_network(const Network& network, const NodeTemperatures& at, const VariesInTime& varies);

/// A network of a few elements of another, with nodes of its own and all families, empty ones as well.
struct PartOfNetwork {
    Network network{};
    std::vector<Index> node{};           ///< in the whole, of each of its nodes
    std::vector<BentElement> element{};  ///< the same ones, as they are numbered here
};
/// `weight`: as many times each element acts.
[[nodiscard]] PartOfNetwork part_of(const Network& network, std::span<const BentElement> elements, std::span<const double> weight);

/// What each element comes from; a wall from what its first film does.
[[nodiscard]] std::vector<Origin> origins_of(const Network& network, std::span<const BentElement> elements);

/// W that each element takes from its first node.
[[nodiscard]] std::vector<double> heat_of_elements(const Network& network, const NodeTemperatures& nodes, std::span<const BentElement> elements);

}  // namespace firnfield
