#include "findings/contact_temperatures.hpp"

#include "network/conduction.hpp"

#include <cmath>

namespace firnfield {

ContactTemperatures contact_temperatures(const Model& model, const SteadySolution& solution) {
    const Mesh& mesh = *solution.mesh;
    const Network& network = *solution.network;
    const Contacts& contacts = mesh.contacts;
    ContactTemperatures out;
    out.flow.resize(contacts.size());
    out.first.resize(contacts.size());
    out.second.resize(contacts.size());
    std::vector<const Material*> materials;
    for (const Body& body : mesh.bodies) materials.push_back(find_material(model.materials, model.parts[body.part].material));
    const auto carried_over = [&](Index cell, std::size_t c) { return !network.carried_by.empty() && network.carried_by[cell] == c; };

    const auto conductivity = [&](Index cell, Vec3 normal) {
        const Material& material = *materials[mesh.cells.body[cell]];
        const double factor = material.conductivity_factor.empty() ? 1.0 : material.conductivity_factor(solution.temperature[cell]);
        return factor * conductivity_along(material, normal);
    };
    std::size_t link = mesh.faces.size();  // contacts follow the faces among the links, insulated ones left out
    for (std::size_t c = 0; c < contacts.size(); ++c) {
        const Index a = contacts.first[c], b = contacts.second[c];
        const double resistance = network.pair_resistance[contacts.pair[c]];
        if (!std::isinf(resistance)) out.flow[c] = network.links.conductance[link++] * (solution.rise[a] - solution.rise[b]);
        const double flux = out.flow[c] / contacts.area[c];
        out.first[c] = solution.temperature[a] - flux * contacts.depth_first[c] / conductivity(a, contacts.normal[c]);
        out.second[c] = solution.temperature[b] + flux * contacts.depth_second[c] / conductivity(b, contacts.normal[c]);
        // A carried cell has the temperature of its carrier's centre: its surface is found from there.
        if (carried_over(a, c)) out.first[c] = out.second[c] + flux * resistance;
        if (carried_over(b, c)) out.second[c] = out.first[c] - flux * resistance;
    }
    return out;
}

}  // namespace firnfield
