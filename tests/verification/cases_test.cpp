// Cases with independent answers (series, closed forms, published benchmarks), as models that go through a file.
// Temperatures in °C; tolerances are those stated with each reference value.

#include "verification/case_models.hpp"

#include <catch2/catch.hpp>

#include <cmath>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;

namespace {

/// A case solved from its file; the file has to mean the same as the model built by hand.
class Case {
public:
    explicit Case(const Model& built) : model_(through_file(built)) {
        REQUIRE(model_ == built);
        solution_ = solve_steady(model_);
        found_ = firnfield::findings(model_, solution_);
        CHECK(std::abs(found_.ledger.relative_residual()) <= 1e-9);
    }
    [[nodiscard]] double at(const std::string& part, Vec3 point) const { return temperature_at(model_, solution_, part, point, "test") - zero_celsius; }
    [[nodiscard]] double max(std::size_t part) const { return found_.parts.at(part).hottest.temperature - zero_celsius; }
    [[nodiscard]] const Findings& findings() const { return found_; }

private:
    Model model_;
    SteadySolution solution_;
    Findings found_;
};

}  // namespace

TEST_CASE("s01: composite wall with two contact resistances", "[verification]") {
    Model m;
    m.mesh.cell = 1_mm;
    m.materials = {plain("k205", 205.0), plain("k0.9", 0.9), plain("k16.2", 16.2)};
    m.add(block("a", {2_mm, 4_mm, 4_mm}, {}, "k205"));
    m.add(block("b", {1.5_mm, 4_mm, 4_mm}, {2_mm, 0, 0}, "k0.9"));
    m.add(block("c", {10_mm, 4_mm, 4_mm}, {3.5_mm, 0, 0}, "k16.2"));
    m.add(Joint{.between = {"a", "b"}, .resistance = 5e-5});
    m.add(Joint{.between = {"b", "c"}, .resistance = 2e-4});
    m.add(film(side("a", Side::minus_x), 25.0, 120.0));
    m.add(film(side("c", Side::plus_x), 8.5, 20.0));
    const Case c(m);
    CHECK(c.findings().coolings[1].convection / 16e-6 == Approx(624.2557095218114).epsilon(1e-5));
    const Vec3 mid{0, 2_mm, 2_mm};
    const auto t = [&](const char* part, double x) { return c.at(part, mid + Vec3{x, 0, 0}); };
    CHECK(t("a", 0.0) == Approx(95.02977161912754).margin(0.001));
    CHECK(t("a", 2_mm) == Approx(95.02368131952245).margin(0.001));
    CHECK(t("b", 2_mm) == Approx(94.99246853404637).margin(0.001));
    CHECK(t("b", 3.5_mm) == Approx(93.95204235151002).margin(0.001));
    CHECK(t("c", 3.5_mm) == Approx(93.82719120960566).margin(0.001));
    CHECK(t("c", 13.5_mm) == Approx(93.44184817903664).margin(0.001));
}

TEST_CASE("s05: slab with generation between unequal films", "[verification]") {
    const Case c(generating_slab());
    const auto t = [&](double x) { return c.at("slab", {x, 0.5_mm, 0.5_mm}); };
    CHECK(t(0.0) == Approx(95.28455284552847).margin(0.05));
    CHECK(t(10_mm) == Approx(96.20789779326365).margin(0.05));
    CHECK(t(20_mm) == Approx(82.84552845528457).margin(0.05));
    CHECK(c.max(0) == Approx(97.56177941134813).margin(0.05));
    CHECK(c.findings().hottest.at.x == Approx(0.0056463414634146305).margin(0.0005));
    CHECK(c.findings().coolings[0].convection / 1e-6 == Approx(1129.268292682927).epsilon(0.001));
}

TEST_CASE("s10 as a plane: the resistances of a pipe's layers in a slab", "[verification]") {
    // The cylinder itself needs curved solids; the same films and layers in a plane have a closed form.
    Model m;
    m.mesh.cell = 1_mm;
    m.materials = {plain("pipe", 15.0), plain("insulation", 0.038)};
    m.add(block("wall", {2.5_mm, 5_mm, 5_mm}, {}, "pipe"));
    m.add(block("cover", {17.5_mm, 5_mm, 5_mm}, {2.5_mm, 0, 0}, "insulation"));
    m.add(film(side("wall", Side::minus_x), 900.0, 140.0));
    m.add(film(side("cover", Side::plus_x), 9.0, 24.0));
    const Case c(m);
    const double flux = (140.0 - 24.0) / (1.0 / 900.0 + 0.0025 / 15.0 + 0.0175 / 0.038 + 1.0 / 9.0);
    CHECK(c.findings().coolings[1].convection / 25e-6 == Approx(flux).epsilon(1e-9));
    CHECK(c.at("cover", {20_mm, 1_mm, 2_mm}) == Approx(24.0 + flux / 9.0).epsilon(1e-9));
}

