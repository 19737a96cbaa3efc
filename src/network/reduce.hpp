/// The walker that hands out heat: every leg of its way through a network, one after the other. Ledgers, flows of joints, the split of a cooling, and
/// the breakdown of a temperature are sums over legs by channel and origin, plain or weighted.
///
/// A leg leads from one end to another: from node to node, from a node to the wall in front of it, from a wall or a node to the surroundings. Loads
/// count as legs to the outside with negative heat. What enters an end leaves it again by other legs, so that any sum of heat times the drop of a weight
/// between the ends adds up to what the sources and the surroundings put in times their weight.
#pragma once

#include "network/walls.hpp"

#include <span>

namespace firnfield {

struct Leg {
    Channel channel = Channel::conduction;
    Origin origin{};
    const Family* family = nullptr;  ///< that the leg is an element of; null for one from a node to its wall
    Index element = 0;               ///< of the family; the wall for one from a node to it
    End from{}, to{};
    double heat = 0.0;                                   ///< W; negative where it goes the other way
    double first = 0.0, second = 0.0, difference = 0.0;  ///< K, temperatures of the ends; outside nothing
};

/// The node that an end in the network belongs to.
[[nodiscard]] inline Index node_of(const Network& network, const End& end) { return end.at == End::At::wall ? network.walls.node[end.index] : end.index; }

/// The patch of the mesh through which a leg leaves a body; no_index for others.
[[nodiscard]] inline Index patch_of(const Network& network, const Leg& leg) {
    if (leg.family != nullptr && !leg.family->patch.empty()) return leg.family->patch[leg.element];
    return leg.to.at == End::At::wall ? network.walls.patch[leg.to.index] : no_index;
}

/// Legs of the elements of one family of nodes.
template <typename Sink>
void reduce_family(const Network& network, const Family& family, const NodeTemperatures& nodes, const Sink& sink) {
    std::array<double, block_size> heat;
    in_blocks(network, family, nodes, [&](const Elements& e) {
        heat_of(family, e, std::span(heat).first(e.size()));
        for (std::size_t i = 0; i < e.size(); ++i) {
            const std::size_t element = e.begin + i;
            sink(Leg{.channel = family.channel,
                     .origin = family.origin_of(element),
                     .family = &family,
                     .element = static_cast<Index>(element),
                     .from = {End::At::node, family.first[element]},
                     .to = family.between_nodes() ? End{End::At::node, family.second[element]} : End{End::At::known, family.known},
                     .heat = heat[i],
                     .first = e.first[i],
                     .second = e.second[i],
                     .difference = e.difference[i]});
        }
    });
}

/// Legs of what comes from one kind of entry of the model, and has nodes at its ends.
template <typename Sink>
void reduce_origin(const Network& network, OriginKind origin, const NodeTemperatures& nodes, const Sink& sink) {
    for (const Family& family : network.families) {
        if (family.origin == origin) reduce_family(network, family, nodes, sink);
    }
}

/// Legs between nodes: conduction in bodies, contacts, radiation between bodies.
template <typename Sink>
void reduce_inside(const Network& network, const NodeTemperatures& nodes, const Sink& sink) {
    for (const Family& family : network.families) {
        if (family.between_nodes()) reduce_family(network, family, nodes, sink);
    }
}

/// Legs from nodes and walls to the surroundings, of loads, and from nodes to walls.
template <typename Sink>
void reduce_outside(const Network& network, const NodeTemperatures& nodes, const Sink& sink) {
    for (const Family& family : network.families) {
        if (!family.between_nodes()) reduce_family(network, family, nodes, sink);
    }
    each_wall_block(network, nodes, [&](const WallBlock& block) {
        for (std::size_t i = 0; i < block.states.size(); ++i) {
            const auto w = static_cast<Index>(block.begin + i);
            const Index node = network.walls.node[w];
            const double temperature = block.states[i].temperature;
            const End wall{End::At::wall, w};
            sink(Leg{.channel = Channel::conduction,
                     .origin = {OriginKind::part, network.owner[node]},
                     .element = w,
                     .from = {End::At::node, node},
                     .to = wall,
                     .heat = block.states[i].heat,
                     .first = nodes.at(node),
                     .second = temperature,
                     .difference = nodes.at(node) - temperature});
            for (std::size_t f = 0; f < block.group.films.size(); ++f) {
                const Family& film = block.group.films[f];
                const auto element = static_cast<Index>(w - block.group.begin);
                const double known = film.known == no_index ? 0.0 : network.knowns[film.known].temperature;
                sink(Leg{.channel = film.channel,
                         .origin = film.origin_of(element),
                         .family = &film,
                         .element = element,
                         .from = wall,
                         .to = {End::At::known, film.known},
                         .heat = block.heat_of(f)[i],
                         .first = temperature,
                         .second = known,
                         .difference = temperature - known});
            }
        }
    });
}

}  // namespace firnfield
