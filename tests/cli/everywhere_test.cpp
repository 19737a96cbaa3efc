// Everything works everywhere: whole, mirrored, sectored, plane and revolved models, with steady, transient and cyclic studies, through every
// command; and everything that a file may hold or a command prints is documented.

#include "cli/bench.hpp"

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include <cmath>
#include <filesystem>
#include <functional>
#include <set>
#include <vector>

namespace fs = std::filesystem;
using namespace firnfield::test;
using Catch::Matchers::Contains;
using nlohmann::json;

namespace {

/// What is the same in all of them: a body that is heated in pulses, on one that melts nothing, cooled by air and radiation.
std::string model(const std::string& space, const std::string& parts, const std::string& sensor) {
    return "firnfield = 1\ntitle = \"Everywhere\"\n[units]\nlength = \"mm\"\ntemperature = \"degC\"\n[mesh]\ncell = 4\n" + space + parts +
           "[[joint]]\nname = \"film\"\nbetween = [\"core\", \"shell\"]\ncoefficient = { at = [\"0 K\", \"5 K\"], value = [\"10000 W/(m^2 K)\", \"30000 W/(m^2 "
           "K)\"] }\n"
           "[[profile]]\nname = \"pulse\"\non = \"20 s\"\noff = \"40 s\"\n"
           "[[power]]\nname = \"heater\"\ninto = [\"core\"]\ntotal = \"6 W\"\nprofile = \"pulse\"\n"
           "[[cooling]]\nname = \"air\"\non = \"exposed\"\nconvection = \"25 W/(m^2 K)\"\nemissivity = 0.8\nambient = 25\n"
           "[[sensor]]\nname = \"probe\"\nin = \"shell\"\nat = " +
           sensor +
           "\n"
           "[[figure]]\nname = \"put in\"\nvalue = \"total of heater.heat\"\n[[figure]]\nname = \"swing\"\nvalue = \"swing of core.max\"\n"
           "[[limit]]\nfigure = \"swing\"\nbelow = \"400 K\"\nstudies = [\"run\", \"cycle\"]\n"
           "[[limit]]\npart = \"core\"\nbelow = 400\n[[limit]]\nsensor = \"probe\"\nbelow = 400\n"
           "[[study]]\nname = \"steady\"\n[[study]]\nname = \"run\"\nkind = \"transient\"\nlasts = \"3 min\"\nambient = 25\nfields_at = [\"1 "
           "min\"]\n[[study]]\nname = \"cycle\"\nkind = \"cyclic\"\nambient = 25\n"
           "[[variant]]\nname = \"finer\"\nchange = { \"mesh.cell\" = 3 }\n";
}

struct Kind {
    std::string name, text, point;
    double whole;  ///< W of the whole product that the steady ledger has to show
};

const std::string blocks =
    "[[part]]\nname = \"shell\"\nsize = [40, 40, 8]\nat = [-20, -20, 0]\nmaterial = \"aluminium 6061-T6\"\n[[part]]\nname = \"core\"\nsize = [16, 16, 8]\nat = "
    "[-8, -8, 8]\nmaterial = \"copper\"\n";
const std::string rounds =
    "[[part]]\nname = \"shell\"\nshape = \"cylinder\"\ndiameter = 40\nlength = 8\nmaterial = \"aluminium 6061-T6\"\n[[part]]\nname = \"core\"\nshape = "
    "\"cylinder\"\ndiameter = 16\nlength = 8\nat = [0, 0, 8]\nmaterial = \"copper\"\n";

const std::vector<Kind> kinds_of_models{
    {"whole", model("", blocks, "[10, 10, 4]"), "shell: 10, 10, 4", 6.0},
    {"mirrored twice", model("[[mirror]]\nacross = \"x\"\nat = 0\nkeep = \"+\"\n[[mirror]]\nacross = \"y\"\nat = 0\nkeep = \"+\"\n", blocks, "[10, 10, 4]"),
     "shell: 10, 10, 4", 6.0},
    {"sector", model("[sector]\npieces = 6\nalong = \"z\"\n", rounds, "[15, 6, 4]"), "shell: 15, 6, 4", 6.0},
    {"plane",
     model("[space]\nkind = \"plane\"\ndepth = 20\n",
           "[[part]]\nname = \"shell\"\nsize = [40, 8, 20]\nmaterial = \"aluminium 6061-T6\"\n[[part]]\nname = \"core\"\nsize = [16, 8, 20]\nat = [12, 8, "
           "0]\nmaterial = \"copper\"\n",
           "[10, 4, 10]"),
     "shell: 10, 4, 10", 6.0},
    {"revolved", model("[space]\nkind = \"revolved\"\n", rounds, "[15, 0, 4]"), "shell: 15, 0, 4", 6.0},
};

/// All words of a page of documentation that stand in code.
std::set<std::string> words_in_code(const std::string& page) {
    std::set<std::string> out;
    std::string word;
    bool code = false;
    for (const char c : page + ' ') {
        if (std::isalnum(static_cast<unsigned char>(c)) != 0 || c == '_') {
            word += c;
            continue;
        }
        if (code) out.insert(word);
        word.clear();
        if (c == '`') code = !code;
    }
    return out;
}

}  // namespace

