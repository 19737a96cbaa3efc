// Designs through the command: variants, changes, comparison, search, tolerances, explanation and report.

#include "cli/bench.hpp"

#include <firnfield/firnfield.hpp>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include <algorithm>

using namespace firnfield;
using Catch::Matchers::Contains;
using Catch::Matchers::StartsWith;
using firnfield::test::Bench;
using Json = nlohmann::json;

namespace {

/// A scratch folder with the example.
Bench& put_example(Bench& bench) {
    bench.put("fins.toml", test::content(std::string(FIRNFIELD_SOURCE_DIR) + "/examples/fins_and_film.toml"));
    return bench;
}

std::string replaced(std::string text, const std::string& from, const std::string& to) {
    const std::size_t at = text.find(from);
    REQUIRE(at != std::string::npos);
    return text.replace(at, from.size(), to);
}

}  // namespace

TEST_CASE("a variant solves to exactly what a model file of its own does", "[cli]") {
    Bench bench;
    put_example(bench);
    REQUIRE(bench.run("solve fins.toml --variant 'nine fins' --quiet --no-pictures").status == 0);
    bench.put("nine.toml", replaced(test::content(bench.work() / "fins.toml"), "fins = 5", "fins = 9"));
    REQUIRE(bench.run("solve nine.toml --quiet --no-pictures").status == 0);
    REQUIRE(bench.run("solve fins.toml --set 'fins = 9' --quiet --no-pictures --out set.results").status == 0);
    const Json variant = Json::parse(test::content(bench.work() / "fins - nine fins.results/summary.json")),
               own = Json::parse(test::content(bench.work() / "nine.results/summary.json")),
               set = Json::parse(test::content(bench.work() / "set.results/summary.json"));
    CHECK(variant["fingerprint"] == own["fingerprint"]);
    CHECK(variant["studies"][0]["figures"] == own["studies"][0]["figures"]);
    CHECK(set["studies"][0]["figures"] == own["studies"][0]["figures"]);
    CHECK(variant["studies"][0]["why"]["along"] == own["studies"][0]["why"]["along"]);
    CHECK(variant["from"]["design"] == "nine fins");
    CHECK(test::content(bench.work() / "fins - nine fins.results/model.toml") == test::content(bench.work() / "nine.results/model.toml"));
}

TEST_CASE("compare sets all designs side by side and keeps them", "[cli]") {
    Bench bench;
    put_example(bench);
    const auto text = bench.run("compare fins.toml --quiet");
    CHECK(text.status == 1);  // the base misses its limit
    CHECK_THAT(text.out,
               Contains("8 designs, compared with \"base\"") && Contains("nine fins, painted") && Contains("heat: chip just meets < 85.0 °C at heat ="));
    const Json summary = Json::parse(test::content(bench.work() / "fins.comparison/summary.json"));
    CHECK(summary["designs"].size() == 8);
    CHECK(summary["figures"][0]["best"] == "nine fins, painted");
    CHECK_THAT(test::content(bench.work() / "fins.comparison/comparison.csv"), Contains("steady,margin,chip,below 85,K,thick paste,"));
    CHECK(std::filesystem::exists(bench.work() / "fins.comparison/designs/thick paste.json"));
    if (charts_possible()) {
        CHECK(std::filesystem::exists(bench.work() / "fins.comparison/charts/steady.png"));
        CHECK(std::filesystem::exists(bench.work() / "fins.comparison/charts/steady - heat.svg"));
    }
    // Every design is what solving it alone gives.
    REQUIRE(bench.run("solve fins.toml --variant 'thick paste' --quiet --no-pictures").status == 1);
    const Json alone = Json::parse(test::content(bench.work() / "fins - thick paste.results/summary.json")),
               together = Json::parse(test::content(bench.work() / "fins.comparison/designs/thick paste.json"));
    CHECK(alone["studies"][0]["figures"] == together["studies"][0]["figures"]);
    const auto one = bench.run("compare fins.toml --variant 'nine fins' --base 'nine fins' --json --quiet");
    CHECK(Json::parse(one.out)["base"] == "nine fins");
}

