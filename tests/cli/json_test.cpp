// What commands print for machines says the same as what they print for people and as the files they leave: keys, numbers, units.

#include "cli/bench.hpp"

#include <firnfield/firnfield.hpp>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <set>
#include <sstream>

using namespace firnfield::test;
using Catch::Matchers::Contains;
using Json = nlohmann::json;
namespace fs = std::filesystem;

namespace {

/// Two blocks with everything a steady study reports, a parameter with a spread, a variant and a sweep.
const std::string model =
    "firnfield = 1\ntitle = \"Two blocks\"\n[units]\nlength = \"mm\"\ntemperature = \"degC\"\n[mesh]\ncell = 4\n"
    "[parameters]\nheat = { value = \"8 W\", normal = \"0.5 W\" }\npad = \"0.2 mm\"\n"
    "[[part]]\nname = \"base\"\nsize = [40, 30, 6]\nmaterial = \"aluminium 6061-T6\"\n[[part]]\nname = \"chip\"\nsize = [12, 12, 4]\nat = [14, 9, 6]\nmaterial "
    "= \"copper\"\n"
    "[[joint]]\nname = \"pad\"\nbetween = [\"chip\", \"base\"]\nlayer = { material = \"gap pad 3 W\", thickness = \"= pad\" }\n"
    "[[power]]\nname = \"losses\"\ninto = [\"chip\"]\ntotal = \"= heat\"\n[[power]]\nname = \"sun\"\non = { parts = [\"base\"], facing = [\"-z\"] }\ntotal = "
    "\"1 W\"\n"
    "[[cooling]]\nname = \"air\"\non = \"exposed\"\nconvection = \"30 W/(m^2 K)\"\nemissivity = 0.7\nambient = 25\n"
    "[[hold]]\nname = \"rail\"\non = { parts = [\"base\"], sides = [\"-x\"] }\ntemperature = 40\n"
    "[[sensor]]\nname = \"probe\"\nin = \"base\"\nat = [20, 15, 3]\n"
    "[[limit]]\npart = \"chip\"\nbelow = 70\n[[limit]]\nsensor = \"probe\"\nabove = 10\n"
    "[[variant]]\nname = \"thick\"\nchange = { pad = \"1 mm\" }\n[[sweep]]\nname = \"pads\"\nover = { pad = [\"0.1 mm\", \"0.4 mm\", \"0.8 mm\"] }\n";

/// The command's JSON; nothing stands beside it on standard output.
Json answer(const Bench& bench, const std::string& line, int status = 0) {
    INFO(line);
    const Outcome outcome = bench.run(line);
    INFO(outcome.err);
    REQUIRE(outcome.status == status);
    REQUIRE(Json::accept(outcome.out));
    return Json::parse(outcome.out);
}

/// No number is missing where one belongs: every null stands where the pages say that it may.
void check_numbers(const Json& j, const std::set<std::string>& may_be_null, const std::string& path = "") {
    for (const auto& [key, value] : j.items()) {
        const std::string at = path + "/" + key;
        if (value.is_structured()) {
            check_numbers(value, may_be_null, at);
        } else if (value.is_null()) {
            INFO(at);
            CHECK(may_be_null.contains(key));
        } else if (value.is_number()) {
            INFO(at);
            CHECK(std::isfinite(value.get<double>()));
        }
    }
}

}  // namespace

