// What can be left out, for good or of one study, and heat that is given as a table of watts.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <fstream>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

/// A block on a plate with one of everything that can be left out.
Model with_everything() {
    Model m = block_on_plate();
    m.mesh = {.cell = 20_mm, .through = 1, .refine = false};
    m.limits.clear();
    m.powers[0].name = "chip";
    m.coolings[0].name = "room";
    m.coolings[0].ambient.reset();
    m.materials = {plain("light", 150.0)};
    m.parts[0].material = m.parts[1].material = "light";
    Power strip;
    strip.name = "strip";
    strip.on = side("plate", Side::minus_x);
    strip.total = 4.0;
    m.add(strip);
    Cooling jet = convection(side("plate", Side::minus_z), 200.0, 15_degC);
    jet.name = "jet";
    m.add(jet);
    m.add(Hold{.name = "clamp", .on = side("plate", Side::plus_x), .temperature = 30_degC});
    m.add(Sensor{.name = "top", .in = "block", .at = {40_mm, 30_mm, 7_mm}});
    m.thermostats = {{.name = "guard", .sensor = "top", .switches = {"chip"}, .lower = 40_degC, .upper = 42_degC}};
    Study steady{.name = "steady", .ambient = 25_degC}, run{.name = "run", .ambient = 25_degC, .kind = StudyKind::transient, .lasts = 60.0};
    run.tolerance = 1.0;
    m.studies = {steady, run};
    return m;
}

void erase(Model& m, const std::string& what) {
    if (what == "chip" || what == "strip") std::erase_if(m.powers, [&](const Power& p) { return p.name == what; });
    if (what == "jet") std::erase_if(m.coolings, [&](const Cooling& c) { return c.name == what; });
    if (what == "clamp") m.holds.clear();
    if (what == "pad") m.joints.clear();
    if (what == "guard" || what == "chip") m.thermostats.clear();
}

void leave_out(Model& m, const std::string& what) {
    for (Power& p : m.powers) p.include = p.include && p.name != what;
    for (Cooling& c : m.coolings) c.include = c.include && c.name != what;
    for (Hold& h : m.holds) h.include = h.include && h.name != what;
    for (Joint& j : m.joints) j.include = j.include && j.name != what;
    for (Thermostat& t : m.thermostats) t.include = t.include && t.name != what;
}

/// Without what only shapes the mesh, so that both have the same.
std::shared_ptr<const Mesh> mesh_of(Model m) { return std::make_shared<const Mesh>(build_mesh(m)); }

void require_same(const Model& a, const Model& b, const std::shared_ptr<const Mesh>& mesh) {
    const SteadySolution one = solve_steady(a, mesh, a.studies[0]), other = solve_steady(b, mesh, b.studies[0]);
    REQUIRE(one.temperature.size() == other.temperature.size());
    for (std::size_t i = 0; i < one.temperature.size(); ++i) REQUIRE(one.temperature[i] == Approx(other.temperature[i]).margin(1e-8));
    const Findings f = findings(a, one), g = findings(b, other);
    CHECK(f.loads.size() == g.loads.size());
    CHECK(f.coolings.size() == g.coolings.size());
    CHECK(f.holds.size() == g.holds.size());
    CHECK(f.figures.size() == g.figures.size());
    CHECK(std::abs(f.ledger.relative_residual()) <= 1e-9);
    const TimeFindings x = solve_over_time(a, a.studies[1], mesh, {}, false), y = solve_over_time(b, b.studies[1], mesh, {}, false);
    CHECK(x.hottest.spot.temperature == Approx(y.hottest.spot.temperature).margin(1e-6));
    CHECK(x.energy.entries.size() == y.energy.entries.size());
    CHECK(x.thermostats.size() == y.thermostats.size());
    CHECK(std::abs(x.energy.relative_residual()) <= 1e-6);
    for (const auto& row : x.history.rows) REQUIRE(row.size() == x.history.columns.size());
}

}  // namespace

