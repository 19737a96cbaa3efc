// Reduced models: their functions of time against closed forms, runs with them against runs of the whole network, what cannot be reduced.

#include "cli/bench.hpp"
#include "models.hpp"
#include "random_assemblies.hpp"

#include "reduce/modal.hpp"
#include "reduce/phi.hpp"
#include "reduce/sample.hpp"

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include <cmath>

using namespace firnfield;
using namespace firnfield::test;
using namespace firnfield::literals;
using Catch::Matchers::Contains;

namespace {

/// A warm block on a plate in air, under a duty cycle and a slow ramp of a second power; linear.
Model pulsed() {
    Model m = block_on_plate();
    m.limits.clear();
    m.mesh.refine = false;
    m.coolings.clear();
    m.add(convection(exposed(), 20.0, 300.0));
    m.powers.front().profile = {"pulse"};
    m.add(Profile{.name = "pulse", .duty = Duty{.on = 20.0, .off = 40.0}});
    m.add(Profile{.name = "ramp", .points = Curve{{0.0, 300.0}, {0.0, 1.0}}});
    m.add(heat("plate", 4.0));
    m.powers.back().name = "warm";
    m.powers.back().profile = {"ramp"};
    m.add(Sensor{.name = "foot", .in = "plate", .at = {2_mm, 2_mm, 2_mm}});
    m.add(Limit{.part = "block", .below = 345.0});
    Study study{.name = "run", .ambient = 300.0, .kind = StudyKind::transient, .lasts = 400.0};
    study.start.temperature = 300.0;
    study.tolerance = 0.05;
    m.studies = {study};
    return m;
}

struct Both {
    TimeFindings full{}, reduced{};
};

Both both(const Model& m, Study study) {
    const auto mesh = std::make_shared<const Mesh>(build_mesh(meshed_for(m, study)));
    Both out;
    out.full = solve_over_time(m, study, mesh, {}, false);
    study.method = TimeMethod::reduced;
    out.reduced = solve_over_time(m, study, mesh, {}, false);
    return out;
}

/// The same with air that rises by itself, surfaces that radiate, a plate that conducts less when it is warm, and a fan that comes and goes.
Model bent() {
    Model m = pulsed();
    m.coolings.clear();
    Cooling air{.name = "air", .on = exposed(), .ambient = 300.0};
    air.law = ConvectionLaw{.law = "vertical plate", .length = 60_mm};
    air.emissivity = 0.8;
    m.add(air);
    m.materials.push_back(
        {.name = "bent", .conductivity = isotropic(100.0), .conductivity_factor = {{273.15, 473.15}, {1.0, 0.5}}, .density = 2700.0, .specific_heat = 900.0});
    m.parts.front().material = "bent";
    m.powers.front().total = 40.0;
    m.studies.front().lasts = 130.0;
    return m;
}

/// What the two say differs by what they tell of themselves at most.
void check_alike(const Both& b) {
    REQUIRE(b.reduced.reduction);
    const double near = b.reduced.reduction->open + 0.25 * b.full.study.tolerance;
    CHECK(b.reduced.reduction->open <= b.full.study.tolerance);
    CHECK(std::abs(b.reduced.energy.relative_residual()) <= 1e-9);
    REQUIRE(b.full.parts.size() == b.reduced.parts.size());
    for (std::size_t p = 0; p < b.full.parts.size(); ++p) {
        INFO(b.full.parts[p].name);
        CHECK(b.reduced.parts[p].hottest.spot.temperature == Approx(b.full.parts[p].hottest.spot.temperature).margin(near));
        CHECK(b.reduced.parts[p].coldest.spot.temperature == Approx(b.full.parts[p].coldest.spot.temperature).margin(near));
        CHECK(b.reduced.parts[p].mean == Approx(b.full.parts[p].mean).margin(near));
        CHECK(b.reduced.parts[p].end_max == Approx(b.full.parts[p].end_max).margin(near));
    }
    for (std::size_t s = 0; s < b.full.sensors.size(); ++s) {
        CHECK(b.reduced.sensors[s].highest == Approx(b.full.sensors[s].highest).margin(near));
        CHECK(b.reduced.sensors[s].mean == Approx(b.full.sensors[s].mean).margin(near));
    }
    REQUIRE(b.full.energy.entries.size() == b.reduced.energy.entries.size());
    for (std::size_t e = 0; e < b.full.energy.entries.size(); ++e)
        CHECK(b.reduced.energy.entries[e].energy == Approx(b.full.energy.entries[e].energy).epsilon(2e-3).margin(2e-3 * b.full.energy.throughput));
}

}  // namespace

