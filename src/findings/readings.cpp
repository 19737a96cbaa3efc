// Heat through joints and resistors at one moment.

#include "findings/readings.hpp"

#include "model/lumped.hpp"
#include "network/contact_loads.hpp"
#include "network/reduce.hpp"

#include <algorithm>
#include <array>

namespace firnfield {

PairReadings read_pairs(const Mesh& mesh, const Network& network, const NodeTemperatures& nodes, const ContactTemperatures& contacts, const Defects* defects) {
    PairReadings out{std::vector<double>(mesh.pairs.size(), 0.0), std::vector<double>(mesh.pairs.size(), 0.0)};
    // A contact's cells may stand the other way round than its pair's bodies.
    const auto sign_of = [&](Index pair, Index cell) { return mesh.cells.body[cell] == mesh.pairs[pair].first ? 1.0 : -1.0; };
    const auto node_change = [&](Index node) { return defects == nullptr ? 0.0 : defects->of_node(node); };
    for (std::size_t c = 0; c < mesh.contacts.size(); ++c) {
        const Index pair = mesh.contacts.pair[c];
        const std::array<double, 2> change = defects == nullptr ? std::array<double, 2>{} : defects->of_contact(static_cast<Index>(c));
        out.drop[pair] += sign_of(pair, mesh.contacts.first[c]) * mesh.contacts.area[c] * (contacts.first[c] - contacts.second[c] + change[0] - change[1]);
    }
    for (std::size_t g = 0; g < mesh.gaps.size(); ++g) {
        const Index pair = mesh.gaps.pair[g], first = mesh.gaps.first[g], second = mesh.gaps.second[g];
        out.drop[pair] += sign_of(pair, first) * mesh.gaps.area[g] * (nodes.at(first) + node_change(first) - nodes.at(second) - node_change(second));
    }
    reduce_origin(network, OriginKind::joint, nodes, [&](const Leg& leg) {
        const Index pair = leg.origin.index;
        const double heat = leg.heat + (defects == nullptr ? 0.0 : defects->of_heat(leg));
        out.flow[pair] += network.owner[leg.from.index] == mesh.pairs[pair].first ? heat : -heat;
    });
    const NodeReading reading = nodes;
    for (const ContactLoad& load : network.contact_loads) {
        const Index pair = mesh.contacts.pair[load.contact];
        out.flow[pair] += sign_of(pair, mesh.contacts.first[load.contact]) * heat_of(network, load, reading).crossing;
    }
    return out;
}

ResistorReadings read_resistors(const Model& model, const Mesh& mesh, const Network& network, const NodeTemperatures& nodes, const Defects* defects) {
    const std::size_t count = model.resistors.size();
    ResistorReadings out{std::vector<double>(count, 0.0), std::vector<double>(count, 0.0), std::vector<double>(count, 0.0)};
    std::vector<double> mean(count, 0.0), conductance(count, 0.0);
    reduce_origin(network, OriginKind::resistor, nodes, [&](const Leg& leg) {
        const std::size_t r = leg.origin.index;
        const double weight = leg.family->coefficient[leg.element];
        out.solved_flow[r] += leg.heat;
        out.flow[r] += defects == nullptr ? 0.0 : defects->of_heat(leg);
        mean[r] += 0.5 * weight * (leg.first + leg.second);
        conductance[r] += weight;
    });
    const std::vector<std::size_t> middles = resistors_with_middle(model);
    for (std::size_t r = 0; r < count; ++r) {
        const Resistor& resistor = model.resistors[r];
        // Heat that passes a middle is met twice.
        const double times = mesh.multiplicity * (std::find(middles.begin(), middles.end(), r) == middles.end() ? 1.0 : 0.5);
        out.flow[r] = times * (out.solved_flow[r] + out.flow[r]);
        out.solved_flow[r] *= times;
        const bool varies = !resistor.resistance_factor.empty() && conductance[r] > 0.0;
        out.resistance[r] = *resistor.total * (varies ? resistor.resistance_factor(mean[r] / conductance[r]) : 1.0);
    }
    return out;
}

}  // namespace firnfield
