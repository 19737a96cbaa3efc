// Meshes of boxes: volumes, areas, contacts, gaps, mirrors, rules.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <numeric>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

double total(const std::vector<double>& values) { return std::accumulate(values.begin(), values.end(), 0.0); }

/// Sum of outward area vectors of everything that bounds a cell: zero when the cell is closed.
double worst_closure(const Mesh& mesh) {
    std::vector<Vec3> sum(mesh.cells.size());
    std::vector<double> size(mesh.cells.size(), 0.0);
    const auto add = [&](Index cell, Vec3 normal, double area) {
        sum[cell] = sum[cell] + area * normal;
        size[cell] += area;
    };
    for (std::size_t f = 0; f < mesh.faces.size(); ++f) {
        add(mesh.faces.first[f], outward(make_side(mesh.faces.axis[f], true)), mesh.faces.area[f]);
        add(mesh.faces.second[f], outward(make_side(mesh.faces.axis[f], false)), mesh.faces.area[f]);
    }
    for (std::size_t c = 0; c < mesh.contacts.size(); ++c) {
        add(mesh.contacts.first[c], mesh.contacts.normal[c], mesh.contacts.area[c]);
        add(mesh.contacts.second[c], -1.0 * mesh.contacts.normal[c], mesh.contacts.area[c]);
    }
    for (std::size_t p = 0; p < mesh.patches.size(); ++p) add(mesh.patches.cell[p], mesh.patches.normal[p], mesh.patches.area[p]);
    double worst = 0.0;
    for (std::size_t cell = 0; cell < sum.size(); ++cell) worst = std::max(worst, length(sum[cell]) / size[cell]);
    return worst;
}

}  // namespace

TEST_CASE("volumes, areas and contacts of boxes are exact, and every cell is closed", "[mesh]") {
    const Mesh mesh = build_mesh(block_on_plate());
    REQUIRE(mesh.bodies.size() == 2);
    CHECK(mesh.bodies[0].volume == Approx(80e-3 * 60e-3 * 4e-3).epsilon(1e-12));
    CHECK(mesh.bodies[1].volume == Approx(20e-3 * 10e-3 * 3e-3).epsilon(1e-12));
    REQUIRE(mesh.pairs.size() == 1);
    CHECK(mesh.pairs[0].area == Approx(200e-6).epsilon(1e-12));
    CHECK(mesh.pairs[0].joint == 0);
    const double plate = 2 * (80e-3 * 60e-3 + 80e-3 * 4e-3 + 60e-3 * 4e-3), block = 2 * (20e-3 * 3e-3 + 10e-3 * 3e-3);
    CHECK(total(mesh.patches.area) == Approx(plate - 200e-6 + block + 200e-6).epsilon(1e-12));
    CHECK(worst_closure(mesh) < 1e-12);
}

TEST_CASE("cells through thin parts, and cell sizes by part", "[mesh]") {
    Model model = block_on_plate();
    model.mesh.through = 5;
    model.parts[0].cell = 1_mm;
    const Mesh mesh = build_mesh(model);
    for (const Body& body : mesh.bodies) {
        for (int axis = 0; axis < 3; ++axis) {
            const auto& lines = mesh.grid.lines[static_cast<std::size_t>(axis)];
            const auto inside =
                std::count_if(lines.begin(), lines.end(), [&](double x) { return x > body.box.lower()[axis] - 1e-9 && x < body.box.upper()[axis] + 1e-9; });
            CHECK(inside >= 6);
        }
    }
    for (Index i = 0; i < mesh.grid.count(0); ++i) CHECK(mesh.grid.width(0, i) <= 1.00001e-3);
}

