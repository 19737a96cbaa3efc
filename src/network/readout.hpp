/// A temperature that is read somewhere between the nodes of a network.
#pragma once

#include "network/contact_temperatures.hpp"

#include <vector>

namespace firnfield {

/// A weighted sum of temperatures of the network; the weights add up to 1.
struct Readout {
    enum class Source : std::uint8_t { node, wall, known, between, first_of_contact, second_of_contact };
    struct Term {
        Source source = Source::node;
        Index index = 0;
        double weight = 1.0;
    };
    std::vector<Term> terms{};
    std::vector<Anchor> anchors{};  ///< the sum is moved between these, the last term, the cell's own node, being one of them; empty: it stands as it is
};

/// The readout with every term that is cut off at an anchor replaced by that anchor: the same value, linear around this state.
[[nodiscard]] Readout settled(const Readout& readout, const Network& network, const ContactReader& contacts, const NodeReading& nodes);

/// K.
[[nodiscard]] double read(const Readout& readout, const Network& network, const ContactReader& contacts, const NodeReading& nodes);

/// The temperature of a surface patch: of its wall, of what holds it, or of its cell where it is insulated.
[[nodiscard]] Readout readout_of_patch(const Network& network, Index patch);

}  // namespace firnfield