TEST_CASE("a reduced model says in every kind of model what the whole network says", "[cli]") {
    const auto with = [](std::string text, const std::string& from, const std::string& to) {
        for (std::size_t at = text.find(from); at != std::string::npos; at = text.find(from, at + to.size())) text.replace(at, from.size(), to);
        return text;
    };
    for (const Kind& kind : kinds_of_models) {
        INFO(kind.name);
        const Bench bench;
        std::string text = kind.text;
        if (kind.name != "whole" && kind.name != "revolved") {  // joints that bend take all nodes
            const std::size_t curve = text.find("coefficient = {");
            text.replace(curve, text.find('\n', curve) - curve, "coefficient = \"20000 W/(m^2 K)\"");
        }
        // Figures of surfaces take all nodes, those of parts do not.
        text += "[[surface]]\nname = \"skin\"\nparts = [\"shell\"]\n[[figure]]\nname = \"wall\"\nvalue = \"skin.mean\"\n";
        const std::string reduced = with(with(text, "kind = \"transient\"", "kind = \"transient\"\nmethod = \"reduced\""), "kind = \"cyclic\"",
                                         "kind = \"cyclic\"\nmethod = \"reduced\"");
        bench.put("full.toml", text);
        bench.put("all.toml", reduced);
        bench.put("few.toml", with(reduced, "[[figure]]\nname = \"wall\"\nvalue = \"skin.mean\"\n", ""));
        REQUIRE(bench.run("check all.toml").status == 0);
        std::map<std::string, json> found;
        for (const std::string name : {"full", "all", "few"}) {
            const Outcome solved = bench.run("solve " + name + ".toml --quiet --json --no-errors --no-pictures --study run --study cycle");
            INFO(solved.err);
            REQUIRE(solved.status == 0);
            found[name] = json::parse(solved.out)["studies"];
        }
        for (std::size_t study = 0; study < 2; ++study) {
            const json& full = found["full"][study];
            CHECK_FALSE(full.contains("reduction"));
            for (const char* name : {"all", "few"}) {
                INFO(name << ", study " << study);
                const json& other = found[name][study];
                CHECK(other["reduction"]["within"].get<double>() <= 0.1);
                CHECK(std::abs(other["energy"]["relative_residual"].get<double>()) <= 1e-9);
                const double near = other["reduction"]["within"].get<double>() + 0.03;
                for (std::size_t p = 0; p < full["parts"].size(); ++p) {
                    CHECK(other["parts"][p]["hottest"]["temperature"].get<double>() ==
                          Approx(full["parts"][p]["hottest"]["temperature"].get<double>()).margin(near));
                    CHECK(other["parts"][p]["mean"].get<double>() == Approx(full["parts"][p]["mean"].get<double>()).margin(near));
                }
                CHECK(other["sensors"][0]["highest"].get<double>() == Approx(full["sensors"][0]["highest"].get<double>()).margin(near));
                CHECK(other["run_figures"][0]["value"].get<double>() == Approx(full["run_figures"][0]["value"].get<double>()).epsilon(1e-9));
                CHECK(other["run_figures"][1]["value"].get<double>() == Approx(full["run_figures"][1]["value"].get<double>()).margin(2.0 * near));
            }
            CHECK(found["all"][study]["named_figures"][0]["highest"].get<double>() == Approx(full["named_figures"][0]["highest"].get<double>()).margin(0.1));
        }
        for (const std::string& question :
             {"probe few.results --study run --sensor probe --point '" + kind.point + "' --at '97 s'",
              std::string("probe few.results --study cycle --part core --at '10 s'"), std::string("report few.results --quiet --no-view"),
              std::string("draw few.results --study run --at '1 min' --out v.glb"), std::string("compare few.toml --quiet --study run"),
              std::string("solve few.toml --quiet --no-pictures --resume")}) {
            INFO(question);
            CHECK(bench.run(question).status == 0);
        }
    }
}

