// What depends on temperature: conductivity, joints, heat and coefficients, against closed forms; and how Newton's method gets there.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <cmath>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

Hold held(Selection on, double celsius_value) { return Hold{.on = std::move(on), .temperature = celsius(celsius_value)}; }

Curve over_celsius(std::vector<double> at, std::vector<double> value) {
    for (double& t : at) t = celsius(t);
    return {std::move(at), std::move(value)};
}

/// A material whose conductivity is a curve over °C.
Material varying(std::string name, const std::vector<double>& at, std::vector<double> value) {
    Material m = plain(std::move(name), value.front());
    for (double& v : value) v /= m.conductivity[0];
    m.conductivity_factor = over_celsius(at, value);
    return m;
}

SteadySolution solved(const Model& built) {
    const Model model = through_file(built);
    REQUIRE(model == built);
    SteadySolution s = solve_steady(model);
    CHECK(std::abs(findings(model, s).ledger.relative_residual()) <= 1e-9);
    CHECK(s.summary.newton_iterations <= 8);
    return s;
}

/// A block of one temperature, 6 cm² in a film of 20 W/(m² K) at 20 °C, whose heat depends on temperature.
Model coil(double watts, Curve factor) {
    Model m;
    m.mesh.cell = 2_mm;
    m.materials = {plain("good", 1e5)};
    m.add(block("coil", {10_mm, 10_mm, 10_mm}, {}, "good"));
    m.add(convection(exposed(), 20.0, celsius(20)));
    Power winding = heat("coil", watts);
    winding.name = "winding";
    winding.temperature_factor = std::move(factor);
    m.add(winding);
    return m;
}

/// Steps beyond the first ones square the residual, but for rounding.
void check_quadratic(const SolveSummary& summary) {
    const std::vector<double>& r = summary.history;
    for (std::size_t n = 2; n < r.size(); ++n) {
        INFO("residual " << r[n - 1] << " became " << r[n]);
        if (r[n - 1] < 1e-2) CHECK(r[n] <= std::max(10.0 * r[n - 1] * r[n - 1], 1e-10));
    }
}

}  // namespace

TEST_CASE("s03: slab with conductivity linear in temperature", "[verification]") {
    Model m;
    m.mesh.cell = 1_mm;
    m.materials = {varying("k(T)", {20, 300}, {21.6, 44.0})};  // 20 (1 + 0.004 T)
    m.add(block("slab", {50_mm, 5_mm, 5_mm}, {}, "k(T)"));
    m.add(held(side("slab", Side::minus_x), 300));
    m.add(held(side("slab", Side::plus_x), 20));
    const SteadySolution s = solved(m);
    const double at[] = {0.010, 0.025, 0.040}, expected[] = {256.5372641770791, 183.24358044868939, 94.70277051396036};
    for (int i = 0; i < 3; ++i) CHECK(temperature_at(m, s, "slab", {at[i], 2.5_mm, 2.5_mm}, "test") - zero_celsius == Approx(expected[i]).margin(0.05));
    const Findings f = findings(m, s);
    CHECK(std::abs(f.holds[0].flow) / 25e-6 == Approx(183680.0).epsilon(1e-4));
    check_quadratic(s.summary);
    // The flux inside is the same everywhere, which it is only when reports use the conductivity at the solution.
    for (const Vec3& q : heat_flux(s)) CHECK(q.x == Approx(183680.0).epsilon(1e-4));
}

TEST_CASE("n02: the steady end of a slab with flux, convection and radiation", "[verification]") {
    Model m;
    m.mesh.cell = 1_mm;
    m.materials = {plain("slab", 1.5)};
    m.add(block("slab", {15_mm, 5_mm, 5_mm}, {}, "slab"));
    Power flux{.on = side("slab", Side::minus_x)};
    flux.flux = 8000.0;
    m.add(flux);
    Cooling cooling = convection(side("slab", Side::plus_x), 10.0, celsius(25));
    cooling.emissivity = 0.9;
    cooling.radiant = celsius(15);
    m.add(cooling);
    const SteadySolution s = solved(m);
    double wall = 500.0;  // the root of the heat balance of the far face
    for (int i = 0; i < 50; ++i) {
        const double out = 10.0 * (wall - celsius(25)) + 0.9 * 5.670374419e-8 * (std::pow(wall, 4) - std::pow(celsius(15), 4)) - 8000.0;
        wall -= out / (10.0 + 4.0 * 0.9 * 5.670374419e-8 * std::pow(wall, 3));
    }
    CHECK(temperature_at(m, s, "slab", {15_mm, 2.5_mm, 2.5_mm}, "test") == Approx(wall).margin(0.01));
    CHECK(temperature_at(m, s, "slab", {0, 2.5_mm, 2.5_mm}, "test") == Approx(wall + 80.0).margin(0.01));
}

