// Cells sized for heat that spreads from a footprint.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;

namespace {

/// The grid's cell at a plane, above or below it; 0 where no plane is.
double cell_at(const Mesh& mesh, int axis, double plane, bool above) {
    const auto& lines = mesh.grid.lines[static_cast<std::size_t>(axis)];
    for (std::size_t i = 0; i < lines.size(); ++i) {
        if (std::abs(lines[i] - plane) < 1e-9) return above ? lines[i + 1] - lines[i] : lines[i] - lines[i - 1];
    }
    return 0.0;
}

/// A chip on a thin board that conducts fifty times better along than across.
Model chip_on_board() {
    Model model{.title = "Chip on a board"};
    model.add(Material{.name = "laminate", .conductivity = {18.0, 18.0, 0.35}});
    model.add(Material{.name = "mould", .conductivity = isotropic(0.9)});
    model.add(block("board", {40_mm, 40_mm, 1.6_mm}, {}, "laminate"));
    model.add(block("chip", {9_mm, 9_mm, 1_mm}, {15.5_mm, 15.5_mm, 1.6_mm}, "mould"));
    model.add(heat("chip", 0.8_W));
    model.add(convection(exposed(), 12.0, 25_degC));
    return model;
}

Selection heated(std::string part, Box region) {
    Selection on = side(std::move(part), Side::plus_z);
    on.region = region;
    return on;
}

}  // namespace

TEST_CASE("a board that conducts badly across gets its first cell by footprint and conductivities", "[mesh]") {
    const Model model = chip_on_board();
    const Mesh mesh = build_mesh(model);
    REQUIRE(mesh.first_cells.size() == 1);
    const FirstCell& first = mesh.first_cells.front();
    CHECK(first.axis == 2);
    CHECK_FALSE(first.upper);
    CHECK(first.with == "chip");
    CHECK(mesh.bodies[first.body].name == "board");
    CHECK(first.width == Approx(9_mm));
    CHECK(first.size == Approx(0.4 * 4.5_mm * std::sqrt(0.35 / 18.0)));
    CHECK(cell_at(mesh, 2, 1.6_mm, false) <= first.size * 1.0001);
    CHECK(cell_at(mesh, 2, 1.6_mm, false) > 0.6 * first.size);

    const Inspection seen = inspect(model, mesh);
    REQUIRE(seen.thin_cells.size() == 1);
    CHECK(seen.thin_cells[0].part == "board");
    CHECK(seen.thin_cells[0].cell == Approx(cell_at(mesh, 2, 1.6_mm, false)));
    CHECK_THAT(to_text(seen), Catch::Matchers::Contains("Thin cells"));

    // Wishes come on top.
    Model finer = model;
    finer.parts[0].cell = 0.1_mm;
    CHECK(cell_at(build_mesh(finer), 2, 1.6_mm, false) <= 0.10001_mm);
    Model coarser = model;
    coarser.mesh.coarsening = 2.0;
    CHECK(cell_at(build_mesh(coarser), 2, 1.6_mm, false) > 1.3 * first.size);
}

TEST_CASE("where the whole face takes the heat, or none passes, nothing spreads", "[mesh]") {
    Model model = chip_on_board();
    model.parts[1] = block("chip", {40_mm, 38_mm, 1_mm}, {0_mm, 1_mm, 1.6_mm}, "mould");
    CHECK(build_mesh(model).first_cells.empty());
    model = chip_on_board();
    model.add(Joint{.between = {"chip", "board"}, .insulated = true});
    model.powers[0].into = {"board"};
    CHECK(build_mesh(model).first_cells.empty());
}

