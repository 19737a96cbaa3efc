// Figures that a model names: against closed forms, against what findings tell of the same things, in every kind of study.

#include "models.hpp"
#include "random_assemblies.hpp"

#include "findings/share_above.hpp"

#include <catch2/catch.hpp>

#include <cmath>

using namespace firnfield;
using namespace firnfield::test;
using namespace firnfield::literals;
using Catch::Matchers::Contains;

namespace {

Threshold kelvin(double k) { return {k, kinds::temperature_difference}; }

/// A bar with 10 W into one end, held at 20 °C at the other: k = 100 W/(m K), 100 mm long, 100 mm².
Model bar() {
    Model m;
    m.mesh.cell = 5_mm;
    m.add(plain("metal", 100.0));
    m.add(block("bar", {100_mm, 10_mm, 10_mm}, {}, "metal"));
    m.add(Surface{.name = "hot end", .pick = side("bar", Side::minus_x)});
    m.add(Power{.name = "heater", .on = side("bar", Side::minus_x), .total = 10.0});
    m.add(Hold{.name = "sink", .on = side("bar", Side::plus_x), .temperature = 20_degC});
    return m;
}
constexpr double rise = 10.0 * 0.1 / (100.0 * 1e-4);  // K

double value(const Findings& f, const std::string& name) {
    for (const NamedFinding& n : f.named) {
        if (n.name == name) return n.value.value();
    }
    FAIL("no figure " << name);
    return 0.0;
}

const NamedOverTime& named(const TimeFindings& f, const std::string& name) {
    const auto found = std::find_if(f.named.begin(), f.named.end(), [&](const NamedOverTime& n) { return n.name == name; });
    REQUIRE(found != f.named.end());
    return *found;
}

Findings solved(const Model& m) { return findings(m, solve_steady(m)); }

/// One hot body in air, alike throughout: time constant 400 s from 120 °C towards 20 °C.
Model cooling_down() {
    Model m;
    m.mesh.cell = 5_mm;
    m.add(Material{.name = "metal", .conductivity = isotropic(1e4), .density = 2000.0, .specific_heat = 1000.0});
    m.add(block("body", {20_mm, 20_mm, 20_mm}, {}, "metal"));
    Cooling air = convection(exposed(), 2000.0 * 1000.0 * 8e-6 / (400.0 * 24e-4), 20_degC);
    air.name = "air";
    m.add(air);
    Study study{.name = "cooling", .ambient = 20_degC, .kind = StudyKind::transient, .lasts = 1000.0, .tolerance = 0.01};
    study.start.temperature = 120_degC;
    m.add(study);
    return m;
}

}  // namespace

TEST_CASE("figures of a heated bar are those of its closed form", "[findings]") {
    Model m = bar();
    m.add(NamedFigure{.name = "spread", .value = "= 'bar.max' - 'bar.min'"});
    m.add(NamedFigure{.name = "middle", .value = "= ('bar.max' + 'bar.min') / 2"});
    m.add(NamedFigure{.name = "resistance", .value = "= spread / 'heater.heat'"});
    m.add(NamedFigure{.name = "lost", .value = "= 'heater.heat' - 'sink.heat'"});
    m.add(NamedFigure{.name = "end", .value = "surface.hot end.mean"});
    m.add(NamedFigure{.name = "weight", .value = "mass"});
    m.add(NamedFigure{.name = "nothing", .value = "= 1 W / ('sink.heat' - 'sink.heat')"});
    m.add(Limit{.figure = "spread", .below = kelvin(90.0)});
    m.add(Limit{.figure = "bar.mean", .below = 75_degC, .above = 60_degC});
    m.add(Milestone{.figure = "resistance", .rises_above = Threshold(5.0, kinds::thermal_resistance)});
    const Findings f = solved(m);
    CHECK(value(f, "spread") == Approx(rise).epsilon(1e-9));
    CHECK(value(f, "middle") == Approx(20_degC + 0.5 * rise).epsilon(1e-9));
    CHECK(value(f, "resistance") == Approx(rise / 10.0).epsilon(1e-9));
    CHECK(std::abs(value(f, "lost")) < 1e-8);
    CHECK(value(f, "end") == Approx(20_degC + rise).epsilon(1e-9));
    CHECK(value(f, "weight") == Approx(2000.0 * 1e-5).epsilon(1e-9));
    CHECK_FALSE(std::find_if(f.named.begin(), f.named.end(), [](const NamedFinding& n) { return n.name == "nothing"; })->value.has_value());
    REQUIRE(f.limits.size() == 3);
    CHECK(f.limits[0].of == SubjectKind::figure);
    CHECK(f.limits[0].margin == Approx(90.0 - rise).epsilon(1e-9));
    CHECK_FALSE(f.limits[0].kept());
    CHECK(f.limits[1].margin == Approx(5.0).margin(1e-6));
    CHECK(f.limits[2].margin == Approx(10.0).margin(1e-6));
    CHECK(f.verdict() == Verdict::missed);
    CHECK(f.milestones.at(0).past());
    const std::string text = to_text(f);
    CHECK_THAT(text, Contains("1 OF 3 LIMITS MISSED   worst by 10.00 K ± 0.10 K, spread") && Contains("< 90.00 K") && Contains("10.00 K/W") &&
                         Contains("lost                0 W") && Contains("not defined") && Contains("resistance above 5.00 K/W"));
    // Its error bars are those of what it is made of, and no place is explained where only a figure has a limit.
    const auto figure = std::find_if(f.figures.begin(), f.figures.end(), [](const Figure& x) { return x.kind == FigureKind::figure && x.name == "spread"; });
    REQUIRE(figure != f.figures.end());
    CHECK(figure->of->name == "temperature difference");
    CHECK(figure->bar->error < 0.5);
    CHECK(tightest(f).part.empty());
    for (const Figure& x : f.figures) CHECK((x.name != "weight" || !x.bar));  // no temperature is in it
    CHECK(through_file(m) == m);
}

