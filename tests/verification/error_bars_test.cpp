// Error bars against exact answers: how often the true error lies within, and how much wider they are than they need be.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <cmath>
#include <functional>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

/// A quantity whose exact value is known.
struct Known {
    std::string kind, name;
    double value;
};

struct Tally {
    int inside = 0, within_five = 0, all = 0;
};

void compare(const Model& model, const std::vector<Known>& known, Tally& tally) {
    const BarredSolution s = solve_with_error_bars(model, studies_of(model).front());
    REQUIRE(s.findings.error_bars.has_value());
    for (const Known& k : known) {
        const auto& bars = s.findings.error_bars->bars;
        const auto bar = std::find_if(bars.begin(), bars.end(), [&](const ErrorBar& b) { return b.kind == k.kind && b.name == k.name; });
        REQUIRE(bar != bars.end());
        const double error = std::abs(bar->value - k.value);
        INFO(k.kind << " of " << k.name << " at " << s.findings.cells << " cells: " << bar->value << " +- " << bar->error << ", true error " << error);
        ++tally.all;
        if (error <= bar->error) ++tally.inside;
        CHECK(error <= 3.0 * bar->error);
        if (bar->error <= 5.0 * error) ++tally.within_five;
    }
}

Hold held(Selection on, double celsius_value) { return Hold{.on = std::move(on), .temperature = celsius(celsius_value)}; }

/// Round bodies with uniform generation in a film: exact in the middle and at the wall.
Model heated(Shape shape, std::vector<std::string> wet, double cell) {
    Model m;
    m.mesh.cell = cell;
    m.mesh.through = 1;
    m.materials = {plain("core", 2.0)};
    m.add(Part{.name = "core", .shape = std::move(shape), .material = "core"});
    Selection skin;
    skin.parts = {"core"};
    skin.sides = std::move(wet);
    m.add(convection(skin, 100.0, 300.0));
    m.add(Power{.into = {"core"}, .density = 1e6});
    return m;
}

}  // namespace

TEST_CASE("error bars hold the true error and are not much wider", "[verification]") {
    Tally tally;
    constexpr double q = 1e6, k = 2.0, h = 100.0, R = 0.01;
    for (const double cell : {2.2e-3, 1.5e-3, 1e-3}) {
        Model rod = heated(Cylinder{.radius = R, .length = 6_mm, .at = {0.3e-3, 0.1e-3, 0}}, {"side"}, cell);
        compare(rod, {{"max", "core", 300 + q * R / (2 * h) + q * R * R / (4 * k)}, {"min", "core", 300 + q * R / (2 * h)}}, tally);
        const Model ball = heated(Sphere{.radius = R, .at = {0.2e-3, 0.4e-3, 0.1e-3}}, {}, cell);
        compare(ball, {{"max", "core", 300 + q * R / (3 * h) + q * R * R / (6 * k)}, {"min", "core", 300 + q * R / (3 * h)}}, tally);
    }
    for (const double cell : {4_mm, 2.5_mm, 1.5_mm}) {
        Model fin;
        fin.mesh.cell = cell;
        fin.mesh.through = 3;
        fin.materials = {plain("k180", 180.0)};
        fin.add(block("fin", {30_mm, 2_mm, 4_mm}, {}, "k180"));
        fin.add(held(side("fin", Side::minus_x), 80.0));
        Selection wet = side("fin", Side::minus_y);
        wet.sides.insert(wet.sides.end(), {"+y", "+x"});
        fin.add(convection(wet, 60.0, celsius(20)));
        fin.sensors.push_back({.name = "tip", .in = "fin", .at = {30_mm, 1_mm, 2_mm}});
        compare(fin, {{"sensor", "tip", celsius(71.53696030362082)}, {"cooling", "cooling 1", 202.05151569359745 * 4e-3}}, tally);

        Model plate;
        plate.mesh.cell = 2.0 * cell;
        plate.mesh.through = 1;
        plate.materials = {Material{.name = "grain", .conductivity = {2.0, 20.0, 20.0}}};
        plate.add(block("plate", {100_mm, 60_mm, 1_mm}, {}, "grain"));
        plate.add(Power{.into = {"plate"}, .density = 50000.0});
        Selection ends = side("plate", Side::minus_x), flanks = side("plate", Side::minus_y);
        ends.sides.emplace_back("+x");
        flanks.sides.emplace_back("+y");
        plate.add(held(ends, 30.0));
        plate.add(held(flanks, 30.0));
        plate.sensors = {{.name = "middle", .in = "plate", .at = {50_mm, 30_mm, 0}}, {.name = "aside", .in = "plate", .at = {20_mm, 15_mm, 0}}};
        compare(plate, {{"sensor", "middle", celsius(31.12441056562077)}, {"sensor", "aside", celsius(30.813813479133163)}, {"hold", "hold 2", 269.1058747076724e-3}}, tally);

        Model edge;
        edge.mesh.cell = 16.0 * cell;
        edge.mesh.through = 1;
        edge.materials = {plain("k52", 52.0)};
        edge.add(block("plate", {0.6, 1.0, 10_mm}, {}, "k52"));
        edge.add(held(side("plate", Side::minus_y), 100.0));
        Selection edges = side("plate", Side::plus_x);
        edges.sides.emplace_back("+y");
        edge.add(convection(edges, 750.0, celsius(0)));
        edge.sensors = {{.name = "edge", .in = "plate", .at = {0.6, 0.2, 5_mm}}};
        compare(edge, {{"sensor", "edge", celsius(18.25375653713422)}}, tally);
    }
    WARN("error bars: " << tally.inside << " of " << tally.all << " true errors within, " << tally.within_five << " bars at most five times the error");
    CHECK(tally.inside >= 0.95 * tally.all);
    CHECK(tally.within_five >= 0.5 * tally.all);
}

