// What is told of a run in time, against courses that are known exactly: one body that warms and cools is an exponential, a thermostat's
// cycle follows from two of them.

#include "findings/one_body.hpp"

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <numeric>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

TimeFindings run(Model m, double lasts, double tolerance = 0.01) {
    m.add(transient(lasts, 20.0, tolerance));
    return in_time(m).findings;
}

}  // namespace

TEST_CASE("limits tell the first crossing, the time beyond, the worst and the margin", "[findings]") {
    Model m = body();
    m.add(Limit{.part = "body", .below = 50_degC});
    m.add(Limit{.part = "body", .below = 50_degC, .after = 600.0});
    m.add(Limit{.part = "body", .above = 40_degC});
    m.add(Limit{.part = "body", .above = 40_degC, .after = 300.0});
    m.add(Limit{.part = "body", .below = 90_degC});
    m.add(Limit{.part = "body", .below = 50_degC, .studies = {"another"}});
    m.add(Study{.name = "another"});
    std::swap(m.studies, m.studies);
    m.studies.insert(m.studies.begin(), transient(1000.0, 20.0, 0.01));
    const TimeFindings f = in_time(m).findings;
    REQUIRE(f.limits.size() == 5);  // the one of another study does not count
    const double crossed = when_warm(50.0), warm = when_warm(40.0);
    for (const std::size_t n : {0U, 1U}) {
        const LimitOverTime& hot = f.limits[n];
        CHECK(hot.first_crossing.value() == Approx(crossed).margin(0.3));
        CHECK(hot.worst.time == Approx(1000.0));
        CHECK(hot.worst.spot.temperature == Approx(celsius(warming(1000.0))).margin(0.01));
        CHECK(hot.margin == Approx(50.0 - warming(1000.0)).margin(0.01));
        CHECK_FALSE(hot.kept());
        CHECK(hot.beyond_at_end);
        CHECK_FALSE(hot.met_from.has_value());
    }
    CHECK(f.limits[0].time_beyond() == Approx(1000.0 - crossed).margin(0.3));
    const LimitOverTime& cold = f.limits[2];
    CHECK(cold.first_crossing.value() == 0.0);  // begins there
    CHECK(cold.met_from.value() == Approx(warm).margin(0.3));
    CHECK(cold.margin == Approx(-20.0).margin(1e-6));
    CHECK(cold.worst.time == 0.0);
    CHECK_FALSE(cold.kept());
    const LimitOverTime& later = f.limits[3];
    CHECK(later.kept());
    CHECK(later.margin == Approx(warming(300.0) - 40.0).margin(0.01));
    CHECK(later.worst.time == Approx(300.0).margin(1e-6));
    CHECK(later.met_from.value() == Approx(warm).margin(0.3));
    const LimitOverTime& never = f.limits[4];
    CHECK(never.kept());
    CHECK_FALSE(never.first_crossing.has_value());
    CHECK(never.beyond.empty());
    CHECK(never.margin == Approx(90.0 - warming(1000.0)).margin(0.01));
    CHECK_FALSE(f.all_limits_kept());
}

TEST_CASE("a limit crossed several times has all its intervals", "[findings]") {
    Model m = body();
    m.powers[0].profile = {"pulses"};
    m.add(Profile{.name = "pulses", .duty = Duty{.on = 400.0, .off = 600.0}});
    m.add(Limit{.part = "body", .below = 45_degC});
    const TimeFindings f = run(m, 2500.0);
    REQUIRE(f.limits[0].beyond.size() == 3);
    // Exactly, pulse by pulse.
    double start = 20.0, beyond = 0.0;
    for (int pulse = 0; pulse < 3; ++pulse) {
        const double begin = 1000.0 * pulse, peak = 80.0 + (start - 80.0) * std::exp(-400.0 / tau);
        const double up = begin - tau * std::log((80.0 - 45.0) / (80.0 - start)), down = begin + 400.0 + tau * std::log((peak - 20.0) / 25.0);
        CHECK(f.limits[0].beyond[static_cast<std::size_t>(pulse)].from == Approx(up).margin(0.5));
        CHECK(f.limits[0].beyond[static_cast<std::size_t>(pulse)].to == Approx(std::min(down, 2500.0)).margin(0.5));
        beyond += std::min(down, 2500.0) - up;
        start = 20.0 + (peak - 20.0) * std::exp(-600.0 / tau);
    }
    CHECK(f.limits[0].time_beyond() == Approx(beyond).margin(1.5));
    CHECK(f.limits[0].first_crossing.value() == f.limits[0].beyond[0].from);
}