TEST_CASE("holes, repeats and left-out parts", "[mesh]") {
    Model model;
    model.mesh.cell = 5_mm;
    Part plate = block("plate", {60_mm, 40_mm, 6_mm}, {10_mm, 0, 0}, "copper");
    plate.holes = {Box{.size = {10_mm, 10_mm, 6_mm}, .at = {5_mm, 5_mm, 0}}, Box{.size = {10_mm, 10_mm, 3_mm}, .at = {30_mm, 5_mm, 3_mm}}};
    model.add(plate);
    Part stud = block("stud", {4_mm, 4_mm, 8_mm}, {12_mm, 25_mm, 6_mm}, "copper");
    stud.repeat = {Repeat{.count = 3, .step = {20_mm, 0, 0}}, Repeat{.count = 2, .step = {0, 8_mm, 0}}};
    model.add(stud);
    Part ghost = block("ghost", {100_mm, 100_mm, 100_mm}, {}, "copper");
    ghost.include = false;
    model.add(ghost);
    const Mesh mesh = build_mesh(model);
    REQUIRE(mesh.bodies.size() == 7);
    CHECK(mesh.bodies[4].name == "stud 4");
    CHECK(mesh.bodies[4].box.at.y == Approx(0.033));
    CHECK(mesh.bodies[0].volume == Approx(60e-3 * 40e-3 * 6e-3 - 600e-9 - 300e-9).epsilon(1e-12));
    // Hole walls are tagged as inner, whichever way they face.
    double inner = 0.0;
    for (std::size_t p = 0; p < mesh.patches.size(); ++p) inner += mesh.tags[mesh.patches.tag[p]] == "inner" ? mesh.patches.area[p] : 0.0;
    CHECK(inner == Approx(4 * 60e-6 + 4 * 30e-6 + 100e-6).epsilon(1e-12));
    CHECK(worst_closure(mesh) < 1e-12);
}

TEST_CASE("a later part displaces an earlier one, and the volume is told", "[mesh]") {
    Model model;
    model.mesh.cell = 2_mm;
    model.add(block("air", {20_mm, 20_mm, 20_mm}, {}, "air"));
    model.add(block("core", {10_mm, 10_mm, 30_mm}, {5_mm, 5_mm, 0}, "copper"));
    const Mesh mesh = build_mesh(model);
    REQUIRE(mesh.overlaps.size() == 1);
    CHECK(mesh.overlaps[0].volume == Approx(2e-6).epsilon(1e-12));
    CHECK(mesh.bodies[0].volume == Approx(6e-6).epsilon(1e-12));
    CHECK(mesh.pairs[0].area == Approx(4 * 10e-3 * 20e-3).epsilon(1e-12));

    model.add(block("swallower", {40_mm, 40_mm, 40_mm}, {-5_mm, -5_mm, -5_mm}, "copper"));
    CHECK_THROWS_WITH(build_mesh(model), Contains("nothing is left of \"air\""));
}

TEST_CASE("gaps are bridged only within a joint's reach", "[mesh]") {
    Model model;
    model.mesh.cell = 2_mm;
    model.add(block("lower", {20_mm, 20_mm, 4_mm}, {}, "copper"));
    model.add(block("upper", {20_mm, 20_mm, 4_mm}, {10_mm, 0, 4.3_mm}, "copper"));
    CHECK(build_mesh(model).pairs.empty());

    model.add(Joint{.between = {"lower", "upper"}, .resistance = 1e-4, .reach = 0.2_mm});
    CHECK_THROWS_WITH(build_mesh(model), Contains("0.300 mm apart") && Contains("reach"));

    model.joints[0].reach = 0.3_mm;
    const Mesh mesh = build_mesh(model);
    REQUIRE(mesh.pairs.size() == 1);
    CHECK(mesh.pairs[0].area == Approx(200e-6).epsilon(1e-12));
    CHECK(mesh.pairs[0].mean_gap == Approx(0.3e-3).epsilon(1e-9));
    CHECK(worst_closure(mesh) < 1e-12);  // the bridged faces count as contact on both sides
    CHECK(mesh.cells.size() == build_mesh(Model(model)).cells.size());
    // The gap holds no cell.
    CHECK(total(mesh.cells.volume) == Approx(2 * 20e-3 * 20e-3 * 4e-3).epsilon(1e-12));
}

