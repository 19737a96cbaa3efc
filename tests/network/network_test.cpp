// Networks: powers shared, joints, claims, paths, walls.

#include "models.hpp"
#include "network/laws/laws.hpp"
#include "network/walls.hpp"

#include <rapidcheck/catch.h>
#include <catch2/catch.hpp>

#include <cmath>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

Network network_of(const Model& model) { return build_network(model, build_mesh(model), studies_of(model).front()); }

double heat_of(const Model& model) {
    double sum = 0.0;
    for (const Family& family : network_of(model).families) {
        for (std::size_t i = 0; family.channel == Channel::load && i < family.size(); ++i) sum += family.coefficient[i];
    }
    return sum;
}

}  // namespace

TEST_CASE("powers are shared by volume, by part, by density", "[network]") {
    Model model = block_on_plate();
    CHECK(heat_of(model) == Approx(15.0).epsilon(1e-12));
    model.powers[0] = Power{.into = {"*"}, .each = 3.0};
    CHECK(heat_of(model) == Approx(6.0).epsilon(1e-12));
    model.powers[0] = Power{.into = {"block"}, .density = 1e6};
    CHECK(heat_of(model) == Approx(1e6 * 600e-9).epsilon(1e-12));
    model.studies = {Study{.name = "half", .scale = {{"block", 0.5}}}};
    CHECK(heat_of(model) == Approx(0.5e6 * 600e-9).epsilon(1e-12));
}

TEST_CASE("in a mirrored piece, totals and parts on the plane are shared", "[network]") {
    Model model = block_on_plate();
    model.add(block("chip", {4_mm, 4_mm, 2_mm}, {60_mm, 40_mm, 4_mm}, "copper"));
    model.add(Mirror{.axis = 0, .at = 40_mm, .keep_plus = true});
    CHECK(heat_of(model) == Approx(7.5).epsilon(1e-12));
    // The block straddles the plane: one part, half of it kept. The chip has a twin on the other side.
    model.powers[0] = Power{.into = {"block", "chip"}, .each = 2.0};
    CHECK(heat_of(model) == Approx(1.0 + 2.0).epsilon(1e-12));
}

TEST_CASE("joint resistances come from area, total, or layer", "[network]") {
    Model model = block_on_plate();
    CHECK(network_of(model).pair_resistance.at(0) == 20e-6);
    model.joints[0] = Joint{.between = {"plate", "block"}, .total = 0.4};
    CHECK(network_of(model).pair_resistance.at(0) == Approx(0.4 * 200e-6).epsilon(1e-12));
    model.add(Mirror{.axis = 0, .at = 40_mm, .keep_plus = true});
    CHECK(network_of(model).pair_resistance.at(0) == Approx(0.4 * 200e-6).epsilon(1e-12));  // of the whole product
    model.joints[0] = Joint{.between = {"plate", "block"}, .layer = Layer{.material = "gap pad 3 W", .thickness = 0.5_mm}};
    CHECK(network_of(model).pair_resistance.at(0) == Approx(0.0005 / 3.0).epsilon(1e-12));
    model.joints[0] = Joint{.between = {"plate", "block"}, .insulated = true};
    model.add(Surface{.name = "block skin", .pick = Selection{.parts = {"block"}}});
    CHECK(std::isinf(network_of(model).pair_resistance.at(0)));
}

TEST_CASE("surfaces claimed twice are refused unless the second acts beside the first", "[network]") {
    Model model = block_on_plate();
    model.add(convection(side("plate", Side::minus_z), 5.0, 300.0));
    CHECK(network_of(model).unclaimed.empty());  // the first takes the rest
    model.add(convection(Selection{.parts = {"plate"}}, 3.0, 300.0));
    CHECK_THROWS_WITH(network_of(model), Contains("48.0 cm² of surface are already claimed by \"cooling 2\"") && Contains("beside = true"));
    model.coolings[2].beside = true;
    const Network network = network_of(model);
    CHECK(network.cooling_coverage[2].area > network.cooling_coverage[1].area);
    model.add(Hold{.on = side("plate", Side::minus_z), .temperature = 300.0});
    CHECK_THROWS_WITH(network_of(model), Contains("already claimed by \"hold 1\"") && Contains("except"));
}

TEST_CASE("a rule for the rest that finds nothing left is an error", "[network]") {
    Model model = block_on_plate();
    model.coolings[0].on = Selection{.parts = {"*"}};
    model.add(convection(exposed(), 5.0, 300.0));
    CHECK_THROWS_WITH(network_of(model), Contains("nothing exposed is left"));
}

TEST_CASE("named surfaces that pick nothing are an error even when unused", "[network]") {
    Model model = block_on_plate();
    model.add(Surface{.name = "below the block", .pick = side("block", Side::minus_z)});
    CHECK_THROWS_WITH(network_of(model), Contains("picks no exposed surface"));
}

