// Answers in the reader's units, and further pictures of results: by the command.

#include "cli/bench.hpp"

#include <firnfield/firnfield.hpp>
#include <firnfield/results.hpp>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

using namespace firnfield::test;
using Catch::Matchers::Contains;
using Catch::Matchers::StartsWith;

namespace {

const std::string model = R"toml(
firnfield = 1
title = "Two blocks"
[units]
length = "mm"
temperature = "degC"
[[part]]
name = "low"
shape = "box"
size = [20, 10, 5]
material = "copper"
[[part]]
name = "high"
shape = "box"
size = [10, 10, 5]
at = [0, 0, 5]
material = "aluminium 6061-T6"
[[power]]
into = "high"
total = "5 W"
[[cooling]]
on = "exposed"
convection = "200 W/(m^2 K)"
ambient = 25
[[limit]]
part = "high"
below = "200 degC"
[[figure]]
name = "spread"
value = "= 'high.max' - 'low.min'"
[[study]]
name = "rest"
[[study]]
name = "warm up"
kind = "transient"
lasts = "2 min"
ambient = 25
)toml";

void put(const Bench& bench, const std::string& name, const std::string& from, const std::string& to) {
    std::string text = model;
    if (!from.empty()) text.replace(text.find(from), from.size(), to);
    bench.put(name, text);
}

}  // namespace

TEST_CASE("[units] and --units rule what people read, and nothing that machines do", "[cli]") {
    const Bench bench;
    put(bench, "m.toml", "", "");
    put(bench, "inch.toml", "temperature = \"degC\"", "temperature = \"degC\"\nanswers = \"in, degF\"");
    const Outcome usual = bench.run("solve m.toml --quiet --no-pictures"), inch = bench.run("solve inch.toml --quiet");
    REQUIRE(usual.status == 0);
    REQUIRE(inch.status == 0);
    CHECK_THAT(usual.out, Contains("max °C") && !Contains("°F"));
    CHECK_THAT(inch.out, Contains("max °F") && Contains("hottest at (in)") && Contains("< 392.0") && Contains("W/in²") && !Contains("°C") && !Contains("(mm)"));
    CHECK(bench.run("solve m.toml --quiet --no-pictures --units 'in, degF' --out again").out.substr(0, 400) == inch.out.substr(0, 400));

    using Json = nlohmann::json;
    Json one = Json::parse(content(bench.work() / "m.results/summary.json")), other = Json::parse(content(bench.work() / "inch.results/summary.json"));
    CHECK(one["numbers"] == "in SI units, temperatures in degC, where no other unit stands beside them");
    CHECK(other["told_in"]["temperature"] == "degF");
    CHECK(one["fingerprint"] == other["fingerprint"]);
    CHECK(one["studies"][0]["parts"] == other["studies"][0]["parts"]);

    const auto read = [&](const std::string& folder, const firnfield::Units& units) {
        return firnfield::read_history(bench.work() / folder / "history/warm up.csv", units);
    };
    const firnfield::History plain = read("m.results", {}), told = read("inch.results", {"in", "degF"});
    CHECK(plain.columns == told.columns);
    CHECK_THAT(content(bench.work() / "inch.results/history/warm up.csv"), Contains("high max (degF)") && Contains("spread (delta degF)") && !Contains("degC"));
    REQUIRE(plain.rows.size() == told.rows.size());
    for (std::size_t c = 0; c < plain.columns.size(); ++c) CHECK(told.rows.back()[c] == Approx(plain.rows.back()[c]).margin(1e-9));

    CHECK_THAT(bench.run("probe inch.results --part high --at '1 min'").out, Contains("high max"));
    const Outcome when = bench.run("probe inch.results --when 'high > 100 degF'");
    CHECK_THAT(when.out, Contains("above 100.0 °F"));
    const std::string same = bench.run("probe m.results --when 'high > 100 degF'").out;
    CHECK(when.out.substr(when.out.find('\n')) == same.substr(same.find('\n')));
    CHECK_THAT(bench.run("probe inch.results --point 'low: 0.2, 0.2, 0.1' --csv").out, Contains("(degF)"));
    CHECK_THAT(bench.run("probe inch.results --point 'low: 5, 5, 2' --units 'mm, degC' --csv").out, Contains("(degC)"));
    CHECK_THAT(bench.run("probe m.results --study rest --line 'low: 1, 5, 2 to 19, 5, 2' --heat-flux --samples 3").out,
               Contains("low flux") && Contains("low z"));
    CHECK(bench.run("probe m.results --part low --heat-flux").status == 2);
    CHECK_THAT(bench.run("check m.toml --units in").out, Contains("size (in)"));
    CHECK_THAT(bench.run("why m.toml --quiet --units degF").out, Contains("°F above 77.0 °F") && Contains("1 °F more"));
    const Outcome wrong = bench.run("solve m.toml --units furlong");
    CHECK(wrong.status == 2);
    CHECK_THAT(wrong.err, Contains("furlong") && Contains("in, degF"));
    put(bench, "bad.toml", "temperature = \"degC\"", "temperature = \"degC\"\nanswers = \"stone\"");
    CHECK_THAT(bench.run("check bad.toml").err, StartsWith("bad.toml:7:") && Contains("stone"));
    const Outcome page = bench.run("report inch.results --quiet --no-view");
    REQUIRE(page.status == 0);
    CHECK_THAT(content(bench.work() / "inch.html"), Contains("max °F") && !Contains("max °C"));
}

