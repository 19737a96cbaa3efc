// Error bars against exact answers: how often the true error lies within, and how much wider they are than they need be.

#include "random_assemblies.hpp"
#include "verification/case_models.hpp"

#include <catch2/catch.hpp>

#include <cmath>
#include <functional>
#include <string>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

/// A quantity whose exact value is known.
struct Exact {
    FigureKind kind;
    std::string name;
    double value;
};

struct Tally {
    int inside = 0, within_five = 0, all = 0;
};

/// The figure that a known quantity is, with its error bar.
const Figure& figure_of(const Findings& found, const Exact& known) {
    const auto figure = std::find_if(found.figures.begin(), found.figures.end(), [&](const Figure& f) { return f.kind == known.kind && f.name == known.name; });
    REQUIRE(figure != found.figures.end());
    REQUIRE(figure->bar.has_value());
    return *figure;
}

void tally_up(const Findings& found, const std::vector<Exact>& known, Tally& tally) {
    for (const Exact& k : known) {
        const Figure& figure = figure_of(found, k);
        const double error = std::abs(figure.value.value() - k.value), bar = figure.bar->error;
        INFO(info(k.kind).word << " of " << k.name << " at " << found.cells << " cells: " << *figure.value << " +- " << bar << ", true error " << error);
        ++tally.all;
        if (error <= bar) ++tally.inside;
        CHECK(error <= 5.0 * bar);
        if (bar <= 5.0 * error) ++tally.within_five;
    }
}

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

/// Calls `compare` with models of which something is known exactly, and with that.
void each_known_case(const std::function<void(const Model&, const std::vector<Exact>&)>& compare) {
    constexpr double q = 1e6, k = 2.0, h = 100.0, R = 0.01;
    for (const double cell : {2.2e-3, 1.5e-3, 1e-3}) {
        Model rod = heated(Cylinder{.radius = R, .length = 6_mm, .at = {0.3e-3, 0.1e-3, 0}}, {"side"}, cell);
        compare(rod, {{FigureKind::max, "core", 300 + q * R / (2 * h) + q * R * R / (4 * k)}, {FigureKind::min, "core", 300 + q * R / (2 * h)}});
        const Model ball = heated(Sphere{.radius = R, .at = {0.2e-3, 0.4e-3, 0.1e-3}}, {}, cell);
        compare(ball, {{FigureKind::max, "core", 300 + q * R / (3 * h) + q * R * R / (6 * k)}, {FigureKind::min, "core", 300 + q * R / (3 * h)}});
    }
    for (const double cell : {4_mm, 2.5_mm, 1.5_mm}) {
        Model fin = straight_fin(cell, 3);
        fin.sensors = {{.name = "tip", .in = "fin", .at = {30_mm, 1_mm, 2_mm}}};
        compare(fin, {{FigureKind::sensor, "tip", celsius(71.53696030362082)}, {FigureKind::cooling, "cooling 1", 202.05151569359745 * 4e-3}});

        Model plate = orthotropic_plate(2.0 * cell);
        plate.sensors = {{.name = "middle", .in = "plate", .at = {50_mm, 30_mm, 0}}, {.name = "aside", .in = "plate", .at = {20_mm, 15_mm, 0}}};
        compare(plate, {{FigureKind::sensor, "middle", celsius(31.12441056562077)},
                        {FigureKind::sensor, "aside", celsius(30.813813479133163)},
                        {FigureKind::hold, "hold 2", 269.1058747076724e-3}});

        Model edge = convected_plate(16.0 * cell);
        edge.sensors = {{.name = "edge", .in = "plate", .at = {0.6, 0.2, 5_mm}}};
        compare(edge, {{FigureKind::sensor, "edge", celsius(18.25375653713422)}});

        compare(generating_slab(cell), {{FigureKind::max, "slab", celsius(97.56177941134813)},
                                        {FigureKind::min, "slab", celsius(82.84552845528457)},
                                        {FigureKind::cooling, "cooling 1", 1129.268292682927e-6}});
        compare(annular_fin(cell), {{FigureKind::min, "fin", celsius(102.21844780910774)}, {FigureKind::hold, "hold 1", -17.289796047606554}});
    }
    for (const int through : {3, 5}) {
        const double cell = 9_mm / through;
        Model spread = spreading_plate(cell, through);
        spread.sensors = {{.name = "corner", .in = "plate", .at = {}}};
        compare(spread, {{FigureKind::max, "plate", celsius(74.70391210332838)}, {FigureKind::sensor, "corner", celsius(65.04330181091638)}});

        Model pair = two_sources(1.5 * cell, through);
        pair.sensors = {{.name = "A", .in = "plate", .at = {42.5_mm, 40_mm, 0}},
                        {.name = "B", .in = "plate", .at = {106_mm, 67.5_mm, 0}},
                        {.name = "middle", .in = "plate", .at = {75_mm, 50_mm, 0}}};
        compare(pair, {{FigureKind::max, "plate", celsius(101.99221661632032)},
                       {FigureKind::sensor, "A", celsius(101.97486705906655)},
                       {FigureKind::sensor, "B", celsius(97.29027283656909)},
                       {FigureKind::sensor, "middle", celsius(95.09236311949823)}});

        Model compound = compound_spreader(cell, through);
        compound.sensors = {{.name = "middle", .in = "spreader", .at = {30_mm, 30_mm, 0}}, {.name = "corner", .in = "spreader", .at = {60_mm, 60_mm, 0}}};
        compare(compound, {{FigureKind::sensor, "middle", celsius(82.40853140638947)}, {FigureKind::sensor, "corner", celsius(68.15334971185668)}});

        Model layers = layered_board(0.5 * cell), smeared = smeared_board(0.5 * cell, 2 * through);
        layers.sensors = {{.name = "middle", .in = "layer 1", .at = {25_mm, 25_mm, 0}}, {.name = "corner", .in = "layer 1", .at = {50_mm, 50_mm, 0}}};
        compare(layers, {{FigureKind::sensor, "middle", celsius(42.55554607375994)}, {FigureKind::sensor, "corner", celsius(30.022837401592312)}});
        smeared.sensors = {{.name = "middle", .in = "board", .at = {25_mm, 25_mm, 0}}, {.name = "corner", .in = "board", .at = {50_mm, 50_mm, 0}}};
        compare(smeared, {{FigureKind::sensor, "middle", celsius(46.92043805959881)}, {FigureKind::sensor, "corner", celsius(29.91665755086131)}});

        Model pin = pin_fin(0.4 * cell);
        pin.sensors = {{.name = "tip", .in = "pin", .at = {30_mm, 0, 0}}};
        compare(pin, {{FigureKind::sensor, "tip", celsius(66.63383230048511)}, {FigureKind::hold, "hold 1", -1.7418790359535303}});

        compare(disc_with_source(0.6 * cell, through), {{FigureKind::max, "disc", celsius(66.2866705220687)}});
    }
}

}  // namespace

