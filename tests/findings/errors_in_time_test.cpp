// What the mesh makes wrong of a run in time: against exact courses, against finer meshes and smaller steps, and where there is nothing to find.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <cmath>
#include <numbers>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

constexpr double ambient = 293.15, length = 0.02, conductivity = 0.5, flux = 2000.0, diffusivity = conductivity / 2e6;

/// A bar of a poor conductor in five cells, heated at one end and insulated elsewhere.
Model heated_bar() {
    Model m{.title = "Bar"};
    m.mesh.cell = 4_mm;
    m.mesh.refine = false;
    m.materials = {plain("poor", conductivity)};
    m.add(block("bar", {length, 4_mm, 4_mm}, {}, "poor"));
    Power end;
    end.on = side("bar", Side::minus_x);
    end.flux = flux;
    m.add(end);
    Study study{.name = "warm up", .ambient = ambient, .kind = StudyKind::transient, .lasts = 400.0};
    study.tolerance = 0.02;
    m.studies = {study};
    return m;
}

/// K above the start, at a distance from the heated end: H. S. Carslaw and J. C. Jaeger, Conduction of Heat in Solids, 3.8.
double exact_rise(double x, double t) {
    const double fourier = diffusivity * t / (length * length), y = 1.0 - x / length;
    double sum = fourier + (3.0 * y * y - 1.0) / 6.0;
    for (int n = 1; n < 400; ++n) {
        const double a = n * std::numbers::pi;
        sum -= 2.0 / (a * a) * (n % 2 == 0 ? 1.0 : -1.0) * std::exp(-a * a * fourier) * std::cos(a * y);
    }
    return flux * length / conductivity * sum;
}

/// When the heated end has risen by so much, s.
double exact_time(double rise) {
    double from = 0.0, to = 1e5;
    for (int i = 0; i < 200; ++i) (exact_rise(0.0, 0.5 * (from + to)) < rise ? from : to) = 0.5 * (from + to);
    return from;
}

const Figure& figure(const TimeFindings& f, FigureKind kind, const std::string& name) {
    const auto found = std::find_if(f.figures.begin(), f.figures.end(), [&](const Figure& x) { return x.kind == kind && x.name == name; });
    REQUIRE(found != f.figures.end());
    return *found;
}

TimeFindings run(const Model& m) { return solve_over_time(m, m.studies.front()); }

/// A hot chip on a board that conducts badly across.
Model board_over_time() {
    Model m{.title = "Board"};
    Material board = plain("board", 18.0);
    board.conductivity[2] = 0.35;
    m.materials = {board, plain("mould", 20.0)};
    m.add(block("board", {40_mm, 40_mm, 1.6_mm}, {}, "board"));
    m.add(block("chip", {9_mm, 9_mm, 1_mm}, {12_mm, 15_mm, 1.6_mm}, "mould"));
    m.add(heat("chip", 0.8));
    m.add(convection(exposed(), 10.0, ambient));
    m.studies = {Study{.name = "run", .ambient = ambient, .kind = StudyKind::transient, .lasts = 300.0}};
    return m;
}

}  // namespace

TEST_CASE("the end of a heated bar is as hot as it truly is, from early on", "[findings]") {
    for (const double lasts : {10.0, 30.0, 100.0, 400.0}) {
        Model m = heated_bar();
        m.studies[0].lasts = lasts;
        const TimeFindings f = run(m);
        const Figure& hot = figure(f, FigureKind::max, "bar");
        const double truth = ambient + exact_rise(0.0, lasts), rise = truth - ambient;
        INFO(lasts << " s: " << *hot.value - ambient << " ± " << hot.error() << ", solved " << *hot.solved - ambient << ", exact " << rise);
        CHECK(std::abs(*hot.value - truth) <= hot.error());
        CHECK(std::abs(*hot.value - truth) <= 0.4 * std::abs(*hot.solved - truth) + 0.02);
        CHECK(f.parts[0].end_max == Approx(*hot.value).margin(1e-6));
        CHECK(*hot.value == Approx(*hot.solved + *hot.bar->correction));
        CHECK(hot.bar->trusted);
    }
    // Of one cell through it is not to be trusted.
    Model thin = heated_bar();
    thin.mesh.through = 1;
    thin.add(block("cap", {1_mm, 4_mm, 4_mm}, {20_mm, 0.0, 0.0}, "poor"));
    const TimeFindings capped = run(thin);
    CHECK_FALSE(figure(capped, FigureKind::max, "cap").bar->trusted);
    CHECK(figure(capped, FigureKind::max, "bar").bar->trusted);
}

