// Findings: every watt booked, limits judged, remarks, temperatures at points, inspection.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

bool has_warning(const Findings& f, const std::string& kind) {
    return std::any_of(f.warnings.begin(), f.warnings.end(), [&](const Warning& w) { return w.kind == kind; });
}

}  // namespace

TEST_CASE("every watt is booked: loads, convection, radiation, joint", "[findings]") {
    const Model model = block_on_plate();
    const Findings f = findings(model, solve_steady(model));
    CHECK(f.ledger.loads == Approx(15.0).epsilon(1e-12));
    CHECK(f.ledger.convection > 5.0);
    CHECK(f.ledger.radiation > 5.0);
    CHECK(std::abs(f.ledger.relative_residual()) < 1e-9);
    REQUIRE(f.joints.size() == 1);
    CHECK(f.joints[0].name == "pad");
    CHECK(f.joints[0].drop == Approx(20e-6 * f.joints[0].flow / f.joints[0].area).epsilon(1e-6));
    // What crosses the joint is the block's power less what its own surface gives off.
    CHECK(f.joints[0].flow < 15.0);
    CHECK(f.joints[0].flow > 13.5);
    CHECK(f.hottest.body == "block");
    CHECK(f.parts[1].coldest.temperature <= f.parts[1].mean);
    CHECK(f.parts[1].mean <= f.parts[1].hottest.temperature);
    CHECK(*f.parts[1].mass == Approx(8940 * 600e-9));
    CHECK(f.parts[1].power == Approx(15.0));
}

TEST_CASE("limits are judged with their margin, on parts, copies and sensors", "[findings]") {
    Model model = block_on_plate();
    model.add(Sensor{.name = "corner", .in = "plate", .at = {0, 0, 0}});
    model.add(Limit{.part = "block", .below = 40_degC});
    model.add(Limit{.sensor = "corner", .below = 200_degC, .above = 36_degC});
    const Findings f = findings(model, solve_steady(model));
    REQUIRE(f.limits.size() == 4);
    CHECK(f.limits[0].kept());
    CHECK_FALSE(f.limits[1].kept());
    CHECK(f.limits[1].margin == Approx(40_degC - f.hottest.temperature));
    CHECK(f.limits[2].upper);
    CHECK_FALSE(f.limits[3].upper);
    CHECK(f.limits[3].margin == Approx(f.sensors[0].temperature - 36_degC));
    CHECK_FALSE(f.all_limits_kept());
    CHECK_THAT(to_text(f), Contains("1 OF 4 LIMITS MISSED"));
}

TEST_CASE("copies are taken together, and a copy can be named alone", "[findings]") {
    Model model = block_on_plate();
    model.parts[1].repeat = {Repeat{.count = 2, .step = {25_mm, 0, 0}}};
    model.powers[0] = Power{.into = {"block 2"}, .total = 10_W};
    model.add(Limit{.part = "block 1", .below = 90_degC});
    const Findings f = findings(model, solve_steady(model));
    CHECK(f.parts[1].copies == 2);
    CHECK(f.parts[1].hottest.body == "block 2");
    CHECK(f.parts[1].coldest.body == "block 1");
    CHECK(f.joints[0].pairs == 2);
    CHECK(f.limits[0].worst.body == "block 2");
    CHECK(f.limits[1].worst.body == "block 1");
}

TEST_CASE("remarks a senior engineer would make", "[findings]") {
    Model model = block_on_plate();
    model.coolings[0].on = Selection{.parts = {"plate"}, .facing = {outward(Side::minus_z)}};
    model.coolings[0].emissivity.reset();
    model.joints.clear();
    model.powers[0].total = 40_W;
    model.mesh.through = 1;
    std::get<Box>(model.parts[1].shape).size.z = 4_mm;  // as thick as a cell
    Findings f = findings(model, solve_steady(model));
    CHECK(has_warning(f, "unclaimed_surface"));
    CHECK(has_warning(f, "joint_not_specified"));
    CHECK(has_warning(f, "one_cell_through"));
    CHECK(has_warning(f, "radiation_left_out"));
    CHECK(has_warning(f, "implausible_temperature"));
    CHECK(f.unclaimed_area > 0.0);

    model = block_on_plate();
    f = findings(model, solve_steady(model));
    CHECK(f.warnings.empty());
    model.parts[0].material = "polypropylene";
    f = findings(model, solve_steady(model));
    CHECK(has_warning(f, "service_limit"));
    model.parts[0].include = true;
    model.add(Part{.name = "spare", .shape = Box{.size = {1, 1, 1}}, .material = "copper", .include = false});
    model.add(Limit{.part = "spare", .below = 300.0});
    CHECK(has_warning(findings(model, solve_steady(model)), "limit_not_judged"));
}

TEST_CASE("an insulated joint separates temperatures and carries nothing", "[findings]") {
    Model model = block_on_plate();
    model.joints[0] = Joint{.between = {"block", "plate"}, .insulated = true};
    const Findings f = findings(model, solve_steady(model));
    CHECK(f.joints[0].flow == 0.0);
    CHECK(f.joints[0].drop > 100.0);
    CHECK(f.parts[0].hottest.temperature == Approx(35_degC).margin(1e-6));
}

