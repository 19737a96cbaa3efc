// Designs solved together, compared, searched and sampled.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <functional>
#include <set>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

Outcome solved_outcome(const NamedModel& design) {
    Outcome out{.name = design.name};
    const auto solved = solve_designs({&design, 1});
    for (const StudyFindings& study : solved.front()) out.studies.push_back(outcome(study));
    return out;
}

std::vector<NamedModel> some_designs() {
    std::vector<NamedModel> designs{
        {"base", block_on_plate()}, {"thick pad", block_on_plate()}, {"long plate", block_on_plate()}, {"more power", block_on_plate()}};
    *designs[1].model.joints[0].resistance *= 10.0;
    std::get<Box>(designs[2].model.parts[0].shape).size.x = 120_mm;
    *designs[3].model.powers[0].total = 25_W;
    return designs;
}

}  // namespace

TEST_CASE("designs solved together as they are meshed give bit for bit what each gives alone", "[findings]") {
    std::vector<NamedModel> designs = some_designs();
    for (NamedModel& d : designs) d.model.mesh.refine = false;
    CHECK(same_mesh(designs[0].model, designs[1].model));
    CHECK(same_mesh(designs[0].model, designs[3].model));
    CHECK_FALSE(same_mesh(designs[0].model, designs[2].model));
    for (const int workers : {1, 3}) {
        const auto together = solve_designs(designs, {.workers = workers});
        for (std::size_t d = 0; d < designs.size(); ++d) {
            const Findings alone = findings(designs[d].model, solve_steady(designs[d].model));
            const Findings& found = std::get<Findings>(together[d].front());
            CHECK(found.hottest.temperature == alone.hottest.temperature);
            CHECK(found.joints[0].drop == alone.joints[0].drop);
            CHECK(found.ledger.convection == alone.ledger.convection);
        }
    }
}

TEST_CASE("what a mesh depends on is told from what it does not", "[findings]") {
    const Model base = block_on_plate();
    const auto with = [&](const std::function<void(Model&)>& change) {
        Model model = base;
        change(model);
        return same_mesh(base, model);
    };
    CHECK(with([](Model& m) { m.parts[0].material = "copper"; }));
    CHECK(with([](Model& m) { m.coolings[0].convection = 3.0; }));
    CHECK(with([](Model& m) { m.limits.clear(); }));
    CHECK_FALSE(with([](Model& m) { m.joints[0].reach = 1_mm; }));
    CHECK_FALSE(with([](Model& m) { m.joints[0].insulated = true; }));
    CHECK_FALSE(with([](Model& m) { m.mesh.cell = 3_mm; }));
    CHECK_FALSE(with([](Model& m) { m.parts[1].include = false; }));
    CHECK_FALSE(with([](Model& m) { m.coolings[0].on.region = Box{.size = {1_mm, 1_mm, 1_mm}}; }));
}

TEST_CASE("a comparison tells differences, the best, and what is uncertain", "[findings]") {
    std::vector<Outcome> outcomes;
    for (const NamedModel& d : some_designs()) outcomes.push_back(solved_outcome(d));
    const Comparison c = compare("designs", outcomes);
    const auto margin = std::find_if(c.figures.begin(), c.figures.end(), [](const ComparedFigure& f) { return f.what.kind == FigureKind::margin; });
    REQUIRE(margin != c.figures.end());
    CHECK(*margin->difference(0, 0) == 0.0);
    CHECK(*margin->difference(1, 0) < -1.0);
    CHECK(*margin->difference(2, 0) > 1.0);
    CHECK(*margin->best == 2);
    const auto drop = std::find_if(c.figures.begin(), c.figures.end(), [](const ComparedFigure& f) { return f.what.kind == FigureKind::joint_drop; });
    CHECK(*drop->value[1] == Approx(10.0 * *drop->value[0]).epsilon(0.02));
    CHECK_THAT(to_text(c), Contains("long plate") && Contains("* ") && Contains("margin of block < 130 °C"));
    CHECK_THAT(to_csv(c), Contains("steady,margin,block,below 130,K,more power,"));

    ComparedFigure f{.value = {10.0, 10.5, std::nullopt}, .error = {0.4, 0.4, 0.0}};
    CHECK(f.uncertain(1, 0));
    // What both have in common falls out of the difference.
    f.correction = {0.3, 0.32, std::nullopt};
    CHECK_FALSE(f.uncertain(1, 0));
    CHECK(f.error_of_difference(1, 0) < 0.2);
    f.correction = {0.9, -0.3, std::nullopt};
    CHECK(f.uncertain(1, 0));
    CHECK(f.error_of_difference(1, 0) == Approx(std::hypot(0.4, 0.4)));
    f.correction.clear();
    f.error = {0.2, 0.2, 0.0};
    CHECK_FALSE(f.uncertain(1, 0));
    CHECK_FALSE(f.difference(2, 0).has_value());
}