TEST_CASE("the functions of exponential integrators hold their definition from nothing to far beyond", "[reduce]") {
    for (const double x : {0.0, 1e-12, 1e-3, 0.3, 0.999, 1.0, 1.001, 7.0, 50.0, 800.0}) {
        INFO(x);
        const std::array<double, 5> phi = phi_at_minus(x);
        CHECK(phi[0] == Approx(std::exp(-x)).epsilon(1e-14).margin(1e-300));
        double factorial = 1.0;
        for (std::size_t k = 0; k < 4; ++k) {
            if (k > 0) factorial *= static_cast<double>(k);
            CHECK(phi[k] == Approx(1.0 / factorial - x * phi[k + 1]).epsilon(1e-11).margin(1e-13));
        }
        if (x > 0.0) CHECK(phi[1] == Approx(-std::expm1(-x) / x).epsilon(1e-13));
    }
}

TEST_CASE("modes follow their equation exactly, and so do their integrals", "[reduce]") {
    const Modes modes({{2.0, -1.0}, {-1.0, 1.0}}, 2);
    REQUIRE(modes.size() == 2);
    CHECK(modes.rate()[0] * modes.rate()[1] == Approx(1.0));
    CHECK(modes.rate()[0] + modes.rate()[1] == Approx(3.0));
    const Amplitudes from{1.5, -0.5};
    const ModalInput input{{Amplitudes{1.0, 0.2}, Amplitudes{-2.0, 0.7}, Amplitudes{0.5, 3.0}}};
    constexpr double length = 2.5;
    // By a classical method with many steps.
    Amplitudes x = from, sum(2, 0.0);
    constexpr int steps = 4000;
    const auto slope = [&](std::size_t k, double value, double t) {
        const double s = t / length;
        return input.coefficient[0][k] + s * input.coefficient[1][k] + s * s * input.coefficient[2][k] - modes.rate()[k] * value;
    };
    for (std::size_t k = 0; k < 2; ++k) {
        for (int n = 0; n < steps; ++n) {
            const double h = length / steps, t = n * h, before = x[k];
            const double a = slope(k, before, t), b = slope(k, before + 0.5 * h * a, t + 0.5 * h), c = slope(k, before + 0.5 * h * b, t + 0.5 * h),
                         d = slope(k, before + h * c, t + h);
            x[k] += h / 6.0 * (a + 2.0 * b + 2.0 * c + d);
            sum[k] += h / 6.0 * (before + 4.0 * (before + 0.5 * h * b) + x[k]);
        }
        CHECK(modes.after(from, input, length, length)[k] == Approx(x[k]).epsilon(1e-10));
        CHECK(modes.integral(from, input, length)[k] == Approx(sum[k]).epsilon(1e-6));
    }
}

