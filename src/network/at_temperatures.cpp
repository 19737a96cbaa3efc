// What properties of a network come to at given temperatures.

#include "network/law.hpp"

#include "material/heat_content.hpp"
#include "network/laws/laws.hpp"

#include <cmath>
#include <limits>

namespace firnfield {
namespace {

/// Of pairs with a film that varies: what the mean drop across it and the mean flux come to.
void set_films(const Mesh& mesh, const Network& network, const NodeTemperatures& nodes, std::vector<double>& resistance) {
    const Family& contacts = network.between_bodies();
    std::vector<double> area;  // per element: contacts of the mesh that are not insulated
    for (std::size_t c = 0; c < mesh.contacts.size(); ++c) {
        if (!std::isinf(network.pair_resistance[mesh.contacts.pair[c]])) area.push_back(mesh.contacts.area[c]);
    }
    std::vector<double> drop(resistance.size(), 0.0), flow(resistance.size(), 0.0);  // K m², W
    std::array<double, block_size> across, heat;
    in_blocks(network, contacts, nodes, [&](const Elements& e) {
        network.contact_law->drops(e, across);
        contacts.law->heat(e, std::span(heat).first(e.size()));
        for (std::size_t i = 0; i < e.size(); ++i) {
            const Index pair = contacts.origin_of(e.begin + i).index;
            drop[pair] += area[e.begin + i] * std::abs(across[i]);
            flow[pair] += std::abs(heat[i]);
        }
    });
    for (std::size_t p = 0; p < resistance.size(); ++p) {
        if (network.joint_film[p].film) resistance[p] = flow[p] > 0.0 ? drop[p] / flow[p] : std::numeric_limits<double>::quiet_NaN();
    }
}

}  // namespace

std::vector<double> joint_resistances(const Mesh& mesh, const Network& network, const NodeTemperatures& nodes) {
    std::vector<double> out = network.pair_resistance;
    if (network.joint_factor.empty()) return out;
    // At the mean temperature of each pair, weighted by what its contacts conduct.
    const Family& contacts = network.between_bodies();
    std::vector<double> conductance(out.size(), 0.0), sum(out.size(), 0.0);
    for (std::size_t i = 0; i < contacts.size(); ++i) {
        const Index pair = contacts.origin_of(i).index;
        conductance[pair] += contacts.coefficient[i];
        sum[pair] += 0.5 * contacts.coefficient[i] * (2.0 * nodes.reference + nodes.rise[contacts.first[i]] + nodes.rise[contacts.second[i]]);
    }
    for (std::size_t p = 0; p < out.size(); ++p) {
        if (network.joint_factor[p] && conductance[p] > 0.0) out[p] *= (*network.joint_factor[p])(sum[p] / conductance[p]);
    }
    if (!network.joint_film.empty()) set_films(mesh, network, nodes, out);
    return out;
}

double rise_of_content(const Network& network, double reference, std::size_t node, double content) {
    const HeatContent* law = network.heat_content.empty() ? nullptr : network.heat_content[network.owner[node]].get();
    return law == nullptr ? content : law->temperature(law->at(reference) + content) - reference;
}

}  // namespace firnfield