TEST_CASE("a joint whose resistance depends on temperature", "[verification]") {
    Model m;
    m.mesh.cell = 1_mm;
    m.materials = {plain("good", 1e4)};
    m.add(block("hot", {4_mm, 4_mm, 4_mm}, {}, "good"));
    m.add(block("cold", {4_mm, 4_mm, 4_mm}, {4_mm, 0, 0}, "good"));
    m.add(Joint{.between = {"hot", "cold"}, .resistance = 1e-3, .resistance_factor = over_celsius({0, 100}, {1.0, 3.0})});
    m.add(held(side("cold", Side::plus_x), 20));
    m.add(heat("hot", 0.48));
    const SteadySolution s = solved(m);
    // Drop D over the joint: D = q R (1 + 2 (20 + D/2) / 100) with q = 0.48 W / 16 mm² = 30 kW/m², R = 1e-3: D = 30 (1.4 + D / 100).
    const Findings f = findings(m, s);
    CHECK(f.joints[0].drop == Approx(42.0 / 0.7).epsilon(1e-3));
    CHECK(f.joints[0].flow == Approx(0.48).epsilon(1e-9));
    CHECK(*f.joints[0].resistance == Approx(2e-3).epsilon(1e-3));
    CHECK_THAT(f.joints[0].contact, Contains("varies"));
    check_quadratic(s.summary);
}

TEST_CASE("a layer follows the conductivity of its material", "[verification]") {
    Model m;
    m.mesh.cell = 1_mm;
    m.materials = {plain("good", 1e4), varying("pad", {0, 200}, {2.0, 4.0})};
    m.add(block("hot", {4_mm, 4_mm, 4_mm}, {}, "good"));
    m.add(block("cold", {4_mm, 4_mm, 4_mm}, {4_mm, 0, 0}, "good"));
    m.add(Joint{.between = {"hot", "cold"}, .layer = Layer{.material = "pad", .thickness = 1_mm}});
    m.add(held(side("cold", Side::plus_x), 80.0));
    m.add(heat("hot", 1.92));
    // Drop = q t / k at the mean temperature, q = 120 kW/m², k = 2 + T / 100.
    const Findings f = findings(m, solved(m));
    const double mean = 80.0 + 0.5 * f.joints[0].drop;
    CHECK(f.joints[0].drop == Approx(120.0 / (2.0 + mean / 100.0)).epsilon(1e-3));
    m.joints[0].resistance_factor = over_celsius({0, 200}, {1.0, 2.0});
    CHECK_THROWS_WITH(build_mesh(m), Contains("depends on temperature already"));
}

TEST_CASE("heat that grows with temperature", "[verification]") {
    Model m = coil(0.6, over_celsius({20, 270}, {1.0, 2.0}));  // 0.4 % a kelvin
    // 0.6 (1 + 0.004 x) = 0.012 x
    const double rise = 0.6 / (0.012 - 0.0024);
    const SteadySolution s = solved(m);
    CHECK(findings(m, s).parts[0].mean == Approx(celsius(20) + rise).margin(1e-3));
    CHECK(findings(m, s).loads[0].heat == Approx(0.6 * (1.0 + 0.004 * rise)).epsilon(1e-5));
    // Beyond 5 times that heat the loss grows slower than the heat: the curve's end is what stops it.
    m.powers[0].total = 6.0;
    CHECK(findings(m, solve_steady(m)).parts[0].mean == Approx(celsius(20) + 12.0 / 0.012).margin(0.1));
}

TEST_CASE("a coefficient over the difference to the ambient", "[verification]") {
    Model m;
    m.mesh.cell = 2_mm;
    m.materials = {plain("good", 1e5)};
    m.add(block("plate", {10_mm, 10_mm, 10_mm}, {}, "good"));
    Cooling c{.on = exposed(), .convection_curve = {{0.0, 100.0}, {5.0, 15.0}}, .ambient = celsius(20)};
    m.add(c);
    m.add(heat("plate", 0.3));
    // 6e-4 (5 + 0.1 x) x = 0.3
    CHECK(findings(m, solved(m)).parts[0].mean == Approx(celsius(20) + (-5.0 + std::sqrt(25.0 + 0.4 * 500.0)) / 0.2).margin(1e-2));
}

TEST_CASE("Newton's method converges quadratically in a cut assembly with everything at once", "[verification]") {
    Model m = block_on_plate();
    m.materials = {varying("ceramic", {20, 220}, {30.0, 12.0})};
    m.parts[1].material = "ceramic";
    m.add(Part{.name = "peg", .shape = Cylinder{.radius = 4_mm, .length = 12_mm, .at = {60_mm, 40_mm, 4_mm}}, .material = "ceramic"});
    m.joints[0].resistance_factor = over_celsius({20, 220}, {1.0, 0.5});
    m.powers[0].temperature_factor = over_celsius({20, 220}, {1.0, 1.3});
    Power glow = heat("peg", 3.0);
    m.add(glow);
    const SteadySolution s = solved(m);
    CHECK(s.mesh->cells.size() > 1000);
    check_quadratic(s.summary);
    CHECK_THAT(s.summary.linear_method, Contains("GMRES"));
}

TEST_CASE("a model that runs away says what would not settle and keeps the best temperatures", "[verification]") {
    const Model m = coil(6.0, over_celsius({20, 1e7}, {1.0, 4e4}));
    try {
        static_cast<void>(solve_steady(m));
        FAIL("a runaway has no steady state");
    } catch (const NotConverged& error) {
        CHECK_THAT(error.what(), Contains("winding"));
        CHECK(error.temperature.size() == 125);
        CHECK(error.temperature[0] > 0.0);
    }
}
