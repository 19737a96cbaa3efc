// Refining the mesh until limits, sensors and the hottest place are known well.

#include "findings/refinement.hpp"
#include "models.hpp"

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <iterator>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

/// A small source on a wide plate: a coarse mesh sees little of it.
Model spot_on_plate() {
    Model m{.title = "Spot on a plate"};
    m.add(plain("clay", 1.2));
    m.add(block("plate", {60_mm, 60_mm, 8_mm}, {}, "clay"));
    Power power;
    power.on = side("plate", Side::plus_z);
    power.on->region = Box{.size = {4_mm, 4_mm, 2_mm}, .at = {20_mm, 24_mm, 7_mm}};
    power.total = 1.0;
    m.add(power);
    m.add(convection(exposed(), 12.0, 20_degC));
    m.add(Sensor{.name = "beside", .in = "plate", .at = {26_mm, 26_mm, 8_mm}});
    m.add(Limit{.part = "plate", .below = 150_degC});
    return m;
}

RefinedSolution refined(const Model& m, const RefineOptions& options = {}) {
    const Study study = studies_of(m).front();
    return solve_refined(m, study, options);
}

double value_of(const Findings& f, FigureKind kind, const std::string& name) {
    const auto found = std::find_if(f.figures.begin(), f.figures.end(), [&](const Figure& x) { return x.kind == kind && x.name == name; });
    REQUIRE(found != f.figures.end());
    return *found->value;
}

/// With a wider source and few cells, for runs in time.
Model wide_spot_in_time() {
    Model m = spot_on_plate();
    m.mesh.coarsening = 3.0;
    m.powers[0].on->region->emplace<Box>(Box{.size = {24_mm, 24_mm, 2_mm}, .at = {20_mm, 24_mm, 7_mm}});
    m.materials[0].density = 2000.0;
    m.materials[0].specific_heat = 800.0;
    return m;
}

}  // namespace

TEST_CASE("a coarse mesh is refined until what matters is known to a hundredth of its rise, and it is", "[findings]") {
    Model m = spot_on_plate();
    m.mesh.coarsening = 2.0;
    const RefinedSolution out = refined(m);
    REQUIRE(out.findings.refinement.has_value());
    const MeshRefinement& told = *out.findings.refinement;
    INFO(told.outlook);
    CHECK(told.met);
    REQUIRE(told.rounds.size() > 1);
    CHECK(told.rounds.back().error <= told.rounds.back().allowed);
    CHECK(told.rounds.back().cells == out.findings.cells);
    CHECK_FALSE(out.findings.layers.empty());
    Model fine = spot_on_plate();
    fine.mesh.coarsening = 0.5;
    const Findings truth = findings(fine, solve_steady(fine));
    const double ambient = 20_degC;
    for (const auto& [kind, name] : {std::pair{FigureKind::max, "plate"}, std::pair{FigureKind::sensor, "beside"}}) {
        INFO(name);
        const double exact = value_of(truth, kind, name);
        CHECK(std::abs(value_of(out.findings, kind, name) - exact) <= 0.01 * (exact - ambient));
    }
    CHECK_THAT(to_text(out.findings), Contains("Mesh refined from"));

    // The mesh can be had again, and gives the same.
    const Model again = with_layers(m, out.findings.layers);
    CHECK(build_mesh(again).cells.size() == out.findings.cells);
    CHECK(through_file(again) == again);
    CHECK(value_of(findings(again, solve_steady(again)), FigureKind::max, "plate") == value_of(out.findings, FigureKind::max, "plate"));
    CHECK(refined_layers(m) == out.findings.layers);
}