TEST_CASE("a third part in the gap keeps the outer two from touching", "[mesh]") {
    Model model;
    model.mesh.cell = 2_mm;
    model.add(block("a", {10_mm, 10_mm, 2_mm}, {}, "copper"));
    model.add(block("b", {10_mm, 10_mm, 1_mm}, {0, 0, 2_mm}, "mica"));
    model.add(block("c", {10_mm, 10_mm, 2_mm}, {0, 0, 3_mm}, "copper"));
    model.add(Joint{.between = {"a", "c"}, .reach = 2_mm});
    CHECK_THROWS_WITH(build_mesh(model), Contains("1.00 mm apart") && Contains("within reach, but another part lies between"));
}

TEST_CASE("two joints may not rule the same pair", "[mesh]") {
    Model model = block_on_plate();
    model.add(Joint{.name = "again", .between = {"*", "plate"}, .resistance = 1e-4});
    CHECK_THROWS_WITH(build_mesh(model), Contains("already ruled by joint \"pad\""));
}

TEST_CASE("mirrors cut the geometry and leave no surface in the plane", "[mesh]") {
    Model model = block_on_plate();
    model.add(Mirror{.axis = 0, .at = 40_mm, .keep_plus = true});
    model.add(Mirror{.axis = 1, .at = 30_mm, .keep_plus = false});
    const Mesh mesh = build_mesh(model);
    CHECK(mesh.multiplicity == 4.0);
    CHECK(mesh.bodies[0].volume == Approx(40e-3 * 30e-3 * 4e-3).epsilon(1e-12));
    const double plate = 2 * (80e-3 * 60e-3 + 80e-3 * 4e-3 + 60e-3 * 4e-3), block = 2 * (20e-3 * 3e-3 + 10e-3 * 3e-3);
    CHECK(4.0 * total(mesh.patches.area) == Approx(plate + block).epsilon(1e-12));
    model.mirrors[0].at = 100_mm;
    CHECK_THROWS_WITH(build_mesh(model), Contains("leave nothing"));
}

TEST_CASE("a mesh beyond the cap is refused with advice", "[mesh]") {
    Model model = block_on_plate();
    model.mesh.max_cells = 1000;
    CHECK_THROWS_WITH(build_mesh(model), Contains("max_cells = 1 000") && Contains("raise mesh.cell from 4.00 mm to about"));
    model.mesh.cell = 1e-9;
    CHECK_THROWS_WITH(build_mesh(model), Contains("max_cells"));
}

TEST_CASE("rules pick surfaces by part, side, direction, region and exception", "[mesh]") {
    Model model = block_on_plate();
    model.add(Surface{.name = "top", .pick = Selection{.parts = {"plate"}, .facing = {outward(Side::plus_z)}}});
    const Mesh mesh = build_mesh(model);
    const auto area = [&](const Selection& pick) {
        double sum = 0.0;
        for (const Index p : select_patches(model, mesh, pick, "test")) sum += mesh.patches.area[p];
        return sum * 1e6;
    };
    CHECK(area(surface("top")) == Approx(4800 - 200));
    CHECK(area(Selection{.parts = {"plate"}}) == Approx(4600 + 4800 + 2 * 320 + 2 * 240));
    CHECK(area(Selection{.parts = {"pl*", "block"}, .sides = {"-x", "+x"}}) == Approx(2 * 240 + 2 * 30));
    CHECK(area(Selection{.facing = {outward(Side::plus_z)}, .except = {"top"}}) == Approx(200));
    CHECK(area(Selection{.parts = {"plate"}, .facing = {outward(Side::minus_z)}, .region = Box{.size = {1, 1, 1}, .at = {-0.5, -0.5, -0.5}}}) == Approx(4800));
    CHECK_THROWS_WITH(area(Selection{.parts = {"block"}, .facing = {outward(Side::minus_z)}}), Contains("picks no exposed surface"));
}

TEST_CASE("a fine mesh keeps the invariants and the order of its arrays", "[mesh]") {
    Model model = block_on_plate();
    model.mesh.cell = 0.8_mm;
    const Mesh mesh = build_mesh(model);
    CHECK(mesh.cells.size() > 30000);
    CHECK(worst_closure(mesh) < 1e-12);
    CHECK(std::is_sorted(mesh.cells.box.begin(), mesh.cells.box.end()));
    CHECK(std::is_sorted(mesh.patches.cell.begin(), mesh.patches.cell.end()));
}