TEST_CASE("the share of a part above a temperature is that of a linear course", "[findings]") {
    CHECK(share_of_box_above({1.0, 0.0, 0.0}, 0.5) == Approx(0.25));
    CHECK(share_of_box_above({1.0, 1.0, 0.0}, 1.0) == Approx(0.125));
    CHECK(share_of_box_above({1.0, 1.0, 1.0}, 2.0) == Approx(1.0 / 48.0));
    CHECK(share_of_box_above({0.3, 2.0, 0.7}, 0.0) == Approx(0.5));
    CHECK(share_of_box_above({0.3, 2.0, 0.7}, -0.4) == Approx(1.0 - share_of_box_above({2.0, 0.7, 0.3}, 0.4)));
    CHECK(share_of_box_above({0.0, 0.0, 0.0}, 1.0) == 0.0);
    CHECK(share_of_box_above({0.0, 0.0, 0.0}, -1.0) == 1.0);
    Model m = bar();
    for (const int t : {30, 47, 60, 110}) m.add(NamedFigure{.name = std::to_string(t), .value = "bar.share above " + std::to_string(t) + " degC"});
    m.add(NamedFigure{.name = "band", .value = "= '30' - '60'"}).add(Limit{.figure = "bar.share above 80 degC", .below = Threshold(0.5, kinds::number)});
    const Findings f = solved(m);
    for (const int t : {30, 47, 60, 110}) CHECK(value(f, std::to_string(t)) == Approx((120.0 - t) / rise).margin(2e-3));
    CHECK(value(f, "band") == Approx(0.3).margin(2e-3));
    CHECK(f.limits.at(0).margin == Approx(0.1).margin(2e-3));
    m.figures.front().value = "bar.share above 30 W";
    CHECK_THROWS_WITH(build_mesh(m), Contains("figure[0].value") && Contains("does not measure a temperature"));
}

TEST_CASE("what is left out of a study has no figures there", "[findings]") {
    Model m = bar();
    m.add(convection(exposed(), 10.0, 20_degC));
    m.coolings.front().name = "air";
    m.add(NamedFigure{.name = "by air", .value = "air.heat"}).add(NamedFigure{.name = "share", .value = "= 'air.heat' / 'heater.heat'"});
    m.add(Limit{.figure = "share", .below = Threshold(0.5, kinds::number)});
    m.studies = {Study{.name = "with"}, Study{.name = "without", .without = {"air"}}};
    const auto mesh = std::make_shared<const Mesh>(build_mesh(m));
    const Findings with = findings(m, solve_steady(m, mesh, m.studies[0])), without = findings(m, solve_steady(m, mesh, m.studies[1]));
    CHECK(with.named.size() == 2);
    CHECK(value(with, "share") == Approx(value(with, "by air") / 10.0));
    CHECK(with.limits.size() == 1);
    CHECK(without.named.empty());
    CHECK(without.limits.empty());
    const std::string text = to_text(without);
    CHECK_THAT(text, Contains("figure \"by air\" is not told: cooling \"air\" is left out") && Contains("limit on \"share\" was not judged"));
}

