// Links, ties, walls and sources whose values depend on temperature.

#include <firnfield/network.hpp>

#include "material/heat_content.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

double factor_at(const Curve* curve, double temperature) { return curve == nullptr ? 1.0 : (*curve)(temperature); }
double slope_at(const Curve* curve, double temperature) { return curve == nullptr ? 0.0 : curve->slope(temperature); }

/// Within a body: W = G ∫ f dT between the two temperatures, so that a straight bar is exact whatever the grid.
LinkState inside_body(double conductance, const Curve* factor, double first, double second, double difference) {
    if (factor == nullptr) return {conductance * difference, conductance, conductance};
    return {conductance * factor->mean(first, second) * difference, conductance * (*factor)(first), conductance * (*factor)(second)};
}

/// Between bodies: three resistances in a row, each with its own dependence.
LinkState across_joint(double conductance, const ResistanceShares& share, const Curve* first_factor, const Curve* second_factor, const Curve* joint_factor,
                       double first, double second, double difference) {
    if (first_factor == nullptr && second_factor == nullptr && joint_factor == nullptr) return {conductance * difference, conductance, conductance};
    const double middle = 0.5 * (first + second);
    const double f1 = factor_at(first_factor, first), f2 = factor_at(second_factor, second), joint_share = 1.0 - share.first - share.second;
    const double resistance = (share.first / f1 + share.second / f2 + joint_share * factor_at(joint_factor, middle)) / conductance;
    const double by_middle = 0.5 * joint_share * slope_at(joint_factor, middle) / conductance;
    const double by_first = by_middle - share.first * slope_at(first_factor, first) / (f1 * f1) / conductance;
    const double by_second = by_middle - share.second * slope_at(second_factor, second) / (f2 * f2) / conductance;
    const double flow = difference / resistance;
    return {flow, (1.0 - flow * by_first) / resistance, (1.0 + flow * by_second) / resistance};
}

/// Joint resistances at the mean temperature of each pair, weighted by what its links conduct.
void scale_joints(const Network& network, std::span<const double> temperature, Network& out) {
    std::vector<double> conductance(network.pair_factor.size(), 0.0), sum(network.pair_factor.size(), 0.0);
    for (std::size_t l = network.links_in_bodies; l < network.links.size(); ++l) {
        const Index pair = network.origins[network.links.origin[l]].index;
        conductance[pair] += network.links.conductance[l];
        sum[pair] += 0.5 * network.links.conductance[l] * (temperature[network.links.first[l]] + temperature[network.links.second[l]]);
    }
    for (std::size_t p = 0; p < sum.size(); ++p) {
        if (network.pair_factor[p] != nullptr && conductance[p] > 0.0) out.pair_resistance[p] *= (*network.pair_factor[p])(sum[p] / conductance[p]);
    }
}

}  // namespace

bool Network::varies() const {
    const auto any = [](const std::vector<const Curve*>& list) { return std::any_of(list.begin(), list.end(), [](const Curve* c) { return c != nullptr; }); };
    return any(body_factor) || any(pair_factor) || any(load_factor);
}

bool Network::is_linear() const {
    return !varies() && radiative_links.size() == 0 && std::none_of(walls.exchanges.begin(), walls.exchanges.end(), [](const Exchange& e) {
        return e.kind == ExchangeKind::radiation || e.kind == ExchangeKind::law || e.curve != nullptr;
    });
}

LinkState link_state(const Network& network, std::size_t link, double first, double second, double difference) {
    const double conductance = network.links.conductance[link];
    const Curve* factor = network.body_factor[network.owner[network.links.first[link]]];
    if (link < network.links_in_bodies) return inside_body(conductance, factor, first, second, difference);
    const Origin& origin = network.origins[network.links.origin[link]];
    return across_joint(conductance, network.resistance_shares[link - network.links_in_bodies], factor,
                        network.body_factor[network.owner[network.links.second[link]]], network.pair_factor[origin.index], first, second, difference);
}

LinkState tie_state(const Network& network, std::size_t tie, double temperature, double difference) {
    return inside_body(network.ties.conductance[tie], network.varies_in_bodies() ? network.body_factor[network.owner[network.ties.node[tie]]] : nullptr,
                       temperature, network.ties.temperature[tie], difference);
}

WallState network_wall_state(const Network& network, std::size_t wall, double temperature) {
    const Curve* factor = network.varies_in_bodies() ? network.body_factor[network.owner[network.walls.node[wall]]] : nullptr;
    const double f = factor_at(factor, temperature), resistance = network.walls.resistance[wall] / f;
    WallState state = wall_state(resistance, network.walls.of(wall), temperature);
    // The resistance itself moves with the temperature.
    if (factor != nullptr) state.slope *= 1.0 + state.heat * resistance / f * factor->slope(temperature);
    return state;
}

double source_heat(const Network& network, std::size_t source, double temperature) {
    const double heat = network.sources.heat[source];
    if (network.load_factor.empty()) return heat;
    return heat * factor_at(network.load_factor[network.origins[network.sources.origin[source]].index], temperature);
}

double source_slope(const Network& network, std::size_t source, double temperature) {
    if (network.load_factor.empty()) return 0.0;
    return network.sources.heat[source] * slope_at(network.load_factor[network.origins[network.sources.origin[source]].index], temperature);
}

double rise_of_content(const Network& network, double reference, std::size_t node, double content) {
    const HeatContent* law = network.heat_content.empty() ? nullptr : network.heat_content[network.owner[node]].get();
    return law == nullptr ? content : law->temperature(law->at(reference) + content) - reference;
}

Network frozen(const Network& network, std::span<const double> temperature, std::span<const double> rise) {
    Network out = network;
    const Links& links = network.links;
    if (network.varies_in_bodies()) {
        scale_joints(network, temperature, out);
        for (std::size_t l = 0; l < links.size(); ++l) {
            const Index a = links.first[l], b = links.second[l];
            const double difference = rise[a] - rise[b];
            if (difference != 0.0) out.links.conductance[l] = link_state(network, l, temperature[a], temperature[b], difference).flow / difference;
        }
        for (std::size_t t = 0; t < network.ties.size(); ++t) {
            out.ties.conductance[t] = tie_state(network, t, temperature[network.ties.node[t]], 1.0).flow;
        }
        for (std::size_t w = 0; w < network.walls.size(); ++w) {
            out.walls.resistance[w] /= factor_at(network.body_factor[network.owner[network.walls.node[w]]], temperature[network.walls.node[w]]);
        }
    }
    for (std::size_t s = 0; s < network.sources.size(); ++s) out.sources.heat[s] = source_heat(network, s, temperature[network.sources.node[s]]);
    out.body_factor.clear();
    out.pair_factor.clear();
    out.load_factor.clear();
    return out;
}

}  // namespace firnfield