TEST_CASE("every kind of model goes through every kind of study and every command", "[cli][long]") {
    for (const Kind& kind : kinds_of_models) {
        INFO(kind.name);
        const Bench bench;
        bench.put("m.toml", kind.text);
        const Outcome checked = bench.run("check m.toml --json");
        INFO(checked.err);
        REQUIRE(checked.status == 0);
        CHECK(json::parse(checked.out)["memory"].get<double>() > 1e6);
        const Outcome solved = bench.run("solve m.toml --quiet --json --out r");
        INFO(solved.err);
        REQUIRE(solved.status == 0);
        const json summary = json::parse(solved.out);
        REQUIRE(summary["studies"].size() == 3);
        const json &steady = summary["studies"][0], &run = summary["studies"][1], &cycle = summary["studies"][2];
        CHECK(steady["ledger"]["loads"].get<double>() == Approx(kind.whole).epsilon(1e-9));
        CHECK(std::abs(steady["ledger"]["relative_residual"].get<double>()) <= 1e-9);
        for (const json& figure : steady["figures"]) {
            CHECK(figure["error_bar"]["error"].get<double>() >= 0.5 * std::abs(figure["error_bar"]["correction"].get<double>()));
            CHECK(std::abs(figure["value"].get<double>() - figure["solved"].get<double>() - figure["error_bar"]["correction"].get<double>()) < 1e-6);
            CHECK(figure["error_bar"]["error"].get<double>() < 200.0);
        }
        for (const json* study : {&run, &cycle}) {
            int known = 0;
            for (const json& figure : (*study)["figures"]) {
                if (!figure.contains("error_bar")) continue;
                CHECK(figure["error_bar"]["error"].get<double>() >= 0.5 * std::abs(figure["error_bar"]["correction"].get<double>()));
                CHECK(figure["error_bar"]["error"].get<double>() < 200.0);
                ++known;
            }
            CHECK(known >= 3);
            CHECK(std::abs((*study)["energy"]["relative_residual"].get<double>()) <= 1e-9);
            for (const json& w : (*study)["warnings"]) CHECK(w["kind"] != "ledger_open");
        }
        // Of the whole product, whatever piece of it is computed: three pulses, and one.
        for (const auto& [study, joule] : {std::pair{&run, 360.0}, std::pair{&cycle, 120.0}}) {
            const json& figures = (*study)["run_figures"];
            REQUIRE(figures.size() == 2);
            CHECK(figures[0]["value"].get<double>() == Approx(joule).epsilon(1e-9));
            CHECK(figures[1]["value"].get<double>() == Approx((*study)["limits"][0]["found"].get<double>()));
            CHECK(figures[1]["value"].get<double>() > 1.0);
        }
        CHECK_FALSE(steady.contains("run_figures"));
        // Power is on a third of the time: the mean of the settled cycle lies between the surroundings and the steady state.
        CHECK(cycle["sensors"][0]["mean"].get<double>() > 25.0);
        CHECK(cycle["sensors"][0]["mean"].get<double>() < steady["sensors"][0]["temperature"].get<double>());
        CHECK(run["sensors"][0]["lowest"].get<double>() >= 25.0 - 1e-3);
        // The sensor, the same place as a point, and what the summary says agree; between kept times, too.
        const Outcome probed = bench.run("probe r --study run --sensor probe --point '" + kind.point + "' --at '97 s' --csv");
        INFO(probed.err);
        REQUIRE(probed.status == 0);
        std::istringstream lines(probed.out);
        std::string header, row;
        std::getline(lines, header);
        std::getline(lines, row);
        double time = 0.0, sensor = 0.0, point = -1.0;
        REQUIRE(std::sscanf(row.c_str(), "%lf,%lf,%lf", &time, &sensor, &point) == 3);
        CHECK(time == Approx(97.0));
        CHECK(sensor == Approx(point).margin(1e-6));
        CHECK(sensor > 25.0);
        CHECK(sensor <= run["sensors"][0]["highest"].get<double>() + 1e-3);
        for (const char* study : {"steady", "run", "cycle"}) {
            const Outcome why = bench.run(std::string("why m.toml --quiet --json --part core --study ") + study);
            INFO(why.err);
            REQUIRE(why.status == 0);
            const json said = json::parse(why.out);
            double sum = 0.0;
            for (const json& share : said["along"]) sum += share["rise"].get<double>();
            CHECK(sum == Approx(said["rise"].get<double>()).epsilon(1e-6));
        }
        CHECK(bench.run("report r --quiet").status == 0);
        const Outcome compared = bench.run("compare m.toml --quiet --study steady --study cycle");
        INFO(compared.err);
        CHECK(compared.status == 0);
        CHECK_THAT(compared.out, Contains("finer"));
    }
}

