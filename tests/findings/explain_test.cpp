// The rise of a hot place is split exactly, and sensitivities are what solving again gives.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <cmath>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

/// Joints, heat on a surface, a hold, two ambients, copies, a mirror: all linear.
Model linear_assembly() {
    Model model{.title = "linear"};
    model.mesh.cell = 4_mm;
    model.add(Mirror{.axis = 1, .at = 30_mm});
    model.materials = {plain("a", 150.0), plain("b", 8.0), plain("c", 30.0)};
    model.materials[2].conductivity = {30.0, 10.0, 3.0};
    model.add(block("plate", {80_mm, 60_mm, 4_mm}, {}, "a"));
    model.add(block("chip", {10_mm, 20_mm, 2_mm}, {12_mm, 20_mm, 4_mm}, "b"));
    model.parts.back().repeat = {Repeat{.count = 2, .step = {40_mm, 0, 0}}};
    model.add(block("foot", {10_mm, 60_mm, 10_mm}, {0, 0, -10_mm}, "c"));
    model.add(Joint{.name = "pad", .between = {"chip", "plate"}, .resistance = 200e-6});
    model.add(Joint{.between = {"foot", "plate"}, .resistance = 50e-6});
    model.add(heat("chip 1", 6_W));
    model.add(heat("chip 2", 3_W));
    Power sun{.name = "sun"};
    sun.on = side("plate", Side::minus_z);
    sun.flux = 400.0;
    model.add(sun);
    model.add(convection(exposed(), 25.0, 30_degC));
    Cooling jet = convection(side("chip", Side::plus_z), 60.0, 45_degC);
    jet.name = "warm jet";
    model.add(jet);
    Hold wall{.name = "wall"};
    wall.on = side("foot", Side::minus_z);
    wall.temperature = 22_degC;
    model.add(wall);
    model.add(Limit{.part = "chip", .below = 60_degC});
    return model;
}

/// Everything that can depend on temperature.
Model nonlinear_assembly() {
    Model model = linear_assembly();
    model.mirrors.clear();
    model.materials[0].conductivity_factor = {{290.0, 400.0}, {1.0, 0.6}};
    model.materials[1].conductivity_factor = {{290.0, 400.0}, {0.8, 1.5}};
    model.joints[0].resistance_factor = {{300.0, 380.0}, {1.2, 0.7}};
    model.powers[0].temperature_factor = {{300.0, 400.0}, {1.0, 1.3}};
    model.coolings[0].convection.reset();
    model.coolings[0].law = ConvectionLaw{.law = "vertical plate", .length = 60_mm};
    model.coolings[0].emissivity = 0.7;
    model.coolings[1].convection.reset();
    model.coolings[1].convection_curve = {{0.0, 60.0}, {30.0, 80.0}};
    model.add(block("shield", {80_mm, 60_mm, 1_mm}, {0, 0, 8_mm}, "a"));
    model.add(Joint{.name = "gap", .between = {"shield", "chip"}, .exchange_factor = 0.8, .reach = 3_mm});
    return model;
}

/// Curved parts that the grid cuts.
Model cut_assembly() {
    Model model{.title = "cut"};
    model.mesh.cell = 3_mm;
    model.materials = {plain("a", 150.0), plain("b", 5.0)};
    model.add(Part{.name = "disc", .shape = Cylinder{.radius = 30.5_mm, .length = 5.3_mm, .at = {1_mm, 2_mm, 0}}, .material = "a"});
    model.add(Part{.name = "stud", .shape = Cylinder{.radius = 6.5_mm, .length = 17_mm, .at = {8_mm, 3_mm, 5.3_mm}}, .material = "b"});
    model.add(Joint{.name = "seat", .between = {"stud", "disc"}, .resistance = 100e-6});
    model.add(heat("stud", 4_W));
    model.add(convection(exposed(), 40.0, 20_degC));
    return model;
}

SteadySolution solved(const Model& model) { return solve_steady(model, SteadyOptions{.tolerance = 1e-13}); }

double total(const std::vector<Contribution>& list) {
    double sum = 0.0;
    for (const Contribution& c : list) sum += c.rise;
    return sum;
}

/// The model with one quantity changed: by a factor, or by kelvin.
Model changed(Model model, const Sensitivity& s, double step) {
    const double factor = 1.0 + step;
    if (s.kind == Sensitivity::Kind::conductivity) {
        for (const Part& part : model.parts) {
            if (part.name != s.name) continue;
            for (Material& m : model.materials) {
                if (m.name != part.material) continue;
                for (double& k : m.conductivity) k *= factor;
            }
        }
    }
    for (Joint& j : model.joints) {
        if (s.kind == Sensitivity::Kind::joint_resistance && display_name(j) == s.name) {
            if (j.resistance) *j.resistance *= factor;
            if (j.exchange_factor) *j.exchange_factor /= factor;
        }
    }
    for (Power& p : model.powers) {
        if (s.kind == Sensitivity::Kind::power && display_name(p) == s.name) {
            if (p.total) *p.total *= factor;
            if (p.flux) *p.flux *= factor;
        }
    }
    for (std::size_t c = 0; c < model.coolings.size(); ++c) {
        Cooling& cooling = model.coolings[c];
        if (display_name(cooling, c) != s.name) continue;
        if (s.kind == Sensitivity::Kind::convection && cooling.convection) *cooling.convection *= factor;
        if (s.kind == Sensitivity::Kind::convection) {
            for (double& h : cooling.convection_curve.value) h *= factor;
        }
        if (s.kind == Sensitivity::Kind::radiation) *cooling.emissivity *= factor;
        if (s.kind == Sensitivity::Kind::ambient) *cooling.ambient += step;
    }
    for (std::size_t h = 0; h < model.holds.size(); ++h) {
        if (s.kind == Sensitivity::Kind::hold && display_name(model.holds[h], h) == s.name) model.holds[h].temperature += step;
    }
    return model;
}