TEST_CASE("sweeps tell where limits are just met", "[findings]") {
    std::vector<Outcome> points;
    for (const double power : {10.0, 20.0, 40.0}) {
        Model model = block_on_plate();
        model.coolings[0].emissivity.reset();  // linear: the crossing is known
        *model.powers[0].total = power;
        points.push_back(solved_outcome({std::to_string(power), model}));
        points.back().sweep = "power";
        points.back().at = {{"power.block.total", "W", power}};
    }
    const double first = *points[0].studies[0].figures[0].value, second = *points[1].studies[0].figures[0].value;
    REQUIRE(first > 0.0);
    REQUIRE(*points[2].studies[0].figures[0].value < 0.0);
    const std::vector<Crossing> found = crossings(compare("sweep", points), "power");
    REQUIRE(found.size() == 1);
    // Between points in equal ratios the straight line is one of the logarithm; the true crossing is where the line of powers says.
    const double exact = 10.0 + 10.0 * first / (first - second);
    CHECK(found[0].from < exact);
    CHECK(found[0].to > exact);
    const SeekResult sought = seek(
        [&](double power) {
            Model model = block_on_plate();
            model.coolings[0].emissivity.reset();
            *model.powers[0].total = power;
            return findings(model, solve_steady(model)).limits[0].margin;
        },
        10.0, 40.0, {.within = 1e-6});
    REQUIRE(sought.at);
    CHECK(*sought.at == Approx(exact).epsilon(1e-7));
    CHECK(sought.evaluations.size() <= 5);
}

TEST_CASE("a search finds roots, whole numbers and jumps, and tells when there is nothing to find", "[findings]") {
    const SeekResult curved = seek([](double x) { return std::exp(x) - 5.0; }, -4.0, 8.0, {.within = 1e-9, .smallest = 1e-14, .most = 60});
    REQUIRE(curved.at);
    CHECK(*curved.at == Approx(std::log(5.0)).epsilon(1e-9));
    const SeekResult steep = seek([](double x) { return 1.0 - std::pow(x, 9.0); }, 0.0, 10.0, {.within = 1e-8, .smallest = 1e-14, .most = 80});
    CHECK(*steep.at == Approx(1.0).epsilon(1e-8));
    const SeekResult whole = seek([](double n) { return n - 12.4; }, 1.0, 40.0, {.whole = true});
    CHECK(*whole.at == 13.0);
    CHECK(*whole.beyond == 12.0);
    CHECK(whole.evaluations.size() <= 8);
    const SeekResult jump = seek([](double x) { return x < 3.3 ? 2.0 : -1.0; }, 0.0, 10.0);
    CHECK(jump.jumps);
    CHECK(*jump.at <= 3.3);
    CHECK(*jump.at == Approx(3.3).epsilon(1e-4));
    CHECK(jump.margin == 2.0);
    CHECK_FALSE(seek([](double) { return 3.0; }, 0.0, 1.0).at.has_value());
}

