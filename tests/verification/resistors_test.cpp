// Lumped nodes and resistors beside geometry: what they stand for, under symmetry, over time, and why a node is hot.

#include "models.hpp"
#include "verification/in_time.hpp"

#include <catch2/catch.hpp>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;

namespace {

/// A plate that is heated at one end, with a named face below.
Model plate() {
    Model m;
    m.mesh.cell = 4_mm;
    m.materials = {plain("metal", 50.0), plain("bare", 5.0)};
    m.materials[0].density = m.materials[1].density = 2700.0;
    m.materials[0].specific_heat = m.materials[1].specific_heat = 900.0;
    m.add(block("plate", {60_mm, 40_mm, 4_mm}, {}, "metal"));
    m.add(Surface{.name = "below", .pick = side("plate", Side::minus_z)});
    m.add(heat("plate", 12.0));
    return m;
}

double temperature(const Findings& f, const std::string& sensor) {
    return std::find_if(f.sensors.begin(), f.sensors.end(), [&](const SensorFinding& s) { return s.name == sensor; })->temperature;
}

Findings solved(const Model& m) {
    Findings f = findings(m, solve_steady(through_file(m)));
    CHECK(std::abs(f.ledger.relative_residual()) <= 1e-9);
    return f;
}

}  // namespace

TEST_CASE("a resistor from a surface to the ambient is a convection of the same conductance", "[verification]") {
    for (const char* material : {"metal", "bare"}) {
        Model a = plate(), b = plate();
        a.parts[0].material = b.parts[0].material = material;
        a.materials[1].conductivity_factor = b.materials[1].conductivity_factor = {{273.15, 573.15}, {1.0, 2.0}};
        a.add(convection(Selection{.surfaces = {"below"}}, 1.0 / (2.0 * 2400e-6), 300.0));
        b.add(Resistor{.name = "sink", .between = {"ambient", "below"}, .total = 2.0, .ambient = 300.0});
        const SteadySolution s = solve_steady(a), t = solve_steady(b);
        for (std::size_t c = 0; c < s.rise.size(); ++c) CHECK(t.temperature[c] == Approx(s.temperature[c]).epsilon(1e-9));
        for (std::size_t p = 0; p < s.patch_temperature.size(); ++p) CHECK(t.patch_temperature[p] == Approx(s.patch_temperature[p]).margin(1e-6));
        const Findings f = findings(b, t);
        CHECK(f.resistors[0].flow == Approx(12.0));
        CHECK(f.resistors[0].drop == Approx(24.0));
        CHECK(f.ledger.resistors == Approx(12.0));
        CHECK(f.unclaimed_area == Approx(2400e-6 + 2.0 * 4e-3 * 0.1));
    }
}

TEST_CASE("resistors in a row add up, whatever lies between", "[verification]") {
    Model m = plate();
    m.add(Node{.name = "case"});
    m.add(Node{.name = "junction"});
    m.add(Resistor{.between = {"below", "case"}, .total = 0.7});
    m.add(Resistor{.name = "air", .between = {"case", "ambient"}, .total = 1.3, .ambient = celsius(20)});
    m.add(Resistor{.between = {"junction", "case"}, .total = 3.0});
    m.add(Power{.name = "loss", .into = {"junction"}, .total = 5.0});
    const Findings f = solved(m);
    CHECK(temperature(f, "case") == Approx(celsius(20) + 17.0 * 1.3));
    CHECK(temperature(f, "junction") == Approx(celsius(20) + 17.0 * 1.3 + 15.0));
    CHECK(f.resistors[0].flow == Approx(12.0));
    CHECK(f.loads[1].heat == Approx(5.0));
}