TEST_CASE("results folders are compared, and refused when their model has changed", "[cli]") {
    Bench bench;
    put_example(bench);
    REQUIRE(bench.run("solve fins.toml --quiet --no-pictures").status == 1);
    REQUIRE(bench.run("solve fins.toml --variant 'thick paste' --quiet --no-pictures").status == 1);
    const std::string folders = "compare fins.results 'fins - thick paste.results'";
    const auto first = bench.run(folders);
    CHECK(first.status == 1);
    CHECK_THAT(first.out, Contains("fins - thick paste") && Contains("margin of chip < 85 °C"));
    const auto page = [&] { return test::content(bench.work() / "fins.html"); };
    CHECK_THAT(bench.run("probe fins.results --part chip").err, !Contains("stale"));
    CHECK_THAT(bench.run("report fins.results --quiet").out, !Contains("stale"));
    CHECK_THAT(page(), !Contains("These results are stale"));
    bench.put("fins.toml", replaced(test::content(bench.work() / "fins.toml"), "9 W/(m^2 K)", "10 W/(m^2 K)"));
    const auto probed = bench.run("probe fins.results --part chip"), reported = bench.run("report fins.results --quiet");
    CHECK(probed.status == 0);
    CHECK_THAT(probed.err, StartsWith("these results are stale") && Contains("has changed since"));
    CHECK(reported.status == 0);
    CHECK_THAT(reported.out, StartsWith("These results are stale"));
    CHECK_THAT(page(), Contains("These results are stale") && Contains("has changed since"));
    const auto stale = bench.run(folders);
    CHECK(stale.status == 2);
    CHECK_THAT(stale.err, Contains("stale") && Contains("has changed since") && Contains("--stale"));
    CHECK_THAT(bench.run(folders + " --stale").out, Contains("(stale)"));
    CHECK(bench.run("compare fins.results nowhere.results").status == 2);
}

TEST_CASE("a figure is a column of compare, a limit, a goal of seek and what tolerances are about", "[cli]") {
    Bench bench;
    put_example(bench);
    std::string text = test::content(bench.work() / "fins.toml") + R"(
[[figure]]
name = "resistance"
value = "= ('chip.max' - 25 degC) / 'power.chip.heat'"

[[limit]]
figure = "resistance"
below = "4 K/W"
)";
    bench.put("fins.toml", text);
    const auto solved = bench.run("solve fins.toml --quiet --no-pictures --out r.results");
    CHECK_THAT(solved.out, Contains("resistance") && Contains("< 4.000 K/W"));
    const Json summary = Json::parse(test::content(bench.work() / "r.results/summary.json"));
    const Json& figure = summary["studies"][0]["named_figures"][0];
    CHECK(figure["quantity"] == "thermal resistance");
    const double own = figure["value"];
    CHECK(own > 4.0);
    REQUIRE(bench.run("report r.results --quiet --no-view --out page.html").status == 0);
    CHECK_THAT(test::content(bench.work() / "page.html"), Contains("&lt; 4.000 K/W") || Contains("< 4.000 K/W"));

    const auto compared = bench.run("compare fins.toml --quiet --out c.comparison");
    CHECK_THAT(compared.out, Contains("figure resistance") && Contains("margin of resistance < 4.000 K/W"));
    CHECK_THAT(test::content(bench.work() / "c.comparison/comparison.csv"), Contains("steady,figure,resistance,,K/W,base,") && Contains("below 4,K/W"));

    CHECK_THAT(bench.run("seek fins.toml fins --from 3 --to 16 --quiet").err, Contains("limits on different quantities"));
    const Json sought = Json::parse(bench.run("seek fins.toml fins --from 3 --to 16 --limit resistance --quiet --json").out);
    REQUIRE(sought["at"].is_number());
    const std::string fins = std::to_string(sought["at"].get<int>());
    const auto there = bench.run("solve fins.toml --set 'fins = " + fins + "' --quiet --no-pictures --json");
    CHECK(Json::parse(there.out)["studies"][0]["named_figures"][0]["value"].get<double>() <= 4.0);

    // Asked for on the command line alone.
    const Json met = Json::parse(bench.run("seek fins.toml fins --from 3 --to 16 --figure 'chip.mean' --below '80 degC' --quiet --json").out);
    REQUIRE(met["at"].is_number());
    CHECK_THAT(bench.run("compare fins.toml --variant 'nine fins' --quiet --figure \"= 'chip.max' - 'fin.min'\"").out,
               Contains("figure = 'chip.max' - 'fin.min'"));
    CHECK_THAT(bench.run("tolerance fins.toml --linear --quiet --figure chip.mean --below '90 degC'").out, Contains("chip.mean"));
    CHECK_THAT(bench.run("seek fins.toml fins --from 3 --to 16 --figure 'chip.mean' --quiet").err, Contains("--below or --above"));
    CHECK_THAT(bench.run("seek fins.toml fins --from 3 --to 16 --below '80 degC' --quiet").err, Contains("name one"));
    CHECK_THAT(bench.run("seek fins.toml fins --from 3 --to 16 --figure chp.mean --below '80 degC' --quiet").err, Contains("did you mean \"chip\""));
    CHECK_THAT(bench.run("tolerance fins.toml --linear --quiet --figure chip.mean").out, Contains("three sigma below"));

    std::string bare = text;
    for (std::size_t at = bare.find("[[limit]]"); at != std::string::npos; at = bare.find("[[limit]]")) bare.erase(at, bare.find("\n\n", at) - at);
    for (std::size_t at = bare.find("[[figure]]"); at != std::string::npos; at = bare.find("[[figure]]")) bare.erase(at, bare.find("\n\n", at) - at);
    bench.put("bare.toml", bare);
    const auto nothing = bench.run("tolerance bare.toml --linear --quiet");
    CHECK(nothing.status == 2);
    CHECK_THAT(nothing.err, Contains("neither limits nor figures"));

    // Results are asked afterwards, and tell what solving with the figure does.
    REQUIRE(bench.run("solve fins.toml --variant 'nine fins' --quiet --no-pictures --out nine.results").status != 2);
    const auto later = bench.run("compare r.results nine.results --figure chip.mean --json");
    const Json nine = Json::parse(test::content(bench.work() / "nine.results/summary.json"));
    bool asked = false;
    const Json side_by_side = Json::parse(later.out);
    for (const Json& row : side_by_side["figures"]) {
        if (row["name"] != "chip.mean") continue;
        asked = true;
        CHECK(row["errors"][1].get<double>() > 0.0);
        for (const Json& part : nine["studies"][0]["parts"]) {
            if (part["name"] == "chip") CHECK(row["values"][1].get<double>() == Approx(part["mean"].get<double>()).margin(1e-6));
        }
    }
    INFO(later.err);
    CHECK(asked);
    CHECK_THAT(bench.run("compare r.results nine.results --figure chp.mean").err, Contains("did you mean \"chip\""));

    const Json chance = Json::parse(bench.run("tolerance fins.toml --linear --set 'fins = " + fins + "' --quiet --json").out);
    bool told = false;
    for (const Json& limit : chance["limits"]) told = told || (limit["subject"] == "resistance" && limit["unit"] == "K/W" && limit["limit"] == 4.0);
    CHECK(told);
    CHECK_THAT(bench.run("solve fins.toml --quiet --set 'limit.resistance.below = \"3 K\"'").err, Contains("found a temperature difference"));
}