TEST_CASE("what is left out is as if it were not there", "[model]") {
    for (const std::string what : {"chip", "strip", "jet", "clamp", "pad", "guard"}) {
        INFO(what);
        Model without = with_everything(), left_out = with_everything();
        erase(without, what);
        leave_out(left_out, what);
        if (what == "chip") left_out.thermostats.clear();  // it would have nothing to switch
        CHECK(through_file(left_out) == left_out);
        const std::vector<Warning> told = inspect(left_out, build_mesh(left_out)).warnings;
        CHECK(std::any_of(told.begin(), told.end(), [&](const Warning& w) { return w.message.find("\"" + what + "\"") != std::string::npos; }));
        require_same(left_out, without, mesh_of(without));
    }
}

TEST_CASE("a study can go without something that others have", "[model]") {
    for (const std::string what : {"strip", "jet", "clamp", "guard"}) {
        INFO(what);
        Model one = with_everything(), all = with_everything();
        leave_out(all, what);
        for (Study& study : one.studies) study.without = {what};
        CHECK(through_file(one) == one);
        CHECK(validate(one).empty());
        require_same(one, all, mesh_of(one));
    }
    Model one = with_everything();
    one.studies[0].without = {"*"};
    const Acting acting = acting_in(one, one.studies[0]);
    CHECK(std::none_of(acting.coolings.begin(), acting.coolings.end(), [](bool a) { return a; }));
    CHECK(acting_in(one, one.studies[1]).coolings == std::vector<bool>{true, true});
    CHECK_THROWS_WITH(solve_steady(one), Contains("the heat has nowhere to go"));
}

TEST_CASE("what a study cannot go without is refused", "[model]") {
    const auto problem = [](Model m, const std::string& name) {
        m.studies[1].without = {name};
        const std::vector<Problem> all = validate(m);
        REQUIRE(all.size() == 1);
        CHECK(all[0].address == "study[1].without[0]");
        return all[0].message;
    };
    CHECK_THAT(problem(with_everything(), "jett"), Contains("no power, cooling, hold or thermostat is called \"jett\" (did you mean \"jet\"?)"));
    CHECK_THAT(problem(with_everything(), "pad"), Contains("is a joint") && Contains("include = false"));
}

TEST_CASE("a cooling that is left out needs no ambient", "[model]") {
    Model m = with_everything();
    m.coolings[1].ambient.reset();
    m.studies[0].ambient.reset();
    m.coolings[0].ambient = 20_degC;
    CHECK(validate(m).size() == 1);
    m.studies[0].without = {"jet"};
    CHECK(validate(m).empty());
    CHECK(findings(m, solve_steady(m)).coolings.size() == 1);
}

TEST_CASE("a table of watts is the heat of a power", "[model]") {
    Model by_factor = with_everything();
    by_factor.thermostats.clear();
    by_factor.powers[0].total = 20.0;
    by_factor.powers[0].profile = {"course"};
    by_factor.add(Profile{.name = "course", .points = {{0.0, 10.0, 30.0, 60.0}, {0.0, 1.0, 0.25, 0.0}}, .stepped = true});
    Model by_watts = by_factor;
    by_watts.powers[0].total.reset();
    by_watts.profiles[0].points.value = {0.0, 20.0, 5.0, 0.0};
    by_watts.profiles[0].gives = CourseOf::power;
    CHECK(through_file(by_watts) == by_watts);
    const auto mesh = mesh_of(by_watts);
    const TimeFindings x = solve_over_time(by_watts, by_watts.studies[1], mesh, {}, false),
                       y = solve_over_time(by_factor, by_factor.studies[1], mesh, {}, false);
    CHECK(x.hottest.spot.temperature == Approx(y.hottest.spot.temperature).margin(1e-9));
    CHECK(x.energy.of(HeatKind::load, "chip") == Approx(20.0 * 20.0 + 30.0 * 5.0).epsilon(1e-9));

    // Steady studies have its mean, and `check` tells both.
    CHECK(heat_course(by_watts, by_watts.powers[0])->mean == Approx(550.0 / 60.0));
    CHECK(heat_course(by_watts, by_watts.powers[0])->most == 20.0);
    CHECK(findings(by_watts, solve_steady(by_watts)).loads[0].heat == Approx(550.0 / 60.0));
    const Inspection seen = inspect(by_watts, *mesh);
    CHECK(seen.studies[0].power == Approx(550.0 / 60.0 + 4.0));
    CHECK(seen.studies[1].power == Approx(550.0 / 60.0 + 4.0));
    CHECK_THAT(seen.studies[1].in_time.front(), Contains("0 W to 20.0 W") && Contains("9.17 W on average"));

    // A scale and a thermostat act on it as on any power.
    by_watts.studies[1].scale = {{"chip", 0.5}};
    CHECK(solve_over_time(by_watts, by_watts.studies[1], mesh, {}, false).energy.of(HeatKind::load, "chip") == Approx(275.0).epsilon(1e-9));
}