TEST_CASE("a strap between two parts has its whole resistance", "[verification]") {
    Model m = plate();
    m.materials[0].conductivity = isotropic(1e6);
    m.add(block("block", {10_mm, 10_mm, 10_mm}, {100_mm, 0, 0}, "metal"));
    m.add(convection(Selection{.parts = {"block"}}, 1000.0, 300.0));
    for (const char* end : {"plate", "below"}) {
        m.resistors = {Resistor{.name = "strap", .between = {"block", end}, .total = 4.0}};
        const Findings f = solved(m);
        CHECK(f.resistors[0].flow == Approx(-12.0));  // from the first to the second
        CHECK(f.parts[0].mean - f.parts[1].mean == Approx(48.0).epsilon(1e-3));
        CHECK(f.resistors[0].drop == Approx(-48.0));
        CHECK(f.resistors[0].second == end);
    }
    // It rests with a part that is left out, and one beyond a mirror is told.
    m.add(convection(exposed(), 20.0, 300.0));
    m.parts[1].include = false;
    CHECK(solved(m).resistors[0].flow == 0.0);
    m.parts[1].include = true;
    m.coolings.erase(m.coolings.begin());
    m.add(Mirror{.axis = 0, .at = 80_mm, .keep_plus = false});
    CHECK_THROWS_WITH(solve_steady(m), Catch::Matchers::Contains("beyond a mirror plane"));
}

TEST_CASE("the kept piece has its share of nodes and resistors", "[verification]") {
    Model whole = plate();
    whole.add(block("block", {10_mm, 10_mm, 6_mm}, {25_mm, 15_mm, 4_mm}, "bare"));
    whole.add(convection(exposed(), 15.0, celsius(25)));
    whole.add(Node{.name = "junction", .capacity = 8.0});
    whole.add(Resistor{.between = {"junction", "below"}, .total = 1.5});
    whole.add(Resistor{.between = {"block", "junction"}, .total = 6.0});
    whole.add(Resistor{.name = "leads", .between = {"junction", "ambient"}, .total = 9.0, .ambient = celsius(25)});
    whole.add(Power{.name = "loss", .into = {"junction"}, .total = 7.0});
    whole.add(Study{.name = "steady"});
    Study warm = transient(400.0, 25.0, 0.01);
    whole.add(warm);
    whole.mesh.planes[0] = {30_mm};
    Model half = whole;
    half.add(Mirror{.axis = 0, .at = 30_mm, .keep_plus = true});
    const Findings f = solved(whole), g = solved(half);
    CHECK(temperature(g, "junction") == Approx(temperature(f, "junction")).epsilon(1e-6));
    for (std::size_t r = 0; r < 3; ++r) {
        CHECK(g.resistors[r].flow == Approx(f.resistors[r].flow).margin(1e-3));  // of 19 W, on grids that differ a little
        CHECK(g.resistors[r].drop == Approx(f.resistors[r].drop).margin(5e-3));
    }
    CHECK(in_time(half, {}, {}, 1).findings.sensors[0].end == Approx(in_time(whole, {}, {}, 1).findings.sensors[0].end).margin(0.02));
}