TEST_CASE("probe takes copies, wildcards and any figure of a steady study", "[cli]") {
    Bench bench;
    put_example(bench);
    REQUIRE(bench.run("solve fins.toml --quiet --no-pictures --out r.results").status < 2);
    const auto copies = bench.run("probe r.results --part 'fin 3' --part 'fin *' --part chip --figure 'cooling.air.heat' --csv");
    INFO(copies.err);
    CHECK(copies.status == 0);
    CHECK_THAT(copies.out, Contains("fin 3 mean (degC)") && Contains("fin * max (degC)") && Contains("chip max (degC)") && Contains("cooling.air.heat (W)"));
    CHECK_THAT(bench.run("probe r.results --part 'fan 3'").err, Contains("no part is called"));
    CHECK_THAT(bench.run("probe r.results --when 'chip < 80 degC'").err, Contains("no study in time"));
}

TEST_CASE("seek, tolerance and why answer on the command line", "[cli]") {
    Bench bench;
    put_example(bench);
    const auto sought = bench.run("seek fins.toml heat --from '2 W' --to '30 W' --quiet --json");
    REQUIRE(sought.status == 0);
    const Json at = Json::parse(sought.out);
    CHECK(std::abs(at["margin"].get<double>()) <= 0.05);
    // The model is linear: rise in proportion to the heat.
    const double first = at["evaluations"][0]["margin"], second = at["evaluations"][1]["margin"];
    CHECK(at["at"].get<double>() == Approx(2.0 + 28.0 * first / (first - second)).epsilon(1e-4));
    const auto count = bench.run("seek fins.toml fins --from 3 --to 16 --quiet");
    CHECK(count.status == 0);
    CHECK_THAT(count.out, Contains("is met with fins =") && Contains("and missed with"));
    CHECK(bench.run("seek fins.toml paste --from '0.1 mm' --to '0.2 mm' --quiet").status == 1);

    const auto sampled = bench.run("tolerance fins.toml --runs 40 --set 'fins = 8' --quiet --json"),
               linear = bench.run("tolerance fins.toml --linear --set 'fins = 8' --quiet --json");
    REQUIRE(sampled.status == 0);
    const Json chances = Json::parse(sampled.out), about = Json::parse(linear.out);
    CHECK(chances["runs"] == 40);
    CHECK(about["runs"] == 5);
    CHECK(chances["limits"][0]["mean"].get<double>() == Approx(about["limits"][0]["mean"].get<double>()).margin(0.05));
    CHECK(chances["limits"][0]["deviation"].get<double>() == Approx(about["limits"][0]["deviation"].get<double>()).epsilon(0.1));
    CHECK(bench.run("tolerance fins.toml --runs 40 --set 'fins = 8' --quiet --json").out == sampled.out);

    const auto why = bench.run("why fins.toml --part chip --quiet");
    CHECK(why.status == 0);
    CHECK_THAT(why.out,
               Contains("chip is hottest at") && Contains("convection of air") && Contains("joint paste") && Contains("total") && Contains("10 % more"));
    const Json split = Json::parse(bench.run("why fins.toml --quiet --json").out);
    double sum = 0.0;
    for (const Json& piece : split["along"]) sum += piece["rise"].get<double>();
    CHECK(sum == Approx(split["rise"].get<double>()).epsilon(1e-9));
}

