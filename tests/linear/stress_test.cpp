// Two hundred random assemblies: conductivities over eight decades, contacts of all kinds, thin layers, cut cells. All have to converge.

#include "models.hpp"

#include "linear/multigrid_solver.hpp"

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;

namespace {

Model random_assembly(unsigned seed) {
    std::mt19937 random(seed);
    const auto uniform = [&](double from, double to) { return std::uniform_real_distribution<double>(from, to)(random); };
    const auto chance = [&](double share) { return uniform(0.0, 1.0) < share; };
    Model m;
    m.mesh.cell = uniform(2.2e-3, 3.5e-3);
    m.mesh.through = 1 + static_cast<int>(uniform(0.0, 2.99));
    const int parts = 2 + static_cast<int>(uniform(0.0, 5.0));
    double z = 0.0;
    for (int i = 0; i < parts; ++i) {
        const std::string name = "part " + std::to_string(i), material = "material " + std::to_string(i);
        Material k = plain(material, std::pow(10.0, uniform(-4.0, 4.0)));
        if (chance(0.3)) k.conductivity[2] *= 0.01;
        m.materials.push_back(k);
        const double high = chance(0.3) ? uniform(5e-5, 3e-4) : uniform(3e-3, 15e-3);
        Part part{.name = name, .shape = Box{.size = {uniform(0.03, 0.05), uniform(0.03, 0.05), high}, .at = {uniform(0.0, 5e-3), uniform(0.0, 5e-3), z}}, .material = material};
        if (chance(0.4)) part.shape = Cylinder{.radius = uniform(0.014, 0.024), .length = high, .at = {0.025, 0.025, z}};
        m.add(part);
        if (chance(0.6)) m.add(heat(name, uniform(0.1, 5.0)));
        if (i > 0 && chance(0.7)) m.add(Joint{.between = {"part " + std::to_string(i - 1), name}, .resistance = std::pow(10.0, uniform(-7.0, -2.0))});
        z += high;
    }
    m.add(convection(exposed(), std::pow(10.0, uniform(-1.0, 3.0)), 300.0));
    return m;
}

}  // namespace

TEST_CASE("two hundred random assemblies all converge", "[linear]") {
#ifdef __SANITIZE_ADDRESS__
    constexpr unsigned assemblies = 40;  // every access is checked ten times slower, and these are enough to check
#else
    constexpr unsigned assemblies = 200;
#endif
    int most = 0;
    for (unsigned seed = 1; seed <= assemblies; ++seed) {
        const Model model = random_assembly(seed);
        const Mesh mesh = build_mesh(model);
        const Network network = build_network(model, mesh, studies_of(model).front());
        std::vector<double> excess(network.nodes, 0.0), b(network.nodes, 1e-3), x(network.nodes, 0.0);
        for (std::size_t w = 0; w < network.walls.size(); ++w) excess[network.walls.node[w]] += wall_state(network.walls.resistance[w], network.walls.of(w), 310.0).slope;
        for (std::size_t s = 0; s < network.sources.size(); ++s) b[network.sources.node[s]] += network.sources.heat[s];
        const LinearSummary summary =
            make_multigrid_solver({.nodes = network.nodes, .edges = {{network.links.first, network.links.second, network.links.conductance}}, .excess = excess})->solve(b, x, 1e-8);
        INFO("seed " << seed << ", " << network.nodes << " unknowns: " << summary.text());
        CHECK(summary.converged);
        CHECK(summary.iterations <= 60);
        most = std::max(most, summary.iterations);
    }
    WARN("most iterations of " << assemblies << " assemblies: " << most);
}