TEST_CASE("b01: plate with convection on two edges, published benchmark", "[verification]") {
    CHECK(Case(convected_plate()).at("plate", {0.6, 0.2, 5_mm}) == Approx(18.25375653713422).margin(0.1));
}

TEST_CASE("o01: orthotropic rectangle with generation", "[verification]") {
    const Case c(orthotropic_plate());
    CHECK(c.at("plate", {50_mm, 30_mm, 0}) == Approx(31.12441056562077).margin(0.02));
    CHECK(c.at("plate", {20_mm, 15_mm, 0}) == Approx(30.813813479133163).margin(0.02));
    CHECK(c.findings().holds[1].flow / 1e-3 == Approx(269.1058747076724).epsilon(0.01));
}

TEST_CASE("f01: straight fin", "[verification]") {
    const Case c(straight_fin());
    const double per_metre = c.findings().coolings[0].convection / 4e-3;
    CHECK(per_metre == Approx(202.05151569359745).epsilon(0.01));
    CHECK(c.at("fin", {30_mm, 1_mm, 2_mm}) == Approx(71.53696030362082).margin(0.1));
    CHECK(c.at("fin", {30_mm, 0, 2_mm}) == Approx(71.5283720030816).margin(0.1));
    CHECK(per_metre / (60.0 * (2 * 0.03 + 0.002) * 60.0) == Approx(0.9052487262257951).epsilon(0.01));
}

TEST_CASE("f04: pin fin, as the square pin of the same efficiency", "[verification]") {
    // Round solids come later. A square pin with side 2r has the same perimeter over area, so in one dimension the same
    // tip temperature and efficiency; across the pin the temperature varies by less than the tolerance.
    Model m;
    m.mesh.cell = 0.5_mm;
    m.materials = {plain("k160", 160.0)};
    m.add(block("pin", {5_mm, 5_mm, 30_mm}, {}, "k160"));
    m.add(hold(side("pin", Side::minus_z), 75.0));
    m.add(film(exposed(), 80.0, 25.0));
    const Case c(m);
    CHECK(c.at("pin", {2.5_mm, 2.5_mm, 30_mm}) == Approx(66.63383230048511).margin(0.1));
    const double wet = 4 * 5e-3 * 30e-3 + 25e-6;
    CHECK(c.findings().coolings[0].convection / (80.0 * wet * 50.0) == Approx(0.8871317082884789).epsilon(0.01));
    CHECK(c.findings().coolings[0].convection * 3.14159265358979 / 4.0 == Approx(1.7418790359535303).epsilon(0.01));
}

TEST_CASE("p01: centred source on a plate, as a quarter with two mirrors", "[verification]") {
    const Case c(spreading_plate());
    CHECK(c.at("plate", {50_mm, 40_mm, 0}) == Approx(74.70391210332838).margin(0.25));
    CHECK(c.max(0) == Approx(74.70391210332838).margin(0.25));
    CHECK(c.at("plate", {0, 0, 0}) == Approx(65.04330181091638).margin(0.12012990543274912));
    const LoadFinding& load = c.findings().loads[0];
    CHECK(*load.mean_surface - zero_celsius == Approx(73.3326686251541).margin(0.25));
    CHECK((*load.mean_surface - celsius(25.0)) / load.heat == Approx(1.611088954171803).epsilon(0.005));
    CHECK(load.heat == Approx(30.0).epsilon(1e-12));
    CHECK(*load.area == Approx(20e-3 * 16e-3).epsilon(1e-12));
}

TEST_CASE("p03: two sources on one plate", "[verification]") {
    const Case c(two_sources());
    CHECK(c.at("plate", {42.5_mm, 40_mm, 0}) == Approx(101.97486705906655).margin(0.3598743352953328));
    CHECK(c.at("plate", {106_mm, 67.5_mm, 0}) == Approx(97.29027283656909).margin(0.33645136418284544));
    CHECK(*c.findings().loads[0].hottest_surface - zero_celsius == Approx(101.99221661632032).margin(0.35996108308160163));
    CHECK(*c.findings().loads[1].hottest_surface - zero_celsius == Approx(97.30810686328488).margin(0.3365405343164244));
    CHECK(*c.findings().loads[0].mean_surface - zero_celsius == Approx(100.8636299852785).margin(0.3543181499263925));
    CHECK(*c.findings().loads[1].mean_surface - zero_celsius == Approx(96.63068469548672).margin(0.3331534234774336));
    CHECK(c.at("plate", {75_mm, 50_mm, 0}) == Approx(95.09236311949823).margin(0.1952770893584947));
}

