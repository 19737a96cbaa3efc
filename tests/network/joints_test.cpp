// Joints that depend on the gap, on pressure, or on whether there is contact at all.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

constexpr double k_metal = 100.0, k_gas = 0.03;

/// Two blocks over each other, their far sides held 100 K apart.
Model facing(double gap) {
    Model m{.title = "Two blocks"};
    m.mesh.refine = false;
    m.add(plain("metal", k_metal));
    m.add(plain("gas", k_gas));
    m.add(block("lower", {20_mm, 20_mm, 10_mm}, {}, "metal"));
    m.add(block("upper", {20_mm, 20_mm, 10_mm}, {0, 0, 10_mm + gap}, "metal"));
    m.add(Joint{.name = "gap", .between = {"lower", "upper"}, .layer = Layer{.material = "gas"}, .reach = 1_mm});
    m.add(Hold{.name = "cold", .on = side("lower", Side::minus_z), .temperature = 20_degC});
    m.add(Hold{.name = "hot", .on = side("upper", Side::plus_z), .temperature = 120_degC});
    return m;
}

double heat_across(const Model& m) {
    const Findings f = findings(m, solve_steady(m));
    CHECK(std::abs(f.ledger.relative_residual()) < 1e-9);
    return std::abs(f.holds.at(0).flow);
}

}  // namespace

TEST_CASE("a layer without thickness fills the gap that is found", "[network]") {
    constexpr double area = 400e-6;
    for (const double gap : {0.1_mm, 0.5_mm}) {
        const double exact = 100.0 * area / (0.02 / k_metal + gap / k_gas);
        CHECK(heat_across(facing(gap)) == Approx(exact).epsilon(1e-9));
        CHECK(through_file(facing(gap)) == facing(gap));
    }
    // Its conductivity may depend on temperature.
    Model m = facing(0.2_mm);
    m.materials[1].conductivity_factor = {{20_degC, 120_degC}, {0.5, 1.5}};
    CHECK(heat_across(m) == Approx(100.0 * area / (0.02 / k_metal + 0.2e-3 / k_gas)).epsilon(2e-3));
    m = facing(0.2_mm);
    const Findings f = findings(m, solve_steady(m));
    CHECK_THAT(to_text(f), Contains("the gap of gas"));
    CHECK(f.joints.at(0).mean_gap == Approx(0.2e-3));
    m.add(Mirror{.axis = 0, .at = 10_mm}).add(Mirror{.axis = 1, .at = 10_mm, .keep_plus = false});
    CHECK(heat_across(m) == Approx(100.0 * area / (0.02 / k_metal + 0.2e-3 / k_gas)).epsilon(1e-9));  // of the whole
    // Without a gap there is nothing to fill, which is told.
    m = facing(0.0);
    CHECK(heat_across(m) == Approx(100.0 * area / (0.02 / k_metal)).epsilon(1e-9));
    CHECK_THAT(to_text(inspect(m, build_mesh(m))), Contains("\"gap\"") && Contains("no gap was found"));
}

