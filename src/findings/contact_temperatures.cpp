#include "findings/contact_temperatures.hpp"

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

    std::size_t link = mesh.faces.size();  // contacts follow the faces among the links, insulated ones left out
    for (std::size_t c = 0; c < contacts.size(); ++c) {
        const Index a = contacts.first[c], b = contacts.second[c];
        const auto axis = static_cast<std::size_t>(contacts.side[c] / 2);
        if (!std::isinf(network.pair_resistance[contacts.pair[c]])) {
            out.flow[c] = network.links.conductance[link++] * (solution.rise[a] - solution.rise[b]);
        }
        const double flux = out.flow[c] / contacts.area[c];
        out.first[c] = solution.temperature[a] - flux * contacts.depth_first[c] / materials[mesh.cells.body[a]]->conductivity[axis];
        out.second[c] = solution.temperature[b] + flux * contacts.depth_second[c] / materials[mesh.cells.body[b]]->conductivity[axis];
    }
    return out;
}

}  // namespace firnfield