TEST_CASE("limits are passed when they truly are", "[findings]") {
    for (const double limit : {10.0, 20.0, 40.0}) {
        Model m = heated_bar();
        m.limits = {Limit{.part = "bar", .below = ambient + limit}};
        const TimeFindings f = run(m);
        const Figure& passed = figure(f, FigureKind::first_beyond, "bar");
        const double truth = exact_time(limit);
        INFO("by " << limit << " K: " << *passed.value << " ± " << passed.error() << " s, solved about " << *passed.solved << ", exact " << truth);
        CHECK(std::abs(*passed.value - truth) <= passed.error());
        CHECK(std::abs(*passed.value - truth) <= 0.1 * truth);  // the mesh alone is 40 % early
        CHECK(*passed.solved < truth);                          // the mesh is too hot at the heated end
        // Without errors it is what the mesh gives.
        const TimeFindings raw = solve_over_time(m, m.studies.front(), {}, {}, false);
        CHECK_FALSE(figure(raw, FigureKind::first_beyond, "bar").bar.has_value());
        CHECK(std::abs(*figure(raw, FigureKind::first_beyond, "bar").value - truth) > std::abs(*passed.value - truth));
    }
}

TEST_CASE("a warm-up of a board is within its errors of a finer one", "[findings]") {
    Model m = board_over_time();
    m.limits = {Limit{.part = "chip", .below = ambient + 24.0}};
    Model fine = m;
    fine.mesh.layers = refined_layers([&] {
        Model target = m;
        target.mesh.error_target = 0.4;
        return target;
    }());
    fine.studies[0].tolerance = 0.02;
    const TimeFindings f = run(m), g = run(fine);
    REQUIRE(g.end.cells > 2 * f.end.cells);
    int figures = 0;
    for (const Figure& one : f.figures) {
        if (!one.bar) continue;
        const auto other = std::find_if(g.figures.begin(), g.figures.end(), [&](const Figure& x) { return same(x, one); });
        REQUIRE(other != g.figures.end());
        INFO(info(one.kind).word << " of " << one.name << ": " << *one.value << " ± " << one.error() << ", finer " << *other->value << " ± " << other->error());
        CHECK(std::abs(*one.value - *other->value) <= one.error() + 0.1 * other->error());
        ++figures;
    }
    CHECK(figures >= 8);
    // The time of a limit as the mesh gives it is far off.
    const Figure &passed = figure(f, FigureKind::first_beyond, "chip"), &truth = figure(g, FigureKind::first_beyond, "chip");
    CHECK(std::abs(*passed.value - *truth.value) < 0.05 * *truth.value);
    CHECK(std::abs(*passed.value - *truth.value) < 0.4 * std::abs(*passed.solved - *truth.value));
}

TEST_CASE("what has settled in time has the errors of the steady study", "[findings]") {
    Model m = board_over_time();
    m.studies[0].lasts = 1e5;
    const Findings steady = findings(m, solve_steady(m, Study{.name = "steady", .ambient = ambient}));
    const TimeFindings f = run(m);
    for (const Figure& one : steady.figures) {
        if (one.kind != FigureKind::max) continue;
        const Figure& other = figure(f, one.kind, one.name);
        CHECK(*other.value == Approx(*one.value).margin(0.02));
        CHECK(*other.bar->correction == Approx(*one.bar->correction).margin(0.02));
    }
    // Its cool-down begins there.
    m.studies = {{.name = "steady", .ambient = ambient},
                 {.name = "cool down", .ambient = ambient, .scale = {{"chip", 0.0}}, .kind = StudyKind::transient, .lasts = 1.0}};
    m.studies[1].start.study = "steady";
    m.powers[0].name = "chip";
    m.mesh.refine = false;
    const RunResult both = run_studies(m, m.studies, {.why = false});
    const TimeFindings& cooling = std::get<TimeFindings>(both.findings[1]);
    CHECK(cooling.parts[1].hottest.spot.temperature == Approx(steady.parts[1].hottest.temperature).margin(0.3));
}

TEST_CASE("a cycle has the errors that many cycles lead to", "[findings]") {
    Model m = board_over_time();
    m.mesh.coarsening = 2.0;
    m.add(Profile{.name = "pulse", .duty = Duty{.on = 10.0, .off = 20.0}});
    m.powers[0].profile = {"pulse"};
    m.studies = {Study{.name = "cycle", .ambient = ambient, .kind = StudyKind::cyclic}};
    const TimeFindings cycle = run(m);
    m.studies = {Study{.name = "many", .ambient = ambient, .kind = StudyKind::transient, .lasts = 40 * 30.0 - 20.0}};
    const TimeFindings many = run(m);
    const Figure &one = figure(cycle, FigureKind::max, "chip"), &other = figure(many, FigureKind::max, "chip");
    CHECK(*one.value == Approx(*other.value).margin(0.1));
    CHECK(*one.bar->correction == Approx(*other.bar->correction).epsilon(0.05).margin(0.02));
    CHECK(std::abs(*one.bar->correction) > 0.1);
}