TEST_CASE("solve --json is the summary, and its numbers hang together", "[cli]") {
    const Bench bench;
    bench.put("m.toml", model);
    const Json j = answer(bench, "solve m.toml --quiet --json --error-bars --no-pictures --out r");
    CHECK(j == Json::parse(content(bench.work() / "r/summary.json")));
    check_numbers(
        j, {"held_by", "order", "correction", "solved", "time", "target", "limit", "resistance", "area", "mean_surface", "hottest_surface", "ambient", "at"});
    CHECK(j["title"] == "Two blocks");
    CHECK(j["from"]["file"] == "../m.toml");
    CHECK(j["told_in"]["length"] == "mm");
    const Json& s = j["studies"][0];
    const auto named = [](const Json& list, const char* name) {
        for (const Json& entry : list) {
            if (entry["name"] == name) return entry;
        }
        FAIL("no " << name);
        return Json();
    };
    // Every watt, from its entry to the ledger.
    const Json air = named(s["coolings"], "air"), rail = named(s["holds"], "rail"), ledger = s["ledger"];
    CHECK(ledger["loads"].get<double>() == Approx(9.0).epsilon(1e-12));
    CHECK(ledger["convection"].get<double>() == Approx(air["convection"].get<double>()).epsilon(1e-12));
    CHECK(ledger["radiation"].get<double>() == Approx(air["radiation"].get<double>()).epsilon(1e-12));
    CHECK(ledger["holds"].get<double>() == Approx(rail["flow"].get<double>()).epsilon(1e-12));
    CHECK(ledger["loads"].get<double>() - ledger["convection"].get<double>() - ledger["radiation"].get<double>() - ledger["holds"].get<double>() ==
          Approx(ledger["residual"].get<double>()).margin(1e-9));
    CHECK(named(s["loads"], "losses")["heat"].get<double>() == Approx(8.0).epsilon(1e-12));
    CHECK(named(s["loads"], "sun")["area"].get<double>() == Approx(1200e-6));
    // Convection from its own coefficient, area and temperatures; the pad from its drop and resistance.
    CHECK(air["mean_coefficient"].get<double>() == Approx(30.0).epsilon(1e-9));
    CHECK(air["convection"].get<double>() == Approx(30.0 * air["area"].get<double>() * (air["mean_surface"].get<double>() - 25.0)).epsilon(1e-9));
    const Json& pad = s["joints"][0];
    CHECK(pad["drop"].get<double>() == Approx(pad["flow"].get<double>() * pad["resistance"].get<double>() / pad["area"].get<double>()).epsilon(1e-9));
    CHECK(pad["area"].get<double>() == Approx(144e-6));
    // Limits against parts; margins, verdict and figures against limits.
    const Json chip = named(s["parts"], "chip");
    CHECK(s["limits"][0]["worst"] == chip["hottest"]);
    CHECK(s["limits"][0]["margin"].get<double>() == Approx(70.0 - chip["hottest"]["temperature"].get<double>()).epsilon(1e-12));
    CHECK(s["limits"][1]["kind"] == "above");
    CHECK(s["verdict"] == "kept");
    CHECK(chip["coldest"]["temperature"] <= chip["mean"]);
    CHECK(chip["mean"] <= chip["hottest"]["temperature"]);
    CHECK(j["mass"].get<double>() == Approx(chip["mass"].get<double>() + named(s["parts"], "base")["mass"].get<double>()).epsilon(1e-12));
    // Error bars name what they are of, in its unit.
    std::set<std::string> kinds;
    for (const Json& figure : s["figures"]) {
        REQUIRE(figure.contains("error_bar"));
        kinds.insert(figure["kind"]);
        CHECK(figure["error_bar"]["error"].get<double>() >= 0.0);
        if (figure["kind"] == "max" && figure["name"] == "chip") CHECK(figure["value"].get<double>() == Approx(chip["hottest"]["temperature"].get<double>()));
        if (figure["kind"] == "hold") CHECK(figure["value"].get<double>() == Approx(rail["flow"].get<double>()));
        if (figure["kind"] == "max") CHECK(figure["unit"] == "degC");
        if (figure["kind"] == "joint flow") CHECK(figure["unit"] == "W");
    }
    for (const char* kind :
         {"max", "mean", "min", "sensor", "joint flow", "convection", "radiation", "cooling", "hold", "coefficient", "surface mean", "surface max"}) {
        INFO(kind);
        CHECK(kinds.contains(kind));
    }
    // What people read has the same numbers.
    const std::string text = bench.run("solve m.toml --quiet --error-bars --no-pictures --out t").out;
    CHECK_THAT(text, Contains("ALL LIMITS KEPT") && Contains(fmt::format("{:.2f}", chip["hottest"]["temperature"].get<double>())) && Contains("losses"));
}

TEST_CASE("check --json counts what solving finds", "[cli]") {
    const Bench bench;
    bench.put("m.toml", model);
    const Json checked = answer(bench, "check m.toml --json"), solved = answer(bench, "solve m.toml --as-meshed --quiet --json --no-pictures --out r");
    CHECK(checked["cells"] == solved["studies"][0]["cells"]);
    CHECK(checked["parts"].size() == 2);
    for (std::size_t p = 0; p < 2; ++p) {
        CHECK(checked["parts"][p]["volume"] == solved["studies"][0]["parts"][p]["volume"]);
        CHECK(checked["parts"][p]["mass"] == solved["studies"][0]["parts"][p]["mass"]);
    }
    const auto rule = [&](const std::string& name) {
        for (const Json& r : checked["rules"]) {
            if (r["name"] == name) return r["area"].get<double>();
        }
        return -1.0;
    };
    CHECK(rule("air") == Approx(solved["studies"][0]["coolings"][0]["area"].get<double>()));
    CHECK(rule("rail") == Approx(180e-6));
    CHECK(rule("sun") == Approx(1200e-6));
    CHECK(checked["studies"][0]["power"].get<double>() == Approx(9.0).epsilon(1e-12));
    CHECK(checked["studies"][0]["nonlinear"] == true);
    CHECK(checked["joints"][0]["area"] == solved["studies"][0]["joints"][0]["area"]);
    CHECK_FALSE(checked["joints"][0].contains("flow"));
    CHECK(checked["coarsest"]["finer_cell"].get<double>() > 0.0);
}