TEST_CASE("a moment of a run in time is explained with the heat in storage", "[cli]") {
    Bench bench;
    bench.put("time.toml", test::content(std::string(FIRNFIELD_SOURCE_DIR) + "/examples/heated_plate_over_time.toml"));
    const auto why = bench.run("why time.toml --study 'settled pulses' --quiet --json");
    REQUIRE(why.status == 0);
    const Json split = Json::parse(why.out);
    CHECK(split["time"].is_number());
    CHECK(split["sensitivities"].empty());
    for (const char* key : {"along", "by_load"}) {
        double sum = 0.0;
        for (const Json& piece : split[key]) sum += piece["rise"].get<double>();
        CHECK(sum == Approx(split["rise"].get<double>()).epsilon(1e-6));
    }
    const bool stores =
        std::any_of(split["by_load"].begin(), split["by_load"].end(), [](const Json& p) { return p["kind"] == "warming up" && p["rise"].get<double>() < 0.0; });
    CHECK(stores);
}

TEST_CASE("a run in time without surroundings is solved, and says why it is not explained", "[cli]") {
    Bench bench;
    bench.put("alone.toml",
              "firnfield = 1\n[units]\nlength = \"mm\"\ntemperature = \"degC\"\n[[part]]\nname = \"block\"\nsize = [9, 9, 9]\nmaterial = \"copper\"\n"
              "[[power]]\ninto = [\"block\"]\ntotal = \"2 W\"\n[[study]]\nname = \"warm up\"\nkind = \"transient\"\nlasts = \"20 s\"\nstart = 20\n");
    const auto solved = bench.run("solve alone.toml --quiet --no-pictures");
    INFO(solved.err);
    CHECK(solved.status == 0);
    CHECK_THAT(solved.out, Contains("has no path to the surroundings, so there is no rise"));
    CHECK(bench.run("why alone.toml --quiet").status == 3);
}

TEST_CASE("results of a changed design stand beside those of the base", "[cli]") {
    Bench bench;
    put_example(bench);
    REQUIRE(bench.run("solve fins.toml --quiet --no-pictures").status == 1);
    REQUIRE(bench.run("solve fins.toml --set 'fins = 9' --quiet --no-pictures").status == 0);
    const auto both = bench.run("compare fins.results 'fins - fins = 9.results'");
    CHECK(both.status == 1);
    CHECK_THAT(both.out, Contains("fins - fins = 9") && Contains("* +"));
}