TEST_CASE("a reduced run says what the whole network says", "[reduce]") {
    Model m = pulsed();
    SECTION("pulses and a ramp") {
        const Both b = both(m, m.studies.front());
        check_alike(b);
        REQUIRE(b.full.limits.size() == 1);
        REQUIRE(b.full.limits.front().first_crossing.has_value() == b.reduced.limits.front().first_crossing.has_value());
        CHECK(b.reduced.reduction->modes < 60);
    }
    SECTION("a start that is uneven, and an ambient that swings") {
        m.studies.front().start.parts = {{"block", 340.0}};
        m.coolings.front().ambient_profile = "day";
        m.coolings.front().ambient.reset();
        m.coolings.front().ambient = 300.0;
        m.add(Profile{.name = "day", .sine = Sine{.mean = 305.0, .amplitude = 8.0, .period = 200.0}, .gives = CourseOf::temperature});
        check_alike(both(m, m.studies.front()));
    }
    SECTION("until it is steady, and what that leaves") {
        m.powers.front().profile.clear();
        m.powers.back().profile.clear();
        m.studies.front().lasts = 1e5;
        m.studies.front().stop_when = StopWhen::steady;
        const Both b = both(m, m.studies.front());  // which end at steps of their own
        CHECK(b.reduced.stopped == "steady");
        CHECK(b.reduced.remaining_change <= m.studies.front().steady_within);
        for (std::size_t p = 0; p < b.full.parts.size(); ++p)
            CHECK(b.reduced.parts[p].end_max == Approx(b.full.parts[p].end_max).margin(m.studies.front().steady_within));
        CHECK(*b.reduced.steady_time == Approx(*b.full.steady_time).epsilon(2e-2));
        CHECK(*b.reduced.time_constant == Approx(*b.full.time_constant).epsilon(1e-2));
    }
    SECTION("a thermostat that switches a power") {
        m.powers.front().profile.clear();
        m.powers.back().total = 0.2;
        m.studies.front().lasts = 3000.0;
        m.studies.front().tolerance = 5e-4;  // a late switch shows all the way after it
        m.add(Thermostat{.name = "keeper", .sensor = "foot", .switches = {display_name(m.powers.front())}, .lower = 303.0, .upper = 305.0});
        const Both b = both(m, m.studies.front());
        const std::vector<Switching>&full = b.full.thermostats.front().switchings, &reduced = b.reduced.thermostats.front().switchings;
        REQUIRE(full.size() >= 3);
        REQUIRE(full.size() == reduced.size());
        for (std::size_t s = 0; s < full.size(); ++s) CHECK(reduced[s].time == Approx(full[s].time).margin(0.025));
        CHECK(b.reduced.thermostats.front().duty == Approx(b.full.thermostats.front().duty).epsilon(1e-3));
    }
    SECTION("the settled cycle") {
        m.powers.back().profile.clear();
        m.studies.front().kind = StudyKind::cyclic;
        m.studies.front().lasts = 0.0;
        const Both b = both(m, m.studies.front());
        check_alike(b);
        CHECK(b.reduced.cycle->computed <= 2);
        CHECK(*b.reduced.cycle->cycles_to_settle == Approx(*b.full.cycle->cycles_to_settle).margin(1.0).epsilon(0.02));
    }
    SECTION("nothing leads away") {
        m.coolings.clear();
        const Both b = both(m, m.studies.front());
        check_alike(b);
        CHECK_FALSE(b.reduced.remaining_change);
    }
    SECTION("lumped nodes alone") {
        Model lumped{.title = "Nodes"};
        lumped.nodes = {Node{.name = "winding", .capacity = 40.0}, Node{.name = "case", .capacity = 300.0}};
        lumped.resistors = {Resistor{.between = {"winding", "case"}, .total = 0.8}, Resistor{.between = {"case", "ambient"}, .total = 1.5, .ambient = 300.0}};
        lumped.add(heat("winding", 12.0));
        lumped.powers.front().profile = {"pulse"};
        lumped.add(Profile{.name = "pulse", .duty = Duty{.on = 20.0, .off = 40.0}});
        lumped.studies = {m.studies.front()};
        const Both b = both(lumped, lumped.studies.front());
        CHECK(b.reduced.reduction->modes == 2);
        CHECK(b.reduced.reduction->open < 1e-9);
        CHECK(b.reduced.parts.empty());
        CHECK(b.reduced.hottest.spot.temperature == Approx(b.full.hottest.spot.temperature).margin(0.02));
    }
}