TEST_CASE("corrected temperatures of a cooling block stay between start and surroundings", "[findings]") {
    Model m{.title = "Block"};
    m.mesh.cell = 5_mm;
    m.materials = {plain("poor", 0.2)};
    m.add(block("block", {20_mm, 20_mm, 20_mm}, {}, "poor"));
    m.add(convection(exposed(), 500.0, ambient));
    Study study{.name = "quench", .ambient = ambient, .kind = StudyKind::transient, .lasts = 2000.0};
    study.start.temperature = ambient + 80.0;
    m.studies = {study};
    const TimeFindings f = run(m);
    REQUIRE(f.history.rows.size() > 10);
    for (std::size_t r = 0; r < f.history.rows.size(); ++r) {
        const std::vector<double>& row = f.history.rows[r];
        INFO(f.history.time[r] << " s: " << row[0] << ", " << row[1] << ", " << row[2]);
        CHECK(row[0] >= ambient - zero_celsius - 1e-9);
        CHECK(row[2] <= ambient - zero_celsius + 80.0 + 1e-9);
        CHECK((row[0] <= row[1] && row[1] <= row[2]));
    }
}

TEST_CASE("runs that go on from a state have to know the errors or not, as before", "[findings]") {
    Model m = heated_bar();
    const auto mesh = std::make_shared<const Mesh>(build_mesh(m));
    const std::vector<double> start = start_temperatures(m, *mesh, m.studies[0]);
    std::optional<TransientState> kept;
    TransientOptions options{.checkpoint = [&](const TransientState& s) { kept = s; }, .checkpoint_steps = 3, .errors = true};
    const TransientSolution whole = solve_transient(m, mesh, m.studies[0], start, options);
    REQUIRE(kept.has_value());
    CHECK(kept->errors[1].size() == mesh->cells.size());
    options.resume = kept;
    const TransientSolution rest = solve_transient(m, mesh, m.studies[0], start, options);
    CHECK(rest.errors == whole.errors);
    CHECK(whole.no_errors.empty());
    options.errors = false;
    CHECK_THROWS_WITH(solve_transient(m, mesh, m.studies[0], start, options), Contains("go on with them"));
    options.errors = true;
    options.resume->errors = {};
    CHECK_THAT(solve_transient(m, mesh, m.studies[0], start, options).no_errors, Contains("put aside"));
    options.resume->errors = {std::vector<double>(1, 0.0), std::vector<double>(1, 0.0)};
    CHECK_THROWS_WITH(solve_transient(m, mesh, m.studies[0], start, options), Contains("not those of this mesh"));
}

namespace {

/// A slab of a poor conductor that a thermostat at its cooled face keeps warm, `cells` through.
Model kept_warm(int cells) {
    Model m{.title = "Slab"};
    m.mesh.refine = false;
    m.mesh.through = 1;
    m.mesh.cell = 30_mm / cells;
    m.materials = {plain("poor", 0.4)};
    m.add(block("slab", {30_mm, 0.3_mm, 0.3_mm}, {}, "poor"));
    Power heater;
    heater.name = "heater";
    heater.on = side("slab", Side::minus_x);
    heater.flux = 3000.0;
    m.add(heater);
    m.add(convection(side("slab", Side::plus_x), 40.0, ambient));
    m.add(Sensor{.name = "face", .in = "slab", .at = {12_mm, 0.1_mm, 0.1_mm}});
    m.thermostats = {{.name = "keeper", .sensor = "face", .switches = {"heater"}, .lower = ambient + 40.0, .upper = ambient + 44.0}};
    Study study{.name = "keep warm", .ambient = ambient, .kind = StudyKind::transient, .lasts = 20000.0};
    study.tolerance = 0.02;
    study.start.temperature = ambient;
    m.studies = {study};
    return m;
}

}  // namespace

TEST_CASE("period and duty of a thermostat are corrected, with what is left within their errors", "[findings]") {
    const TimeFindings exact = run(kept_warm(96));
    const double period = *exact.thermostats[0].period, duty = exact.thermostats[0].duty;
    for (const int cells : {6, 10}) {
        INFO(cells << " cells");
        const TimeFindings f = run(kept_warm(cells));
        const Figure &t = figure(f, FigureKind::period, "keeper"), &d = figure(f, FigureKind::duty, "keeper");
        REQUIRE(t.bar);
        REQUIRE(d.bar);
        CHECK(*t.value == *f.thermostats[0].period);
        CHECK(*d.value == f.thermostats[0].duty);
        CHECK(std::abs(*t.value - period) <= std::min(t.error(), 0.01 * period));  // the mesh alone: 5 to 8 % off
        CHECK(std::abs(*d.value - duty) <= std::min(d.error(), 0.01 * duty));
    }
}
