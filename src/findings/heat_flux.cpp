#include <firnfield/findings.hpp>

#include "findings/contact_temperatures.hpp"

namespace firnfield {

std::vector<Vec3> heat_flux(const Model& model, const SteadySolution& solution) {
    const Mesh& mesh = *solution.mesh;
    const ContactTemperatures contacts = contact_temperatures(model, solution);
    std::vector<Vec3> flux(mesh.cells.size());
    // A cell has one face on either side of each axis; each brings half of its flux.
    const auto add = [&](Index cell, int axis, double value) { flux[cell][axis] += 0.5 * value; };
    for (std::size_t f = 0; f < mesh.faces.size(); ++f) {
        const Index a = mesh.faces.first[f], b = mesh.faces.second[f];
        const double value = solution.network->links.conductance[f] * (solution.temperature[a] - solution.temperature[b]) / mesh.faces.area[f];
        add(a, mesh.faces.axis[f], value);
        add(b, mesh.faces.axis[f], value);
    }
    for (std::size_t c = 0; c < mesh.contacts.size(); ++c) {
        const int axis = mesh.contacts.side[c] / 2;
        add(mesh.contacts.first[c], axis, contacts.flow[c] / mesh.contacts.area[c]);
        add(mesh.contacts.second[c], axis, contacts.flow[c] / mesh.contacts.area[c]);
    }
    std::vector<const Material*> materials;
    for (const Body& body : mesh.bodies) materials.push_back(find_material(model.materials, model.parts[body.part].material));
    for (std::size_t p = 0; p < mesh.patches.size(); ++p) {
        const Index cell = mesh.patches.cell[p];
        const int axis = axis_of(mesh.patches.side[p]);
        const double k = materials[mesh.cells.body[cell]]->conductivity[static_cast<std::size_t>(axis)];
        const double outward = k * (solution.temperature[cell] - solution.patch_temperature[p]) / mesh.patches.depth[p];
        add(cell, axis, is_plus(mesh.patches.side[p]) ? outward : -outward);
    }
    return flux;
}

}  // namespace firnfield