TEST_CASE("a reduced run follows what depends on temperature and what varies", "[reduce]") {
    Model m = bent();
    SECTION("by a few elements that stand for all") {
        const Both b = both(m, m.studies.front());
        check_alike(b);
        CHECK(b.reduced.reduction->bent > 1000);
        CHECK(b.reduced.reduction->acting < b.reduced.reduction->bent / 10);
        CHECK(b.reduced.hottest.spot.temperature > 320.0);
        CHECK(*b.reduced.time_constant == Approx(*b.full.time_constant).epsilon(0.02));
    }
    SECTION("by all of them where they are few") {
        m.mesh.cell = 12e-3;
        m.studies.front().lasts = 50.0;
        const Both b = both(m, m.studies.front());
        check_alike(b);
        CHECK(b.reduced.reduction->acting == b.reduced.reduction->bent);
    }
    SECTION("a fan that a profile switches, surfaces that are ever more shielded") {
        m.coolings.front().law.reset();
        m.coolings.front().convection = 40.0;
        m.coolings.front().profile = {"pulse"};
        m.coolings.front().radiation_profile = {"ramp"};
        check_alike(both(m, m.studies.front()));
    }
    SECTION("a fan that a thermostat switches") {
        m.powers.front().profile.clear();
        m.coolings.front().law.reset();
        m.coolings.front().convection = 60.0;
        m.powers.front().total = 6.0;
        m.powers.back().total = 0.2;
        m.studies.front().lasts = 300.0;
        m.studies.front().tolerance = 5e-3;
        m.add(Thermostat{.name = "keeper", .sensor = "foot", .switches = {"air"}, .lower = 312.0, .upper = 316.0, .cools = true});
        const Both b = both(m, m.studies.front());
        const std::vector<Switching>&full = b.full.thermostats.front().switchings, &reduced = b.reduced.thermostats.front().switchings;
        REQUIRE(full.size() >= 3);
        REQUIRE(full.size() == reduced.size());
        for (std::size_t s = 0; s < full.size(); ++s) CHECK(reduced[s].time == Approx(full[s].time).epsilon(1e-3));
    }
    SECTION("a heater that draws less when it is warm") {
        m.studies.front().lasts = 50.0;
        m.powers.front().temperature_factor = {{300.0, 400.0}, {1.0, 0.3}};
        check_alike(both(m, m.studies.front()));
    }
    SECTION("the settled cycle") {
        m.powers.back().profile.clear();
        m.studies.front().kind = StudyKind::cyclic;
        m.studies.front().lasts = 0.0;
        const Both b = both(m, m.studies.front());
        check_alike(b);
        CHECK(*b.reduced.cycle->cycles_to_settle == Approx(*b.full.cycle->cycles_to_settle).margin(1.0).epsilon(0.1));
    }
    SECTION("until it is steady") {
        m.mesh.cell = 8e-3;
        m.studies.front().tolerance = 0.2;
        m.powers.front().profile.clear();
        m.powers.back().profile.clear();
        m.studies.front().lasts = 1e5;
        m.studies.front().stop_when = StopWhen::steady;
        const Both b = both(m, m.studies.front());
        CHECK(b.reduced.stopped == "steady");
        for (std::size_t p = 0; p < b.full.parts.size(); ++p)
            CHECK(b.reduced.parts[p].end_max == Approx(b.full.parts[p].end_max).margin(m.studies.front().steady_within));
        CHECK(*b.reduced.steady_time == Approx(*b.full.steady_time).epsilon(3e-2));
    }
    SECTION("nothing leads away but what radiates, and that is switched off") {
        m.coolings.front().law.reset();
        m.coolings.front().convection.reset();
        m.coolings.front().profile.clear();
        m.add(Profile{.name = "never", .points = Curve{{0.0, 1000.0}, {0.0, 0.0}}});
        m.coolings.front().radiation_profile = {"never"};
        check_alike(both(m, m.studies.front()));
    }
}

TEST_CASE("weights of a few elements add up to what all of them do, and none is negative", "[reduce]") {
    constexpr std::size_t rows = 12, count = 500;
    Contributions all{.rows = rows, .column = std::vector<double>(rows * count), .sum = std::vector<double>(rows, 0.0)};
    for (std::size_t e = 0; e < count; ++e) {
        const double x = static_cast<double>(e) / count;
        for (std::size_t r = 0; r < rows; ++r) {
            all.column[e * rows + r] = std::cos(3.14159 * static_cast<double>(r) * x) * (1.0 + x);
            all.sum[r] += all.column[e * rows + r];
        }
    }
    const WeightedSample few = sample(all, 1e-6);
    CHECK(few.open <= 1e-6);
    CHECK(few.element.size() <= rows);
    for (const double w : few.weight) CHECK(w > 0.0);
    CHECK(std::is_sorted(few.element.begin(), few.element.end()));
    for (std::size_t r = 0; r < rows; ++r) {
        double sum = 0.0;
        for (std::size_t i = 0; i < few.element.size(); ++i) sum += few.weight[i] * all.column[few.element[i] * rows + r];
        CHECK(sum == Approx(all.sum[r]).margin(1e-5 * count));
    }
    CHECK(sample({.rows = 2, .column = {}, .sum = {0.0, 0.0}}, 1e-3).element.empty());
}

TEST_CASE("what cannot be reduced is named", "[reduce]") {
    Model m = pulsed();
    m.studies.front().method = TimeMethod::reduced;
    const auto why = [&](const Model& model) -> std::string {
        try {
            static_cast<void>(solve_over_time(model, model.studies.front(), {}, {}, false));
        } catch (const ModelError& error) {
            return error.what();
        }
        return {};
    };
    CHECK(why(m).empty());
    Model melts = m;
    Material wax{.name = "wax", .conductivity = isotropic(1.0), .density = 900.0, .specific_heat = 2000.0};
    wax.melting = Melting{.from = 310.0, .to = 320.0, .latent_heat = 2e5};
    melts.materials.push_back(wax);
    melts.parts.back().material = "wax";
    CHECK_THAT(why(melts), Contains("study[0].method") && Contains("melts") && Contains("write method = \"full\""));
    Model fixed = m;
    fixed.studies.front().fixed_step = 1.0;
    CHECK_THAT(why(fixed), Contains("fixed_step"));
    const auto mesh = std::make_shared<const Mesh>(build_mesh(m));
    CHECK_THROWS_WITH(solve_in_time(m, mesh, m.studies.front(), start_temperatures(m, *mesh, m.studies.front()), {.resume = TransientState{}}),
                      Contains("begin anew"));
}

