#include "network/readout.hpp"

#include <algorithm>

namespace firnfield {

double read(const Readout& readout, const Network& network, const ContactReader& contacts, double reference, const RiseOf& rise) {
    double sum = 0.0;  // above the reference, with more digits
    for (const Readout::Term& term : readout.terms) {
        double above = 0.0;
        switch (term.source) {
            case Readout::Source::node: above = rise(term.index); break;
            case Readout::Source::wall: above = network_wall_state(network, term.index, reference + rise(network.walls.node[term.index])).temperature - reference; break;
            case Readout::Source::tie: above = network.ties.temperature[term.index] - reference; break;
            case Readout::Source::first_of_contact: above = contacts.state(network, term.index, reference, rise).first - reference; break;
            case Readout::Source::second_of_contact: above = contacts.state(network, term.index, reference, rise).second - reference; break;
        }
        sum += term.weight * above;
    }
    return reference + sum;
}

Readout readout_of_patch(const Mesh& mesh, const Network& network, Index patch) {
    const auto& walls = network.walls.patch;
    if (const auto w = std::lower_bound(walls.begin(), walls.end(), patch); w != walls.end() && *w == patch) {
        return {{{Readout::Source::wall, static_cast<Index>(w - walls.begin()), 1.0}}};
    }
    const auto& ties = network.ties.patch;
    if (const auto t = std::find(ties.begin(), ties.end(), patch); t != ties.end()) return {{{Readout::Source::tie, static_cast<Index>(t - ties.begin()), 1.0}}};
    return {{{Readout::Source::node, mesh.patches.cell[patch], 1.0}}};
}

}  // namespace firnfield