TEST_CASE("a mirrored, a sectored and a revolved piece say the same as the whole", "[cli]") {
    const auto hottest = [](const std::string& text, const char* study, const char* more = "") {
        const Bench bench;
        bench.put("m.toml", text);
        const json summary = json::parse(bench.run(std::string("solve m.toml --quiet --json --no-pictures --study ") + study + more).out);
        return summary["studies"][0]["parts"][1]["hottest"].value("temperature", 0.0) - 25.0;
    };
    const double whole = hottest(kinds_of_models[0].text, "steady");
    CHECK(hottest(kinds_of_models[1].text, "steady") == Approx(whole).epsilon(1e-4));  // corrections are solved for to 1e-3 of themselves
    CHECK(hottest(kinds_of_models[1].text, "steady", " --no-errors") == Approx(hottest(kinds_of_models[0].text, "steady", " --no-errors")).epsilon(1e-6));
    const std::string round = model("", rounds, "[15, 6, 4]");
    const double turned = hottest(round, "steady");
    CHECK(hottest(kinds_of_models[2].text, "steady") == Approx(turned).epsilon(0.01));
    CHECK(hottest(kinds_of_models[4].text, "steady") == Approx(turned).epsilon(0.01));
}

TEST_CASE("errors are told with the values, left out when asked, and contradictions are refused", "[cli]") {
    const Bench bench;
    bench.put("m.toml", kinds_of_models[0].text);
    CHECK_THAT(bench.run("solve m.toml --quiet --no-pictures --study steady --out r").out, Contains("±"));
    const Outcome without = bench.run("solve m.toml --quiet --no-pictures --no-errors --study steady --json --out s");
    CHECK(without.status == 0);
    const json found = json::parse(without.out);
    for (const json& figure : found["studies"][0]["figures"]) CHECK_FALSE(figure.contains("error_bar"));
    const Outcome sought = bench.run("seek m.toml power.heater.total --from \"1 W\" --to \"500 W\" --study steady --limit core --json --quiet");
    INFO(sought.err);
    REQUIRE(sought.status == 0);
    CHECK(json::parse(sought.out)["margin_error"].get<double>() > 0.0);
    CHECK(json::parse(sought.out)["at_error"].get<double>() > 0.0);

    // As meshed: not refined, corrected all the same; also where the file says nothing of its mesh.
    std::string plain = kinds_of_models[0].text;
    plain.replace(plain.find("[mesh]\ncell = 4\n"), 16, "");
    bench.put("p.toml", plain);
    const Outcome as_meshed = bench.run("solve p.toml --quiet --no-pictures --as-meshed --study steady --json --out p");
    INFO(as_meshed.err);
    REQUIRE(as_meshed.status == 0);
    const json meshed = json::parse(as_meshed.out)["studies"][0],
               refined = json::parse(bench.run("solve p.toml --quiet --no-pictures --study steady --json --out q").out)["studies"][0];
    CHECK_FALSE(meshed.contains("refinement"));
    CHECK(meshed["figures"][0].contains("solved"));
    CHECK(refined["refinement"]["rounds"].size() >= 1);
    CHECK(refined["cells"].get<int>() >= meshed["cells"].get<int>());
    CHECK(bench.run("compare p q --as-meshed").status == 2);

    CHECK(bench.run("solve m.toml --no-errors --error-bars").status == 2);
    const Outcome folders = bench.run("compare r s --no-errors");
    CHECK(folders.status == 2);
    CHECK_THAT(folders.err, Contains("results folders have the errors and meshes that they were made with"));
    CHECK(bench.run("compare r s").status == 0);  // one with errors, one without
    std::string target = kinds_of_models[0].text;
    target.replace(target.find("cell = 4\n"), 9, "cell = 4\nerror_target = \"5 K\"\n");
    bench.put("t.toml", target);
    for (const char* command : {"solve", "compare"}) {
        const Outcome refused = bench.run(std::string(command) + " t.toml --no-errors");
        CHECK(refused.status == 2);
        CHECK_THAT(refused.err, Contains("contradicts mesh.error_target"));
    }
}