TEST_CASE("the reduced run of any assembly stays as near to the whole network as it says", "[property]") {
    for (unsigned seed = 1, done = 0; done < many(6); ++seed) {
        INFO("seed " << seed);
        Model model = random_assembly_of_shapes(seed);
        model.mesh.through = 1;
        model.mesh.cell = 6e-3;
        const bool linear = done % 5 != 0;  // others take much longer
        if (linear) make_linear(model);
        if (model.powers.empty()) model.add(Power{.into = {"base"}, .total = 2.0});
        const auto mesh = std::make_shared<const Mesh>(build_mesh(model));
        if (mesh->cells.size() > (linear ? 2500U : 1000U)) continue;
        ++done;
        model.add(Profile{.name = "pulse", .duty = Duty{.on = 3.0 * (1 + seed % 5), .off = 7.0, .delay = 1.0, .ramp = seed % 2 == 0 ? 1.0 : 0.0}});
        for (Power& p : model.powers) p.profile = {"pulse"};
        Study study{.name = "run", .ambient = 300.0, .kind = StudyKind::transient, .lasts = 120.0};
        study.start.temperature = seed % 3 == 0 ? 330.0 : 300.0;
        if (seed % 3 == 1) study.start.parts = {{"base", 320.0}};
        study.tolerance = 0.05;
        const std::vector<double> start = start_temperatures(model, *mesh, study);
        const TransientSolution full = solve_transient(model, mesh, study, start);
        study.method = TimeMethod::reduced;
        const TransientSolution reduced = solve_in_time(model, mesh, study, start);
        REQUIRE(reduced.reduction);
        CHECK(std::abs(reduced.ledger.relative_residual()) <= 1e-9);
        if (linear) CHECK(reduced.reduction->open <= study.tolerance);
        double most = 0.0;
        for (std::size_t i = 0; i < full.end.temperature.size(); ++i) most = std::max(most, std::abs(full.end.temperature[i] - reduced.end.temperature[i]));
        CHECK(most <= reduced.reduction->open + 0.25 * study.tolerance);
    }
}

TEST_CASE("the command marches a reduced model, tells so, and its results answer questions", "[cli]") {
    const Bench bench;
    Model m = pulsed();
    m.studies.front().method = TimeMethod::reduced;
    bench.put("m.toml", write_model(m));
    const auto told = bench.run("solve m.toml --quiet --no-pictures");
    CHECK(told.status < 2);
    CHECK_THAT(told.out, Contains("modes of the network"));
    const auto summary = nlohmann::json::parse(std::ifstream(bench.work() / "m.results" / "summary.json"));
    CHECK(summary["studies"][0]["reduction"]["modes"].get<int>() > 5);
    CHECK(summary["studies"][0]["reduction"]["within"].get<double>() < 0.05);
    const auto probed = bench.run("probe m.results --part block --at '90 s'");
    CHECK(probed.status == 0);
    CHECK(bench.run("check m.toml").status == 0);
    m.coolings.front().emissivity = 0.5;
    m.mesh.cell = 2_mm;  // so that there are enough surfaces to leave most of them out
    bench.put("m.toml", write_model(m));
    CHECK_THAT(bench.run("solve m.toml --quiet --no-pictures").out, Contains("stand for"));
    m.materials.push_back({.name = "wax", .conductivity = isotropic(1.0), .density = 900.0, .specific_heat = 2000.0});
    m.materials.back().melting = Melting{.from = 310.0, .to = 320.0, .latent_heat = 2e5};
    m.parts.back().material = "wax";
    bench.put("m.toml", write_model(m));
    for (const char* command : {"check", "solve"}) {
        const auto refused = bench.run(std::string(command) + " m.toml");
        CHECK(refused.status == 2);
        CHECK_THAT(refused.err, Contains("melts"));
    }
    CHECK(std::filesystem::exists(bench.work() / "m.results" / "summary.json"));
}
