// The report page: everything the summary tells stands on it, with the same numbers; nothing of it is missing, doubled or markup of a user.

#include "cli/bench.hpp"

#include <firnfield/firnfield.hpp>

#include <fmt/format.h>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

using namespace firnfield::test;
using Catch::Matchers::Contains;
using Json = nlohmann::json;

namespace {

const std::string model =
    "firnfield = 1\ntitle = \"Lid & <b>base</b>\"\n[units]\nlength = \"mm\"\ntemperature = \"degC\"\n[mesh]\ncell = 5\n"
    "[[part]]\nname = \"base\"\nsize = [40, 30, 6]\nmaterial = \"copper\"\n[[part]]\nname = \"lid <1>\"\nsize = [30, 20, 3]\nat = [5, 5, 6]\nmaterial = "
    "\"aluminium 6061-T6\"\n"
    "[[joint]]\nname = \"film\"\nbetween = [\"lid <1>\", \"base\"]\nresistance = \"0.4 K cm^2/W\"\n"
    "[[profile]]\nname = \"pulse\"\non = \"10 s\"\noff = \"20 s\"\n"
    "[[power]]\nname = \"heater\"\ninto = [\"base\"]\ntotal = \"9 W\"\nprofile = \"pulse\"\n"
    "[[cooling]]\nname = \"room air\"\non = \"exposed\"\nconvection = \"20 W/(m^2 K)\"\nemissivity = 0.5\nambient = 25\n"
    "[[hold]]\nname = \"clamp\"\non = { parts = [\"base\"], sides = [\"-x\"] }\ntemperature = 30\n"
    "[[sensor]]\nname = \"tip\"\nin = \"lid <1>\"\nat = [20, 15, 9]\n[[limit]]\npart = \"base\"\nbelow = 31\n[[limit]]\nsensor = \"tip\"\nbelow = 90\n"
    "[[study]]\nname = \"steady\"\n[[study]]\nname = \"run\"\nkind = \"transient\"\nlasts = \"2 min\"\nambient = 25\n[[study]]\nname = \"cycle\"\nkind = "
    "\"cyclic\"\nambient = 25\n";

std::size_t count(const std::string& text, const std::string& what) {
    std::size_t n = 0;
    for (std::size_t at = text.find(what); at != std::string::npos; at = text.find(what, at + 1)) ++n;
    return n;
}

/// The page without its script: what a reader sees, and the data.
std::string body_of(const std::string& page) {
    const std::size_t begin = page.find("<body"), end = page.find("<script", begin);
    return page.substr(begin, end - begin);
}

}  // namespace

TEST_CASE("the page has every table of every study, with the summary's numbers", "[cli]") {
    const Bench bench;
    bench.put("m.toml", model);
    const Outcome solved = bench.run("solve m.toml --quiet --json --no-pictures --error-bars --out r");
    INFO(solved.err);
    REQUIRE(solved.status == 1);
    const Json summary = Json::parse(solved.out);
    REQUIRE(bench.run("report r --quiet --out page.html").status == 0);
    const std::string page = content(bench.work() / "page.html"), body = body_of(page);
    // Text of the user is text.
    CHECK(body.find("<b>base</b>") == std::string::npos);
    CHECK_THAT(body, Contains("Lid &amp; &lt;b&gt;base&lt;/b&gt;") && Contains("lid &lt;1&gt;"));
    for (const char* name : {"base", "film", "heater", "room air", "clamp", "tip", "steady", "run", "cycle", "copper", "aluminium 6061-T6"}) {
        INFO(name);
        CHECK_THAT(body, Contains(name));
    }
    std::size_t missed = 0, limits = 0;
    for (const Json& study : summary["studies"]) {
        const Json& at_end = study.contains("end") ? study["end"] : study;
        for (const Json& part : at_end["parts"]) {
            if (study.contains("end")) break;
            INFO(part["name"]);
            CHECK_THAT(body, Contains(fmt::format("{:.2f}", part["hottest"]["temperature"].get<double>())) ||
                                 Contains(fmt::format("{:.1f}", part["hottest"]["temperature"].get<double>())));
        }
        for (const Json& limit : study["limits"]) {
            ++limits;
            missed += limit["kept"].get<bool>() ? 0 : 1;
            CHECK_THAT(body, Contains(fmt::format("{:+.1f}", limit["margin"].get<double>())));
        }
    }
    CHECK(missed > 0);
    CHECK_THAT(body, Contains(fmt::format("{} of {} limits missed", missed, limits)));
    CHECK_THAT(body, Contains(summary["fingerprint"].get<std::string>().substr(0, 8)));
    // Opening and closing tags agree, so that no name has broken out.
    for (const char* tag : {"table", "section", "tr", "td", "th", "h2", "h3", "main"}) {
        INFO(tag);
        CHECK(count(body, std::string("<") + tag + ">") + count(body, std::string("<") + tag + " ") == count(body, std::string("</") + tag + ">"));
    }
}

TEST_CASE("the page's curves are the history's, and its data is what JSON readers take", "[cli]") {
    const Bench bench;
    bench.put("m.toml", model);
    REQUIRE(bench.run("solve m.toml --quiet --no-pictures --study run --out r").status <= 1);
    REQUIRE(bench.run("report r --quiet --no-view --out page.html").status == 0);
    const std::string page = content(bench.work() / "page.html");
    const std::size_t at = page.find("{\"degree\":");
    REQUIRE(at != std::string::npos);
    const Json data = Json::parse(page.substr(at, page.find("</script>", at) - at));
    REQUIRE(data["histories"].size() == 1);
    const Json& curves = data["histories"].begin().value();
    const firnfield::History history = firnfield::read_history(bench.work() / "r/history/run.csv");
    REQUIRE(curves["time"].size() == history.time.size());
    CHECK(curves["columns"].size() == 3);
    CHECK(curves["columns"][2]["name"] == "sensor tip");  // after the parts, as in the chart
    for (const Json& curve : curves["columns"]) {
        std::string name = curve["name"].get<std::string>();
        name = name == "sensor tip" ? "tip (degC)" : name.substr(0, name.find(", hottest")) + " max (degC)";
        const auto column = std::find(history.columns.begin(), history.columns.end(), name) - history.columns.begin();
        REQUIRE(column < static_cast<std::ptrdiff_t>(history.columns.size()));
        for (std::size_t r = 0; r < history.time.size(); ++r)
            CHECK(curve["values"][r].get<double>() == Approx(history.rows[r][static_cast<std::size_t>(column)]).margin(0.0051));
    }
}

TEST_CASE("names are no verdicts on the page", "[cli]") {
    const Bench bench;
    std::string named = model;
    for (std::size_t at = 0; (at = named.find("\"heater\"", at)) != std::string::npos;) named.replace(at, 8, "\"MISSED\"");
    for (std::size_t at = 0; (at = named.find("\"clamp\"", at)) != std::string::npos;) named.replace(at, 7, "\"ok\"");
    bench.put("m.toml", named);
    REQUIRE(bench.run("solve m.toml --quiet --no-pictures --study steady --out r").status <= 1);
    REQUIRE(bench.run("report r --quiet --no-view --out page.html").status == 0);
    const std::string body = body_of(content(bench.work() / "page.html"));
    CHECK_THAT(body, Contains(">MISSED<") && Contains("ok, held"));
    CHECK(count(body, "kept</td>") + count(body, "missed</td>") == 2);  // as many as limits
}