TEST_CASE("means, ends and energies are those of the exact course", "[findings]") {
    Model m = body();
    m.add(lump_sensor("body", 0));
    const TimeFindings f = run(m, 800.0, 1e-3);
    // The mean of the exponential from 0 to T: T_end − (rise at the end)·tau/T + final·tau… worked out from the heat balance.
    const double end = warming(800.0), lost = watt * 800.0 - capacity * (end - 20.0), mean = 20.0 + lost / loss / 800.0;
    REQUIRE(f.parts.size() == 1);
    CHECK(f.parts[0].mean == Approx(celsius(mean)).margin(2e-3));
    CHECK(f.parts[0].end_max == Approx(celsius(end)).margin(2e-3));
    CHECK(f.parts[0].end_min == Approx(celsius(end)).margin(2e-3));
    CHECK(f.parts[0].hottest.time == Approx(800.0));
    CHECK(f.parts[0].coldest.time == 0.0);
    CHECK(f.sensors[0].mean == Approx(celsius(mean)).margin(2e-3));
    CHECK(f.sensors[0].highest_time == Approx(800.0));
    CHECK(f.energy.entries[0].energy == Approx(watt * 800.0).epsilon(1e-9));
    CHECK(f.energy.entries[1].energy == Approx(lost).epsilon(1e-4));
    CHECK(f.energy.stored == Approx(capacity * (end - 20.0)).epsilon(1e-4));
    CHECK(f.time_constant.value() == Approx(tau).epsilon(1e-3));
    CHECK(f.remaining_change.value() == Approx(80.0 - end).margin(0.01));
    CHECK(f.end_time == 800.0);
}

TEST_CASE("the history can be read between its rows, and says what the findings say", "[findings]") {
    Model m = body();
    m.powers[0].profile = {"pulses"};
    m.add(Profile{.name = "pulses", .duty = Duty{.on = 100.0, .off = 150.0, .delay = 20.0}});
    m.add(lump_sensor("body", 0));
    Study study = transient(1000.0, 20.0, 0.01);
    study.history_every = 25.0;
    m.add(study);
    const TimeFindings f = in_time(m).findings;
    const History& h = f.history;
    REQUIRE(h.rows.size() == h.time.size());
    CHECK(h.time.front() == 0.0);
    CHECK(h.time.back() == Approx(1000.0));
    CHECK(std::is_sorted(h.time.begin(), h.time.end()));
    const auto column = [&](const std::string& name) {
        for (std::size_t c = 0; c < h.columns.size(); ++c) {
            if (h.columns[c].find(name) != std::string::npos) return c;
        }
        FAIL("no column " << name);
        return std::size_t{0};
    };
    const std::size_t in = column("heater in"), out = column("air out"), stored = column("stored"), high = column("body max"), low = column("body min"),
                      mean = column("body mean");
    double highest = -1e300, energy = 0.0;
    for (std::size_t r = 0; r < h.rows.size(); ++r) {
        REQUIRE(h.rows[r].size() == h.columns.size());
        CHECK(h.rows[r][low] <= h.rows[r][mean] + 1e-9);
        CHECK(h.rows[r][mean] <= h.rows[r][high] + 1e-9);
        CHECK(h.rows[r][in] - h.rows[r][out] == Approx(h.rows[r][stored]).margin(1e-6));  // at every moment
        highest = std::max(highest, h.rows[r][high]);
        if (r > 0) energy += 0.5 * (h.rows[r][in] + h.rows[r - 1][in]) * (h.time[r] - h.time[r - 1]);
    }
    CHECK(highest == Approx(f.parts[0].hottest.spot.temperature - zero_celsius).margin(0.02));
    CHECK(energy == Approx(f.energy.entries[0].energy).epsilon(1e-9));  // rows stand on both sides of every jump
    for (double t = 0.0; t <= 1000.0; t += 25.0) {
        INFO("every 25 s: " << t);
        CHECK(std::any_of(h.time.begin(), h.time.end(), [&](double at) { return std::abs(at - t) < 1e-6; }));
    }
}

