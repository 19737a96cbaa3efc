// Temperatures of the two faces of every contact.

#include "network/contact_temperatures.hpp"

#include "network/conduction.hpp"
#include "network/contact_loads.hpp"
#include "network/law.hpp"

#include <cmath>

namespace firnfield {

ContactReader::ContactReader(const Model& model, const Mesh& mesh) : mesh_(mesh) {
    for (Index c = 0; c < mesh.contacts.size(); ++c) {
        const Index joint = mesh.pairs[mesh.contacts.pair[c]].joint;
        const bool insulated = joint != no_index && model.joints[joint].insulated;
        element_.push_back(insulated ? no_index : static_cast<Index>(contact_.size()));
        if (!insulated) contact_.push_back(c);
    }
}

double ContactReader::conductivity(const Network& network, Index cell, Vec3 normal, double temperature) const {
    const Material& material = *network.materials[mesh_.cells.body[cell]];
    const double factor = material.conductivity_factor.empty() ? 1.0 : material.conductivity_factor(temperature);
    return factor * conductivity_along(material, normal);
}

double ContactReader::joint(const Network& network, std::size_t c, double first, double second) const {
    const Index pair = mesh_.contacts.pair[c];
    const Curve* factor = network.joint_factor.empty() ? nullptr : network.joint_factor[pair].get();
    return network.contact_resistance[c] * (factor == nullptr ? 1.0 : (*factor)(0.5 * (first + second)));
}

double ContactReader::resistance(const Network& network, std::size_t c, const NodeReading& nodes) const {
    const double a = nodes.rise(mesh_.contacts.first[c]), b = nodes.rise(mesh_.contacts.second[c]);
    const Element element{network.between_bodies(), element_[c], nodes.reference + a, nodes.reference + b, a - b};
    return 1.0 / linearised(element.family, Slopes::secant, element.heat(), element.difference, element.slopes().by_first);
}

ContactState ContactReader::state(const Network& network, std::size_t c, const NodeReading& nodes) const {
    const Contacts& contacts = mesh_.contacts;
    const Index a = contacts.first[c], b = contacts.second[c];
    const double rise_a = nodes.rise(a), rise_b = nodes.rise(b), t_a = nodes.reference + rise_a, t_b = nodes.reference + rise_b;
    ContactState out;
    if (element_[c] != no_index) out.flow = Element{network.between_bodies(), element_[c], t_a, t_b, rise_a - rise_b}.heat();
    const double flux = out.flow / contacts.area[c];
    out.first = t_a - flux * contacts.depth_first[c] / conductivity(network, a, contacts.normal[c], t_a);
    out.second = t_b + flux * contacts.depth_second[c] / conductivity(network, b, contacts.normal[c], t_b);
    if (!network.contact_loads.empty()) {
        const std::array<double, 2> lifted = lift(network, c, nodes);
        out.first += lifted[0];
        out.second += lifted[1];
        out.flow += heat_at_contact(network, static_cast<Index>(c), nodes).crossing;
    }
    const double through = out.flow / contacts.area[c];  // the joint
    // A carried cell has the temperature of its carrier's centre: its surface is found from there.
    const auto carried_over = [&](Index cell) { return !network.carried_by.empty() && network.carried_by[cell] == c; };
    if (carried_over(a)) out.first = out.second + through * joint(network, c, t_a, t_b);
    if (carried_over(b)) out.second = out.first - through * joint(network, c, t_a, t_b);
    if (network.surface_bounds && (contacts.depth_first[c] < 0.0 || contacts.depth_second[c] < 0.0)) {
        const std::array<Index, 2> cells{a, b};
        const Bounded first = network.surface_bounds->bound(out.first, cells, network, nodes);
        const Bounded second = network.surface_bounds->bound(out.second, cells, network, nodes);
        out.first = first.temperature;
        out.second = second.temperature;
        out.cut_off_at = {first.at, second.at};
    }
    return out;
}

std::array<double, 2> ContactReader::lift(const Network& network, std::size_t c, const NodeReading& nodes) const {
    const Contacts& contacts = mesh_.contacts;
    const Index a = contacts.first[c], b = contacts.second[c];
    const ContactHeat heat = heat_at_contact(network, static_cast<Index>(c), nodes);
    return {heat.first / contacts.area[c] * contacts.depth_first[c] / conductivity(network, a, contacts.normal[c], nodes.at(a)),
            heat.second / contacts.area[c] * contacts.depth_second[c] / conductivity(network, b, contacts.normal[c], nodes.at(b))};
}

std::array<double, 2> ContactReader::shares(const Network& network, std::size_t c, const NodeReading& nodes) const {
    const Contacts& contacts = mesh_.contacts;
    const Index a = contacts.first[c], b = contacts.second[c];
    const double t_a = nodes.at(a), t_b = nodes.at(b);
    const double per_area = 1.0 / (resistance(network, c, nodes) * contacts.area[c]);
    double first = per_area * contacts.depth_first[c] / conductivity(network, a, contacts.normal[c], t_a);
    double second = 1.0 - per_area * contacts.depth_second[c] / conductivity(network, b, contacts.normal[c], t_b);
    const double between = per_area * joint(network, c, t_a, t_b);
    if (!network.carried_by.empty() && network.carried_by[a] == c) first = second - between;
    if (!network.carried_by.empty() && network.carried_by[b] == c) second = first + between;
    return {first, second};
}

ContactTemperatures contact_temperatures(const ContactReader& reader, const Mesh& mesh, const Network& network, const NodeTemperatures& nodes) {
    ContactTemperatures out;
    const NodeReading reading = nodes;
    for (std::size_t c = 0; c < mesh.contacts.size(); ++c) {
        const ContactState state = reader.state(network, c, reading);
        out.flow.push_back(state.flow);
        out.first.push_back(state.first);
        out.second.push_back(state.second);
    }
    return out;
}

}  // namespace firnfield
