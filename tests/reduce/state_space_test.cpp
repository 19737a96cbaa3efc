// Reduced equations against runs of the same study: by their own exponentials, as a netlist in a circuit simulator, as step responses.

#include "cli/bench.hpp"
#include "models.hpp"

#include <firnfield/state_space_files.hpp>

#include <catch2/catch.hpp>

#include <cmath>
#include <cstdlib>
#include <fstream>
#include <sstream>

using namespace firnfield;
using namespace firnfield::test;
using namespace firnfield::literals;
using Catch::Matchers::Contains;

namespace {

/// A warm block on a plate that starts uneven, with two powers, a switched ambient and a sensor on the outside.
Model two_heaters() {
    Model m = block_on_plate();
    m.limits.clear();
    m.mesh.refine = false;
    m.coolings.clear();
    m.add(convection(exposed(), 20.0, 300.0));
    m.coolings.front().name = "air";
    m.powers.front().name = "die";
    m.powers.front().profile = {"pulse"};
    m.add(Profile{.name = "pulse", .duty = Duty{.on = 30.0, .off = 50.0, .ramp = 2.0}});
    m.add(heat("plate", 4.0));
    m.powers.back().name = "warm";
    m.add(Sensor{.name = "top", .in = "block", .at = {40_mm, 30_mm, 7_mm}});
    m.add(Sensor{.name = "foot", .in = "plate", .at = {2_mm, 2_mm, 0_mm}});
    Study study{.name = "run", .ambient = 300.0, .kind = StudyKind::transient, .lasts = 200.0};
    study.start.temperature = 300.0;
    study.start.parts = {{"block", 320.0}};
    study.tolerance = 0.02;
    m.studies = {study};
    return m;
}

/// Sensors (K) at times, by the whole network.
std::vector<std::vector<double>> sensors_over_time(const Model& m, const std::vector<double>& times) {
    const auto mesh = std::make_shared<const Mesh>(build_mesh(meshed_for(m, m.studies.front())));
    const TimeFindings found = solve_over_time(m, m.studies.front(), mesh, {}, false);
    std::vector<std::vector<double>> out;
    for (const double t : times) {
        const auto after = std::lower_bound(found.history.time.begin(), found.history.time.end(), t) - found.history.time.begin();
        out.emplace_back();
        for (const std::string name : {"top (degC)", "foot (degC)"}) {
            const auto column =
                static_cast<std::size_t>(std::find(found.history.columns.begin(), found.history.columns.end(), name) - found.history.columns.begin());
            REQUIRE(column < found.history.columns.size());
            const auto i = static_cast<std::size_t>(after);
            const double share = i == 0 ? 0.0 : (t - found.history.time[i - 1]) / (found.history.time[i] - found.history.time[i - 1]);
            const double before = i == 0 ? found.history.rows[0][column] : found.history.rows[i - 1][column];
            out.back().push_back(zero_celsius + before + share * (found.history.rows[i][column] - before));
        }
    }
    return out;
}

}  // namespace

TEST_CASE("a reduced study steps like the whole one", "[reduce]") {
    Model m = two_heaters();
    m.powers.front().profile.clear();
    const StateSpace s = reduce_study(m, m.studies.front());
    REQUIRE(s.inputs.size() == 3);
    CHECK(s.inputs[0].name == "die");
    CHECK(s.inputs[0].at_start == Approx(15.0));
    CHECK(s.inputs[2].temperature);
    CHECK(s.outputs == std::vector<std::string>{"top", "foot", "plate.mean", "block.mean"});
    CHECK_FALSE(s.linearised);
    const std::vector<double> input{15.0, 4.0, 300.0}, times{0.0, 3.0, 40.0, 199.0};
    const auto whole = sensors_over_time(m, times);
    for (std::size_t t = 0; t < times.size(); ++t) {
        std::vector<double> state;
        for (std::size_t k = 0; k < s.rate.size(); ++k) {
            double push = s.in_constant[k];
            for (std::size_t i = 0; i < input.size(); ++i) push += s.in[i][k] * input[i];
            const double x = s.rate[k] * times[t];
            state.push_back(s.start[k] * std::exp(-x) + push * (x > 0.0 ? -std::expm1(-x) / s.rate[k] : times[t]));
        }
        const std::vector<double> y = s.read(state, input);
        INFO(times[t] << " s");
        for (std::size_t o = 0; o < 2; ++o) CHECK(y[o] == Approx(whole[t][o]).margin(0.03));
    }
}

TEST_CASE("step responses end where the steady state is, and rise from nothing", "[reduce]") {
    Model m = two_heaters();
    const StateSpace s = reduce_study(m, m.studies.front());
    Model one = m;
    one.powers.front().profile.clear();
    one.powers.back().include = false;
    one.studies.front().kind = StudyKind::steady;
    one.studies.front().start = {};
    const Findings steady = findings(one, solve_steady(one, one.studies.front()), {.errors = false});
    for (std::size_t o = 0; o < 2; ++o) {
        const std::vector<FosterTerm> terms = foster_terms(s, 0, o);
        CHECK(step_response(terms, 1e9) == Approx((steady.sensors[o].temperature - 300.0) / 15.0).epsilon(1e-4));
        CHECK(std::abs(step_response(terms, 1e-6)) < 1e-3);
        double before = 0.0;
        for (double t = 0.01; t < 1e4; t *= 1.5) {
            const double now = step_response(terms, t);
            CHECK(now >= before - 1e-3);
            before = now;
        }
    }
    // What the first does at the place of the second is what the second does at that of the first, in the mean over what they heat.
    CHECK(step_response(foster_terms(s, 0, 2), 30.0) == Approx(step_response(foster_terms(s, 1, 3), 30.0)).epsilon(1e-3));
}