TEST_CASE("a thermostat's period, duty and energy follow from its two courses", "[findings]") {
    Model m = body();
    m.add(lump_sensor("body", 0));
    m.add(Thermostat{.name = "guard", .sensor = "body sensor", .switches = {"heater"}, .lower = 50_degC, .upper = 60_degC});
    const TimeFindings f = run(m, 4000.0);
    REQUIRE(f.thermostats.size() == 1);
    const ThermostatFinding& t = f.thermostats[0];
    const double up = tau * std::log(30.0 / 20.0), down = tau * std::log(40.0 / 30.0);
    CHECK(t.period.value() == Approx(up + down).epsilon(2e-3));
    CHECK(t.duty == Approx(up / (up + down)).epsilon(2e-3));
    CHECK(t.energy == Approx(f.energy.entries[0].energy).epsilon(1e-6));
    CHECK(t.energy == Approx(watt * t.on_time).epsilon(1e-6));
    REQUIRE(t.switchings.size() >= 4);
    CHECK_FALSE(t.switchings[0].on);
    CHECK(t.switchings[0].time == Approx(when_warm(60.0)).margin(0.5));
    for (std::size_t n = 1; n < t.switchings.size(); ++n) {
        CHECK(t.switchings[n].on != t.switchings[n - 1].on);
        CHECK(t.switchings[n].time - t.switchings[n - 1].time == Approx(t.switchings[n].on ? down : up).epsilon(5e-3));
    }
    CHECK(f.parts[0].hottest.spot.temperature <= 60_degC + 0.02);
    CHECK(std::abs(f.energy.relative_residual()) <= 1e-9);
}

TEST_CASE("a cooling and a power that a study switches off are told so", "[findings]") {
    Model m = body();
    m.add(Power{.name = "second", .into = {"body"}, .total = 3.0});
    Study study = transient(500.0, 20.0);
    study.scale = {{"second", 0.0}, {"heater", 0.5}};
    m.add(study);
    const TimeFindings f = in_time(m).findings;
    CHECK(f.energy.entries[0].energy == Approx(0.5 * watt * 500.0).epsilon(1e-9));
    CHECK(f.energy.entries[1].energy == 0.0);
    CHECK_THAT(to_text(f), Contains("second"));
    CHECK(f.parts[0].end_mean == Approx(celsius(20.0 + 0.5 * (warming(500.0) - 20.0))).margin(0.1));
}

TEST_CASE("a study begins where another ended, in its parts and to the digit", "[findings]") {
    Model m = body();
    m.add(transient(300.0, 20.0, 0.01));
    Study next = transient(400.0, 20.0, 0.01);
    next.name = "next";
    next.start = {};
    next.start.study = "run";
    next.scale = {{"heater", 0.0}};
    m.add(next);
    const auto mesh = std::make_shared<const Mesh>(build_mesh(m));
    const TransientSolution first = solve_transient(m, mesh, m.studies[0], start_temperatures(m, *mesh, m.studies[0]));
    std::vector<double> start = first.end.temperature;
    const TransientSolution second = solve_transient(m, mesh, m.studies[1], start);
    CHECK(second.end.temperature[0] == Approx(celsius(20.0 + (warming(300.0) - 20.0) * std::exp(-400.0 / tau))).margin(0.02));
    CHECK(second.ledger.moved.loads[0] == 0.0);
    CHECK(second.ledger.stored < 0.0);
    CHECK(std::abs(second.ledger.relative_residual()) <= 1e-9);
}