TEST_CASE("why a node is hot adds up, and its sensitivities are derivatives", "[verification]") {
    Model m = plate();
    m.add(convection(exposed(), 12.0, celsius(25)));
    m.coolings[0].emissivity = 0.8;
    m.add(Node{.name = "junction"});
    m.add(Resistor{.name = "solder", .between = {"junction", "below"}, .total = 2.5, .resistance_factor = {{300.0, 400.0}, {1.2, 0.8}}});
    m.add(Resistor{.name = "leads", .between = {"junction", "ambient"}, .total = 30.0, .ambient = celsius(45)});
    m.add(Power{.name = "loss", .into = {"junction"}, .total = 9.0});
    m.materials[0].conductivity_factor = {{273.15, 573.15}, {1.0, 2.0}};
    m.materials[0].conductivity = isotropic(2.0);
    struct Place {
        ExplainOptions options{};
        bool lumped = false;
    };
    for (const Place& place : {Place{{.sensor = "junction"}, true}, Place{{.part = "plate"}}}) {
        const auto reads = [&](const Model& model) {
            const Findings f = findings(model, solve_steady(model), {.errors = false});
            return place.lumped ? temperature(f, "junction") : f.parts[0].hottest.temperature;
        };
        const Explanation e = explain(m, solve_steady(m), place.options);
        CHECK(e.spot.lumped == place.lumped);
        for (const auto* list : {&e.along, &e.by_load}) {
            double sum = 0.0;
            for (const Contribution& c : *list) sum += c.rise;
            CHECK(sum == Approx(e.rise).epsilon(1e-8));
        }
        if (!place.lumped) CHECK(e.spot.at.z == Approx(0.0).margin(1e-9));  // on the surface of the resistor
        const auto sensitivity = [&](Sensitivity::Kind kind, const std::string& name) {
            return std::find_if(e.sensitivities.begin(), e.sensitivities.end(), [&](const Sensitivity& s) { return s.kind == kind && s.name == name; })->change;
        };
        constexpr double step = 1e-3;
        const auto changed = [&](const auto& change, double by) {
            Model up = m, down = m;
            change(up, by);
            change(down, -by);
            return 0.5 * (reads(up) - reads(down)) / by;
        };
        const auto resistance = [&](std::size_t r) { return 0.1 * changed([r](Model& x, double by) { *x.resistors[r].total *= 1.0 + by; }, step); };
        CHECK(sensitivity(Sensitivity::Kind::resistance, "solder") == Approx(resistance(0)).epsilon(2e-4));
        CHECK(sensitivity(Sensitivity::Kind::resistance, "leads") == Approx(resistance(1)).epsilon(2e-4));
        CHECK(sensitivity(Sensitivity::Kind::ambient, "leads") ==
              Approx(changed([](Model& x, double by) { *x.resistors[1].ambient += by; }, 0.1)).epsilon(2e-4));
        CHECK(sensitivity(Sensitivity::Kind::power, "loss") ==
              Approx(0.1 * changed([](Model& x, double by) { *x.powers[1].total *= 1.0 + by; }, step)).epsilon(2e-4));
        CHECK(sensitivity(Sensitivity::Kind::conductivity, "plate") ==
              Approx(0.1 * changed([](Model& x, double by) { x.materials[0].conductivity = isotropic(2.0 * (1.0 + by)); }, step)).epsilon(2e-3));
    }
}

TEST_CASE("a node without capacity follows at once", "[verification][time]") {
    Model m;
    add_node(m, "body", 50.0);
    m.add(Node{.name = "surface"});
    connect(m, "body", "surface", 2.0);
    cool_node(m, "surface", 0.5, 20.0);
    m.add(Power{.name = "lamp", .into = {"surface"}, .total = 10.0});
    m.add(transient(200.0, 20.0, 1e-3));
    const InTime r = in_time(m, {{"body"}, {"surface"}}, {0.01, 50.0, 200.0});
    // The lamp's heat divides between the body and the air: 8 W go inwards at first.
    const auto body = [](double t) { return 20.0 + 20.0 * (1.0 - std::exp(-t / 125.0)); };
    check_near(r.celsius[0], {body(0.01), body(50.0), body(200.0)}, {2e-3});
    for (std::size_t i = 0; i < 3; ++i) CHECK(r.celsius[1][i] == Approx((10.0 + 2.0 * r.celsius[0][i] + 0.5 * 20.0) / 2.5).margin(2e-3));
}

TEST_CASE("an ambient in time drives a resistor, and a settled cycle follows it", "[verification][time]") {
    Model m;
    add_node(m, "body", 100.0);
    connect(m, "body", "ambient", 1.0);
    Profile day{.name = "day"};
    day.sine = Sine{.mean = celsius(20), .amplitude = 10.0, .period = 600.0};
    day.gives = CourseOf::temperature;
    m.add(day);
    m.resistors[0].ambient_profile = "day";
    Study cyclic{.name = "settled", .kind = StudyKind::cyclic};
    cyclic.start.temperature = celsius(20);
    m.add(cyclic);
    const TimeFindings f = solve_over_time(m, m.studies.front(), std::make_shared<const Mesh>(build_mesh(m)));
    const double omega = 2.0 * 3.14159265358979 * 100.0 / 600.0;
    CHECK(f.sensors[0].highest - celsius(20) == Approx(10.0 / std::sqrt(1.0 + omega * omega)).margin(0.05));
    CHECK(f.hottest.spot.lumped);
    CHECK(f.hottest.spot.temperature == f.sensors[0].highest);
    CHECK(std::abs(f.energy.stored) <= 1e-3 * f.energy.throughput);
}

