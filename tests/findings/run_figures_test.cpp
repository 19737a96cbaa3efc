// Figures of a run as a whole, against a body whose course is an exponential, and against what else is told of the run.

#include "findings/one_body.hpp"

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

Model body_over_time() {
    Model m = body();
    m.add(transient(1000.0, 20.0, 0.01));
    return m;
}

const RunFigure& of_run(const TimeFindings& f, const std::string& name) {
    const auto found = std::find_if(f.of_run.begin(), f.of_run.end(), [&](const RunFigure& r) { return r.name == name; });
    INFO(name);
    REQUIRE(found != f.of_run.end());
    return *found;
}

void refused(Model m, const std::string& value, const std::string& why) {
    INFO(value);
    m.add(NamedFigure{.name = "asked", .value = value});
    CHECK_THROWS_WITH(build_mesh(m), Contains(why));
}

}  // namespace

TEST_CASE("figures of a run follow the closed form of a body that warms", "[findings]") {
    Model m = body_over_time();
    m.add(NamedFigure{.name = "above ambient", .value = "= 'body.max' - 20 degC"});
    for (const char* address :
         {"highest of body.max", "lowest of body.max", "mean of body.mean", "swing of body.max", "total of heater.heat", "total of air.heat",
          "first time body.max is above 50 degC", "last time body.max is below 40 degC", "time body.max is above 50 degC",
          "first time body.max is above 200 degC", "time body.max is above 200 degC", "highest of above ambient", "time constant"})
        m.add(NamedFigure{.name = address, .value = address});
    m.add(NamedFigure{.name = "kept", .value = "= 1 - 'total of air.heat' / 'total of heater.heat'"});
    m.add(NamedFigure{.name = "twice", .value = "= 2 * 'kept'"});
    m.add(Limit{.figure = "swing of body.max", .below = Threshold(40.0, kinds::temperature_difference)});
    m.add(Limit{.figure = "kept", .above = Threshold(0.1, kinds::number)});
    const TimeFindings f = in_time(m).findings;
    const double end = warming(1000.0), into_air = watt * 1000.0 - capacity * (end - 20.0);
    const auto value = [&](const std::string& name) { return of_run(f, name).value.value(); };
    CHECK(value("highest of body.max") == Approx(celsius(end)).margin(0.02));
    CHECK(value("lowest of body.max") == Approx(celsius(20.0)).margin(0.02));
    CHECK(value("mean of body.mean") == Approx(celsius(20.0 + into_air / loss / 1000.0)).margin(0.02));
    CHECK(value("swing of body.max") == Approx(end - 20.0).margin(0.03));
    CHECK(of_run(f, "swing of body.max").quantity == &kinds::temperature_difference);
    CHECK(value("total of heater.heat") == Approx(watt * 1000.0).epsilon(1e-9));
    CHECK(value("total of air.heat") == Approx(into_air).epsilon(1e-3));
    CHECK(value("total of air.heat") == Approx(f.energy.of(HeatKind::convection, "air")).epsilon(1e-3));
    CHECK(value("first time body.max is above 50 degC") == Approx(when_warm(50.0)).margin(0.5));
    CHECK(value("last time body.max is below 40 degC") == Approx(when_warm(40.0)).margin(0.5));
    CHECK(value("time body.max is above 50 degC") == Approx(1000.0 - when_warm(50.0)).margin(0.5));
    CHECK(value("time body.max is above 200 degC") == 0.0);
    CHECK_FALSE(of_run(f, "first time body.max is above 200 degC").value);
    CHECK(value("highest of above ambient") == Approx(end - 20.0).margin(0.02));
    CHECK(value("time constant") == Approx(tau).epsilon(1e-2));
    CHECK(value("kept") == Approx(1.0 - into_air / (watt * 1000.0)).margin(1e-3));
    CHECK(value("twice") == Approx(2.0 * value("kept")));
    REQUIRE(f.limits.size() == 2);
    CHECK_FALSE(f.limits[0].kept());
    CHECK(f.limits[0].margin == Approx(40.0 - (end - 20.0)).margin(0.03));
    CHECK(f.limits[1].kept());
    // What is only followed for them is told nowhere else.
    CHECK(f.named.size() == 1);
    CHECK(std::none_of(f.history.columns.begin(), f.history.columns.end(), [](const std::string& c) { return c.empty() || c.front() == ' '; }));
    CHECK(f.end.named.size() == 1);
    CHECK(std::none_of(f.warnings.begin(), f.warnings.end(), [](const Warning& w) { return w.kind == "figure_not_told"; }));
}