TEST_CASE("footprints of loads and of films count, those of weak films do not, and none is one cell wide", "[mesh]") {
    Model model{.title = "Spots on a block"};
    model.add(plain("clay", 1.0));
    model.add(block("block", {60_mm, 60_mm, 30_mm}, {}, "clay"));
    model.add(convection(exposed(), 10.0, 20_degC));
    const Box spot{.size = {0.5_mm, 0.5_mm, 2_mm}, .at = {20_mm, 20_mm, 29_mm}}, patch{.size = {10_mm, 10_mm, 2_mm}, .at = {40_mm, 40_mm, 29_mm}};
    Power power;
    power.on = heated("block", spot);
    power.total = 0.1_W;
    model.add(power);
    const Mesh load = build_mesh(model);
    REQUIRE(load.first_cells.size() == 1);
    CHECK(load.first_cells[0].size == Approx(0.1_mm));
    CHECK(load.first_cells[0].of_rule);
    CHECK(cell_at(load, 0, 20_mm, true) < 0.26_mm);
    CHECK(cell_at(load, 1, 20.5_mm, false) < 0.26_mm);

    model.powers.clear();
    for (const double film : {1.0, 1000.0}) {
        Model cooled = model;
        cooled.add(convection(heated("block", patch), film, 20_degC));
        CHECK(build_mesh(cooled).first_cells.size() == (film > 100.0 ? 1 : 0));
    }
    // By the name of a surface, as directly.
    model.add(Surface{.name = "spot", .pick = heated("block", spot)});
    power.on = surface("spot");
    model.add(power);
    const Mesh named = build_mesh(model);
    CHECK(named.grid.lines[2] == load.grid.lines[2]);
}

TEST_CASE("bases of round parts and walls of what a part is embedded in count", "[mesh]") {
    Model model{.title = "Pin and core"};
    model.add(plain("clay", 1.0));
    model.add(block("plate", {60_mm, 60_mm, 30_mm}, {}, "clay"));
    model.add(Part{.name = "pin", .shape = Cylinder{.radius = 4_mm, .length = 10_mm, .at = {30_mm, 30_mm, 30_mm}, .along = 2}, .material = "copper"});
    model.add(heat("pin", 1_W));
    model.add(convection(exposed(), 10.0, 20_degC));
    const Mesh pin = build_mesh(model);
    REQUIRE(pin.first_cells.size() == 1);
    CHECK(pin.first_cells[0].size == Approx(0.4 * 4_mm).epsilon(0.01));

    // A flat core close under the top of a block: two cells in the wall that is left, and first cells at its wide faces but not at its rim.
    model.parts.pop_back();
    model.powers.clear();
    model.add(block("core", {8_mm, 8_mm, 1_mm}, {26_mm, 26_mm, 28.5_mm}, "copper"));
    model.add(heat("core", 1_W));
    const Mesh core = build_mesh(model);
    for (const FirstCell& first : core.first_cells) CHECK(first.axis == 2);
    CHECK_FALSE(core.first_cells.empty());
    CHECK(cell_at(core, 2, 29.5_mm, true) < 0.26_mm);
    CHECK(cell_at(core, 2, 28.5_mm, false) < 1.7_mm);
}

TEST_CASE("mirror images have mirror meshes, and half a model the half of its mesh", "[mesh]") {
    Model whole = chip_on_board();
    whole.add(block("small", {3_mm, 2_mm, 1_mm}, {4_mm, 8_mm, 1.6_mm}, "mould"));
    whole.add(block("small too", {3_mm, 2_mm, 1_mm}, {33_mm, 8_mm, 1.6_mm}, "mould"));
    Model half = whole;
    half.add(Mirror{.axis = 0, .at = 20_mm, .keep_plus = false});
    const Mesh all = build_mesh(whole), left = build_mesh(half);
    CHECK(all.grid.lines[2].size() == left.grid.lines[2].size());
    CHECK(left.first_cells.front().size == Approx(all.first_cells.front().size));

    Model turned = chip_on_board();
    turned.parts[1] = block("chip", {9_mm, 9_mm, 1_mm}, {15.5_mm, 15.5_mm, -1_mm}, "mould");
    const Grid up = build_mesh(chip_on_board()).grid, down = build_mesh(turned).grid;
    REQUIRE(up.lines[2].size() == down.lines[2].size());
    for (std::size_t i = 0; i < up.lines[2].size(); ++i) CHECK(up.lines[2][i] == Approx(1.6_mm - down.lines[2][down.lines[2].size() - 1 - i]).margin(1e-9));
}