TEST_CASE("why, seek and tolerance answer machines with the numbers of the solve", "[cli]") {
    const Bench bench;
    bench.put("m.toml", model);
    const Json solved = answer(bench, "solve m.toml --quiet --json --no-pictures --out r");
    const Json why = answer(bench, "why m.toml --part chip --quiet --json");
    CHECK(why["spot"]["temperature"].get<double>() == Approx(solved["studies"][0]["parts"][1]["hottest"]["temperature"].get<double>()).epsilon(1e-9));
    double along = 0.0, by_load = 0.0;
    for (const Json& share : why["along"]) along += share["rise"].get<double>();
    for (const Json& share : why["by_load"]) by_load += share["rise"].get<double>();
    CHECK(along == Approx(why["rise"].get<double>()).epsilon(1e-6));
    CHECK(by_load == Approx(why["rise"].get<double>()).epsilon(1e-6));
    CHECK(why["base"].get<double>() + why["rise"].get<double>() == Approx(why["spot"]["temperature"].get<double>()).epsilon(1e-9));
    CHECK(why["linear"] == false);

    const Json sought = answer(bench, "seek m.toml heat --from '5 W' --to '60 W' --limit chip --as-meshed --quiet --json");
    CHECK(sought["unit"] == "W");
    const double at = sought["at"];
    const Json there = answer(bench, "solve m.toml --as-meshed --quiet --json --no-pictures --out s --set 'heat = " + fmt::format("{:.9g}", at) + " W'",
                              at > 0.0 && sought["margin"].get<double>() < 0.0 ? 1 : 0);
    CHECK(there["studies"][0]["limits"][0]["margin"].get<double>() == Approx(sought["margin"].get<double>()).margin(1e-4));
    CHECK(there["from"]["changes"][0]["address"] == "heat");
    CHECK(answer(bench, "seek m.toml heat --from '1 W' --to '2 W' --quiet --json", 1)["at"].is_null());
    // Refined for the first value tried, and as refined for the answer: within what either may be off.
    const Json fine = answer(bench, "seek m.toml heat --from '5 W' --to '60 W' --limit chip --quiet --json");
    const double off = std::abs(fine["at"].get<double>() - at);
    CHECK(off <= fine["at_error"].get<double>() + sought["at_error"].get<double>());

    const Json chances = answer(bench, "tolerance m.toml --runs 30 --quiet --json");
    CHECK(chances["runs"] == 30);
    CHECK(chances["parameters"][0]["name"] == "heat");
    CHECK(chances["parameters"][0]["width"] == 0.5);
    CHECK(chances["limits"][0]["subject"] == "chip");
    CHECK(chances["limits"][0]["mean"].get<double>() == Approx(solved["studies"][0]["limits"][0]["margin"].get<double>()).margin(0.2));
    CHECK(chances == answer(bench, "tolerance m.toml --runs 30 --quiet --json"));  // samples are the same each time
}

