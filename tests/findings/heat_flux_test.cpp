// Heat flux, heat through sections and surfaces, and surfaces of one temperature: against closed forms.

#include "models.hpp"

#include "findings/surface_field.hpp"

#include <fmt/format.h>
#include <catch2/catch.hpp>

#include <cmath>

using namespace firnfield;
using namespace firnfield::test;
using namespace firnfield::literals;
using Catch::Matchers::Contains;

namespace {

/// 10 W pass a bar of 100 mm² towards +x; another 5 W come up evenly in it. k = 100 W/(m K), 100 mm long.
Model bar(double inside = 5.0) {
    Model m;
    m.mesh.cell = 5_mm;
    m.add(plain("metal", 100.0));
    m.add(block("bar", {100_mm, 10_mm, 10_mm}, {}, "metal"));
    m.add(Surface{.name = "hot end", .pick = side("bar", Side::minus_x)});
    m.add(Surface{.name = "cold end", .pick = side("bar", Side::plus_x)});
    m.add(Power{.name = "heater", .on = side("bar", Side::minus_x), .total = 10.0});
    if (inside > 0.0) m.add(heat("bar", inside));
    Cooling cold = convection(side("bar", Side::plus_x), 5000.0, 20_degC);
    cold.name = "cold";
    m.add(cold);
    return m;
}

double figure(Model m, const std::string& address) {
    m.figures.push_back({.name = "asked", .value = address});
    const Findings found = findings(m, solve_steady(m));
    for (const Warning& w : found.warnings) UNSCOPED_INFO(w.message);
    REQUIRE(found.named.size() == 1);
    REQUIRE(found.named.front().value);
    return *found.named.front().value;
}

double area_above(const Model& m, const SteadySolution& solution, double level, double& iso, Vec3& closure) {
    const SurfaceField field = surface_field(solution, {.hidden = picked_bodies(m, *solution.mesh, {}), .section = {}, .above = level});
    double all = 0.0;
    for (const SurfacePiece& piece : field.pieces) {
        const auto c = field.of(piece);
        Vec3 area;
        for (std::size_t i = 1; i + 1 < c.size(); ++i)
            area = area + 0.5 * cross(field.corners[c[i]] - field.corners[c[0]], field.corners[c[i + 1]] - field.corners[c[0]]);
        all += length(area);
        closure = closure + area;
        if (piece.tag == 0xFFFE) iso += length(area);
        for (const Index corner : c) CHECK(field.temperature[corner] >= level - 1e-9);
    }
    return all;
}

}  // namespace

TEST_CASE("heat through a section is what comes from before it, at any place", "[findings]") {
    for (const double x : {0.5, 13.0, 50.0, 50.1, 77.7, 99.9}) {
        INFO(x);
        CHECK(figure(bar(), fmt::format("bar.flow through x = {} mm", x)) == Approx(10.0 + 5.0 * x / 100.0).epsilon(1e-6));
    }
    CHECK(figure(bar(), "bar.flow through y = 4 mm") == Approx(0.0).margin(1e-9));
    CHECK(figure(bar(), "surface.cold end.flow") == Approx(15.0).epsilon(1e-6));
    CHECK(figure(bar(), "surface.hot end.flow") == Approx(-10.0).epsilon(1e-6));  // it enters
    CHECK(figure(bar(0.0), "bar.flux") == Approx(10.0 / 1e-4).epsilon(1e-6));
    CHECK(figure(bar(), "bar.flux") == Approx(15.0 / 1e-4).epsilon(0.03));
}