TEST_CASE("every key of a model file stands in its documentation", "[cli]") {
    const Bench bench;
    std::set<std::string> documented = words_in_code(content(fs::path(FIRNFIELD_SOURCE_DIR) / "docs" / "model-file.md"));
    documented.merge(words_in_code(content(fs::path(FIRNFIELD_SOURCE_DIR) / "docs" / "designs.md")));
    // An unknown key far from any other is answered with those that are known there.
    const std::string base = kinds_of_models[0].text;
    std::set<std::string> missing;
    std::size_t keys = 0;
    for (const char* table : {"",          "[units]",     "[mesh]",      "[space]",  "[sector]",   "[[material]]", "[[fluid]]", "[[part]]",    "[[surface]]",
                              "[[joint]]", "[[power]]",   "[[cooling]]", "[[hold]]", "[[mirror]]", "[[sensor]]",   "[[limit]]", "[[profile]]", "[[thermostat]]",
                              "[[study]]", "[[picture]]", "[[variant]]", "[[sweep]]"}) {
        INFO(table);
        // Tables that stand in the file already get the key there.
        const std::string wrong = "zzzzqqqqxxxx = 1\n", name = std::string(table) + "\n";
        std::string text = *table == 0 ? wrong + base : base + name + wrong;
        if (const std::size_t there = base.find(name); *table != 0 && there != std::string::npos) {
            text = base;
            text.insert(there + name.size(), wrong);
        }
        bench.put("m.toml", text);
        const Outcome outcome = bench.run("check m.toml");
        CHECK(outcome.status == 2);
        const std::size_t begin = outcome.err.find("known here:");
        REQUIRE(begin != std::string::npos);
        std::istringstream words(outcome.err.substr(begin + 11, outcome.err.find('\n', begin) - begin - 11));
        for (std::string key; words >> key;) {
            ++keys;
            if (!documented.contains(key)) missing.insert(std::string(table) + " " + key);
        }
    }
    for (const std::string& key : missing) UNSCOPED_INFO(key);
    CHECK(missing.empty());
    CHECK(keys > 100);
}

