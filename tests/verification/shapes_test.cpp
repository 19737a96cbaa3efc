// Cut cells against exact solutions: accuracy at several resolutions, and reference cases with round or tilted parts.

#include "verification/case_models.hpp"
#include "verification/manufactured.hpp"

#include <catch2/catch.hpp>

#include <filesystem>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;

namespace {

/// At about 10 and 20 cells across, on the worst of four random grids, with variation along the surface.
void check_accuracy(Subject subject, double biot, double ratio = 1.0, double contact = 0.0) {
    const Errors coarse = worst_errors(subject, 10, biot, ratio, contact), fine = worst_errors(subject, 20, biot, ratio, contact);
    INFO(test::name_of(subject) << ", Biot " << biot << ", ratio " << ratio << ", contact " << contact << ": max " << coarse.max << " " << fine.max << ", L2 "
                                << coarse.l2 << " " << fine.l2 << ", flow " << coarse.flow << " " << fine.flow << ", wall " << coarse.wall << " " << fine.wall);
    CHECK(coarse.max < 0.02);
    CHECK(fine.max < 0.006);
    CHECK(coarse.l2 < 0.003);
    CHECK(fine.l2 < 0.001);
    CHECK(coarse.flow < 0.003);
    CHECK(fine.flow < 0.001);
    CHECK(coarse.wall < 0.02);
    CHECK(fine.wall < 0.006);
}

double to_celsius(double kelvin) { return kelvin - zero_celsius; }

double order(double coarse, double fine) { return std::log2(coarse / fine); }

struct Solved {
    explicit Solved(const Model& model) : m(model), s(solve_steady(m)), f(findings(m, s)) { CHECK(std::abs(f.ledger.relative_residual()) < 1e-9); }
    double at(const std::string& part, Vec3 point) const { return to_celsius(temperature_at(m, s, part, point, "")); }
    Model m;
    SteadySolution s;
    Findings f;
};

}  // namespace

TEST_CASE("single bodies of any shape: errors and heat flow", "[verification]") {
    for (const Subject subject : {Subject::rod, Subject::pipe, Subject::ball, Subject::tilted_block}) {
        for (const double biot : {0.3, 1.0}) check_accuracy(subject, biot);
    }
    check_accuracy(Subject::held_pipe, 1.0);
}

TEST_CASE("joints between round bodies: errors and heat flow", "[verification]") {
    for (const double ratio : {1.0, 10.0, 1000.0}) {
        for (const double contact : {0.0, 0.3}) check_accuracy(Subject::pin_in_ring, 1.0, ratio, contact);
    }
    check_accuracy(Subject::ball_in_shell, 1.0, 1000.0, 0.0);  // bench/accuracy has them all
}

TEST_CASE("cut cells converge at nearly second order", "[verification]") {
    for (const Subject subject : {Subject::rod, Subject::pipe, Subject::held_pipe, Subject::pin_in_ring}) {
        const Errors coarse = worst_errors(subject, 10, 1.0, 10.0, 0.3), fine = worst_errors(subject, 40, 1.0, 10.0, 0.3);
        INFO(test::name_of(subject) << ": max " << coarse.max << " " << fine.max << ", L2 " << coarse.l2 << " " << fine.l2);
        CHECK(order(coarse.l2, fine.l2) / 2.0 > 1.7);
        if (subject != Subject::pin_in_ring) CHECK(order(coarse.max, fine.max) / 2.0 > 1.35);
    }
}

TEST_CASE("a linear field in a slab at any angle is exact", "[verification]") {
    for (const double angle : {10.0, 27.0, 45.0, 71.0}) {
        Model m;
        m.materials = {plain("k5", 5.0)};
        m.mesh.cell = 2_mm;
        m.mesh.through = 1;
        Part slab = block("slab", {30_mm, 12_mm, 10_mm}, {}, "k5");
        slab.rotate = {Rotation{.axis = {0.3, 0.2, 1.0}, .angle = angle, .about = std::nullopt}};
        m.add(slab);
        m.add(convection(sides("slab", {"-x"}), 400.0, 400.0));
        m.add(convection(sides("slab", {"+x"}), 150.0, 300.0));
        const double exact = 12e-3 * 10e-3 * 100.0 / (1.0 / 400.0 + 30e-3 / 5.0 + 1.0 / 150.0);
        CHECK(Solved(m).f.coolings[1].convection == Approx(exact).epsilon(1e-5));
    }
}