TEST_CASE("a section of a product that is computed in part is that of the whole, or is not told", "[findings]") {
    Model m = bar();
    m.powers.clear();
    m.add(heat("bar", 8.0));
    m.coolings.clear();
    m.add(convection(side("bar", Side::plus_x), 5000.0, 20_degC));
    m.add(Mirror{.axis = 1, .at = 5_mm, .keep_plus = true});
    CHECK(figure(m, "bar.flow through x = 50 mm") == Approx(4.0).epsilon(1e-6));
    // Of a bar that is cooled at both ends one half: what passes the section on the kept side.
    Model half = bar();
    half.powers.clear();
    half.coolings.clear();
    half.surfaces.clear();
    half.add(heat("bar", 8.0));
    half.add(convection(side("bar", Side::plus_x), 5000.0, 20_degC));
    half.add(Mirror{.axis = 0, .at = 50_mm, .keep_plus = true});
    CHECK(figure(half, "bar.flow through x = 75 mm") == Approx(2.0).epsilon(1e-6));
    CHECK(figure(half, "bar.flow through x = 50 mm") == Approx(0.0).margin(1e-9));
    Model beyond = bar();
    beyond.figures.push_back({.name = "asked", .value = "bar.flow through x = 2 m"});
    const Findings found = findings(beyond, solve_steady(beyond));
    CHECK(found.named.empty());
    REQUIRE(!found.warnings.empty());
    CHECK_THAT(found.warnings.back().message + found.warnings.front().message, Contains("does not meet the part"));
    for (const char* wrong :
         {"bar.flow through w = 2 mm", "bar.flow through x", "bar.flow through x = 2", "bar.flow through x = 2 kg", "bar.flow through x y = 2 mm"}) {
        INFO(wrong);
        Model mistaken = bar();
        mistaken.figures.push_back({.name = "asked", .value = wrong});
        CHECK(validate(mistaken).size() == 1);
    }
}

TEST_CASE("a section counts what begins and ends in it, and what several parts carry together", "[findings]") {
    // Two legs in a row beside one long bar, all insulated along their length.
    Model m;
    m.mesh.cell = 5_mm;
    m.add(plain("metal", 100.0));
    m.add(block("leg a", {40_mm, 10_mm, 10_mm}, {}, "metal"));
    m.add(block("leg b", {60_mm, 10_mm, 10_mm}, {40_mm, 0.0, 0.0}, "metal"));
    m.add(block("long", {100_mm, 10_mm, 10_mm}, {0.0, 20_mm, 0.0}, "metal"));
    for (const char* part : {"leg a", "long"}) m.add(Power{.name = part, .on = side(part, Side::minus_x), .total = 3.0});
    for (const char* part : {"leg b", "long"}) m.add(convection(side(part, Side::plus_x), 5000.0, 20_degC));
    for (const double x : {0.0, 20.0, 39.0, 40.0, 41.0, 77.0, 100.0}) {
        INFO(x);
        const std::string plane = fmt::format(".flow through x = {} mm", x);
        CHECK(figure(m, "long" + plane) == Approx(3.0).epsilon(1e-6));
        CHECK(figure(m, (x <= 40.0 ? "leg a" : "leg b") + plane) == Approx(3.0).epsilon(1e-6));
        CHECK(figure(m, "l*" + plane) == Approx(6.0).epsilon(1e-6));
    }
}