TEST_CASE("report writes one page that needs nothing else", "[cli]") {
    Bench bench;
    put_example(bench);
    REQUIRE(bench.run("solve fins.toml --quiet --error-bars").status == 1);
    REQUIRE(bench.run("compare fins.toml --quiet").status == 1);
    const auto said = bench.run("report fins.results --quiet");
    REQUIRE(said.status == 0);
    const std::string page = test::content(bench.work() / "fins.html");
    CHECK_THAT(page, Contains("<h1>Plate with fins</h1>") && Contains("1 of 1 limits missed") && Contains("Designs compared") &&
                         Contains("Error bars of the mesh") && Contains("Heat path"));
    for (const char* outside : {"src=\"http", "href=\"http", "url(http", "@import"}) CHECK(page.find(outside) == std::string::npos);
    CHECK(page.find("{{") == page.find("{{", page.find("<script>")));  // no tag of the template is left in the text
    CHECK(page.find("\"geometries\":[{") != std::string::npos);
    CHECK(page.size() < 3'000'000);
    REQUIRE(bench.run("report fins.results --quiet --no-view --out small.html").status == 0);
    CHECK(test::content(bench.work() / "small.html").size() < page.size());
    // What was kept lies on the finest mesh, whether all of its cells are smaller or those of some layers.
    CHECK(bench.run("probe fins.results --part plate").status == 0);
    REQUIRE(bench.run("solve fins.toml --quiet --set \"mesh.error_target = 0.1 K\" --out refined.results").status == 1);
    CHECK_THAT(test::content(bench.work() / "refined.results" / "summary.json"), Contains("\"along\""));
    CHECK(bench.run("probe refined.results --part plate").status == 0);
    CHECK(bench.run("report refined.results --quiet").status == 0);
    CHECK(bench.run("report nowhere.results").status == 2);
    const auto wrong = bench.run("report fins.comparison");
    CHECK(wrong.status == 2);
    CHECK_THAT(wrong.err, Contains("holds a comparison"));
}

TEST_CASE("mistakes in designs get one clear message, and nothing is written", "[cli]") {
    Bench bench;
    put_example(bench);
    const auto expect = [&](const std::string& arguments, const std::string& message) {
        const auto outcome = bench.run(arguments);
        INFO(arguments << ": " << outcome.err);
        CHECK(outcome.status == 2);
        CHECK_THAT(outcome.err, Contains(message));
    };
    // One that is wrong is told by what uses it and by check, and stands in nobody else's way.
    bench.put("wrong.toml",
              test::content(bench.work() / "fins.toml") + "\n[[variant]]\nname = \"no film\"\nchange = { \"part.chip.material\" = \"copperr\" }\n");
    for (const char* command : {"check wrong.toml", "compare wrong.toml", "solve wrong.toml --variant 'no film'"}) expect(command, "did you mean \"copper\"");
    CHECK(bench.run("solve wrong.toml --quiet --no-pictures --out other.results").status == 1);
    std::filesystem::remove_all(bench.work() / "other.results");
    std::filesystem::remove(bench.work() / "wrong.toml");
    expect("solve fins.toml --variant 'nine fin'", "did you mean \"nine fins\"");
    expect("solve fins.toml --set 'fims = 9'", "did you mean \"fins\"");
    expect("solve fins.toml --set 'fins'", "--set takes an address and a value");
    expect("solve fins.toml --set 'part.chip.sise.x = 3'", "there is no key \"sise\" (did you mean \"size\"?)");
    expect("compare fins.toml --sweep cold", "the model has no sweep \"cold\"; it has \"heat\"");
    expect("compare fins.toml --base nowhere", "the model has no variant");
    expect("seek fins.toml heat --from '2 W' --to '3 kW'", "same unit");
    expect("seek fins.toml heat --from '2 W' --to '3 W' --limit fin", "it has limits on \"chip\"");
    expect("seek fins.toml heat --from warm --to '3 W'", "found \"warm\"");
    expect("why fins.toml --part chep", "did you mean \"chip\"");
    expect("why fins.toml --part chip --sensor x", "not both");
    bench.put("plain.toml",
              "firnfield = 1\n[units]\nlength = \"mm\"\ntemperature = \"degC\"\n[[part]]\nname = \"a\"\nsize = [9, 9, 9]\nmaterial = \"copper\"\n"
              "[[cooling]]\non = \"exposed\"\nconvection = \"5 W/(m^2 K)\"\nambient = 20\n");
    expect("compare plain.toml", "has no variants or sweeps");
    expect("tolerance plain.toml", "no parameter of plain.toml has a spread");
    CHECK(bench.files() == 2);
}