TEST_CASE("every key of the summary stands in its documentation", "[cli]") {
    const Bench bench;
    bench.put("m.toml", kinds_of_models[0].text);
    REQUIRE(bench.run("solve m.toml --quiet --json --no-pictures --error-bars --out r").status == 0);
    const std::set<std::string> documented = words_in_code(content(fs::path(FIRNFIELD_SOURCE_DIR) / "docs" / "results.md"));
    std::set<std::string> missing;
    const std::function<void(const json&)> walk = [&](const json& j) {
        for (const auto& [key, value] : j.items()) {
            if (!j.is_object()) {
                if (value.is_structured()) walk(value);
                continue;
            }
            std::istringstream words(key);  // kinds of ends have blanks
            for (std::string word; words >> word;) {
                if (!documented.contains(word)) missing.insert(key);
            }
            if (value.is_structured()) walk(value);
        }
    };
    walk(json::parse(content(bench.work() / "r" / "summary.json")));
    walk(json::parse(bench.run("check m.toml --json").out));
    for (const std::string& key : missing) UNSCOPED_INFO(key);
    CHECK(missing.empty());
}

TEST_CASE("every command refuses what it cannot do, in one message, and leaves everything as it was", "[cli]") {
    const Bench bench;
    bench.put("m.toml", kinds_of_models[0].text);
    REQUIRE(bench.run("solve m.toml --quiet --no-pictures --study run --out r").status == 0);
    const std::vector<std::pair<std::string, std::string>> cases{
        {"solve none.toml", "none.toml"},
        {"solve m.toml --study nowhere", "nowhere"},
        {"solve m.toml --variant coarser", "coarser"},
        {"solve m.toml --set 'mesh.cel = 3'", "did you mean"},
        {"solve m.toml --set 'mesh.cell = -3'", "positive"},
        {"solve m.toml --set 'mesh.cell'", "mesh.cell"},
        {"solve m.toml --study run --error-bars", "steady"},
        {"check m.toml --show nothing", "nothing"},
        {"why m.toml --part nobody", "nobody"},
        {"why m.toml --sensor nobody", "nobody"},
        {"compare m.toml --variant coarser", "coarser"},
        {"compare r none.results", "none.results"},
        {"seek m.toml mesh.cel --from '1 mm' --to '2 mm'", "unknown key \"cel\""},
        {"tolerance m.toml --study steady", "spread"},
        {"report none.results", "none.results"},
        {"probe none.results --part core", "none.results"},
        {"probe r --part nobody", "nobody"},
        {"probe r --sensor nobody", "nobody"},
        {"probe r --part core --at '1 h'", "3.000 min"},
        {"probe r --part core --at '-1 s'", "-1"},
        {"probe r --part core --at '5 K'", "time"},
        {"probe r --point 'core: 100, 0, 0'", "core"},
        {"probe r --point 'core'", "core"},
        {"probe r --point 'core: a, b, c'", "core"},
        {"probe r --line 'core: 0, 0, 9'", "two ends"},
        {"probe r --surface nothing", "nothing"},
        {"probe r --study steady --part core", "steady"},
        {"convection 'vertical plat' --length '1 m' --surface '50 degC' --ambient '20 degC'", "did you mean"},
        {"convection 'vertical plate' --surface '50 degC' --ambient '20 degC'", "length"},
        {"convection 'vertical plate' --length '1 m' --surface '50 K' --ambient '-400 degC'", "absolute zero"},
        {"materials unobtainium", "unobtainium"},
        {"surface none.stl", "none.stl"},
    };
    const std::size_t files = bench.files();
    for (const auto& [line, says] : cases) {
        INFO(line);
        const Outcome outcome = bench.run(line + " --quiet");
        const Outcome told = outcome.err.find("--quiet") != std::string::npos ? bench.run(line) : outcome;
        INFO(told.err);
        CHECK(told.status == 2);
        CHECK_THAT(told.err, Contains(says));
        CHECK(std::count(told.err.begin(), told.err.end(), '\n') <= 4);
        CHECK(bench.files() == files);
    }
}
