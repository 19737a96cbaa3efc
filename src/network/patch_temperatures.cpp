// Temperatures of all surface patches.

#include "network/between.hpp"
#include "network/walls.hpp"

namespace firnfield {

std::vector<double> patch_temperatures(const Mesh& mesh, const Network& network, double reference, std::span<const double> rise) {
    const RiseOf of = [rise](Index node) { return rise[node]; };
    std::vector<double> surface(mesh.patches.size());
    for (std::size_t p = 0; p < surface.size(); ++p) {
        const End& end = network.surface[p];
        surface[p] = reference + rise[mesh.patches.cell[p]];
        if (end.at == End::At::known) surface[p] = network.knowns[end.index].temperature;
        if (end.at == End::At::between) surface[p] = between_state(network, network.between[end.index], reference, of).temperature;
    }
    each_wall_block(network, reference, rise, [&](const WallBlock& block) {
        for (std::size_t i = 0; i < block.states.size(); ++i) {
            const auto w = static_cast<Index>(block.begin + i);
            surface[network.walls.patch[w]] = reported_temperature(network, w, block.states[i].temperature, reference, of).temperature;
        }
    });
    return surface;
}

}  // namespace firnfield