TEST_CASE("the hottest place may be a node, and one is explained where nothing is named", "[verification]") {
    Model m;
    m.add(Node{.name = "junction"});
    m.add(Resistor{.name = "pad", .between = {"junction", "ambient"}, .total = 2.0, .ambient = celsius(25)});
    m.add(Power{.name = "loss", .into = {"junction"}, .total = 10.0});
    const SteadySolution alone = solve_steady(through_file(m));
    const Findings f = findings(m, alone);
    CHECK(f.parts.empty());
    CHECK(f.hottest.lumped);
    CHECK(f.hottest.temperature == Approx(celsius(45)));
    const Explanation e = explain(m, alone);
    CHECK(e.subject == "junction");
    CHECK(e.along.at(0).rise == Approx(20.0));
    CHECK_THAT(to_text(f), Catch::Matchers::Contains("hottest 45.0 °C in junction") && Catch::Matchers::Contains("pad, resistor"));

    Model with = plate();
    with.add(convection(exposed(), 100.0, celsius(25)));
    for (const auto& r : m.resistors) with.add(Resistor(r));
    with.add(Node(m.nodes[0]));
    with.add(Power(m.powers[0]));
    const SteadySolution s = solve_steady(with);
    CHECK(findings(with, s).hottest.body == "plate");
    CHECK(explain(with, s).subject == "plate");
    CHECK(explain(with, s, {.coldest = true}).subject == "junction");
}

TEST_CASE("mistakes with nodes and resistors are told", "[verification]") {
    const auto told = [](const Model& m) {
        std::string all;
        for (const Problem& p : validate(m)) all += p.address + ": " + p.message + "\n";
        return all;
    };
    Model m = plate();
    m.add(convection(exposed(), 10.0, 300.0));
    m.add(Node{.name = "plate"});
    m.add(Node{.name = "below"});
    m.add(Node{.name = "ambient"});
    m.add(Node{.name = "lone", .capacity = 1.0, .mass = 1.0});
    m.add(Resistor{.between = {"lone", "lane"}, .total = 1.0, .ambient = 300.0});
    m.add(Power{.into = {"lone", "plate *"}, .density = 1.0});
    CHECK_THAT(told(m), Catch::Matchers::Contains("\"plate\" is the name of a part already") &&
                            Catch::Matchers::Contains("\"below\" is the name of a surface already") &&
                            Catch::Matchers::Contains("\"ambient\" is what resistors lead to") && Catch::Matchers::Contains("not both") &&
                            Catch::Matchers::Contains("no resistor leads to node \"below\"") &&
                            Catch::Matchers::Contains("no node, part or surface is called \"lane\" (did you mean \"lone\"?)") &&
                            Catch::Matchers::Contains("does not lead to the \"ambient\"") &&
                            Catch::Matchers::Contains("nodes and parts do not share a power") && Catch::Matchers::Contains("a node has no volume"));
    // A surface belongs to one rule, and heat is put into what a resistor leads to.
    Model twice = plate();
    twice.add(Node{.name = "n"});
    twice.add(Resistor{.name = "one", .between = {"n", "below"}, .total = 1.0});
    twice.add(Resistor{.between = {"below", "ambient"}, .total = 1.0, .ambient = 300.0});
    CHECK_THROWS_WITH(solve_steady(twice), Catch::Matchers::Contains("already claimed by \"one\""));
    twice.resistors[1].between = {"plate", "ambient"};
    CHECK_NOTHROW(solve_steady(twice));
    twice.add(Power{.on = Selection{.surfaces = {"below"}}, .total = 1.0});
    CHECK_THROWS_WITH(solve_steady(twice), Catch::Matchers::Contains("a resistor claims this surface"));
}