TEST_CASE("plane and revolved models count what varies", "[mesh]") {
    Model model = chip_on_board();
    model.space = Space{.depth = 0.1_mm};
    const Mesh plane = build_mesh(model);
    CHECK(plane.grid.count(2) == 1);
    for (const FirstCell& first : plane.first_cells) CHECK(first.axis != 2);

    Model round{.title = "Stud on a disc"};
    round.space = Space{.revolved = true};
    round.add(plain("clay", 1.0));
    round.add(Part{.name = "disc", .shape = Cylinder{.radius = 40_mm, .length = 20_mm, .along = 2}, .material = "clay"});
    round.add(Part{.name = "stud", .shape = Cylinder{.radius = 5_mm, .length = 10_mm, .at = {0.0, 0.0, 20_mm}, .along = 2}, .material = "copper"});
    round.add(heat("stud", 1_W));
    round.add(convection(exposed(), 10.0, 20_degC));
    const Mesh revolved = build_mesh(round);
    REQUIRE(revolved.first_cells.size() == 1);
    CHECK(revolved.first_cells[0].axis == 2);
    CHECK(revolved.first_cells[0].size == Approx(0.4 * 5_mm).epsilon(0.01));
}

TEST_CASE("many footprints do not make a mesh that is refused", "[mesh]") {
    Model model = chip_on_board();
    for (int i = 0; i < 8; ++i) model.add(block("pad" + std::to_string(i), {0.4_mm, 0.3_mm, 0.2_mm}, {1_mm + 4.7_mm * i, 2_mm + 0.9_mm * i, 1.6_mm}, "copper"));
    model.mesh.max_cells = 60'000;
    const Mesh tight = build_mesh(model);
    CHECK(tight.cells.size() <= 60'000);
    model.mesh.max_cells = 20'000'000;
    CHECK(build_mesh(model).cells.size() >= tight.cells.size());
}

namespace {

/// A steel block under a lamp, on for 0.2 s of each two seconds.
Model block_in_pulses() {
    Model model{.title = "Block in pulses"};
    model.add(Material{.name = "steel", .conductivity = isotropic(15.0), .density = 7900.0, .specific_heat = 500.0});
    model.add(block("block", {30_mm, 30_mm, 12_mm}, {}, "steel"));
    model.add(Power{.name = "lamp", .on = side("block", Side::plus_z), .total = 300.0, .profile = {"pulses"}});
    model.add(Profile{.name = "pulses", .duty = Duty{.on = 0.2, .off = 1.8}});
    model.add(convection(side("block", Side::minus_z), 20.0, 20_degC));
    return model;
}

Study for_a_while(double lasts) {
    Study study{.name = "pulses", .kind = StudyKind::transient, .lasts = lasts};
    study.start.temperature = 20_degC;
    return study;
}

}  // namespace

TEST_CASE("what is heated in pulses gets cells that see how far heat gets within one", "[mesh]") {
    Model model = block_in_pulses();
    const double diffusivity = 15.0 / (7900.0 * 500.0);
    CHECK(build_mesh(model).first_cells.empty());  // nothing happens in time

    model.studies = {for_a_while(20.0)};
    const Mesh mesh = build_mesh(model);
    REQUIRE(mesh.first_cells.size() == 1);
    const FirstCell& first = mesh.first_cells.front();
    CHECK(first.with == "lamp");
    CHECK(first.of_rule);
    CHECK_FALSE(first.upper);
    CHECK(first.time == Approx(0.2));
    CHECK(first.width == 0.0);
    CHECK(first.size == Approx(0.4 * std::sqrt(diffusivity * 0.2)));
    CHECK(cell_at(mesh, 2, 12_mm, false) <= first.size * 1.0001);

    const Inspection seen = inspect(model, mesh);
    REQUIRE(seen.thin_cells.size() == 1);
    CHECK(seen.thin_cells[0].time == 0.2);
    CHECK_FALSE(seen.thin_cells[0].width);

    // Heat that stays gets through; a film that hardly resists is no reason, a better one is.
    model.studies = {for_a_while(2000.0)};
    model.powers.front().profile.clear();
    model.coolings.front().profile = {"pulses"};
    CHECK(build_mesh(model).first_cells.empty());
    model.coolings.front().convection = 5000.0;
    REQUIRE(build_mesh(model).first_cells.size() == 1);
    CHECK(build_mesh(model).first_cells[0].upper);
}

TEST_CASE("a part heated in pulses has thin cells at what it touches, on both sides", "[mesh]") {
    Model model = block_in_pulses();
    model.powers = {heat("block", 300_W)};
    model.powers[0].profile = {"pulses"};
    model.add(block("base", {60_mm, 60_mm, 20_mm}, {-15_mm, -15_mm, -20_mm}, "steel"));
    model.studies = {for_a_while(20.0)};
    const Mesh mesh = build_mesh(model);
    int above = 0, below = 0;
    for (const FirstCell& cell : mesh.first_cells) {
        if (cell.axis == 2 && cell.time == Approx(0.2)) ++(cell.upper ? above : below);
    }
    CHECK(above == 1);
    CHECK(below == 1);

    // Nothing much gets through a layer of felt within a pulse.
    model.add(Joint{.between = {"block", "base"}, .resistance = 0.01});
    for (const FirstCell& cell : build_mesh(model).first_cells) CHECK(cell.time != Approx(0.2));
}

TEST_CASE("a surface under a short pulse gets as warm as half a space would", "[mesh]") {
    Model model = block_in_pulses();
    model.studies = {for_a_while(0.2)};
    const TimeFindings found = solve_over_time(model, model.studies[0]);
    const double flux = 300.0 / (30_mm * 30_mm), diffusivity = 15.0 / (7900.0 * 500.0);
    const double rise = 2.0 * flux / 15.0 * std::sqrt(diffusivity * 0.2 / std::acos(-1.0));
    CHECK(found.parts[0].hottest.spot.temperature - 20_degC == Approx(rise).epsilon(0.01));
    const auto hottest = std::find_if(found.figures.begin(), found.figures.end(), [](const Figure& f) { return f.kind == FigureKind::max; });
    CHECK(std::abs(*hottest->value - 20_degC - rise) <= hottest->error());

    const TimeFindings raw = solve_over_time(model, model.studies[0], std::make_shared<const Mesh>(build_mesh(model)), {}, false);
    CHECK(raw.parts[0].hottest.spot.temperature - 20_degC == Approx(rise).epsilon(0.03));
}

TEST_CASE("how long a course stays between jumps", "[mesh]") {
    CHECK(shortest_stay({.duty = Duty{.on = 3.0, .off = 2.0}}) == 2.0);
    CHECK(shortest_stay({.sine = Sine{.period = 10.0}}) == Approx(10.0 / std::acos(-1.0)));
    CHECK(shortest_stay({.points = {{0.0, 5.0, 6.0}, {0.0, 1.0, 0.0}}, .stepped = true}) == 1.0);
    CHECK(std::isinf(shortest_stay({.points = {{0.0, 5.0}, {0.0, 1.0}}, .stepped = true})));
    // What a logger has written: many points, and one burst of two seconds between slow changes.
    Profile logged;
    for (int i = 0; i < 200; ++i) {
        logged.points.at.push_back(i);
        logged.points.value.push_back(0.1 + 0.01 * std::sin(i) + (i >= 50 && i < 52 ? 1.0 : 0.0));
    }
    CHECK(shortest_stay(logged) == Approx(2.0));
    logged.points.value.assign(200, 1.0);
    CHECK(std::isinf(shortest_stay(logged)));
}
