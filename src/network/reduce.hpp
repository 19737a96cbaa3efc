/// The walker that hands out heat: every leg of its way through a network, one after the other. Ledgers, flows of joints, the split of a cooling, and
/// the breakdown of a temperature are sums over legs by channel and origin, plain or weighted.
///
/// A leg leads from one end to another: from node to node, from a node to the wall in front of it, from a wall or a node to the surroundings. Loads
/// count as legs to the outside with negative heat. What enters an end leaves it again by other legs, so that any sum of heat times the drop of a weight
/// between the ends adds up to what the sources and the surroundings put in times their weight.
#pragma once

#include <firnfield/network.hpp>

#include <span>

namespace firnfield {

/// What carries the heat of a leg.
enum class Channel : std::uint8_t {
    conduction,  ///< within a body, also from its node to its wall
    contact,     ///< between bodies that touch, from node to node
    radiation,   ///< grey radiation, between bodies or to the surroundings
    convection,  ///< to the surroundings
    hold,        ///< to an imposed temperature
    load,        ///< of a power, into a node or onto a wall
};

/// Where a leg begins or ends.
struct LegEnd {
    enum class At : std::uint8_t {
        node,
        wall,   ///< index in Network::walls
        known,  ///< the surroundings, or outside of the network
    };
    At at = At::known;
    Index index = no_index;
};

struct Leg {
    Channel channel = Channel::conduction;
    Origin origin{};
    Index element = 0;  ///< index among its kind in the network: link, radiative link, tie, exchange, source
    LegEnd from{}, to{};
    double heat = 0.0;  ///< W; negative where it goes the other way
};

/// The node that an end in the network belongs to.
[[nodiscard]] inline Index node_of(const Network& network, const LegEnd& end) { return end.at == LegEnd::At::wall ? network.walls.node[end.index] : end.index; }

/// The patch of the mesh through which a leg leaves a body; no_index for others.
[[nodiscard]] inline Index patch_of(const Network& network, const Leg& leg) {
    if (leg.channel == Channel::hold) return network.ties.patch[leg.element];
    return leg.to.at == LegEnd::At::wall ? network.walls.patch[leg.to.index] : no_index;
}

/// Legs between nodes: conduction in bodies, contacts, radiation between bodies.
template <typename Sink>
void reduce_inside(const Network& network, double reference, std::span<const double> rise, const Sink& sink) {
    const auto node = [](Index n) { return LegEnd{LegEnd::At::node, n}; };
    const Links& links = network.links;
    const bool plain = !network.varies_in_bodies();
    for (std::size_t l = 0; l < links.size(); ++l) {
        const Index a = links.first[l], b = links.second[l];
        const double difference = rise[a] - rise[b];
        sink(Leg{.channel = l < network.links_in_bodies ? Channel::conduction : Channel::contact,
                 .origin = network.origins[links.origin[l]],
                 .element = static_cast<Index>(l),
                 .from = node(a),
                 .to = node(b),
                 .heat = plain ? links.conductance[l] * difference : link_state(network, l, reference + rise[a], reference + rise[b], difference).flow});
    }
    const RadiativeLinks& beams = network.radiative_links;
    for (std::size_t l = 0; l < beams.size(); ++l) {
        const double a = reference + rise[beams.first[l]], b = reference + rise[beams.second[l]];
        sink(Leg{.channel = Channel::radiation,
                 .origin = network.origins[beams.origin[l]],
                 .element = static_cast<Index>(l),
                 .from = node(beams.first[l]),
                 .to = node(beams.second[l]),
                 .heat = beams.coefficient[l] * (a * a + b * b) * (a + b) * (rise[beams.first[l]] - rise[beams.second[l]])});
    }
}

/// Legs from nodes and walls to the surroundings, of loads, and from nodes to walls.
template <typename Sink>
void reduce_outside(const Network& network, double reference, std::span<const double> rise, const Sink& sink) {
    const auto node = [](Index n) { return LegEnd{LegEnd::At::node, n}; };
    constexpr LegEnd known{};
    const Ties& ties = network.ties;
    const bool plain = !network.varies_in_bodies();
    for (std::size_t t = 0; t < ties.size(); ++t) {
        const double difference = rise[ties.node[t]] - (ties.temperature[t] - reference);
        sink(Leg{.channel = Channel::hold,
                 .origin = network.origins[ties.origin[t]],
                 .element = static_cast<Index>(t),
                 .from = node(ties.node[t]),
                 .to = known,
                 .heat = plain ? ties.conductance[t] * difference : tie_state(network, t, reference + rise[ties.node[t]], difference).flow});
    }
    const Sources& sources = network.sources;
    for (std::size_t s = 0; s < sources.size(); ++s) {
        sink(Leg{.channel = Channel::load,
                 .origin = network.origins[sources.origin[s]],
                 .element = static_cast<Index>(s),
                 .from = node(sources.node[s]),
                 .to = known,
                 .heat = -source_heat(network, s, reference + rise[sources.node[s]])});
    }
    const Walls& walls = network.walls;
    for (std::size_t w = 0; w < walls.size(); ++w) {
        const WallState state = network_wall_state(network, w, reference + rise[walls.node[w]]);
        const LegEnd wall{LegEnd::At::wall, static_cast<Index>(w)};
        sink(Leg{.channel = Channel::conduction,
                 .origin = {OriginKind::part, network.owner[walls.node[w]]},
                 .element = static_cast<Index>(w),
                 .from = node(walls.node[w]),
                 .to = wall,
                 .heat = state.heat});
        for (Index e = walls.first_exchange[w]; e < walls.first_exchange[w + 1]; ++e) {
            const Exchange& exchange = walls.exchanges[e];
            Leg leg{.origin = network.origins[exchange.origin], .element = e, .from = wall, .to = known, .heat = exchange.heat(state.temperature)};
            switch (exchange.kind) {
                case ExchangeKind::convection:
                case ExchangeKind::curve:
                case ExchangeKind::law:
                    leg.channel = Channel::convection;
                    break;
                case ExchangeKind::radiation:
                    leg.channel = Channel::radiation;
                    break;
                case ExchangeKind::flux:
                    leg.channel = Channel::load;
                    break;
            }
            sink(leg);
        }
    }
}

}  // namespace firnfield