TEST_CASE("error bars hold the true error and are not much wider", "[verification]") {
    Tally tally;
    each_known_case([&](const Model& model, const std::vector<Exact>& known) {
        const BarredSolution s = solve_with_error_bars(model, studies_of(model).front());
        REQUIRE(s.findings.error_bars.has_value());
        tally_up(s.findings, known, tally);
    });
    WARN("error bars: " << tally.inside << " of " << tally.all << " true errors within, " << tally.within_five << " bars at most five times the error");
    CHECK(tally.inside >= 0.95 * tally.all);
    CHECK(tally.within_five >= 0.5 * tally.all);
}

TEST_CASE("the errors of a plain solve hold the true ones and are not much wider, and their estimates improve the values", "[verification]") {
    Tally tally;
    int nearer = 0, tight = 0;
    each_known_case([&](const Model& model, const std::vector<Exact>& known) {
        const SteadySolution solution = solve_steady(model);
        const Findings found = findings(model, solution);
        tally_up(found, known, tally);
        for (const Exact& k : known) {
            const Figure& figure = figure_of(found, k);
            const bool temperature = info(k.kind).quantity->absolute_temperature;
            const double scale = std::abs(temperature ? *figure.value - solution.network->lowest_known : *figure.value), told = figure.bar->error;
            const double off = std::abs(figure.solved.value() - k.value), left = std::abs(*figure.value - k.value);
            if (left <= 0.5 * off || left <= 0.2 * told) ++nearer;
            if (told <= 5.0 * off || told <= 2e-3 * scale) ++tight;  // less than the least that is told, 0.1 % of the rise, cannot be expected
        }
    });
    WARN("errors of one mesh: " << tally.inside << " of " << tally.all << " true errors within, " << tight
                                << " told at most five times too large or next to nothing; corrections take at least half of the error away from " << nearer);
    CHECK(tally.inside >= 0.95 * tally.all);
    CHECK(tight >= 0.75 * tally.all);
    CHECK(nearer >= 0.7 * tally.all);
}

TEST_CASE("the errors of a plain solve hold on random assemblies of cut shapes", "[verification]") {
    int all = 0, inside = 0;
    for (unsigned seed = 1; seed <= 10; ++seed) {
        const Model model = random_assembly_of_shapes(seed);
        Model finer = model;
        finer.mesh.coarsening *= 0.45;
        const Findings plain = findings(model, solve_steady(model)), fine = findings(finer, solve_steady(finer));
        for (const Figure& one : plain.figures) {
            const auto other = std::find_if(fine.figures.begin(), fine.figures.end(), [&](const Figure& f) { return same(f, one); });
            if (other == fine.figures.end() || other->error() > one.error()) continue;
            ++all;
            if (std::abs(*one.value - *other->value) <= one.error()) ++inside;
        }
    }
    WARN("random assemblies: " << inside << " of " << all << " errors within");
    CHECK(all > 300);
    CHECK(inside >= 0.93 * all);
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
    for (const Figure& figure : f.figures) {
        if (figure.kind != FigureKind::joint_flow) continue;
        flows.push_back(*figure.value);
        CHECK(figure.bar.value().error < 0.2);  // flows of the two differ by far more
    }
    REQUIRE(flows.size() == 2);
    CHECK(std::abs(flows[0] - flows[1]) > 1.0);
}

TEST_CASE("the error estimate of three values", "[verification]") {
    const auto second_order = [](double h) { return 10.0 + h * h; };
    const std::vector<double> smooth{second_order(1.0), second_order(1.5), second_order(2.25)}, pair{smooth[0], smooth[1]};
    const DiscretisationError e = discretisation_error(smooth, 1.5);
    CHECK(e.trusted);
    CHECK(e.order.value() == Approx(2.0).epsilon(1e-6));
    CHECK(e.error >= 1.0);  // the true error
    CHECK(e.error < 3.0);
    CHECK_FALSE(discretisation_error(pair, 1.5).trusted);
    CHECK(discretisation_error(pair, 1.5).error >= e.error);
    CHECK_FALSE(discretisation_error(std::vector<double>{1.0, 1.2, 0.9}, 1.5).trusted);
    CHECK(discretisation_error(std::vector<double>{5.0, 5.0, 5.0}, 1.5).error < 1e-6);
}