TEST_CASE("compare tells tables, JSON and CSV of the same figures", "[cli]") {
    const Bench bench;
    bench.put("m.toml", model);
    const Json j = answer(bench, "compare m.toml --quiet --json");
    CHECK(j == Json::parse(content(bench.work() / "m.comparison/summary.json")));
    CHECK(j["base"] == "base");
    REQUIRE(j["designs"].size() == 5);  // base, variant, three pads
    std::istringstream csv(content(bench.work() / "m.comparison/comparison.csv"));
    std::string line;
    std::getline(csv, line);
    CHECK(line == "study,kind,name,limit,unit,design,value,error,difference to base,best");
    std::size_t rows = 0;
    while (std::getline(csv, line)) ++rows;
    CHECK(rows == j["figures"].size() * j["designs"].size());
    for (const Json& figure : j["figures"]) {
        REQUIRE(figure["values"].size() == 5);
        for (std::size_t d = 0; d < 5; ++d) {
            if (figure["values"][d].is_null() || figure["values"][0].is_null()) continue;
            CHECK(figure["differences"][d].get<double>() == Approx(figure["values"][d].get<double>() - figure["values"][0].get<double>()).margin(1e-12));
        }
        if (figure["kind"] == "margin" && figure["name"] == "chip") CHECK(figure["best"] == "pads 0.1 mm");
    }
    // A design is what solving it alone gives; refined for itself its mesh may be another one than the base's.
    const Json meshed = answer(bench, "compare m.toml --as-meshed --quiet --json --out c");
    const Json alone = answer(bench, "solve m.toml --variant thick --as-meshed --quiet --json --no-pictures --out v");
    for (const Json& figure : meshed["figures"]) {
        for (const Json& own : alone["studies"][0]["figures"]) {
            if (own["kind"] == figure["kind"] && own["name"] == figure["name"] && own.value("limit", Json()) == figure.value("limit", Json()))
                CHECK(own["value"] == figure["values"][1]);
        }
    }
}

TEST_CASE("convection --json carries what the table shows, with all digits", "[cli]") {
    const Bench bench;
    const std::string line = "convection 'vertical plate' --length '120 mm' --surface '75 degC' --ambient '25 degC'";
    const Json j = answer(bench, line + " --json");
    CHECK(j["law"] == "vertical plate");
    CHECK(j["fluid"] == "air");
    CHECK(j["surface"] == 75.0);
    CHECK(j["coefficient"].get<double>() == Approx(6.22638).epsilon(1e-5));
    CHECK(j["heat_flux"].get<double>() == Approx(50.0 * j["coefficient"].get<double>()).epsilon(1e-12));
    CHECK(j["coefficient"].get<double>() == Approx(j["nusselt"].get<double>() * j["conductivity"].get<double>() / 0.12).epsilon(1e-12));
    CHECK(j["in_range"] == true);
    CHECK_THAT(bench.run(line).out, Contains(fmt::format("{:.3f}", j["nusselt"].get<double>()).substr(0, 4)));
}

TEST_CASE("probe speaks of the studies that were solved", "[cli]") {
    const Bench bench;
    bench.put("m.toml", model + "[[study]]\nname = \"lab\"\n[[study]]\nname = \"warm up\"\nkind = \"transient\"\nlasts = \"5 min\"\nambient = 25\n");
    REQUIRE(bench.run("solve m.toml --quiet --no-pictures --study lab --out r").status == 0);
    CHECK(bench.run("probe r --part chip").status == 0);
    const Outcome other = bench.run("probe r --part chip --study 'warm up'");
    CHECK(other.status == 2);
    CHECK_THAT(other.err, Contains("no study \"warm up\"; they have \"lab\""));
}

TEST_CASE("probe --csv can be read by anything: one header, numbers, the same as the history", "[cli]") {
    const Bench bench;
    bench.put("m.toml", model + "[[study]]\nname = \"warm up\"\nkind = \"transient\"\nlasts = \"5 min\"\nambient = 25\n");
    REQUIRE(bench.run("solve m.toml --quiet --no-pictures --no-errors --out r").status == 0);  // nothing added to what fields keep
    const firnfield::History history = firnfield::read_history(bench.work() / "r/history/warm up.csv");
    const Outcome probed = bench.run("probe r --study 'warm up' --sensor probe --part chip --csv");
    INFO(probed.err);
    REQUIRE(probed.status == 0);
    bench.put("p.csv", probed.out);
    const firnfield::History found = firnfield::read_history(bench.work() / "p.csv");
    REQUIRE(found.rows.size() > 10);
    const auto column = [](const firnfield::History& h, const std::string& name) {
        for (std::size_t c = 0; c < h.columns.size(); ++c) {
            if (h.columns[c].find(name) != std::string::npos) return c;
        }
        FAIL("no " << name);
        return std::size_t{0};
    };
    const std::size_t there = column(history, "probe"), here = column(found, "probe");
    for (std::size_t r = 0; r < found.rows.size(); ++r) {
        const auto at = std::find_if(history.time.begin(), history.time.end(), [&](double t) { return std::abs(t - found.time[r]) < 1e-9; });
        if (at == history.time.end()) continue;
        CHECK(found.rows[r][here] == Approx(history.rows[static_cast<std::size_t>(at - history.time.begin())][there]).margin(2e-3));
    }
}