TEST_CASE("figures in time follow the closed form of a cooling body", "[findings]") {
    Model m = cooling_down();
    m.add(NamedFigure{.name = "above air", .value = "= 'body.mean' - 20 degC"});
    m.add(NamedFigure{.name = "heat", .value = "air.heat"});
    m.add(NamedFigure{.name = "late", .value = "= 'body.mean' < 60 degC ? 'air.heat' : 0 W / 0"});
    m.add(Limit{.figure = "above air", .below = kelvin(30.0), .after = 600.0});
    m.add(Limit{.figure = "heat", .above = Threshold(1.0, kinds::power)});
    m.add(Milestone{.figure = "above air", .falls_below = kelvin(50.0)});
    const TimeFindings f = solve_over_time(m, m.studies.front());
    const auto left = [](double t) { return 100.0 * std::exp(-t / 400.0); };
    const NamedOverTime& above = named(f, "above air");
    CHECK(above.highest.value() == Approx(100.0).margin(1e-6));
    CHECK(above.highest_time.value() == 0.0);
    CHECK(above.lowest.value() == Approx(left(1000.0)).margin(0.05));
    CHECK(above.mean.value() == Approx(100.0 * 400.0 / 1000.0 * (1.0 - std::exp(-2.5))).margin(0.05));
    CHECK(above.end.value() == Approx(above.lowest.value()).margin(1e-6));
    const double capacity = 2000.0 * 1000.0 * 8e-6;
    CHECK(named(f, "heat").highest.value() == Approx(capacity * 100.0 / 400.0).epsilon(2e-3));
    CHECK(f.milestones.at(0).first.value() == Approx(400.0 * std::log(2.0)).margin(0.3));
    REQUIRE(f.limits.size() == 2);
    CHECK(f.limits[0].found_time == Approx(600.0));
    CHECK(f.limits[0].margin == Approx(30.0 - left(600.0)).margin(0.05));
    CHECK(f.limits[1].first_crossing.value() == Approx(400.0 * std::log(capacity * 100.0 / 400.0)).margin(1.0));
    CHECK_FALSE(f.limits[1].kept());
    CHECK(named(f, "late").highest.value() <= 1.001 * capacity * 40.0 / 400.0);
    CHECK(named(f, "late").highest.value() > 0.8 * capacity * 40.0 / 400.0);  // from the next sample on
    CHECK(named(f, "late").lowest.value() == Approx(named(f, "heat").lowest.value()));
    CHECK(std::find(f.history.columns.begin(), f.history.columns.end(), "above air (K)") != f.history.columns.end());
    // A difference of a temperature has its error; of flows none is known.
    const auto bar_of = [&](const std::string& name) {
        const auto figure = std::find_if(f.figures.begin(), f.figures.end(), [&](const Figure& x) { return x.kind == FigureKind::figure && x.name == name; });
        REQUIRE(figure != f.figures.end());
        return figure->bar.has_value();
    };
    CHECK(bar_of("above air"));
    CHECK_FALSE(bar_of("heat"));
    CHECK_THAT(to_text(f), Contains("Figures over the whole time") && Contains("above air below 50.0 K"));
}

TEST_CASE("a profile may act on the radiation of a cooling alone", "[findings]") {
    Model m = cooling_down();
    m.coolings.front().emissivity = 0.9;
    m.coolings.front().radiation_profile = {"shade"};
    m.add(Profile{.name = "shade", .points = {{0.0, 100.0, 1000.0}, {1.0, 0.0, 0.0}}, .stepped = true});
    m.add(NamedFigure{.name = "radiated", .value = "air.radiation"}).add(NamedFigure{.name = "convected", .value = "air.convection"});
    const TimeFindings f = solve_over_time(m, m.studies.front());
    const double at_start = 0.9 * stefan_boltzmann * 24e-4 * (std::pow(120_degC, 4) - std::pow(20_degC, 4));
    CHECK(named(f, "radiated").highest.value() == Approx(at_start).epsilon(0.01));
    CHECK(named(f, "radiated").end.value() == 0.0);
    CHECK(named(f, "convected").end.value() > 0.2);
    CHECK(std::abs(f.energy.relative_residual()) < 1e-9);
    CHECK(through_file(m) == m);
    m.coolings.front().emissivity.reset();
    CHECK_THROWS_WITH(build_mesh(m), Contains("acts on radiation, and the cooling has no emissivity"));
}

TEST_CASE("limits and milestones may be on several sensors by a wildcard", "[findings]") {
    Model m = bar();
    for (const int n : {1, 2, 3}) m.add(Sensor{.name = "row " + std::to_string(n), .in = "bar", .at = {0.025 * n, 0.005, 0.005}});
    m.add(Limit{.sensor = "row *", .below = 80_degC}).add(Milestone{.sensor = "row *", .rises_above = 60_degC});
    const Findings f = solved(m);
    REQUIRE(f.limits.size() == 3);
    CHECK(f.limits[2].subject == "row 3");
    CHECK(f.limits[0].found == Approx(20_degC + 0.75 * rise).margin(0.01));
    CHECK(f.milestones.size() == 3);
    m.studies = {Study{.name = "run", .ambient = 20_degC, .kind = StudyKind::transient, .lasts = 10.0}};
    CHECK(solve_over_time(m, m.studies[0]).limits.size() == 3);
    m.limits.back().sensor = "column *";
    CHECK_THROWS_WITH(build_mesh(m), Contains("unknown sensor"));
}