TEST_CASE("a search ends on the side that keeps the limit", "[findings]") {
    const std::vector<std::function<double(double)>> margins{
        [](double x) { return 30.0 - x; },
        [](double x) { return x - 30.0; },
        [](double x) { return 40.0 * (1.0 - std::pow(x / 30.0, 4.0)); },
        [](double x) { return 20.0 - 600.0 / x; },
        [](double x) { return std::exp(0.2 * (x - 30.0)) - 1.0; },
        [](double x) { return std::atan(x - 30.0); },
        [](double x) { return x < 30.0 ? 1e-3 * (30.0 - x) : 50.0 * (30.0 - x); },
    };
    for (std::size_t n = 0; n < margins.size(); ++n) {
        for (const double within : {0.05, 1e-3}) {
            INFO(n << " within " << within);
            const SeekResult found = seek(margins[n], 10.0, 90.0, {.within = within});
            REQUIRE(found.at);
            CHECK(found.margin == margins[n](*found.at));
            CHECK(found.margin >= 0.0);
            CHECK((found.margin <= within || found.jumps));
            CHECK(margins[n](*found.beyond) < 0.0);
            CHECK(found.evaluations.size() <= (n < 2 ? 5 : 24));
        }
    }
}

TEST_CASE("samples fill every n-th of every parameter once", "[findings]") {
    const auto samples = latin_hypercube(50, 3, 7);
    CHECK(samples == latin_hypercube(50, 3, 7));
    CHECK(samples != latin_hypercube(50, 3, 8));
    for (std::size_t d = 0; d < 3; ++d) {
        std::set<int> bins;
        for (const auto& s : samples) bins.insert(static_cast<int>(s[d] * 50.0));
        CHECK(bins.size() == 50);
    }
    const ParameterInfo normal{.name = "n", .value = {10.0, {}}, .spread = Spread{2.0, true}},
        uniform{.name = "u", .value = {10.0, {}}, .spread = Spread{2.0, false}};
    CHECK(value_at(normal, 0.975) == Approx(10.0 + 2.0 * 1.959964).epsilon(1e-6));
    CHECK(value_at(normal, 0.001) == Approx(10.0 - 2.0 * 3.090232).epsilon(1e-6));
    CHECK(value_at(uniform, 0.25) == Approx(9.0));
    CHECK(deviation_of(uniform) == Approx(2.0 / std::sqrt(3.0)));
}

TEST_CASE("chances of a known distribution come out, sampled and linearised", "[findings]") {
    // Margin = 3 − a − b/2 with a normal(0, 1), b normal(0, 2): kept with the probability of a normal variable below 3/√2.
    const std::vector<ParameterInfo> parameters{{.name = "a", .value = {}, .spread = Spread{1.0, true}},
                                                {.name = "b", .value = {}, .spread = Spread{2.0, true}}};
    const auto run = [](double a, double b) {
        return Outcome{.studies = {{.study = "s", .figures = {{.kind = FigureKind::margin, .name = "part", .value = 3.0 - a - 0.5 * b, .limit = 333.15}}}}};
    };
    const double truth = 0.5 * std::erfc(-3.0 / std::sqrt(2.0) / std::sqrt(2.0));
    std::vector<std::vector<double>> values;
    std::vector<Outcome> outcomes;
    for (const auto& share : latin_hypercube(2000, 2, 1)) {
        values.push_back({value_at(parameters[0], share[0]), value_at(parameters[1], share[1])});
        outcomes.push_back(run(values.back()[0], values.back()[1]));
    }
    const ToleranceFindings sampled = chances(parameters, values, outcomes);
    CHECK(sampled.limits[0].low < truth);
    CHECK(sampled.limits[0].high > truth);
    CHECK(sampled.limits[0].high - sampled.limits[0].low < 0.02);
    CHECK(sampled.limits[0].mean == Approx(3.0).margin(0.01));
    CHECK(sampled.limits[0].influence[0] < -0.6);
    const ToleranceFindings linear = linear_chances(parameters, std::vector<Outcome>{run(0, 0), run(-1, 0), run(1, 0), run(0, -2), run(0, 2)});
    CHECK(linear.limits[0].chance == Approx(truth).epsilon(1e-9));
    CHECK(linear.limits[0].influence[1] == Approx(-0.5));
    CHECK_THAT(to_text(linear), Contains("ABOUT 98.3 %"));
}