TEST_CASE("each pair of parts that one joint rules has its own error bar", "[verification]") {
    Model m;
    m.mesh.cell = 5_mm;
    m.add(block("base", {60_mm, 20_mm, 4_mm}, {}, "copper"));
    m.add(block("left", {10_mm, 20_mm, 6_mm}, {0, 0, 4_mm}, "copper"));
    m.add(block("right", {10_mm, 20_mm, 6_mm}, {50_mm, 0, 4_mm}, "copper"));
    m.add(Joint{.name = "paste", .between = {"*t", "base"}, .resistance = 1e-4});
    m.add(heat("left", 2.0));
    m.add(heat("right", 5.0));
    m.add(convection(exposed(), 50.0, 300.0));
    const Findings f = solve_with_error_bars(m, studies_of(m).front()).findings;
    std::vector<double> flows;
    for (const ErrorBar& bar : f.error_bars->bars) {
        if (bar.kind != "joint flow") continue;
        flows.push_back(bar.value);
        CHECK(bar.error < 0.2);  // flows of the two differ by far more
    }
    REQUIRE(flows.size() == 2);
    CHECK(std::abs(flows[0] - flows[1]) > 1.0);
}

TEST_CASE("the error estimate of three values", "[verification]") {
    const auto second_order = [](double h) { return 10.0 + h * h; };
    const std::vector<double> smooth{second_order(1.0), second_order(1.5), second_order(2.25)}, pair{smooth[0], smooth[1]};
    const DiscretisationError e = discretisation_error(smooth, 1.5);
    CHECK(e.trusted);
    CHECK(e.order == Approx(2.0).epsilon(1e-6));
    CHECK(e.error >= 1.0);  // the true error
    CHECK(e.error < 3.0);
    CHECK_FALSE(discretisation_error(pair, 1.5).trusted);
    CHECK(discretisation_error(pair, 1.5).error >= e.error);
    CHECK_FALSE(discretisation_error(std::vector<double>{1.0, 1.2, 0.9}, 1.5).trusted);
    CHECK(discretisation_error(std::vector<double>{5.0, 5.0, 5.0}, 1.5).error < 1e-6);
}

TEST_CASE("an error target refines until it is met, or says what it would take", "[verification]") {
    Model m = heated(Cylinder{.radius = 0.01, .length = 6_mm, .at = {0.3e-3, 0.1e-3, 0}}, {"side"}, 2.5e-3);
    m.mesh.error_target = 1.0;
    CHECK(through_file(m) == m);
    const BarredSolution met = solve_with_error_bars(m, studies_of(m).front());
    CHECK(met.findings.error_bars->largest_temperature_error <= 1.0);
    CHECK_THAT(met.findings.error_bars->outlook, Contains("as asked"));
    CHECK_THAT(to_text(met.findings), Contains("Error bars of the mesh"));
    m.mesh.error_target = 0.001;
    m.mesh.max_cells = 20000;
    const BarredSolution missed = solve_with_error_bars(m, studies_of(m).front());
    CHECK_THAT(missed.findings.error_bars->outlook, Contains("would take about") && Contains("max_cells"));
}