TEST_CASE("draw makes further pictures of results, and says what it cannot make", "[cli]") {
    const Bench bench;
    put(bench, "m.toml", "", "");
    REQUIRE(bench.run("solve m.toml --quiet --no-pictures").status == 0);
    const auto is_png = [&](const std::string& file) { return content(bench.work() / file).substr(1, 3) == "PNG"; };
    for (const char* set : {"--set 'show = parts'", "--set 'show = heat flux'", "--set 'show = heat flux' --set 'along = +x' --set 'arrows = false'",
                            "--set 'above = 45 degC' --set 'palette = umber'", "--set 'band_count = 5' --set 'light_is_high = true' --set 'low_on_top = true'",
                            "--at '63 s' --units degF", "--picture bands --study rest --set 'section = { normal = \"+y\", through = [0, 5, 0] }'"}) {
        INFO(set);
        const Outcome drawn = bench.run(std::string("draw m.results --out p.png --width 600 --height 400 ") + set);
        CHECK(drawn.status == 0);
        CHECK(is_png("p.png"));
        std::filesystem::remove(bench.work() / "p.png");
    }
    struct Mistake {
        std::string arguments, told;
    };
    for (const Mistake& m : {Mistake{"--set 'azimut = 5'", "did you mean \"azimuth\""}, Mistake{"--set 'show = flux'", "heat flux"},
                             Mistake{"--set 'above = 45 degC' --set 'show = heat flux'", "hotter than"}, Mistake{"--picture nose", "has no picture"},
                             Mistake{"--study nose", "no study"}, Mistake{"--at '3 h'", "times from"}, Mistake{"--set 'band_count = 99'", "2 to 40"},
                             Mistake{"--set azimuth", "address and a value"}, Mistake{"--set 'show = parts' --set 'palette = grey'", "no scale"},
                             Mistake{"--set 'show = parts' --set 'range = [20, 30]'", "shows the parts"}, Mistake{"--set 'name = x'", "--out"}}) {
        INFO(m.arguments);
        const Outcome refused = bench.run("draw m.results --out p.png " + m.arguments);
        CHECK(refused.status == 2);
        CHECK_THAT(refused.err, Contains(m.told));
        CHECK_FALSE(std::filesystem::exists(bench.work() / "p.png"));
    }
    // A picture of results whose model has changed says so.
    put(bench, "m.toml", "5 W", "6 W");
    const Outcome stale = bench.run("draw m.results");
    CHECK(stale.status == 0);
    CHECK_THAT(stale.err, StartsWith("these results are stale: "));
    CHECK(is_png("m.png"));
    CHECK(bench.run("draw nowhere").status == 2);
}

TEST_CASE("a thermostat switches what only radiates, and a hold not at all", "[cli]") {
    const Bench bench;
    std::string text = model + R"(
[[sensor]]
name = "tip"
in = "high"
at = [5, 5, 10]
[[cooling]]
name = "shade"
on = "exposed"
emissivity = 0.9
ambient = 25
beside = true
[[thermostat]]
name = "t"
sensor = "tip"
switches = ["shade"]
lower = 30
upper = 35
acts = "cooling"
)";
    bench.put("m.toml", text);
    const Outcome solved = bench.run("solve m.toml --quiet --no-pictures --study 'warm up' --out r");
    REQUIRE(solved.status == 0);
    const firnfield::History history = firnfield::read_history(bench.work() / "r/history/warm up.csv");
    const auto column = [&](const std::string& name) {
        const auto found = std::find(history.columns.begin(), history.columns.end(), name);
        REQUIRE(found != history.columns.end());
        return static_cast<std::size_t>(found - history.columns.begin());
    };
    const std::size_t on = column("t on (1)"), heat = column("shade out (W)");
    bool both[2] = {false, false};
    for (const auto& row : history.rows) {
        both[row[on] > 0.5 ? 1 : 0] = true;
        if (row[on] < 0.5) CHECK(row[heat] == 0.0);
    }
    CHECK((both[0] && both[1]));
    text.replace(text.find("switches = [\"shade\"]"), 20, "switches = [\"plate\"]");
    bench.put("h.toml", text + "[[hold]]\nname = \"plate\"\non = { part = \"low\", sides = \"-z\" }\ntemperature = 20\n");
    CHECK_THAT(bench.run("check h.toml").err, Contains("is a hold, which cannot be switched"));
}

TEST_CASE("parameters that are temperatures, differences and numbers are told with their spread", "[cli]") {
    const Bench bench;
    bench.put("m.toml", R"toml(
firnfield = 1
[units]
length = "mm"
temperature = "degC"
[parameters]
room = { value = "35 degC", normal = "2 K" }
warmer = { value = "5 K", uniform = "1 K" }
share = { value = 0.8, uniform = 0.1 }
[[part]]
name = "a"
size = [20, 20, 10]
material = "copper"
[[power]]
into = "a"
total = "1 W"
[[cooling]]
on = "exposed"
convection = "10 W/(m^2 K)"
emissivity = "= share"
ambient = "= room + warmer"
[[limit]]
part = "a"
below = 150
)toml");
    for (const char* command : {"check m.toml", "tolerance m.toml --runs 10 --quiet"}) {
        INFO(command);
        const Outcome usual = bench.run(command), inch = bench.run(std::string(command) + " --units degF");
        CHECK(usual.status == 0);
        CHECK_THAT(usual.out, Contains("35.0 °C") && Contains("2.00") && Contains("5.00") && Contains("0.8") && !Contains("°F"));
        CHECK(inch.status == 0);
        CHECK_THAT(inch.out, Contains("95.0 °F") && Contains("3.60") && Contains("9.00") && Contains("0.1") && !Contains("°C"));
    }
}
