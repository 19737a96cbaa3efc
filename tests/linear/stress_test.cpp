// Two hundred random assemblies: conductivities over eight decades, contacts of all kinds, thin layers, cut cells. All have to converge.

#include "models.hpp"

#include "linear/multigrid_solver.hpp"
#include "linear/solver.hpp"
#include "network/assemble.hpp"

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
        Part part{.name = name,
                  .shape = Box{.size = {uniform(0.03, 0.05), uniform(0.03, 0.05), high}, .at = {uniform(0.0, 5e-3), uniform(0.0, 5e-3), z}},
                  .material = material};
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
#ifdef FIRNFIELD_SANITIZED
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
        for (Index w = 0; w < network.walls.size(); ++w) excess[network.walls.node[w]] += wall_state(network, w, 310.0).slope;
        for (const Family& family : network.families) {
            for (std::size_t i = 0; family.channel == Channel::load && i < family.size(); ++i) b[family.first[i]] += family.coefficient[i];
        }
        const LinearSummary summary = make_multigrid_solver({.nodes = network.nodes, .edges = edges_of(network, {}), .excess = excess})->solve(b, x, 1e-8);
        INFO("seed " << seed << ", " << network.nodes << " unknowns: " << summary.text());
        CHECK(summary.converged);
        CHECK(summary.iterations <= 60);
        most = std::max(most, summary.iterations);
    }
    WARN("most iterations of " << assemblies << " assemblies: " << most);
}

TEST_CASE("stacks of bonded sheets of a poor conductor are solved", "[linear]") {
    // Strong couplings run across the border between the sheets, which is where the rows are cut into blocks.
    Model m;
    m.mesh.cell = 0.7e-3;
    m.materials.push_back(plain("epoxy", 0.6));
    for (int layer = 0; layer < 2; ++layer) m.add(block("layer " + std::to_string(layer), {0.1, 0.1, 1e-4}, {0.0, 0.0, 1e-4 * layer}, "epoxy"));
    m.add(heat("layer 1", 5.0));
    m.add(convection(exposed(), 10.0, 298.15));
    const SteadySolution s = solve_steady(m);
    REQUIRE(s.mesh->cells.size() > 80000);
    CHECK(s.summary.linear_iterations <= 60);
    CHECK(std::abs(findings(m, s).ledger.relative_residual()) <= 1e-9);
}

TEST_CASE("a chain of half a million conductances over eight decades ends at what double precision gives", "[linear]") {
    const std::uint32_t n = 500000;
    std::mt19937_64 random(3);
    std::uniform_real_distribution<double> decades(-4.0, 4.0);
    std::vector<std::uint32_t> first, second;
    std::vector<double> conductance, ties(n, 0.0), heat(n, 1e-3), x(n, 0.0);
    for (std::uint32_t i = 0; i + 1 < n; ++i) {
        first.push_back(i);
        second.push_back(i + 1);
        conductance.push_back(std::pow(10.0, decades(random)));
    }
    ties[0] = 1.0;
    const auto solver = make_solver({.nodes = n, .edges = {{first, second, conductance}}, .excess = ties});
    CHECK(solver->solve(heat, x, 1e-8).converged);
    // All heat passes every link before it: the rise of the far end is a sum that can be made by hand.
    double exact = 1e-3 * n;
    for (std::uint32_t i = 0; i + 1 < n; ++i) exact += 1e-3 * (n - 1 - i) / conductance[i];
    // A diagonal rounds off up to 1e-16 of 2e4 W/K, at 7e10 K up to 0.1 W; over the 60 000 links of the strongest decade that adds up at random to
    // about 1 W of the 500 W that pass.
    CHECK(x[n - 1] == Approx(exact).epsilon(3e-3));
}