TEST_CASE("what bends is written as tangents that hold where they were taken", "[reduce]") {
    Model m = two_heaters();
    m.powers.front().profile.clear();
    m.coolings.front().emissivity = 0.8;
    m.studies.front().start = {};
    m.studies.front().start.temperature = 300.0;
    m.studies.front().kind = StudyKind::transient;
    m.studies.front().lasts = 1e5;  // so that the middle is the end
    const StateSpace s = reduce_study(m, m.studies.front());
    CHECK(s.linearised);
    std::vector<double> input, state;
    for (const StateSpace::Input& i : s.inputs) input.push_back(i.at_start);
    for (std::size_t k = 0; k < s.rate.size(); ++k) {
        double push = s.in_constant[k];
        for (std::size_t i = 0; i < input.size(); ++i) push += s.in[i][k] * input[i];
        state.push_back(push / s.rate[k]);
    }
    Model steady = m;
    steady.studies.front().kind = StudyKind::steady;
    steady.studies.front().start = {};
    const Findings found = findings(steady, solve_steady(steady, steady.studies.front()), {.errors = false});
    const std::vector<double> y = s.read(state, input);
    for (std::size_t o = 0; o < 2; ++o) CHECK(y[o] == Approx(found.sensors[o].temperature).margin(0.2));
}

TEST_CASE("a circuit simulator runs the netlist as the whole network runs", "[reduce]") {
    if (std::system("ngspice --version > /dev/null 2>&1") != 0) {
        WARN("ngspice is not there, so the netlist is not run");
        return;
    }
    const Bench bench;
    Model m = two_heaters();
    m.powers.front().name = "die\n.include /nowhere";  // names are comments that end with their line
    const StateSpace s = reduce_study(m, m.studies.front());
    std::string deck = "reduced study\n" + spice_netlist(s);
    deck += "Vdie in1 0 pulse(0 15 0 2 2 28 80)\nVwarm in2 0 4\nVair in3 0 " + std::to_string(300.0 - zero_celsius) + "\nX1 in1 in2 in3 t1 t2 t3 t4 reduced\n";
    deck += ".options reltol=1e-5\n.control\ntran 0.2 200 0 0.2 uic\nwrdata run.txt v(t1) v(t2)\nquit\n.endc\n.end\n";
    bench.put("deck.cir", deck);
    REQUIRE(std::system(("cd '" + bench.work().string() + "' && ngspice -b deck.cir > log.txt 2>&1").c_str()) == 0);
    std::vector<double> times;
    std::vector<std::vector<double>> read;
    std::ifstream file(bench.work() / "run.txt");
    double t = 0.0, top = 0.0, again = 0.0, foot = 0.0, next = 1.0;
    while (file >> t >> top >> again >> foot) {
        if (t < next) continue;
        next += 4.0;
        times.push_back(t);
        read.push_back({top, foot});
    }
    REQUIRE(times.size() > 40);
    m.powers.front().profile = {"table"};  // the same pulse for the simulator's own corners
    m.add(Profile{.name = "table", .points = Curve{{0.0, 2.0, 30.0, 32.0, 80.0}, {0.0, 1.0, 1.0, 0.0, 0.0}}, .repeat = true});
    const auto whole = sensors_over_time(m, times);
    for (std::size_t i = 0; i < times.size(); ++i) {
        INFO(times[i] << " s");
        for (std::size_t o = 0; o < 2; ++o) CHECK(zero_celsius + read[i][o] == Approx(whole[i][o]).margin(0.1));
    }
}

TEST_CASE("the command writes a reduced study, and nothing over what is another's", "[cli]") {
    const Bench bench;
    bench.put("m.toml", write_model(two_heaters()));
    const auto told = bench.run("reduce m.toml --quiet");
    INFO(told.err);
    REQUIRE(told.status == 0);
    CHECK_THAT(told.out, Contains("modes") && Contains("die") && Contains("block.mean"));
    const auto folder = bench.work() / "m.reduced";
    for (const char* name : {"ports.csv", "A.mtx", "B.mtx", "C.mtx", "D.mtx", "rest.mtx", "responses.csv", "foster.csv", "reduced.cir"})
        CHECK(std::filesystem::file_size(folder / name) > 10);
    std::ifstream matrix(folder / "B.mtx");
    std::string banner;
    std::size_t rows = 0, columns = 0;
    std::getline(matrix, banner);
    matrix >> rows >> columns;
    CHECK(banner == "%%MatrixMarket matrix array real general");
    CHECK(columns == 3);
    CHECK(bench.run("reduce m.toml --quiet").status == 0);  // its own may be written again
    std::filesystem::create_directory(bench.work() / "mine");
    bench.put("mine/precious.txt", "x");
    const auto refused = bench.run("reduce m.toml --quiet --out mine");
    CHECK(refused.status == 2);
    CHECK_THAT(refused.err, Contains("--out"));
    CHECK(bench.run("reduce m.toml --study nowhere").status == 2);
    Model steady = two_heaters();
    steady.studies.front() = Study{.name = "still", .ambient = 300.0};
    bench.put("steady.toml", write_model(steady));
    const auto still = bench.run("reduce steady.toml");
    CHECK(still.status == 2);
    CHECK_THAT(still.err, Contains("in time"));
}