TEST_CASE("figures have a spread, and what some samples do not have is told of the others", "[findings]") {
    const std::vector<ParameterInfo> parameters{{.name = "a", .value = {}, .spread = Spread{1.0, true}}};
    // The figure is twice the parameter; the limit is judged, and kept, where that is negative.
    const auto run = [](double a) {
        Outcome out{.studies = {{.study = "s", .figures = {{.kind = FigureKind::figure, .name = "double", .of = &kinds::power, .value = 2.0 * a}}}}};
        if (a < 0.0) out.studies[0].figures.insert(out.studies[0].figures.begin(), {.kind = FigureKind::margin, .name = "part", .value = -a, .limit = 333.15});
        return out;
    };
    std::vector<std::vector<double>> values;
    std::vector<Outcome> outcomes;
    for (const auto& share : latin_hypercube(1000, 1, 1)) {
        values.push_back({value_at(parameters[0], share[0])});
        outcomes.push_back(run(values.back()[0]));
    }
    const ToleranceFindings sampled = chances(parameters, values, outcomes);
    REQUIRE(sampled.figures.size() == 1);
    CHECK(sampled.figures[0].mean == Approx(0.0).margin(0.01));
    CHECK(sampled.figures[0].deviation == Approx(2.0).epsilon(0.01));
    CHECK(sampled.figures[0].influence[0] == Approx(1.0));
    CHECK(sampled.figures[0].highest > 5.0);
    CHECK(sampled.figures[0].quantity == &kinds::power);
    REQUIRE(sampled.limits.size() == 1);
    CHECK(sampled.limits[0].chance == 1.0);
    CHECK(sampled.all_chance == 1.0);
    REQUIRE(sampled.notes.size() == 1);
    CHECK_THAT(sampled.notes[0], Contains("defined in 500 of 1000 samples"));
    const ToleranceFindings linear = linear_chances(parameters, std::vector<Outcome>{run(0), run(-1), run(1)});
    CHECK(linear.limits.empty());
    CHECK(linear.figures.at(0).highest == Approx(6.0));
    CHECK_THAT(to_text(linear), Contains("NO LIMITS") && Contains("is not told"));
}

TEST_CASE("a search solves the model at each value until the limit is just met", "[findings]") {
    const auto model_at = [](double watts) {
        Model model = block_on_plate();
        model.powers[0].total = watts;
        return model;
    };
    const std::string study = studies_of(block_on_plate()).front().name;
    int begun = 0;
    LimitSeekOptions options{.study = study, .subject = "block"};
    options.progress = [&](const Progress& now) {
        begun += now.stage == "begins" ? 1 : 0;
        return true;
    };
    const SeekResult found = seek_limit(model_at, 5.0, 60.0, options);
    REQUIRE(found.at);
    CHECK(std::abs(found.margin) <= 0.05);
    CHECK(begun == static_cast<int>(found.evaluations.size()) + 1);  // once more for the error where it is met
    const Model there = model_at(*found.at);
    CHECK(findings(there, solve_steady(there)).limits[0].margin == Approx(found.margin).margin(1e-6));
    options.subject = "nothing";
    CHECK_THROWS_WITH(seek_limit(model_at, 5.0, 60.0, options), Contains("no limit on \"nothing\"") && Contains("block"));
    options = {.study = study};
    options.progress = [](const Progress&) { return false; };
    CHECK_THROWS_AS(seek_limit(model_at, 5.0, 60.0, options), Cancelled);
}

TEST_CASE("chances come from samples of the model, or from differences where those take too long", "[findings]") {
    const std::vector<ParameterInfo> spread{{.name = "heat", .value = {.value = 15.0}, .spread = Spread{1.0, true}}};
    const auto model_at = [](std::span<const double> values) {
        Model model = block_on_plate();
        model.powers[0].total = values[0];
        return model;
    };
    const double margin = findings(model_at(std::vector{15.0}), solve_steady(model_at(std::vector{15.0}))).limits[0].margin;
    const ToleranceFindings sampled = find_chances(spread, model_at, {.runs = 40}), linear = find_chances(spread, model_at, {.runs = 40, .budget = 0.0});
    CHECK_FALSE(sampled.linearised);
    CHECK(linear.linearised);
    CHECK(sampled.runs == 40);
    CHECK(linear.limits[0].mean == Approx(margin).margin(1e-6));
    CHECK(sampled.limits[0].mean == Approx(margin).margin(0.5));
    CHECK(sampled.limits[0].deviation == Approx(linear.limits[0].deviation).epsilon(0.1));
}
