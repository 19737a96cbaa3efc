// The walker over the legs of heat: every node and wall passes on what it gets, with laws and frozen, and sums by channel are those of the ledger.

#include "network/reduce.hpp"
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
        const Network& laws = *s.laws;
        std::vector<double> at_node(laws.nodes, 0.0), at_wall(laws.walls.size(), 0.0), of_channel(6, 0.0), frozen_channel(6, 0.0);
        double outside = 0.0, throughput = 0.0;
        const auto book = [&](const LegEnd& end, double heat) {
            if (end.at == LegEnd::At::node) at_node[end.index] += heat;
            if (end.at == LegEnd::At::wall) at_wall[end.index] += heat;
            if (end.at == LegEnd::At::known) outside += heat;
        };
        const auto each = [&](const Leg& leg) {
            book(leg.from, -leg.heat);
            book(leg.to, leg.heat);
            of_channel[static_cast<std::size_t>(leg.channel)] += leg.heat;
            if (leg.channel == Channel::load) throughput -= leg.heat;
            const bool inside = leg.to.at == LegEnd::At::node;
            if (leg.channel == Channel::contact) CHECK(inside);
            if (leg.channel == Channel::hold || leg.channel == Channel::convection || leg.channel == Channel::load) CHECK(leg.to.at == LegEnd::At::known);
            if (leg.from.at == LegEnd::At::wall) CHECK(node_of(laws, leg.from) == laws.walls.node[leg.from.index]);
        };
        reduce_inside(laws, s.reference, s.rise, each);
        reduce_outside(laws, s.reference, s.rise, each);
        const auto again = [&](const Leg& leg) { frozen_channel[static_cast<std::size_t>(leg.channel)] += leg.heat; };
        reduce_inside(*s.network, s.reference, s.rise, again);
        reduce_outside(*s.network, s.reference, s.rise, again);
        const double scale = std::max(throughput, s.summary.throughput);
        for (const double left : at_node) REQUIRE(std::abs(left) <= 1e-8 * scale);
        for (const double left : at_wall) REQUIRE(std::abs(left) <= 1e-9 * scale);
        CHECK(std::abs(outside) <= 1e-8 * scale);
        for (std::size_t c = 0; c < of_channel.size(); ++c) CHECK(of_channel[c] == Approx(frozen_channel[c]).margin(1e-8 * scale));

        const Findings f = findings(model, s);
        const auto heat = [&](Channel channel) { return of_channel[static_cast<std::size_t>(channel)]; };
        CHECK(-heat(Channel::load) == Approx(f.ledger.loads).margin(1e-9 * scale));
        CHECK(heat(Channel::convection) == Approx(f.ledger.convection).margin(1e-9 * scale));
        CHECK(heat(Channel::hold) == Approx(f.ledger.holds).margin(1e-9 * scale));
        double power = 0.0;
        for (const PartFinding& part : f.parts) power += part.power;
        CHECK(power == Approx(f.ledger.loads).margin(1e-9 * scale));
    }
}