/// Checks every sensitivity against solving twice more; returns how many were.
int compare_with_differences(const Model& model, const Explanation& e, const ExplainOptions& options) {
    int checked = 0;
    const double scale = std::abs(e.sensitivities.front().change);
    for (const Sensitivity& s : e.sensitivities) {
        const double step = s.per_kelvin() ? 0.05 : 2e-3;
        const Model more = changed(model, s, step), less = changed(model, s, -step);
        if (more == model) continue;  // a law has no coefficient to change
        const ExplainOptions only_where{.part = options.part, .sensor = options.sensor, .coldest = options.coldest, .sensitivities = false, .errors = false};
        const double difference =
            (explain(more, solved(more), only_where).spot.temperature - explain(less, solved(less), only_where).spot.temperature) / (2.0 * step);
        const double expected = s.per_kelvin() ? difference : 0.1 * difference;
        INFO(static_cast<int>(s.kind) << " " << s.name << ": " << s.change << " against " << expected);
        CHECK(std::abs(s.change - expected) <= 1e-4 * std::abs(expected) + 2e-6 * scale);
        ++checked;
    }
    return checked;
}

}  // namespace

TEST_CASE("the rise of a linear assembly is split exactly, and sensitivities are the differences", "[findings]") {
    Model model = linear_assembly();
    model.add(Sensor{.name = "rim", .in = "plate", .at = {55_mm, 33_mm, 4_mm}});
    const SteadySolution solution = solved(model);
    for (const ExplainOptions& options :
         {ExplainOptions{}, ExplainOptions{.part = "plate"}, ExplainOptions{.part = "chip 2", .coldest = true}, ExplainOptions{.sensor = "rim"}}) {
        const Explanation e = explain(model, solution, options);
        CHECK(e.linear);
        CHECK(e.base == Approx(22_degC));
        CHECK(total(e.along) == Approx(e.rise).epsilon(1e-9));
        CHECK(total(e.by_load) == Approx(e.rise).epsilon(1e-9));
        CHECK(compare_with_differences(model, e, options) == static_cast<int>(e.sensitivities.size()));
        CHECK(e.sensitivities.size() == 13);  // 3 parts, 2 joints, 2 coolings with their ambients, a hold, 3 powers
    }
}

TEST_CASE("what depends on temperature is split as it is at the solution, and sensitivities follow its slope", "[findings]") {
    const Model model = nonlinear_assembly();
    const SteadySolution solution = solved(model);
    for (const ExplainOptions& options : {ExplainOptions{}, ExplainOptions{.part = "plate"}}) {
        const Explanation e = explain(model, solution, options);
        CHECK_FALSE(e.linear);
        CHECK(total(e.along) == Approx(e.rise).epsilon(1e-9));
        CHECK(total(e.by_load) == Approx(e.rise).epsilon(1e-9));
        // Plate and shield share a material, and the correlation has no coefficient to change.
        Explanation own = e;
        std::erase_if(own.sensitivities,
                      [](const Sensitivity& s) { return s.kind == Sensitivity::Kind::conductivity && (s.name == "plate" || s.name == "shield"); });
        CHECK(compare_with_differences(model, own, options) >= 11);
    }
}

TEST_CASE("curved parts are explained like others", "[findings]") {
    const Model model = cut_assembly();
    const Explanation e = explain(model, solved(model));
    CHECK(total(e.along) == Approx(e.rise).epsilon(1e-9));
    CHECK(total(e.by_load) == Approx(e.rise).epsilon(1e-9));
    CHECK(compare_with_differences(model, e, {}) == 6);
}

TEST_CASE("a wall between two fluids is split into its textbook resistances", "[findings]") {
    // 20 W through 0.01 m² at 100 W/(m² K) and 10 mm of 2 W/(m K), heated from behind: 20 K in the film, 10 K in the wall.
    Model model;
    model.materials = {plain("wall", 2.0)};
    model.add(block("wall", {100_mm, 100_mm, 10_mm}, {}, "wall"));
    Power heater{.name = "heater"};
    heater.on = side("wall", Side::minus_z);
    heater.total = 20.0;
    model.add(heater);
    model.add(convection(side("wall", Side::plus_z), 100.0, 25_degC));
    const Explanation e = explain(model, solve_steady(model));
    REQUIRE(e.along.size() == 2);
    CHECK((e.along[0].kind == Contribution::Kind::convection));
    CHECK(e.along[0].rise == Approx(20.0).epsilon(1e-9));
    CHECK((e.along[1].kind == Contribution::Kind::part));
    CHECK(e.along[1].rise == Approx(10.0).epsilon(1e-9));
    REQUIRE(e.by_load.size() == 1);
    CHECK(e.by_load[0].rise == Approx(30.0).epsilon(1e-9));
}

TEST_CASE("the tightest limit is what gets explained, and unknown subjects are told", "[findings]") {
    const Model model = linear_assembly();
    const SteadySolution solution = solve_steady(model);
    const ExplainOptions options = tightest(findings(model, solution));
    CHECK(options.part == "chip");
    CHECK(*options.limit == 60_degC);
    CHECK_THROWS_WITH(explain(model, solution, {.part = "chep"}), Contains("\"chep\"") && Contains("did you mean \"chip\""));
}
