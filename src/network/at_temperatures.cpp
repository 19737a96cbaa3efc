// What properties of a network come to at given temperatures.

#include "network/law.hpp"

#include "material/heat_content.hpp"

namespace firnfield {

std::vector<double> joint_resistances(const Network& network, const NodeTemperatures& nodes) {
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
    return out;
}

double rise_of_content(const Network& network, double reference, std::size_t node, double content) {
    const HeatContent* law = network.heat_content.empty() ? nullptr : network.heat_content[network.owner[node]].get();
    return law == nullptr ? content : law->temperature(law->at(reference) + content) - reference;
}

}  // namespace firnfield