TEST_CASE("sections of revolved and plane models", "[findings]") {
    // A pipe that is heated inside and cooled outside: the same heat through every radius. Its ends are insulated.
    Model pipe;
    pipe.space = Space{.revolved = true};
    pipe.mesh.cell = 1_mm;
    pipe.add(plain("metal", 15.0));
    pipe.add(Part{.name = "pipe", .shape = Tube{.outer_radius = 20_mm, .inner_radius = 10_mm, .length = 50_mm}, .material = "metal"});
    pipe.add(Power{.name = "heater", .on = Selection{.parts = {"pipe"}, .facing = {{-1.0, 0.0, 0.0}}}, .total = 20.0});
    pipe.add(convection(Selection{.parts = {"pipe"}, .facing = {{1.0, 0.0, 0.0}}}, 50.0, 20_degC));
    for (const double r : {10.0, 12.5, 15.0, 20.0}) {
        INFO(r);
        CHECK(figure(pipe, fmt::format("pipe.flow through x = {} mm", r)) == Approx(20.0).epsilon(1e-4));
    }
    CHECK(figure(pipe, "pipe.flow through z = 20 mm") == Approx(0.0).margin(1e-6));
    // Most at the bore: the mean over its first ring of cells lies below P / (2 π r L).
    CHECK(figure(pipe, "pipe.flux") == Approx(20.0 / (2.0 * 3.14159265 * 10e-3 * 50e-3)).epsilon(0.06));
    Model plane = bar(0.0);
    plane.space = Space{.revolved = false, .depth = 10_mm};
    CHECK(figure(plane, "bar.flow through x = 30 mm") == Approx(10.0).epsilon(1e-6));
    for (auto& [model, address] : {std::pair{&pipe, "pipe.flow through y = 0 mm"}, std::pair{&plane, "bar.flow through z = 5 mm"}}) {
        model->figures = {{.name = "asked", .value = address}};
        const Findings found = findings(*model, solve_steady(*model));
        CHECK(found.named.empty());
        CHECK(std::any_of(found.warnings.begin(), found.warnings.end(), [](const Warning& w) { return w.kind == "figure_not_told"; }));
    }
}

TEST_CASE("the share of a surface above a temperature follows it smoothly", "[findings]") {
    Model m = bar(0.0);
    m.add(Surface{.name = "side", .pick = side("bar", Side::plus_z)});
    const double cold = 293.15 + 10.0 / (5000.0 * 1e-4), slope = 10.0 / (100.0 * 1e-4);
    for (const double x : {0.013, 0.0314, 0.05, 0.0871}) {
        INFO(x);
        CHECK(figure(m, fmt::format("surface.side.share above {} degC", cold + slope * (0.1 - x) - zero_celsius)) == Approx(x / 0.1).margin(1e-4));
    }
    CHECK(figure(m, "surface.side.share above -10 degC") == 1.0);
    CHECK(figure(m, "surface.side.share above 2000 degC") == 0.0);
}

TEST_CASE("over time fluxes, flows and shares are followed, without an error that is not theirs", "[findings]") {
    Model m = bar();
    m.add(Surface{.name = "side", .pick = side("bar", Side::plus_z)});
    const std::vector<std::string> addresses{"bar.flow through x = 50 mm", "bar.flux", "surface.cold end.flow", "surface.side.share above 50 degC",
                                             "bar.share above 50 degC"};
    for (const std::string& address : addresses) m.figures.push_back({.name = address, .value = address});
    m.figures.push_back({.name = "hottest", .value = "bar.max"});
    Study run{.name = "run", .ambient = 20_degC, .kind = StudyKind::transient, .lasts = 3000.0};
    run.start.temperature = 20_degC;
    m.add(run);
    const TimeFindings found = solve_over_time(m, m.studies.front());
    const Findings steady = findings(m, solve_steady(m));
    for (const NamedOverTime& row : found.named) {
        INFO(row.name);
        const auto same = std::find_if(steady.named.begin(), steady.named.end(), [&](const NamedFinding& n) { return n.name == row.name; });
        REQUIRE(same != steady.named.end());
        REQUIRE(row.end);
        CHECK(*row.end == Approx(*same->value).epsilon(2e-3));
        const Figure* figure = nullptr;
        for (const Figure& f : found.figures) figure = f.kind == FigureKind::figure && f.name == row.name ? &f : figure;
        REQUIRE(figure != nullptr);
        CHECK(figure->bar.has_value() == (row.name == "hottest"));
    }
}

TEST_CASE("findings tell where the heat flux of each part is highest", "[findings]") {
    const Model m = block_on_plate();
    const Findings found = findings(m, solve_steady(m));
    REQUIRE(found.fluxes.size() == 2);
    CHECK(found.fluxes[0].flux >= found.fluxes[1].flux);
    // Heat of the block passes 2 cm² of pad.
    CHECK(found.fluxes[0].flux > 0.8 * 15.0 / 2e-4);
    for (const FluxFinding& row : found.fluxes) CHECK(row.body == row.part);
}