TEST_CASE("the temperature at a point follows the field up to surfaces and joints", "[findings]") {
    // A bar with a linear field: exact everywhere, also on faces and between cell centres.
    Model model;
    model.mesh.cell = 7_mm;
    model.materials = {plain("m", 10.0)};
    model.add(block("left", {50_mm, 10_mm, 10_mm}, {}, "m"));
    model.add(block("right", {50_mm, 10_mm, 10_mm}, {50_mm, 0, 0}, "m"));
    model.add(Joint{.between = {"left", "right"}, .resistance = 2.5e-3});
    model.add(Hold{.on = side("left", Side::minus_x), .temperature = 400.0});
    model.add(Hold{.on = side("right", Side::plus_x), .temperature = 300.0});
    const SteadySolution s = solve_steady(model);
    const double flux = 100.0 / (0.1 / 10.0 + 2.5e-3);
    const auto at = [&](const char* part, double x) { return temperature_at(model, s, part, {x, 3_mm, 4_mm}, "test"); };
    CHECK(at("left", 0.0) == Approx(400.0));
    CHECK(at("left", 0.0123) == Approx(400.0 - flux * 0.0123 / 10.0));
    CHECK(at("left", 0.05) == Approx(400.0 - flux * 0.005));
    CHECK(at("right", 0.05) == Approx(300.0 + flux * 0.005));
    CHECK(at("right", 0.1) == Approx(300.0));
    CHECK_THROWS_WITH(at("right", 0.02), Contains("not in part"));
    for (const Vec3& q : heat_flux(s)) {
        CHECK(q.x == Approx(flux));
        CHECK(std::abs(q.y) < 1e-6 * flux);
    }
}

TEST_CASE("inspection tells masses, joints, areas and studies without solving", "[findings]") {
    const Model model = block_on_plate();
    const Inspection i = inspect(model, build_mesh(model));
    CHECK(i.parts.size() == 2);
    CHECK(*i.parts[0].mass == Approx(2700 * 19.2e-6));
    CHECK(i.joints.at(0).contact == "0.200 K cm²/W");
    CHECK(i.rules.at(0).area == Approx(i.exposed_area));
    CHECK(i.unclaimed_area == 0.0);
    CHECK(i.studies.at(0).power == Approx(15.0));
    CHECK(i.studies.at(0).nonlinear);
    CHECK_THAT(to_text(i), Contains("0.200 K cm²/W") && Contains("none unclaimed"));
}

TEST_CASE("inspection tells how much of the faces touches and where the mesh is coarsest", "[findings]") {
    Model m;
    m.mesh.cell = 4_mm;
    m.add(block("plate", {40_mm, 40_mm, 8_mm}, {}, "copper"));
    m.add(block("chip", {16_mm, 16_mm, 4_mm}, {32_mm, 0, 8_mm}, "copper"));  // half of it stands over the edge
    m.add(convection(exposed(), 10.0, 300.0));
    const Inspection i = inspect(m, build_mesh(m));
    CHECK(i.joints.at(0).area == Approx(128e-6));
    CHECK(i.joints.at(0).nominal_area == Approx(256e-6));
    CHECK_THAT(to_text(i), Contains("50 %"));
    REQUIRE(i.poorest.has_value());
    CHECK(i.poorest->part == "chip");
    CHECK(i.poorest->through >= 2);
    CHECK(i.poorest->cell == Approx(i.poorest->thickness / (2.0 * i.poorest->through)));
    m.parts[1].cell = i.poorest->cell;
    const Mesh finer = build_mesh(m);
    CHECK(inspect(m, finer).parts.at(1).thinnest >= 4);
    CHECK(finer.cells.size() == Approx(*i.poorest->cells).epsilon(0.3));
}

TEST_CASE("a part in pieces is told, with what each of them touches", "[findings]") {
    Model m = block_on_plate();
    // Two feet that the plate stands on, one part; a third, far off, is held by nothing.
    Part feet = block("feet", {10_mm, 10_mm, 5_mm}, {0.0, 0.0, -5_mm}, "copper");
    feet.also = {Box{.size = {10_mm, 10_mm, 5_mm}, .at = {70_mm, 50_mm, 0.0}}, Box{.size = {5_mm, 10_mm, 5_mm}, .at = {120_mm, 0.0, 0.0}}};
    m.add(feet);
    const Inspection found = inspect(m, build_mesh(m));
    const auto told = std::find_if(found.warnings.begin(), found.warnings.end(), [](const Warning& w) { return w.kind == "in_pieces"; });
    REQUIRE(told != found.warnings.end());
    CHECK(told->message ==
          "\"feet\" is in 3 pieces that do not touch each other: one with 40 % of it touches \"plate\"; one with 40 % of it touches \"plate\"; one with 20 % "
          "of it "
          "touches nothing");
    const Model whole = block_on_plate();
    for (const Warning& w : inspect(whole, build_mesh(whole)).warnings) CHECK(w.kind != "in_pieces");
}
