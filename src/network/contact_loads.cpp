// Heat on faces in contact.

#include "network/contact_loads.hpp"

namespace firnfield {

ContactHeat heat_of(const Network& network, const ContactLoad& load, const NodeReading& nodes) {
    const Family& family = network.families[load.family];
    const auto into = [&](Index element) {
        const double rise = nodes.rise(family.first[element]);
        return -Element{family, element, nodes.reference + rise, 0.0, rise}.heat();
    };
    ContactHeat out{.first = into(load.element), .second = into(load.element + 1)};
    out.crossing = load.share * (out.first + out.second) - out.first;
    return out;
}

ContactHeat heat_at_contact(const Network& network, Index contact, const NodeReading& nodes) {
    ContactHeat sum;
    const auto [from, to] = std::equal_range(network.contact_loads.begin(), network.contact_loads.end(), ContactLoad{.contact = contact},
                                             [](const ContactLoad& a, const ContactLoad& b) { return a.contact < b.contact; });
    for (auto load = from; load != to; ++load) {
        const ContactHeat heat = heat_of(network, *load, nodes);
        sum.first += heat.first;
        sum.second += heat.second;
        sum.crossing += heat.crossing;
    }
    return sum;
}

}  // namespace firnfield