TEST_CASE("thin shells and thin layers carry the right heat", "[verification]") {
    const auto shell = [](double cells) {
        constexpr double inner = 8e-3, outer = 10e-3, k = 2.0, film = 300.0;
        Model m;
        m.materials = {plain("k2", k)};
        m.mesh.cell = (outer - inner) / cells;
        m.mesh.through = 1;
        m.add(Part{.name = "shell", .shape = Tube{.outer_radius = outer, .inner_radius = inner, .length = 2e-3}, .material = "k2"});
        m.add(Hold{.on = sides("shell", {"bore"}), .temperature = 400.0});
        m.add(convection(sides("shell", {"side"}), film, 300.0));
        const double pi = 3.14159265358979323846;
        const double exact = 100.0 / (std::log(outer / inner) / (2.0 * pi * k * 2e-3) + 1.0 / (film * 2.0 * pi * outer * 2e-3));
        return std::abs(Solved(m).f.coolings[0].convection / exact - 1.0);
    };
    CHECK(shell(2) < 1e-3);
    CHECK(shell(4) < 3e-4);
    // A layer of a third and of a seventh of a cell between two good conductors, tilted against the grid.
    for (const double thick : {1.0_mm, 0.43_mm}) {
        Model m;
        m.materials = {plain("k100", 100.0), plain("k1", 1.0)};
        m.mesh.cell = 3_mm;
        m.mesh.through = 1;
        m.add(block("left", {15_mm, 20_mm, 12_mm}, {}, "k100"));
        m.add(block("layer", {thick, 20_mm, 12_mm}, {15_mm, 0, 0}, "k1"));
        m.add(block("right", {15_mm, 20_mm, 12_mm}, {15_mm + thick, 0, 0}, "k100"));
        for (Part& part : m.parts) part.rotate = {Rotation{.axis = {0.2, 0.1, 1.0}, .angle = 24.0, .about = Vec3{}}};
        m.add(convection(sides("left", {"-x"}), 5000.0, 400.0));
        m.add(convection(sides("right", {"+x"}), 5000.0, 300.0));
        const double exact = 20e-3 * 12e-3 * 100.0 / (2.0 / 5000.0 + 2.0 * 15e-3 / 100.0 + thick);
        INFO("layer of " << thick << " m");
        CHECK(Solved(m).f.coolings[1].convection == Approx(exact).epsilon(5e-3));
    }
}

TEST_CASE("a slot narrower than a cell does not conduct", "[verification]") {
    Model m;
    m.mesh.cell = 4_mm;
    m.mesh.through = 1;
    const auto corner = [](double x, double y) { return OutlinePoint{.x = x * 1e-3, .y = y * 1e-3, .through = std::nullopt}; };
    Part u{.name = "u",
           .shape = Prism{.outline = {corner(0, 0), corner(9, 0), corner(9, 40), corner(5, 40), corner(5, 6), corner(4, 6), corner(4, 40), corner(0, 40)},
                          .holes = {},
                          .length = 8_mm},
           .material = "copper"};
    u.rotate = {Rotation{.angle = 7.0, .about = std::nullopt}};
    m.add(u);
    m.add(Hold{.on = sides("u", {"side 4"}), .temperature = 373.15});
    m.add(Hold{.on = sides("u", {"side 8"}), .temperature = 273.15});
    const double fine = 17.16;  // the same at an eighth of the cell; shorting the slot would give twice as much
    for (const double cell : {4_mm, 2_mm}) {
        m.mesh.cell = cell;
        CHECK(findings(m, solve_steady(m), {.errors = false}).holds[1].flow == Approx(fine).epsilon(0.03));
        const Solved corrected(m);
        const auto flow = std::find_if(corrected.f.figures.begin(), corrected.f.figures.end(),
                                       [](const Figure& f) { return f.kind == FigureKind::hold && f.name == "hold 2"; });
        REQUIRE(flow != corrected.f.figures.end());
        CHECK(std::abs(*flow->value - fine) <= 3.0 * flow->error());  // one cell through: little shows of how heat turns around the slot
    }
}