TEST_CASE("a surface of one temperature lies where the temperature is, and closes what is hotter", "[findings][report]") {
    const Model m = bar(0.0);
    const SteadySolution solution = solve_steady(m);
    const double cold = 293.15 + 10.0 / (5000.0 * 1e-4), slope = 10.0 / (100.0 * 1e-4);
    for (const double hot_length : {0.013, 0.05, 0.0871}) {
        double iso = 0.0;
        Vec3 closure;
        const double all = area_above(m, solution, cold + slope * (0.1 - hot_length), iso, closure);
        CHECK(iso == Approx(1e-4).epsilon(1e-6));
        CHECK(all == Approx(4.0 * hot_length * 0.01 + 2e-4).epsilon(1e-3));
        CHECK(length(closure) < 1e-3 * all);
    }
    // A rod that the grid cuts: where it is round the surface ends at its skin.
    Model rod = bar(0.0);
    rod.mesh.cell = 1_mm;
    rod.parts[0].shape = Cylinder{.radius = 5_mm, .length = 100_mm};
    rod.parts[0].rotate = {Rotation{.axis = {0.0, 1.0, 0.0}, .angle = 90.0}};
    for (Selection* on : {&*rod.powers[0].on, &rod.coolings[0].on}) *on = Selection{.parts = {"bar"}, .sides = {on == &rod.coolings[0].on ? "top" : "bottom"}};
    rod.surfaces.clear();
    const SteadySolution round = solve_steady(rod);
    const Findings found = findings(rod, round);
    double iso = 0.0;
    Vec3 closure;
    const double middle = 0.5 * (found.parts[0].hottest.temperature + found.parts[0].coldest.temperature);
    const double all = area_above(rod, round, middle, iso, closure);
    CHECK(iso == Approx(3.14159 * 25e-6).epsilon(0.02));
    CHECK(length(closure) < 0.02 * all);
}

TEST_CASE("emissivity may depend on the temperature of the surface", "[network]") {
    // A thin plate at nearly one temperature: P = A ε(T) σ (T⁴ − T₀⁴).
    Model m;
    m.mesh.cell = 5_mm;
    m.add(plain("metal", 400.0));
    m.add(block("plate", {20_mm, 20_mm, 2_mm}, {}, "metal"));
    Cooling cooling;
    cooling.on = exposed();
    cooling.emissivity_curve = {{300.0, 700.0}, {0.2, 0.8}};
    cooling.ambient = 300.0;
    m.add(cooling);
    const double area = 2 * 400e-6 + 4 * 40e-6, at = 500.0, emissivity = 0.5;
    m.add(heat("plate", area * emissivity * stefan_boltzmann * (std::pow(at, 4) - std::pow(300.0, 4))));
    REQUIRE(validate(m).empty());
    const Model read = through_file(m);
    CHECK(read.coolings[0].emissivity_curve == m.coolings[0].emissivity_curve);
    const Findings found = findings(read, solve_steady(read));
    CHECK(found.parts[0].mean == Approx(at).margin(0.05));
    CHECK(found.coolings[0].radiates);
    for (const double wrong : {-0.1, 1.1}) {
        Model mistaken = m;
        mistaken.coolings[0].emissivity_curve.value[1] = wrong;
        CHECK(validate(mistaken).size() == 1);
    }
    Model two = m;
    two.coolings[0].emissivity = 0.5;
    CHECK(validate(two).size() == 1);
    // Steep enough to fall while the surface warms: the search still settles, and heat adds up.
    Model falling = m;
    falling.coolings[0].emissivity_curve = {{300.0, 480.0, 520.0, 900.0}, {0.9, 0.9, 0.05, 0.9}};
    const Findings settled = findings(falling, solve_steady(falling));
    CHECK(std::abs(settled.ledger.relative_residual()) < 1e-9);
}
