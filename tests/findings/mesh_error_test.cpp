// What one more solve tells of the error that the mesh makes: against answers of much finer meshes, and where there is none to find.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <cmath>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

/// A board that hardly conducts across, and a chip on it.
Model board_with_chip() {
    Model m{.title = "Board"};
    Material board = plain("board", 18.0);
    board.conductivity[2] = 0.35;
    m.materials = {board, plain("mould", 1.0)};
    m.add(block("board", {40_mm, 40_mm, 1.6_mm}, {}, "board"));
    m.add(block("chip", {9_mm, 9_mm, 1_mm}, {15.5_mm, 15.5_mm, 1.6_mm}, "mould"));
    m.add(heat("chip", 0.8));
    m.add(convection(exposed(), 12.0, 25_degC));
    m.sensors = {{.name = "edge", .in = "board", .at = {2_mm, 2_mm, 1.6_mm}}};
    return m;
}

Findings solved(const Model& m) { return findings(m, solve_steady(m)); }

const Figure& figure(const Findings& f, FigureKind kind, const std::string& name) {
    const auto found = std::find_if(f.figures.begin(), f.figures.end(), [&](const Figure& x) { return x.kind == kind && x.name == name; });
    REQUIRE(found != f.figures.end());
    return *found;
}

/// Every figure of a model within its error of what a finer mesh says, and nearer to that by the correction; how many are not.
int outside(const Model& model, double finer) {
    Model fine = model;
    fine.mesh.coarsening *= finer;
    const Findings f = solved(model), g = solved(fine);
    constexpr double rounding = 1e-5;
    int out = 0;
    for (const Figure& one : f.figures) {
        const auto other = std::find_if(g.figures.begin(), g.figures.end(), [&](const Figure& x) { return same(x, one); });
        if (other == g.figures.end()) continue;
        const double truth = *other->value;
        INFO(info(one.kind).word << " of " << one.name << ": " << *one.value << " ± " << one.error() << ", with " << *one.bar->correction << ", finer " << truth
                                 << " ± " << other->error());
        if (std::abs(*one.value - truth) > one.error() + 0.1 * other->error() + rounding) ++out;
        CHECK(std::abs(*one.value - truth) <= 2.0 * one.error() + 0.2 * other->error() + rounding);
    }
    return out;
}

}  // namespace

TEST_CASE("a board that conducts badly across is solved within the error that is told", "[findings]") {
    // Of a mesh of 32 cells through the board.
    Model fine = board_with_chip();
    fine.mesh.through = 16;
    fine.mesh.cell = 0.5_mm;
    const double truth = *figure(solved(fine), FigureKind::mean, "chip").value;
    const Findings plain = solved(board_with_chip());
    const Figure& chip = figure(plain, FigureKind::mean, "chip");
    CHECK(std::abs(*chip.value - truth) < chip.error());
    CHECK(chip.error() < 0.04 * (truth - 298.15));
    // Three times as coarse it is some kelvins too hot before it is corrected, and a remark says that it is not known well.
    Model coarse = board_with_chip();
    coarse.mesh.coarsening = 3.0;
    const Findings rough = solved(coarse);
    const Figure& hot = figure(rough, FigureKind::mean, "chip");
    CHECK(hot.solved.value() - truth > 1.0);
    CHECK(std::abs(*hot.value - truth) < hot.error());
    CHECK(std::abs(*hot.value - truth) < 0.35 * (*hot.solved - truth));
    CHECK(*hot.value == Approx(*hot.solved + *hot.bar->correction));
    REQUIRE(std::any_of(rough.warnings.begin(), rough.warnings.end(), [](const Warning& w) { return w.kind == "mesh_too_coarse"; }));
    for (const Warning& w : rough.warnings) {
        if (w.kind == "mesh_too_coarse") CHECK_THAT(w.message, Contains("\"chip\""));
    }
}