TEST_CASE("s06 and s08: cylinder and sphere with generation", "[verification]") {
    Model rod;
    rod.mesh.cell = 1.2_mm;
    rod.materials = {plain("k08", 0.8)};
    rod.add(Part{.name = "rod", .shape = Cylinder{.radius = 12_mm, .length = 10_mm, .at = {0.3_mm, 0.1_mm, 0}}, .material = "k08"});
    rod.add(Power{.into = {"rod"}, .density = 4e6});
    rod.add(convection(sides("rod", {"side"}), 450.0, celsius(22)));
    const Solved r(rod);
    CHECK(r.at("rod", {0.3_mm, 0.1_mm, 5_mm}) == Approx(255.33333333333334).margin(0.7));
    CHECK(r.at("rod", {6.3_mm, 0.1_mm, 5_mm}) == Approx(210.33333333333334).margin(0.7));
    CHECK(to_celsius(r.f.coolings[0].mean_surface) == Approx(75.33333333333334).margin(0.7));
    CHECK(r.f.loads[0].heat / 10_mm == Approx(1809.5573684677208).epsilon(1e-3));

    Model ball;
    ball.mesh.cell = 1.5_mm;
    ball.materials = {plain("k025", 0.25)};
    ball.add(Part{.name = "ball", .shape = Sphere{.radius = 20_mm, .at = {0.4_mm, 0, 0}}, .material = "k025"});
    ball.add(Power{.into = {"ball"}, .density = 8e4});
    ball.add(convection(exposed(), 30.0, celsius(18)));
    const Solved b(ball);
    CHECK(b.at("ball", {0.4_mm, 0, 0}) == Approx(57.111111111111114).margin(0.117));
    CHECK(b.at("ball", {0.4_mm, 10_mm, 0}) == Approx(51.777777777777786).margin(0.117));
    CHECK(to_celsius(b.f.coolings[0].mean_surface) == Approx(35.77777777777778).margin(0.117));
    CHECK(b.f.loads[0].heat == Approx(2.6808257310632904).epsilon(1e-4));
}

TEST_CASE("f04 and f06: pin fin and annular fin", "[verification]") {
    const Solved p(pin_fin());
    CHECK(-p.f.holds[0].flow == Approx(1.7418790359535303).epsilon(0.01));
    CHECK(p.at("pin", {30_mm, 0, 0}) == Approx(66.63383230048511).margin(0.1));
    CHECK(p.at("pin", {30_mm, 2.5_mm, 0}) == Approx(66.60782334819288).margin(0.1));

    Model fin;
    fin.mesh.cell = 1_mm;
    fin.materials = {plain("k200", 200.0)};
    fin.add(Part{.name = "fin", .shape = Tube{.outer_radius = 30_mm, .inner_radius = 12.5_mm, .length = 1_mm}, .material = "k200"});
    fin.add(Hold{.on = sides("fin", {"bore"}), .temperature = celsius(110)});
    fin.add(convection(sides("fin", {"side", "top", "bottom"}), 45.0, celsius(25)));
    // One of eight sectors speaks for the whole.
    fin.add(Sector{.pieces = 8, .from = 11.0});
    const Solved f(fin);
    CHECK(-f.f.holds[0].flow == Approx(17.289796047606554).epsilon(0.01));
    const double a = 30.0 * 3.14159265358979 / 180.0;
    CHECK(f.at("fin", {30_mm * std::cos(a), 30_mm * std::sin(a), 0.5_mm}) == Approx(102.21844780910774).margin(0.1));
}