TEST_CASE("milestones tell when a temperature passes a value, without a verdict", "[findings]") {
    Model m = body();
    m.add(Milestone{.part = "body", .rises_above = 50_degC});
    m.add(Milestone{.name = "warm", .part = "b*", .rises_above = 40_degC, .coldest = true});
    m.add(Milestone{.part = "body", .rises_above = 90_degC});
    m.add(Milestone{.part = "body", .falls_below = 30_degC});
    m.add(Milestone{.name = "elsewhere", .part = "body", .falls_below = 30_degC, .studies = {"another"}});
    m.studies = {transient(1000.0, 20.0, 0.01), Study{.name = "another", .ambient = 20_degC}};
    const TimeFindings f = in_time(m).findings;
    CHECK(f.verdict() == Verdict::no_limits);
    REQUIRE(f.milestones.size() == 4);
    CHECK(f.milestones[0].name == "body above 50.0 °C");
    CHECK(f.milestones[0].first.value() == Approx(when_warm(50.0)).margin(0.3));
    CHECK(f.milestones[0].stays_from.value() == f.milestones[0].first.value());
    CHECK(f.milestones[1].first.value() == Approx(when_warm(40.0)).margin(0.3));
    CHECK_FALSE(f.milestones[2].first.has_value());
    CHECK(f.milestones[2].past.empty());
    CHECK(f.milestones[3].first.value() == 0.0);  // below from the start
    CHECK_FALSE(f.milestones[3].stays_from.has_value());
    CHECK(f.milestones[3].past.at(0).to == Approx(when_warm(30.0)).margin(0.3));
    const TimeFindings with_errors = solve_over_time(m, m.studies.front());
    const std::vector<Figure>& figures = with_errors.figures;
    const auto figure = std::find_if(figures.begin(), figures.end(), [](const Figure& x) { return x.kind == FigureKind::milestone && x.name == "warm"; });
    REQUIRE(figure != figures.end());
    CHECK(figure->bar.has_value());
    CHECK(*figure->value == Approx(when_warm(40.0)).margin(0.3));  // conduction within the body delays it by less than that
    CHECK(figure->error() < 0.3);
    CHECK_THAT(to_text(f), Contains("Milestones") && Contains("not reached"));
    CHECK(through_file(m) == m);

    const SteadySolution steady = solve_steady(m, std::make_shared<const Mesh>(build_mesh(m)), m.studies[1]);
    const Findings s = findings(m, steady);
    REQUIRE(s.milestones.size() == 5);
    CHECK(s.milestones[0].past());
    CHECK(s.milestones[0].found == Approx(celsius(20.0 + final_rise)).margin(0.01));
    CHECK_FALSE(s.milestones[2].past());
    CHECK(s.all_limits_kept());
    CHECK_THAT(to_text(s), Contains("Milestones"));
}

TEST_CASE("a run can stop when every milestone is passed", "[findings]") {
    Model m = body();
    m.add(Milestone{.name = "hot", .part = "body", .rises_above = 60_degC});
    m.add(Milestone{.name = "warm", .part = "body", .rises_above = 40_degC});
    m.add(Limit{.part = "body", .below = 50_degC});
    Study study = transient(50'000.0, 20.0, 0.01);
    study.stop_when = StopWhen::milestones_passed;
    m.add(study);
    const TimeFindings f = in_time(m).findings;
    CHECK(f.stopped == "all milestones are passed");
    CHECK(f.milestones[0].first.value() == Approx(when_warm(60.0)).margin(0.3));
    CHECK(f.end_time < 2.0 * when_warm(60.0));
    CHECK(f.limits.size() == 1);
    CHECK(through_file(m) == m);
    m.milestones.clear();
    CHECK_THROWS_WITH(build_mesh(m), Contains("no milestone is told in this study"));
}

TEST_CASE("milestones that cannot be are refused", "[findings]") {
    const auto refused = [](const Milestone& milestone, const std::string& why) {
        Model m = body();
        m.add(milestone);
        CHECK_THROWS_WITH(build_mesh(m), Contains(why));
    };
    refused({.part = "body"}, "either \"rises_above\" or \"falls_below\"");
    refused({.part = "body", .rises_above = 300.0, .falls_below = 310.0}, "either");
    refused({.rises_above = 300.0}, "a milestone is on a \"part\", on a \"sensor\" or on a \"figure\"");
    refused({.part = "bdy", .rises_above = 300.0}, "bdy");
    refused({.sensor = "nowhere", .rises_above = 300.0}, "unknown sensor");
    refused({.part = "body", .rises_above = 300.0, .studies = {"never"}}, "never");
    Model twice = body();
    twice.add(Milestone{.part = "body", .rises_above = 300.0}).add(Milestone{.part = "body", .rises_above = 300.0});
    CHECK_THROWS_WITH(build_mesh(twice), Contains("there twice"));
    Model probed = body();
    probed.add(Sensor{.name = "middle", .in = "body", .at = std::get<Box>(probed.parts[0].shape).at + 0.5 * std::get<Box>(probed.parts[0].shape).size});
    probed.add(Milestone{.sensor = "middle", .rises_above = 300.0, .coldest = true});
    CHECK_THROWS_WITH(build_mesh(probed), Contains("only a part has a hottest and a coldest place"));
}