TEST_CASE("watts come from a file, too, and never stand beside an amount", "[model]") {
    const std::filesystem::path folder = std::filesystem::temp_directory_path() / "firnfield_watts_test";
    std::filesystem::create_directories(folder);
    std::ofstream(folder / "log.csv") << "s,load\n0,0\n10,1500\n20,0\n";
    const auto text = [](const std::string& power, const std::string& csv) {
        return "firnfield = 1\n[[part]]\nname = \"a\"\nsize = [\"9 mm\", \"9 mm\", \"9 mm\"]\nmaterial = \"copper\"\n[[profile]]\nname = \"log\"\ncsv = { file "
               "= "
               "\"log.csv\", " +
               csv + " }\n[[power]]\ninto = [\"a\"]\nprofile = [\"log\"]\n" + power +
               "[[cooling]]\non = \"exposed\"\nconvection = \"9 W/(m^2 K)\"\nambient = \"20 degC\"\n";
    };
    const auto read = [&](const std::string& power, const std::string& csv) { return read_model_text(text(power, csv), (folder / "m.toml").string()); };
    const Model m = read("", "unit = \"mW\", scale = 2");
    CHECK(m.profiles[0].gives == CourseOf::power);
    CHECK(m.profiles[0].points.value[1] == Approx(3.0));
    CHECK_THROWS_WITH(read("total = \"5 W\"\n", "unit = \"mW\""), Contains("its profile gives the power already"));
    CHECK_THROWS_WITH(read("", "scale = 2"), Contains("or a profile of powers"));
    CHECK_THROWS_WITH(read("", "unit = \"mm\""), Contains("log.csv") || Contains("temperature"));
    CHECK_THROWS_WITH(read_model_text("firnfield = 1\n[[profile]]\nname = \"p\"\npowers = [[\"0 s\", \"20 degC\"], [\"1 s\", \"1 W\"]]\n"), Contains("power"));
    Model twice = m;
    twice.powers[0].profile = {"log", "log"};
    CHECK_FALSE(validate(twice).empty());
    Model held = m;
    held.add(Hold{.on = side("a", Side::minus_z), .temperature = 300.0, .profile = "log"});
    REQUIRE(validate(held).size() == 1);
    CHECK_THAT(validate(held)[0].message, Contains("gives powers; temperatures are needed here"));
    std::filesystem::remove_all(folder);
}

TEST_CASE("a study may have fewer cells through its parts than the model", "[model]") {
    Model m = block_on_plate();
    m.mesh.through = 3;
    m.mesh.cell = 20e-3;
    m.studies = {Study{.name = "fine", .ambient = 35_degC, .kind = StudyKind::transient, .lasts = 1.0},
                 Study{.name = "quick", .ambient = 35_degC, .kind = StudyKind::transient, .lasts = 1.0, .through = 1}};
    const auto cells = [&](const Study& study) { return build_mesh(meshed_for(m, study)).cells.size(); };
    CHECK(3 * cells(m.studies[1]) <= cells(m.studies[0]));
    CHECK(through_file(m) == m);
    CHECK_FALSE(same_cells(m.studies[0], m.studies[1]));
    m.studies[1].start.study = "fine";
    CHECK_THROWS_WITH(build_mesh(m), Contains("another coarsening or through"));
    m.studies[1].start = {};
    m.studies[1].through = -1;
    CHECK_THROWS_WITH(build_mesh(m), Contains("study[1].through"));
}
