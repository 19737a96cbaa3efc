// Temperatures as weighted sums of those of nodes and surfaces.

#include "network/readout.hpp"

#include "network/between.hpp"

#include <algorithm>

namespace firnfield {
namespace {

/// The temperature of a term above the reference, and where it is cut off.
Bounded term_above(const Readout::Term& term, const Network& network, const ContactReader& contacts, const NodeReading& nodes) {
    const auto above = [&](Bounded b) { return Bounded{b.temperature - nodes.reference, b.at}; };
    switch (term.source) {
        case Readout::Source::node:
            return {nodes.rise(term.index), {}};
        case Readout::Source::wall:
            return above(wall_temperature(network, term.index, nodes));
        case Readout::Source::between:
            return above({between_state(network, network.between[term.index], nodes).temperature, {}});
        case Readout::Source::known:
            return {network.knowns[term.index].temperature - nodes.reference, {}};
        case Readout::Source::first_of_contact:
        case Readout::Source::second_of_contact: {
            const ContactState state = contacts.state(network, term.index, nodes);
            const bool first = term.source == Readout::Source::first_of_contact;
            return above({first ? state.first : state.second, state.cut_off_at[first ? 0 : 1]});
        }
    }
    return {};
}

Readout::Term term_of(const Anchor& anchor, double weight) {
    switch (anchor.kind) {
        case Anchor::Kind::node:
            return {Readout::Source::node, anchor.index, weight};
        case Anchor::Kind::known:
            return {Readout::Source::known, anchor.index, weight};
        case Anchor::Kind::wall:
        case Anchor::Kind::surroundings:
            break;
    }
    return {Readout::Source::wall, anchor.index, weight};
}

}  // namespace

double read(const Readout& readout, const Network& network, const ContactReader& contacts, const NodeReading& nodes) {
    double sum = 0.0;  // above the reference, with more digits
    for (const Readout::Term& term : readout.terms) sum += term.weight * term_above(term, network, contacts, nodes).temperature;
    return bound_between(readout.anchors, nodes.reference + sum, network, nodes).temperature;
}

Readout settled(const Readout& readout, const Network& network, const ContactReader& contacts, const NodeReading& nodes) {
    Readout out;
    double sum = 0.0;
    for (const Readout::Term& term : readout.terms) {
        const Bounded above = term_above(term, network, contacts, nodes);
        sum += term.weight * above.temperature;
        out.terms.push_back(above.at ? term_of(*above.at, term.weight) : term);
    }
    if (const Bounded all = bound_between(readout.anchors, nodes.reference + sum, network, nodes); all.at) {
        // The same way from the cell's own node, but only as far as the bound.
        const double here = nodes.rise(out.terms.back().index), share = (all.temperature - nodes.reference - here) / (sum - here);
        double others = 0.0;
        for (std::size_t i = 0; i + 1 < out.terms.size(); ++i) others += out.terms[i].weight *= share;
        out.terms.back().weight = 1.0 - others;
    }
    return out;
}

Readout readout_of_patch(const Network& network, Index patch) {
    const End& end = network.surface[patch];
    const Readout::Source source = end.at == End::At::wall      ? Readout::Source::wall
                                   : end.at == End::At::known   ? Readout::Source::known
                                   : end.at == End::At::between ? Readout::Source::between
                                                                : Readout::Source::node;
    return {{{source, end.index, 1.0}}, {}};
}

}  // namespace firnfield