TEST_CASE("figures of a run have the errors of what they are made of", "[findings]") {
    Model m = body_over_time();
    m.add(lump_sensor("body", 0));
    m.add(Thermostat{.name = "guard", .sensor = "body sensor", .switches = {"heater"}, .lower = 50_degC, .upper = 60_degC});
    m.studies[0].lasts = 4000.0;
    for (const char* address : {"swing of body.max", "highest of body.max", "first time body.max is above 50 degC", "thermostat.guard.duty",
                                "thermostat.guard.period", "thermostat.guard.switchings", "total of heater.heat"})
        m.add(NamedFigure{.name = address, .value = address});
    m.add(NamedFigure{.name = "on", .value = "= 'thermostat.guard.duty' * 'thermostat.guard.period'"});
    const TimeFindings f = solve_over_time(m, m.studies.front());
    REQUIRE(f.thermostats.size() == 1);
    CHECK(of_run(f, "thermostat.guard.duty").value == f.thermostats[0].duty);
    CHECK(of_run(f, "thermostat.guard.period").value == f.thermostats[0].period);
    CHECK(of_run(f, "thermostat.guard.switchings").value == static_cast<double>(f.thermostats[0].switchings.size()));
    CHECK(of_run(f, "total of heater.heat").value.value() == Approx(f.thermostats[0].energy).epsilon(1e-9));
    const auto figure = [&](const std::string& name) {
        const auto found = std::find_if(f.figures.begin(), f.figures.end(), [&](const Figure& r) { return r.kind == FigureKind::figure && r.name == name; });
        REQUIRE(found != f.figures.end());
        return *found;
    };
    const auto error = [&](FigureKind kind, const std::string& name) {
        const auto found = std::find_if(f.figures.begin(), f.figures.end(), [&](const Figure& r) { return r.kind == kind && r.name == name; });
        REQUIRE(found != f.figures.end());
        return found->error();
    };
    CHECK(figure("highest of body.max").error() == Approx(error(FigureKind::max, "body")).epsilon(1e-3));
    CHECK(figure("swing of body.max").error() >= 0.9 * error(FigureKind::max, "body"));
    CHECK(figure("thermostat.guard.period").error() >= error(FigureKind::period, "guard"));
    CHECK(figure("first time body.max is above 50 degC").bar.has_value());
    CHECK(figure("on").error() >= error(FigureKind::duty, "guard") * *of_run(f, "thermostat.guard.period").value);
    CHECK_FALSE(figure("total of heater.heat").bar);
    CHECK_FALSE(figure("thermostat.guard.switchings").bar);
}

TEST_CASE("figures of a run that cannot be are refused, and a steady study says why it has none", "[findings]") {
    refused(body_over_time(), "total of body.max", "only heat flows add up");
    refused(body_over_time(), "highest of bdy.max", "bdy");
    refused(body_over_time(), "time body.max is above 3 W", "temperature");
    refused(body_over_time(), "thermostat.guard.duty", "no thermostat is called");
    refused(body_over_time(), "= 'highest of body.max' - 'body.max'", "mixes what is told of a whole run");
    refused(body_over_time(), "highest of highest of body.max", "highest of body.max");
    Model m = body_over_time();
    m.add(NamedFigure{.name = "peak", .value = "highest of body.max"});
    refused(m, "mean of peak", "told of the whole run already");
    const auto refused_with = [&](const auto& entry, const std::string& why) {
        Model with = m;
        with.add(entry);
        CHECK_THROWS_WITH(build_mesh(with), Contains(why));
    };
    refused_with(Limit{.figure = "peak", .below = 60_degC, .after = 100.0}, "leave `after` out");
    refused_with(Milestone{.figure = "peak", .rises_above = 300.0}, "put a limit on it");
    m.add(Limit{.figure = "peak", .below = 60_degC});
    m.studies = {Study{.name = "steady", .ambient = 20_degC}};
    const Findings f = findings(m, solve_steady(m));
    CHECK(f.limits.empty());
    const auto told = [&](const std::string& kind) {
        return std::any_of(f.warnings.begin(), f.warnings.end(),
                           [&](const Warning& w) { return w.kind == kind && w.message.find("the study is steady") != std::string::npos; });
    };
    CHECK(told("figure_not_told"));
    CHECK(told("limit_not_judged"));
    // A part of that very name is meant first.
    Model own;
    add_lump(own, "mean of all", capacity, 0);
    cool_lump(own, "mean of all", loss, 20.0, "air");
    own.add(transient(10.0, 20.0, 0.01));
    own.add(NamedFigure{.name = "asked", .value = "mean of all.max"});
    const TimeFindings moments = in_time(own).findings;
    CHECK(moments.of_run.empty());
    CHECK(moments.named.size() == 1);
}