TEST_CASE("parts without a path to a known temperature are named", "[network]") {
    Model model = block_on_plate();
    model.add(block("island", {5_mm, 5_mm, 5_mm}, {200_mm, 0, 0}, "copper"));
    model.coolings[0].on = Selection{.parts = {"plate"}};
    CHECK_THROWS_WITH(network_of(model), Contains("no path leads from \"island\""));
    model.parts.pop_back();
    model.joints[0] = Joint{.between = {"block", "plate"}, .insulated = true};
    CHECK_THROWS_WITH(network_of(model), Contains("no path leads from \"block\""));
    model.coolings.clear();
    CHECK_THROWS_WITH(network_of(model), Contains("add a [[cooling]] or a [[hold]]"));
}

TEST_CASE("sensors outside their part and missing emissivities are found before solving", "[network]") {
    Model model = block_on_plate();
    model.add(Sensor{.name = "lost", .in = "block", .at = {0, 0, 0}});
    CHECK_THROWS_WITH(network_of(model), Contains("is not in part \"block\""));
    model.sensors.clear();
    model.coolings[0].emissivity.reset();
    model.coolings[0].material_emissivity = true;
    CHECK_NOTHROW(network_of(model));
    model.materials = {plain("bare", 10.0)};
    model.parts[0].material = "bare";
    CHECK_THROWS_WITH(network_of(model), Contains("\"bare\" of part \"plate\" has no emissivity"));
}

TEST_CASE("what names only left-out parts rests with them", "[network]") {
    Model model = block_on_plate();
    model.add(Sensor{.name = "inside", .in = "block", .at = {40_mm, 30_mm, 5_mm}});
    model.add(convection(Selection{.parts = {"block"}}, 20.0, 300.0));
    model.parts[1].include = false;
    const Network network = network_of(model);
    CHECK(heat_of(model) == 0.0);
    CHECK(network.cooling_coverage[1].patches.empty());
    const Findings f = findings(model, solve_steady(model));
    CHECK(f.joints.empty());
    CHECK(f.sensors.empty());
    CHECK(f.warnings.size() == 2);  // the power and the limit that rest
}

TEST_CASE("heat onto a held surface is refused", "[network]") {
    Model model = block_on_plate();
    model.add(Hold{.on = side("plate", Side::minus_z), .temperature = 300.0});
    model.powers = {Power{.on = side("plate", Side::minus_z), .total = 5.0}};
    CHECK_THROWS_WITH(network_of(model), Contains("imposed temperature"));
}

TEST_CASE("a wall balances its films, alone and among others", "[network][property]") {
    rc::prop("random walls", [] {
        const auto between = [](double low, double high) { return low + 1e-3 * (high - low) * *rc::gen::inRange(0, 1000); };
        constexpr Index count = 70;  // more than are balanced at once
        Network network{.nodes = count};
        network.knowns = {{between(100, 1600), {}, Channel::convection}, {between(3, 1500), {}, Channel::radiation}};
        std::vector<double> node, drop;
        WallGroup group{.end = count};
        group.films = {{.channel = Channel::convection, .index = {0}, .known = 0},
                       {.channel = Channel::radiation, .index = {0}, .known = 1, .law = radiation_law()},
                       {.channel = Channel::load, .index = {0}, .scale = 0.5, .law = load_law({})}};
        for (Index w = 0; w < count; ++w) {
            network.walls.node.push_back(w);
            network.walls.resistance.push_back(std::pow(10.0, between(-3, 4)));
            group.films[0].coefficient.push_back(between(0, 10));
            group.films[1].coefficient.push_back(between(0, 1e-7));
            group.films[2].coefficient.push_back(between(0, 20));
            node.push_back(between(100, 1600));
        }
        network.walls.groups = {group};
        Index seen = 0;
        each_wall_block(network, {0.0, node}, [&](const WallBlock& block) {
            RC_ASSERT(block.begin == seen);
            for (std::size_t i = 0; i < block.states.size(); ++i) {
                const Index w = block.begin + static_cast<Index>(i);
                const WallState state = block.states[i], alone = wall_state(network, w, node[w]);
                RC_ASSERT(state.temperature == alone.temperature);
                RC_ASSERT(state.heat == alone.heat);
                const double conductance = 1.0 / network.walls.resistance[w];
                double heat = 0.0, size = conductance * node[w];
                for (std::size_t f = 0; f < group.films.size(); ++f) {
                    heat += block.heat_of(f)[i];
                    size += std::abs(block.heat_of(f)[i]);
                }
                RC_ASSERT(block.heat_of(2)[i] == -0.5 * group.films[2].coefficient[w]);
                RC_ASSERT(std::abs(heat - conductance * (node[w] - state.temperature)) <= 1e-9 * size);
                RC_ASSERT(state.slope >= 0.0 && state.slope <= conductance * (1.0 + 1e-12));
                // The slope is the derivative.
                const double step = 1e-3;
                const double up = wall_state(network, w, node[w] + step).heat, down = wall_state(network, w, node[w] - step).heat;
                RC_ASSERT(std::abs((up - down) / (2 * step) - state.slope) <= 1e-5 * conductance + 1e-9 * size);
            }
            seen += static_cast<Index>(block.states.size());
        });
        RC_ASSERT(seen == count);
    });
}
