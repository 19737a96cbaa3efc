// Temperatures of all surface patches.

#include "network/between.hpp"
#include "network/walls.hpp"

namespace firnfield {

std::vector<double> patch_temperatures(const Mesh& mesh, const Network& network, const NodeTemperatures& nodes) {
    const NodeReading reading = nodes;
    std::vector<double> surface(mesh.patches.size());
    for (std::size_t p = 0; p < surface.size(); ++p) {
        const End& end = network.surface[p];
        surface[p] = nodes.at(mesh.patches.cell[p]);
        if (end.at == End::At::known) surface[p] = network.knowns[end.index].temperature;
        if (end.at == End::At::between) surface[p] = between_state(network, network.between[end.index], reading).temperature;
    }
    each_wall_block(network, nodes, [&](const WallBlock& block) {
        for (std::size_t i = 0; i < block.states.size(); ++i) {
            const auto w = static_cast<Index>(block.begin + i);
            surface[network.walls.patch[w]] = reported_temperature(network, w, block.states[i].temperature, reading).temperature;
        }
    });
    return surface;
}

}  // namespace firnfield
