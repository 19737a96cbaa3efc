// The walker over the legs of heat: every node and wall passes on what it gets, sums by channel are those of the ledger, and secants carry the same heat.

#include "network/reduce.hpp"
#include "network/assemble.hpp"
#include "random_assemblies.hpp"

#include <catch2/catch.hpp>

#include <cmath>

using namespace firnfield;
using namespace firnfield::test;

TEST_CASE("what enters a node or a wall leaves it again, leg by leg", "[network]") {
    for (unsigned seed = 1; seed <= 12; ++seed) {
        INFO("seed " << seed);
        const Model model = RandomAssembly(seed).make();
        const SteadySolution s = solve_steady(model);
        const Network& network = *s.network;
        std::vector<double> at_node(network.nodes, 0.0), at_wall(network.walls.size(), 0.0), of_channel(static_cast<std::size_t>(Channel::load) + 1, 0.0);
        double outside = 0.0, throughput = 0.0;
        const auto book = [&](const End& end, double heat) {
            if (end.at == End::At::node) at_node[end.index] += heat;
            if (end.at == End::At::wall) at_wall[end.index] += heat;
            if (end.at == End::At::known) outside += heat;
        };
        const auto each = [&](const Leg& leg) {
            book(leg.from, -leg.heat);
            book(leg.to, leg.heat);
            of_channel[static_cast<std::size_t>(leg.channel)] += leg.heat;
            if (leg.channel == Channel::load) throughput -= leg.heat;
            const bool inside = leg.to.at == End::At::node;
            if (leg.channel == Channel::contact) CHECK(inside);
            if (leg.channel == Channel::hold || leg.channel == Channel::convection || leg.channel == Channel::load) CHECK(leg.to.at == End::At::known);
            if (leg.from.at == End::At::wall) CHECK(node_of(network, leg.from) == network.walls.node[leg.from.index]);
        };
        reduce_inside(network, s.nodes(), each);
        reduce_outside(network, s.nodes(), each);
        const double scale = std::max(throughput, s.summary.throughput);
        for (const double left : at_node) REQUIRE(std::abs(left) <= 1e-8 * scale);
        for (const double left : at_wall) REQUIRE(std::abs(left) <= 1e-9 * scale);
        CHECK(std::abs(outside) <= 1e-8 * scale);

        const Findings f = findings(model, s);
        const auto heat = [&](Channel channel) { return of_channel[static_cast<std::size_t>(channel)]; };
        CHECK(-heat(Channel::load) == Approx(f.ledger.loads).margin(1e-9 * scale));
        CHECK(heat(Channel::convection) == Approx(f.ledger.convection).margin(1e-9 * scale));
        double resistors = 0.0;
        reduce_outside(network, s.nodes(), [&](const Leg& leg) { resistors += leg.channel == Channel::resistor ? leg.heat : 0.0; });
        CHECK(resistors == Approx(f.ledger.resistors).margin(1e-9 * scale));
        CHECK(heat(Channel::hold) == Approx(f.ledger.holds).margin(1e-9 * scale));
        double power = 0.0;
        for (const PartFinding& part : f.parts) power += part.power;
        for (std::size_t p = 0; p < model.powers.size(); ++p) power += find_node(model, model.powers[p].into.front()) ? f.loads[p].heat : 0.0;
        CHECK(power == Approx(f.ledger.loads).margin(1e-9 * scale));
    }
}

TEST_CASE("a network of secants carries the same heat linearly", "[network]") {
    for (unsigned seed = 1; seed <= 12; ++seed) {
        INFO("seed " << seed);
        const SteadySolution s = solve_steady(RandomAssembly(seed).make());
        const Network& network = *s.network;
        const Balance secants = assemble(network, s.nodes(), Slopes::secant);
        CHECK(secants.symmetric());
        for (std::size_t f = 0; f < network.families.size(); ++f) {
            const Family& family = network.families[f];
            if (!family.between_nodes()) continue;
            const std::vector<double>& conductance = secants.conductance[f].empty() ? family.coefficient : secants.conductance[f];
            reduce_family(network, family, s.nodes(),
                          [&](const Leg& leg) { REQUIRE(leg.heat == Approx(conductance[leg.element] * leg.difference).margin(1e-9 * s.summary.throughput)); });
        }
        const std::vector<double> films = film_conductances(network, s.nodes(), Slopes::secant);
        std::vector<double> carried(films.size(), 0.0);
        reduce_outside(network, s.nodes(), [&](const Leg& leg) {
            if (leg.from.at != End::At::wall || leg.channel == Channel::load) return;
            if (std::abs(leg.difference) > 1e-6) carried[leg.from.index] += leg.heat / leg.difference;
        });
        for (std::size_t w = 0; w < films.size(); ++w) {
            if (carried[w] > 0.0) REQUIRE(films[w] == Approx(carried[w]).epsilon(1e-6));
        }
    }
}