TEST_CASE("revolved and plane models in two dimensions: f06, s08, a pin in a ring, j07's shape", "[verification]") {
    const Solved f(annular_fin());
    CHECK(f.s.mesh->cells.size() < 50);
    CHECK(-f.f.holds[0].flow == Approx(17.289796047606554).epsilon(1e-3));
    CHECK(f.at("fin", {30_mm, 0, 0.5_mm}) == Approx(102.21844780910774).margin(0.1));
    CHECK(f.f.parts[0].volume == Approx(3.14159265358979 * (900 - 156.25) * 1e-9).epsilon(1e-9));

    Model ball;
    ball.space = Space{.revolved = true};
    ball.mesh.cell = 1_mm;
    ball.materials = {plain("k025", 0.25)};
    ball.add(Part{.name = "ball", .shape = Sphere{.radius = 20_mm}, .material = "k025"});
    ball.add(Power{.into = {"ball"}, .density = 8e4});
    ball.add(convection(exposed(), 30.0, celsius(18)));
    const Solved b(ball);
    CHECK(b.at("ball", {0, 0, 0}) == Approx(57.111111111111114).margin(0.117));
    CHECK(b.at("ball", {10_mm, 0, 0}) == Approx(51.777777777777786).margin(0.117));
    CHECK(to_celsius(b.f.coolings[0].mean_surface) == Approx(35.77777777777778).margin(0.02));
    CHECK(b.f.loads[0].heat == Approx(2.6808257310632904).epsilon(1e-6));

    // A later part displaces an earlier one, and a joint's total is that of the whole.
    Model pin;
    pin.space = Space{.revolved = true};
    pin.mesh.cell = 0.5_mm;
    pin.materials = {plain("k2", 2.0), plain("k20", 20.0)};
    pin.add(Part{.name = "ring", .shape = Cylinder{.radius = 20_mm, .length = 10_mm}, .material = "k2"});
    pin.add(Part{.name = "pin", .shape = Cylinder{.radius = 5_mm, .length = 10_mm}, .material = "k20"});
    pin.add(Joint{.between = {"pin", "ring"}, .total = 0.5});
    pin.add(heat("pin", 6.0));
    pin.add(convection(sides("ring", {"side"}), 50.0, celsius(20)));
    const Solved p(pin);
    const double pi = 3.14159265358979, wall = 20.0 + 6.0 / (50.0 * 2.0 * pi * 0.02 * 0.01), skin = wall + 6.0 * std::log(4.0) / (2.0 * pi * 2.0 * 0.01) + 3.0;
    CHECK(p.f.joints[0].drop == Approx(3.0).epsilon(1e-3));
    CHECK(to_celsius(p.f.coolings[0].mean_surface) == Approx(wall).epsilon(1e-4));
    CHECK(p.at("pin", {0, 0, 5_mm}) == Approx(skin + 6.0 / (4.0 * pi * 0.01 * 20.0)).epsilon(2e-3));

    constexpr double w = 4e-3;
    Model bar;
    bar.space = Space{.depth = 0.5_mm};
    bar.materials = {plain("k30", 30.0)};
    bar.mesh.cell = w / 24;
    const auto corner = [&](double x, double y) { return OutlinePoint{.x = x * w, .y = y * w, .through = std::nullopt}; };
    bar.add(Part{.name = "L",
                 .shape = Prism{.outline = {corner(0, 0), corner(5, 0), corner(5, 1), corner(1, 1), corner(1, 4), corner(0, 4)}, .holes = {}, .length = 1.0},
                 .material = "k30"});
    bar.parts[0].rotate = {Rotation{.angle = 17.0, .about = std::nullopt}};
    bar.add(Hold{.on = sides("L", {"side 3"}), .temperature = 310.0});
    bar.add(Hold{.on = sides("L", {"side 6"}), .temperature = 300.0});
    const Solved l(bar);
    CHECK(10.0 * 30.0 * 0.5e-3 / l.f.holds[1].flow == Approx(7.558728799694697).margin(0.0378));
    CHECK(l.s.mesh->grid.count(2) == 1);
    bar.parts[0].shape = Box{.size = {10_mm, 5_mm, 77.0}, .at = {0, 0, 3.0}};
    bar.parts[0].rotate.clear();
    bar.holds[0].on.sides = {"-x"};
    bar.holds[1].on.sides = {"+x"};
    CHECK(Solved(bar).f.holds[1].flow == Approx(30.0 * 5e-3 * 0.5e-3 * 10.0 / 10e-3).epsilon(1e-9));
}

TEST_CASE("p07: a round source on a disc", "[verification]") {
    const Solved d(disc_with_source());
    CHECK(*d.f.loads[0].area == Approx(3.14159265358979 * 25e-6).epsilon(2e-3));
    CHECK(to_celsius(*d.f.loads[0].mean_surface) == Approx(64.26461514174105).margin(0.2356));
    CHECK(to_celsius(*d.f.loads[0].hottest_surface) == Approx(66.2866705220687).margin(0.2477));
    CHECK(d.at("disc", {29.99_mm / std::sqrt(2.0), 29.99_mm / std::sqrt(2.0), 4_mm}) == Approx(51.89530008197265).margin(0.11));
}