TEST_CASE("where temperatures are linear nothing is off", "[findings]") {
    Model m;
    m.mesh.cell = 3_mm;
    m.materials = {plain("bar", 10.0)};
    m.add(block("bar", {30_mm, 6_mm, 6_mm}, {}, "bar"));
    m.add(Hold{.on = side("bar", Side::minus_x), .temperature = 300.0});
    m.add(Hold{.on = side("bar", Side::plus_x), .temperature = 400.0});
    for (const Figure& one : solved(m).figures) {
        INFO(info(one.kind).word << " of " << one.name);
        if (one.kind == FigureKind::max || one.kind == FigureKind::min || one.kind == FigureKind::mean || one.kind == FigureKind::hold)
            CHECK(std::abs(*one.bar->correction) < 1e-4 * 100.0);
    }
}

TEST_CASE("gaps that radiate, laws, curves, resistors, round parts and mirrors have errors, too", "[findings]") {
    SECTION("a gap, seen by poor conductors: the network knows the temperatures of cells only") {
        Model m;
        m.mesh.cell = 5_mm;
        m.materials = {plain("foam", 0.1)};
        m.add(block("hot", {40_mm, 40_mm, 20_mm}, {}, "foam"));
        m.add(block("cold", {40_mm, 40_mm, 20_mm}, {0, 0, 30_mm}, "foam"));
        m.add(Joint{.between = {"hot", "cold"}, .exchange_factor = 0.8, .reach = 11_mm});
        m.add(Hold{.on = side("hot", Side::minus_z), .temperature = 500.0});
        m.add(Hold{.on = side("cold", Side::plus_z), .temperature = 300.0});
        CHECK(outside(m, 0.2) == 0);
    }
    SECTION("a heated cylinder in a film, half of it kept by a mirror") {
        Model m;
        m.mesh.cell = 3_mm;
        m.materials = {plain("core", 2.0)};
        m.add(Part{.name = "core", .shape = Cylinder{.radius = 10_mm, .length = 12_mm, .at = {0.3e-3, 0, 0}}, .material = "core"});
        m.mirrors = {{.axis = 1, .at = 0.0}};
        m.add(Power{.into = {"core"}, .density = 1e6});
        m.add(Cooling{.on = exposed(), .law = ConvectionLaw{.law = "horizontal cylinder", .diameter = 20_mm}, .ambient = 300.0});
        CHECK(outside(m, 0.4) <= 1);
    }
    SECTION("a revolved shell") {
        Model m;
        m.space = Space{.revolved = true};
        m.mesh.cell = 2_mm;
        m.materials = {plain("shell", 1.0)};
        m.add(Part{.name = "shell", .shape = Tube{.outer_radius = 20_mm, .inner_radius = 2_mm, .length = 4_mm}, .material = "shell"});
        m.add(Hold{.on = Selection{.sides = {"bore"}}, .temperature = 400.0});
        m.add(Hold{.on = Selection{.sides = {"side"}}, .temperature = 300.0});
        const Findings f = solved(m);
        const double exact = 2.0 * std::acos(-1.0) * 4e-3 * 100.0 / std::log(10.0);
        for (const Figure& one : f.figures) {
            if (one.kind != FigureKind::hold) continue;
            CHECK(std::abs(std::abs(*one.value) - exact) <= one.error());
            CHECK(std::abs(*one.value) == Approx(exact).epsilon(0.01));
        }
    }
}