TEST_CASE("refining where errors come from takes a fraction of the cells of refining everywhere", "[verification]") {
    const Model m = spot_on_plate();
    const RefinedSolution local = refined(m, {.share = 0.006});
    REQUIRE(local.findings.refinement->met);
    const double allowed = local.findings.refinement->rounds.back().allowed;
    Index many = 0;
    for (Model uniform = m; many < 800'000; uniform.mesh.coarsening *= 0.8) {
        const Findings f = findings(uniform, solve_steady(uniform));
        many = f.cells;
        const bool known = std::all_of(f.figures.begin(), f.figures.end(), [&](const Figure& figure) {
            return (figure.kind != FigureKind::max && figure.kind != FigureKind::sensor) || figure.error() <= allowed;
        });
        if (known) break;
    }
    WARN("refined where errors come from: " << local.findings.cells << " cells, everywhere: " << many);
    CHECK(local.findings.cells < 0.5 * many);
}

TEST_CASE("an error target is met in kelvin, or it is told what stood in the way", "[findings]") {
    Model m = spot_on_plate();
    m.mesh.error_target = 1.0;
    CHECK(through_file(m) == m);
    const RefinedSolution met = refined(m);
    CHECK(met.findings.refinement->met);
    CHECK(met.findings.refinement->rounds.back().allowed == 1.0);
    for (const Figure& figure : met.findings.figures) {
        if (figure.kind == FigureKind::max || figure.kind == FigureKind::sensor || figure.kind == FigureKind::margin) CHECK(figure.error() <= 1.0);
    }
    m.mesh.error_target = 0.001;
    m.mesh.max_cells = 30'000;
    const RefinedSolution missed = refined(m);
    CHECK_FALSE(missed.findings.refinement->met);
    CHECK_THAT(missed.findings.refinement->outlook, Contains("\"plate\"") && Contains("mesh.max_cells"));
    CHECK_THAT(to_text(missed.findings), Contains("mesh.max_cells"));
    m.mesh.refine = false;
    CHECK_THROWS_WITH(build_mesh(m), Contains("mesh.error_target"));

    m = spot_on_plate();
    const RefinedSolution capped = refined(m, {.share = 1e-5, .most_cells = 30'000});
    CHECK_THAT(capped.findings.refinement->outlook, Contains("without mesh.error_target"));
    CHECK(capped.findings.cells <= 30'000);
}

TEST_CASE("models of lumped nodes, and those that nothing heats, are solved once", "[findings]") {
    Model idle = spot_on_plate();
    idle.powers.clear();
    CHECK(refined(idle).findings.refinement.value_or(MeshRefinement{}).rounds.size() <= 1);
    Model lumped;
    lumped.nodes = {{.name = "junction"}};
    lumped.powers = {Power{.into = {"junction"}, .total = 2.0}};
    lumped.resistors = {{.name = "to air", .between = {"junction", "ambient"}, .total = 10.0, .ambient = 300.0}};
    CHECK(refined(lumped).findings.hottest.temperature == Approx(320.0));
    CHECK(run_studies(lumped, studies_of(lumped)).findings.size() == 1);
}

TEST_CASE("designs of one geometry have the mesh of the first, refined for it", "[findings]") {
    std::vector<NamedModel> designs{{"base", spot_on_plate()}, {"hotter", spot_on_plate()}, {"better", spot_on_plate()}, {"thicker", spot_on_plate()}};
    designs[1].model.powers[0].total = 1.5;
    designs[2].model.materials[0].conductivity = isotropic(2.0);
    designs[3].model.parts[0] = block("plate", {60_mm, 60_mm, 10_mm}, {}, "clay");
    designs[3].model.powers[0].on->region->emplace<Box>(Box{.size = {4_mm, 4_mm, 2_mm}, .at = {20_mm, 24_mm, 9_mm}});
    const auto found = solve_designs(designs);
    const auto steady = [&](std::size_t d) { return std::get<Findings>(found[d].front()); };
    CHECK(steady(0).refinement->met);
    for (const std::size_t d : {1U, 2U}) {
        CHECK(steady(d).cells == steady(0).cells);
        CHECK_FALSE(steady(d).refinement.has_value());
    }
    CHECK(steady(3).refinement->met);
    // Twice the heat, twice the rise, on the same mesh: to the last digits of the solve.
    const double ambient = 20_degC;
    CHECK((steady(1).hottest.temperature - ambient) / (steady(0).hottest.temperature - ambient) == Approx(1.5).epsilon(1e-6));
    // Whatever the number of workers.
    const auto alone = solve_designs(designs, {.workers = 1});
    for (std::size_t d = 0; d < designs.size(); ++d) CHECK(std::get<Findings>(alone[d].front()).hottest.temperature == steady(d).hottest.temperature);
    // And by itself as refined for itself.
    designs[0].model.mesh.refine = false;
    CHECK_FALSE(std::get<Findings>(solve_designs({designs.data(), 1}).front().front()).refinement.has_value());
}

TEST_CASE("studies in time are solved on the mesh that the steady one was refined to, in whatever order", "[findings]") {
    Model m = wide_spot_in_time();
    Study run{.name = "warm up", .ambient = 20_degC, .kind = StudyKind::transient, .lasts = 20.0};
    run.tolerance = 3.0;
    Study rest{.name = "cool down", .kind = StudyKind::transient, .lasts = 20.0};
    rest.start.study = "steady";
    rest.tolerance = 3.0;
    m.studies = {run, {.name = "steady"}, rest};
    const RunResult result = run_studies(m, m.studies, {.why = false});
    REQUIRE(result.findings.size() == 3);
    const Findings& steady = std::get<Findings>(result.findings[1]);
    REQUIRE(steady.refinement->met);
    for (const std::size_t s : {0U, 2U}) {
        const TimeFindings& in_time = std::get<TimeFindings>(result.findings[s]);
        CHECK(in_time.layers == steady.layers);
        CHECK(in_time.end.cells == steady.cells);
    }
    // Alone it has the same mesh.
    const RunResult alone = run_studies(m, std::span(m.studies).first(1), {.why = false});
    CHECK(std::get<TimeFindings>(alone.findings[0]).parts[0].end_max == std::get<TimeFindings>(result.findings[0]).parts[0].end_max);
}

TEST_CASE("a steady study that cannot be solved leaves studies in time as they are, and designs in time have the refined mesh", "[findings]") {
    Model m = wide_spot_in_time();
    Study run{.name = "warm up", .ambient = 20_degC, .kind = StudyKind::transient, .lasts = 5.0};
    run.tolerance = 5.0;
    m.studies = {run, {.name = "steady"}};
    // Alone or not, before the steady one or after it: all designs have one mesh.
    const std::vector<NamedModel> designs{{"base", m}, {"again", m}};
    const auto both = solve_designs(designs), alone = solve_designs(designs, {.studies = {"warm up"}});
    const Index cells = std::get<Findings>(both[0][1]).cells;
    CHECK(cells > build_mesh(m).cells.size());
    for (const auto* found : {&both, &alone}) {
        for (const auto& design : *found) CHECK(std::get<TimeFindings>(design.front()).end.cells == cells);
    }
    // What was put aside on another mesh is refused.
    RunSinks sinks;
    sinks.begin = [](const Study&) { return std::optional(PutAside{.state = {.rise = {1.0, 2.0}, .rate = {0.0, 0.0}}}); };
    CHECK_THROWS_WITH(run_studies(m, std::span(m.studies).first(1), {.why = false}, sinks), Contains("was stopped on a mesh of 2 cells"));
    // Heat that grows faster than what carries it away.
    Model wild = m;
    wild.powers[0].temperature_factor = Curve{{290.0, 1e7}, {1.0, 4e6}};
    const RunResult result = run_studies(wild, wild.studies, {.why = false});
    REQUIRE(result.findings.size() == 1);
    CHECK(std::get<TimeFindings>(result.findings[0]).study.name == "warm up");
    REQUIRE(result.failures.size() == 1);
    CHECK(result.failures[0].study == "steady");
}

TEST_CASE("layers that nothing depends on become coarser, unless their size was asked for or others need it", "[findings]") {
    Model m = spot_on_plate();
    // A bar that sticks out far from the source, as cold as the air.
    m.add(block("bar", {200_mm, 20_mm, 8_mm}, {60_mm, 20_mm, 0.0}, "clay"));
    const auto coarser = [](const RefinedSolution& out) {
        return std::count_if(out.findings.layers.begin(), out.findings.layers.end(), [](const LayerSize& l) { return l.coarser; });
    };
    const RefinedSolution out = refined(m), as_fine = refined(m, {.coarsen = false});
    REQUIRE(out.findings.refinement->met);
    REQUIRE(as_fine.findings.refinement->met);
    CHECK(coarser(out) > 0);
    CHECK(coarser(as_fine) == 0);
    const double difference = value_of(out.findings, FigureKind::max, "plate") - value_of(as_fine.findings, FigureKind::max, "plate");
    CHECK(std::abs(difference) <= out.findings.refinement->rounds.back().error + as_fine.findings.refinement->rounds.back().error);
    const Grid grid = build_mesh(with_layers(m, out.findings.layers)).grid;
    double widest = 0.0;
    for (Index i = 0; i < grid.count(0); ++i) widest = std::max(widest, grid.width(0, i));
    CHECK(widest > 1.2 * build_mesh(m).usual_cell);
    CHECK(widest <= 2.0 * build_mesh(m).usual_cell * (1.0 + 1e-9));
    CHECK(through_file(with_layers(m, out.findings.layers)) == with_layers(m, out.findings.layers));

    Model asked = with_layers(m, out.findings.layers);
    asked.mesh.cell = 10_mm;
    CHECK_THROWS_WITH(build_mesh(asked), Contains("only the default size makes way"));
    asked.mesh.layers.clear();
    CHECK(coarser(refined(asked)) == 0);

    Model in_time = m;
    in_time.materials[0].density = 2000.0;
    in_time.materials[0].specific_heat = 800.0;
    in_time.studies = {Study{.name = "steady"}, Study{.name = "warm-up", .ambient = 20_degC, .kind = StudyKind::transient, .lasts = 60.0}};
    CHECK(coarser(refined(in_time)) == 0);
}

TEST_CASE("for what becomes coarser nothing becomes finer", "[findings]") {
    const Grid grid{.lines = {std::vector{0.0, 1.0, 2.0, 3.0, 4.0, 5.0}, std::vector{0.0, 1.0, 2.0}, std::vector{0.0, 1.0, 2.0}}};
    const PerLayer errors{std::vector{0.0, 1e-9, 0.5, 1.0, 1e-3}, std::vector{1.0, 1.0}, std::vector{1.0, 1e-12}};
    const Refinement plain = refine_layers({}, grid, errors, 0.5),
                     coarse = refine_layers({}, grid, errors, 0.5, {.most = 1.5, .default_size = 1.0, .largest = 2.0});
    CHECK(coarse.cells < plain.cells);
    std::vector<LayerSize> finer;
    std::copy_if(coarse.layers.begin(), coarse.layers.end(), std::back_inserter(finer), [](const LayerSize& l) { return !l.coarser; });
    CHECK(finer == plain.layers);
    const auto wide = std::find_if(coarse.layers.begin(), coarse.layers.end(), [](const LayerSize& l) { return l.coarser; });
    REQUIRE(wide != coarse.layers.end());
    CHECK((wide->axis == 0 && wide->from == 0.0 && wide->to == 2.0 && wide->cell == 1.5));
    // Not at all where every cell matters.
    const PerLayer everywhere{std::vector(5, 1.0), std::vector(2, 1.0), std::vector(2, 1.0)};
    for (const LayerSize& l : refine_layers({}, grid, everywhere, 0.5, {.most = 1.5, .default_size = 1.0, .largest = 2.0}).layers) CHECK_FALSE(l.coarser);
}