TEST_CASE("p04: spreader on a base with a joint between", "[verification]") {
    const Case c(compound_spreader());
    CHECK(c.at("spreader", {30_mm, 30_mm, 0}) == Approx(82.40853140638947).margin(0.28445118843833683));
    CHECK(c.at("spreader", {60_mm, 60_mm, 0}) == Approx(68.15334971185668).margin(0.19892009827114007));
    CHECK(c.at("spreader", {60_mm, 0, 0}) == Approx(68.15334971185668).margin(0.19892009827114007));
    CHECK(*c.findings().loads[0].mean_surface - zero_celsius == Approx(80.04052238781992).margin(0.27024313432691954));
}

TEST_CASE("p06: seven-layer board, resolved and smeared", "[verification]") {
    CHECK(Board::in_plane == Approx(36.91610738255033).epsilon(1e-4));
    CHECK(Board::through == Approx(0.33108469979602767).epsilon(1e-4));
    const Case r(layered_board());
    CHECK(*r.findings().loads[0].mean_surface - zero_celsius == Approx(40.3056800825951).margin(0.20305680082595104));
    CHECK(r.at("layer 1", {25_mm, 25_mm, 0}) == Approx(42.55554607375994).margin(0.2255554607375994));
    CHECK(r.at("layer 1", {50_mm, 50_mm, 0}) == Approx(30.022837401592312).margin(0.10022837401592312));

    const Case s(smeared_board());
    CHECK(*s.findings().loads[0].mean_surface - zero_celsius == Approx(43.909127896621854).margin(0.23909127896621854));
    CHECK(s.at("board", {25_mm, 25_mm, 0}) == Approx(46.92043805959881).margin(0.2692043805959881));
    CHECK(s.at("board", {50_mm, 50_mm, 0}) == Approx(29.91665755086131).margin(0.09916657550861309));
}

TEST_CASE("r01: bar radiating from its end, published benchmark", "[verification]") {
    Model m;
    m.mesh.cell = 2_mm;
    m.mesh.through = 1;
    m.materials = {plain("k55.6", 55.6)};
    m.add(block("bar", {100_mm, 10_mm, 10_mm}, {}, "k55.6"));
    m.add(Hold{.on = side("bar", Side::minus_x), .temperature = 1000.0});
    m.add(Cooling{.on = side("bar", Side::plus_x), .emissivity = 0.98, .ambient = 300.0});
    const Case c(m);
    CHECK(c.at("bar", {100_mm, 5_mm, 5_mm}) + zero_celsius == Approx(927.0039504520639).margin(0.05));
    CHECK(c.findings().coolings[0].radiation / 1e-4 == Approx(40585.80354865246).epsilon(0.001));
    CHECK(c.findings().summary.newton_iterations <= 8);
}

TEST_CASE("r09: two opposed black plates, open to surroundings", "[verification]") {
    // The view factor between the plates is given (analytic value of the case); what a plate does not see of the other,
    // it sees of the surroundings. Plates so conductive that each is isothermal.
    const double f12 = 0.4152532835771469;
    Model m;
    m.mesh.cell = 50_mm;
    m.materials = {plain("ideal", 50000.0)};
    m.add(block("heated", {0.5, 0.5, 5_mm}, {0, 0, -0.005}, "ideal"));
    m.add(block("floating", {0.5, 0.5, 5_mm}, {0, 0, 0.25}, "ideal"));
    m.add(Joint{.between = {"heated", "floating"}, .exchange_factor = f12, .reach = 0.25});
    m.add(heat("heated", 150_W));
    for (const auto& [part, direction] : {std::pair{"heated", Side::plus_z}, std::pair{"floating", Side::minus_z}}) {
        m.add(Cooling{.on = side(part, direction), .emissivity = 1.0 - f12, .ambient = 20_degC});
    }
    const Case c(m);
    CHECK(c.at("heated", {0.25, 0.25, 0}) == Approx(103.7126880701523).margin(0.3));
    CHECK(c.at("floating", {0.25, 0.25, 0.25}) == Approx(62.514110876808786).margin(0.3));
}

TEST_CASE("r12: radiating fin", "[verification]") {
    Model m;
    m.mesh.cell = 1_mm;
    m.materials = {plain("k150", 150.0)};
    m.add(block("fin", {150_mm, 2_mm, 2_mm}, {}, "k150"));
    m.add(hold(side("fin", Side::minus_x), 250.0));
    Selection faces = side("fin", Side::minus_y);
    faces.sides.emplace_back("+y");
    m.add(Cooling{.on = faces, .emissivity = 0.9, .ambient = celsius(-20)});
    const Case c(m);
    CHECK(c.at("fin", {150_mm, 1_mm, 1_mm}) == Approx(136.92850911861586).margin(0.3));
    CHECK(c.findings().coolings[0].radiation / 2e-3 == Approx(556.305612818909).epsilon(0.006));
    CHECK(c.findings().summary.newton_iterations <= 8);
}