TEST_CASE("j07's shape: an L with a square corner has the right number of squares", "[verification]") {
    constexpr double w = 4e-3;
    Model m;
    m.materials = {plain("k30", 30.0)};
    m.mesh.cell = w / 24;
    m.mesh.through = 1;
    const auto corner = [&](double x, double y) { return OutlinePoint{.x = x * w, .y = y * w, .through = std::nullopt}; };
    m.add(Part{.name = "L",
               .shape = Prism{.outline = {corner(0, 0), corner(5, 0), corner(5, 1), corner(1, 1), corner(1, 4), corner(0, 4)}, .holes = {}, .length = 0.5_mm},
               .material = "k30"});
    m.parts[0].rotate = {Rotation{.angle = 17.0, .about = std::nullopt}};
    m.add(Hold{.on = sides("L", {"side 3"}), .temperature = 310.0});
    m.add(Hold{.on = sides("L", {"side 6"}), .temperature = 300.0});
    const double squares = 10.0 * 30.0 * 0.5e-3 / Solved(m).f.holds[1].flow;
    CHECK(squares == Approx(7.558728799694697).margin(0.0378));
}

TEST_CASE("the composite wall of s01 keeps its answer at an odd angle", "[verification]") {
    const auto wall = [](double angle) {
        Model m;
        m.mesh.cell = 8_mm;
        m.mesh.through = 1;
        m.materials = {plain("ka", 1.4), plain("kb", 0.04), plain("kc", 16.0)};
        m.add(block("a", {24_mm, 60_mm, 40_mm}, {}, "ka"));
        m.add(block("b", {12_mm, 60_mm, 40_mm}, {24_mm, 0, 0}, "kb"));
        m.add(block("c", {20_mm, 60_mm, 40_mm}, {36_mm, 0, 0}, "kc"));
        for (Part& part : m.parts) part.rotate = {Rotation{.axis = {0.3, -0.2, 1.0}, .angle = angle, .about = Vec3{}}};
        m.add(convection(sides("a", {"-x"}), 25.0, celsius(120)));
        m.add(convection(sides("c", {"+x"}), 8.5, celsius(20)));
        return Solved(m).f.coolings[1].convection;
    };
    CHECK(wall(31.0) == Approx(wall(0.0)).epsilon(1e-3));
}

TEST_CASE("a box is the same as box, prism and imported surface", "[verification]") {
    const auto file = std::filesystem::temp_directory_path() / ("firnfield-box-" + std::to_string(std::rand()) + ".stl");
    const Box box{.size = {32_mm, 16_mm, 8_mm}, .at = {4_mm, 8_mm, 0}};
    write_stl(file, triangulate(box, 1.0), 1e-3);
    const StlImport import = read_stl(file, 1e-3);
    std::filesystem::remove(file);
    const auto solve = [&](const Shape& shape, bool cut) {
        Model m;
        m.mesh.cell = 2_mm;
        m.add(Part{.name = "box", .shape = shape, .material = "brass CuZn37"});
        m.add(heat("box", 3.0));
        m.add(convection(exposed(), 10.0, 300.0));
        const Solved s(m);
        CHECK((s.s.mesh->bodies[0].surface != no_index) == cut);
        CHECK(s.s.mesh->cells.size() == 16 * 8 * 4);
        return s.f.hottest.temperature - 300.0;
    };
    const auto corner = [](double x, double y) { return OutlinePoint{.x = x, .y = y, .through = std::nullopt}; };
    const double plain_box = solve(box, false);
    CHECK(solve(Prism{.outline = {corner(0, 0), corner(32_mm, 0), corner(32_mm, 16_mm), corner(0, 16_mm)}, .holes = {}, .length = 8_mm, .at = box.at}, true) ==
          Approx(plain_box).epsilon(1e-9));
    CHECK(solve(Solid{.surface = import.surface, .at = {}, .source = "box.stl", .unit = "mm"}, true) ==
          Approx(plain_box).epsilon(2e-7));  // single precision in the file
}