TEST_CASE("the gap counts place by place: a wedge, and a pin in a bore", "[network]") {
    // Conductance of a gap that grows from a to b is k A ln(b/a)/(b - a) where the metal is no hindrance.
    constexpr double a = 0.2e-3, tilt = 0.03, wide = 0.02;
    Model m = facing(0.0);
    m.materials[0].conductivity = isotropic(1e5);
    const auto corner = [](double z, double x) { return OutlinePoint{.x = z, .y = x, .through = std::nullopt}; };  // along y an outline lies in z and x
    m.parts[1].shape =
        Prism{.outline = {corner(10e-3 + a, 0.0), corner(22e-3, 0.0), corner(22e-3, wide), corner(10e-3 + a + tilt * wide, wide)}, .length = wide, .along = 1};
    m.holds[1].on = Selection{.parts = {"upper"}, .facing = {{0.0, 0.0, 1.0}}};
    const double b = a + tilt * wide;
    CHECK(heat_across(m) == Approx(100.0 * k_gas * wide * wide * std::log(b / a) / (b - a)).epsilon(0.01));

    // Coaxial: 2 π k L / ln(r₂/r₁).
    Model pin{.title = "Pin in a bore"};
    pin.mesh.refine = false;
    pin.add(plain("metal", 1e5));
    pin.add(plain("gas", k_gas));
    pin.add(Part{.name = "pin", .shape = Cylinder{.radius = 5_mm, .length = 20_mm, .at = {}}, .material = "metal"});
    pin.add(Part{.name = "sleeve", .shape = Tube{.outer_radius = 8_mm, .inner_radius = 5.3_mm, .length = 20_mm, .at = {}}, .material = "metal"});
    pin.add(Joint{.between = {"pin", "sleeve"}, .layer = Layer{.material = "gas"}, .reach = 0.5_mm});
    pin.add(Hold{.on = {.parts = {"pin"}, .sides = {"bottom"}}, .temperature = 300.0});
    pin.add(Hold{.on = {.parts = {"sleeve"}, .sides = {"top"}}, .temperature = 310.0});
    const double coaxial = 10.0 * 2.0 * std::numbers::pi * k_gas * 0.02 / std::log(5.3 / 5.0);
    CHECK(heat_across(pin) == Approx(coaxial).epsilon(0.02));
    pin.space = Space{.revolved = true};
    CHECK(heat_across(pin) == Approx(coaxial).epsilon(0.02));
}

TEST_CASE("a joint may be open, and says so", "[network]") {
    Model m = facing(1.5_mm);
    CHECK_THROWS_WITH(build_mesh(m), Contains("1.50 mm apart") && Contains("may_be_open"));
    m.joints[0].may_be_open = true;
    CHECK(through_file(m) == m);
    CHECK(heat_across(m) == Approx(0.0).margin(1e-9));
    const Findings f = findings(m, solve_steady(m));
    CHECK(std::count_if(f.warnings.begin(), f.warnings.end(), [](const Warning& w) { return w.kind == "joint_open"; }) == 1);
    CHECK_THAT(to_text(f), Contains("joint \"gap\" is open") && Contains("1.50 mm apart"));
    CHECK_THAT(to_text(inspect(m, build_mesh(m))), Contains("joint \"gap\" is open"));
    m.joints[0].reach = 2_mm;
    CHECK(heat_across(m) > 0.5);
    CHECK(build_mesh(m).open_joints.empty());
    // What is left without any way for its heat is still refused.
    m.joints[0].reach = 1_mm;
    m.holds.pop_back();
    m.add(heat("upper", 1.0));
    CHECK_THROWS_WITH(solve_steady(m), Contains("upper"));
}

TEST_CASE("contact resistance follows a curve over the pressure", "[network]") {
    Model m = facing(0.0);
    m.joints[0] = Joint{.name = "screwed", .between = {"lower", "upper"}, .resistance_over_pressure = {{1e5, 1e6}, {4e-4, 1e-4}}, .pressure = 0.4e6};
    CHECK(heat_across(m) == Approx(100.0 * 400e-6 / (0.02 / k_metal + 3e-4)).epsilon(1e-9));
    CHECK(through_file(m) == m);
    m.joints[0].pressure = 2e6;
    CHECK_THROWS_WITH(build_mesh(m), Contains("lies outside of the curve"));
    m.joints[0].pressure.reset();
    CHECK_THROWS_WITH(build_mesh(m), Contains("give the pressure"));
    m.joints[0].resistance_over_pressure = {};
    m.joints[0].pressure = 1e5;
    CHECK_THROWS_WITH(build_mesh(m), Contains("needs resistance_over_pressure"));
    m.joints[0] = Joint{.between = {"lower", "upper"}, .layer = Layer{.material = "gas"}};
    CHECK_THROWS_WITH(build_mesh(m), Contains("only in a joint with reach"));
}