TEST_CASE("no kind of figure is forgotten: on a coarse mesh each is off", "[findings]") {
    Model m = board_with_chip();
    m.coolings[0].convection.reset();
    m.coolings[0].law = ConvectionLaw{.law = "horizontal plate facing up", .length = 10_mm};
    m.coolings[0].emissivity = 0.8;
    m.joints = {Joint{.between = {"chip", "board"}, .resistance = 1e-4}};
    m.add(Hold{.on = side("board", Side::minus_x), .temperature = 30_degC});
    m.add(Power{.name = "lamp", .on = Selection{.parts = {"chip"}, .facing = {{0, 0, 1}}}, .total = 0.2});
    m.limits = {Limit{.part = "chip", .below = 100_degC}};
    m.surfaces = {{.name = "underside", .pick = Selection{.parts = {"board"}, .facing = {{0, 0, -1}}}}};
    m.resistors = {{.name = "strap", .between = {"underside", "ambient"}, .total = 20.0, .ambient = 25_degC}};
    std::map<FigureKind, bool> off;
    for (const Figure& one : solved(m).figures) off[one.kind] = off[one.kind] || std::abs(*one.bar->correction) > 1e-6;
    for (const FigureKind kind : {FigureKind::margin, FigureKind::max, FigureKind::mean, FigureKind::min, FigureKind::sensor, FigureKind::joint_flow,
                                  FigureKind::joint_drop, FigureKind::resistor_flow, FigureKind::resistor_drop, FigureKind::cooling, FigureKind::convection,
                                  FigureKind::radiation, FigureKind::coefficient, FigureKind::surface_mean, FigureKind::surface_max, FigureKind::hold}) {
        INFO(info(kind).word);
        CHECK(off[kind]);
    }
    // Kinds that only studies in time have, and nothing else.
    for (const FigureKind kind : {FigureKind::first_beyond, FigureKind::met_from, FigureKind::duty}) CHECK_FALSE(off.contains(kind));
    CHECK(off.size() == 16);
}

TEST_CASE("errors are left out where nobody asks, at moments, and of lumped nodes there is none", "[findings]") {
    const Model m = block_on_plate();
    const SteadySolution s = solve_steady(m);
    for (const Figure& one : findings(m, s, {.errors = false}).figures) CHECK_FALSE(one.bar.has_value());
    SteadySolution moment = s;
    moment.time = 1.0;
    for (const Figure& one : findings(m, moment).figures) CHECK_FALSE(one.bar.has_value());
    CHECK_THROWS_AS(findings(m, s, {.progress = [](const Progress&) { return false; }}), Cancelled);

    Model lumped;
    lumped.nodes = {{.name = "junction"}};
    lumped.powers = {Power{.into = {"junction"}, .total = 2.0}};
    lumped.resistors = {{.name = "to air", .between = {"junction", "ambient"}, .total = 10.0, .ambient = 300.0}};
    for (const Figure& one : solved(lumped).figures) {
        REQUIRE(one.bar.has_value());
        CHECK(*one.bar->correction == 0.0);
        CHECK(one.error() <= 1.001e-3 * std::abs(one.kind == FigureKind::resistor_flow ? 2.0 : 20.0));
    }
}

TEST_CASE("where nothing heats there is nothing to remark on", "[findings]") {
    Model m = board_with_chip();
    m.powers.clear();
    m.limits = {Limit{.part = "chip", .below = 25_degC}};
    for (const Warning& w : solved(m).warnings) CHECK((w.kind != "too_close_to_call" && w.kind != "mesh_too_coarse"));
}

TEST_CASE("a limit within the error is too close to call", "[findings]") {
    Model m = board_with_chip();
    const Findings free = solved(m);
    const double hottest = free.hottest.temperature, half = 0.5 * figure(free, FigureKind::max, "chip").error();
    REQUIRE(half > 0.05);
    m.limits = {Limit{.part = "chip", .below = hottest + half}, Limit{.part = "chip", .below = hottest + 50.0}};
    const Findings f = solved(m);
    CHECK(f.verdict() == Verdict::kept);
    int close = 0;
    for (const Warning& w : f.warnings) {
        if (w.kind != "too_close_to_call") continue;
        ++close;
        CHECK_THAT(w.message, Contains("kept by") && Contains("too close to call"));
    }
    CHECK(close == 1);
    CHECK_THAT(to_text(f), Contains("±"));
}