TEST_CASE("joints and resistors have one direction in figures, whatever way they are named", "[findings]") {
    Model m = block_on_plate();
    m.add(NamedFigure{.name = "in", .value = "pad.flow"}).add(NamedFigure{.name = "back", .value = "joint.plate - block.flow"});
    m.add(NamedFigure{.name = "drop", .value = "pad.drop"});
    m.add(Node{.name = "junction"}).add(Resistor{.name = "case", .between = {"junction", "block"}, .total = 0.5});
    m.powers.front().into = {"junction"};
    m.add(NamedFigure{.name = "through the case", .value = "case.flow"}).add(NamedFigure{.name = "over the case", .value = "= 'junction' - 'block.mean'"});
    Findings f = solved(m);
    CHECK(value(f, "in") > 10.0);
    CHECK(value(f, "in") == Approx(f.joints.front().flow));
    CHECK(value(f, "back") == Approx(-value(f, "in")));
    CHECK(value(f, "drop") == Approx(f.joints.front().drop));
    CHECK(value(f, "through the case") == Approx(15.0).epsilon(1e-6));
    CHECK(value(f, "over the case") == Approx(7.5).epsilon(0.02));
    std::swap(m.joints.front().between[0], m.joints.front().between[1]);
    f = solved(m);
    CHECK(value(f, "in") < -10.0);
    CHECK(value(f, "back") == Approx(value(f, "in")));
}

TEST_CASE("mirrored models tell figures of the whole product", "[findings]") {
    Model whole = block_on_plate(), half = block_on_plate();
    half.add(Mirror{.axis = 0, .at = 40_mm});
    for (Model* m : {&whole, &half}) {
        m->coolings.front().name = "air";
        m->add(NamedFigure{.name = "heat", .value = "air.heat"}).add(NamedFigure{.name = "flow", .value = "pad.flow"});
        m->add(NamedFigure{.name = "mass", .value = "mass"}).add(NamedFigure{.name = "mean", .value = "plate.mean"});
    }
    const Findings a = solved(whole), b = solved(half);
    for (const char* name : {"heat", "flow", "mass", "mean"}) CHECK(value(a, name) == Approx(value(b, name)).epsilon(1e-3));
}

TEST_CASE("any assembly: figures agree with findings, and the flows of all entries close", "[property]") {
    for (unsigned seed = 1; seed <= 12; ++seed) {
        INFO("seed " << seed);
        Model m = RandomAssembly(seed).make();
        m.mesh.refine = false;
        m.add(NamedFigure{.name = "hottest", .value = "part.*.max"}).add(NamedFigure{.name = "mean", .value = "part.*.mean"});
        m.add(NamedFigure{.name = "coldest", .value = "part.*.min"});
        std::string sum = "= 0 W";
        if (!m.powers.empty()) sum += " + 'power.*.heat'";
        if (!m.coolings.empty()) sum += " - 'cooling.*.heat'";
        if (!m.holds.empty()) sum += " - 'hold.*.heat'";
        for (std::size_t r = 0; r < m.resistors.size(); ++r) {
            m.resistors[r].name = "r" + std::to_string(r);
            const bool leads_out = m.resistors[r].between[0] == "ambient" || m.resistors[r].between[1] == "ambient";
            if (leads_out) sum += " - 'resistor.r" + std::to_string(r) + ".flow'";
        }
        m.add(NamedFigure{.name = "unaccounted", .value = sum});
        const SteadySolution solution = solve_steady(m);
        const Findings plain = findings(m, solution, {.errors = false}), f = findings(m, solution);
        CHECK(std::abs(value(plain, "unaccounted")) <= 1e-8 * std::max(plain.ledger.throughput, 1e-6));
        for (const Findings* found : {&plain, &f}) {
            double hottest = 0.0;
            for (const PartFinding& part : found->parts) hottest = std::max(hottest, part.hottest.temperature);
            CHECK(value(*found, "hottest") == Approx(hottest).epsilon(1e-12));
            CHECK(value(*found, "coldest") <= value(*found, "mean") + 1e-9);
            CHECK(value(*found, "mean") <= value(*found, "hottest") + 1e-9);
        }
        for (const Figure& figure : f.figures) CHECK((figure.kind != FigureKind::figure || figure.bar.has_value()));
    }
}
