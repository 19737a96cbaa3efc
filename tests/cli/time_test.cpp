// The command on studies in time: what it prints and writes, probing, and taking up a run that was killed.

#include "cli/bench.hpp"
#include "models.hpp"

#include <fmt/format.h>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include <csignal>
#include <filesystem>
#include <fstream>
#include <thread>

#include <sys/wait.h>
#include <unistd.h>

namespace fs = std::filesystem;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

const std::string command = FIRNFIELD_COMMAND;
const fs::path example = fs::path(FIRNFIELD_SOURCE_DIR) / "examples" / "heated_plate_over_time.toml";

/// A quarter of the example's long study.
const std::string shorter = " --set \"study.keep warm.lasts = 30 min\"";

/// Starts a solve and kills it after some milliseconds, without any chance to tidy up.
void start_and_kill(const std::vector<std::string>& arguments, int milliseconds) {
    std::vector<char*> argv{const_cast<char*>(command.c_str())};
    for (const std::string& a : arguments) argv.push_back(const_cast<char*>(a.c_str()));
    argv.push_back(nullptr);
    const pid_t child = ::fork();
    if (child == 0) {
        if (std::freopen("/dev/null", "w", stdout) != nullptr) ::execv(command.c_str(), argv.data());
        ::_exit(127);
    }
    std::this_thread::sleep_for(std::chrono::milliseconds(milliseconds));
    ::kill(child, SIGKILL);
    ::waitpid(child, nullptr, 0);
}

}  // namespace

TEST_CASE("studies in time leave history, charts, fields and a summary", "[cli]") {
    const Bench bench;
    const fs::path results = bench.work() / "r";
    const Outcome solved = bench.run("solve " + example.string() + shorter + " --quiet --out " + results.string());
    CHECK(solved.status == 1);  // the settled pulses miss the limit of the block
    CHECK_THAT(solved.out, Contains("1 OF 1 LIMITS MISSED") && Contains("plate control") && Contains("slowest time constant") && Contains("unaccounted"));
    const auto summary = nlohmann::json::parse(content(results / "summary.json"));
    REQUIRE(summary["studies"].size() == 4);
    const auto& settled = summary["studies"][1];
    CHECK(settled["study"]["kind"] == "cyclic");
    CHECK(settled["cycle"]["period"] == 80.0);
    CHECK(settled["limits"][0]["beyond"].size() == 1);
    CHECK(std::abs(settled["energy"]["relative_residual"].get<double>()) <= 1e-6);
    const auto& warm = summary["studies"][2];
    CHECK(warm["thermostats"][0]["switchings"].size() > 100);
    CHECK(warm["limits"].size() == 2);
    const std::string history = content(results / "history" / "keep warm.csv");
    CHECK_THAT(history.substr(0, history.find('\n')), Contains("plate max (degC)") && Contains("heater in (W)") && Contains("plate control on (1)"));
    for (const char* file :
         {"fields/keep warm.pvd", "fields/keep warm/0003.vtu", "fields/keep warm.temperatures", "pictures/keep warm.png", "pictures/keep warm/0003.png"}) {
        INFO(file);
        CHECK(fs::exists(results / file));
    }
    CHECK(content(results / "pictures" / "keep warm.png").find("acTL") != std::string::npos);
    if (firnfield::charts_possible()) CHECK(content(results / "charts" / "keep warm.svg").find("</svg>") != std::string::npos);
    CHECK_FALSE(fs::exists(results / "checkpoints"));

    // Temperatures are told afterwards.
    const Outcome probe =
        bench.run("probe " + results.string() + " --study \"keep warm\" --part plate --sensor \"plate edge\" --point \"block: 40, 30, 8\" --csv");
    CHECK(probe.status == 0);
    CHECK_THAT(probe.out, Contains("time (s),plate min (degC)") && Contains("\n0,-10,-10,-10,-10,-10\n"));
    // The sensor's column is the history's.
    const double end = summary["studies"][2]["sensors"][0]["end"].get<double>();
    const std::string last = bench.run("probe " + results.string() + " --study \"keep warm\" --sensor \"plate edge\" --at \"30 min\" --csv").out;
    CHECK(std::stod(last.substr(last.rfind(',') + 1)) == Approx(end).margin(1e-3));
    const Outcome line = bench.run("probe " + results.string() + " --study mean --line \"plate: 0, 30, 2 to 80, 30, 2\" --samples 5");
    CHECK(line.status == 0);
    CHECK(std::count(line.out.begin(), line.out.end(), '\n') == 6);
    CHECK(bench.run("probe " + results.string() + " --study nope --part plate").status == 2);
    CHECK_THAT(bench.run("probe " + results.string() + " --point \"plate 1\"").err, Contains("write for example"));
    // A study starts from a results folder.
    const fs::path model = bench.work() / "later.toml";
    std::string text = content(example);
    text +=
        "\n[[study]]\nname = \"on\"\nkind = \"transient\"\nambient = 25\nlasts = \"1 s\"\nscale = { pulses = 0, heater = 0 }\nstart = { study = \"mean\", "
        "results = \"r\" }\n";
    std::ofstream(model) << text;
    const Outcome on = bench.run("solve " + model.string() + " --study on --quiet --no-pictures --json");
    CHECK(on.status == 0);
    const auto first = nlohmann::json::parse(on.out)["studies"][0]["parts"][1]["hottest"];
    // It starts from what the mesh gives, and with the same correction.
    for (const auto& figure : summary["studies"][0]["figures"]) {
        if (figure["kind"] == "max" && figure["name"] == summary["studies"][0]["parts"][1]["name"])
            CHECK(first["temperature"].get<double>() == Approx(figure["value"].get<double>()).margin(0.2));
    }
}

TEST_CASE("probe tells when something lies on one side of a value", "[cli]") {
    const Bench bench;
    const Outcome solved = bench.run("solve " + example.string() + " --study 'cool down' --study 'settled pulses' --quiet --no-pictures --out r");
    REQUIRE(solved.status < 2);
    const auto summary = nlohmann::json::parse(content(bench.work() / "r" / "summary.json"));
    const Outcome when = bench.run("probe r --when 'block < 45 degC'");
    CHECK(when.status == 0);
    CHECK_THAT(when.out, Contains("hottest place of block below 45.0 °C") && Contains("study \"cool down\": from"));
    // As the milestone of the same, to how well a straight line follows the history.
    for (const auto& study : summary["studies"]) {
        if (study["study"]["name"] != "cool down") continue;
        for (const auto& milestone : study["milestones"]) {
            if (milestone["name"] != "block may be touched" || !milestone["first"].is_number()) continue;
            const double value = milestone["value"], first = milestone["first"];
            const Outcome same = bench.run(fmt::format("probe r --study 'cool down' --csv --when 'block < {} degC'", value));
            const std::size_t row = same.out.find("cool down,");
            REQUIRE(row != std::string::npos);
            CHECK(std::stod(same.out.substr(row + 10)) == Approx(first).epsilon(0.01));
        }
    }
    CHECK_THAT(bench.run("probe r --when 'lag of the plate > 0.1 K'").out, Contains("lag of the plate above 0.1000 K"));
    CHECK_THAT(bench.run("probe r --when 'plate.mean > 500 degC'").out, Contains("never until"));
    const Outcome figures =
        bench.run("probe r --study 'cool down' --at '10 min' --figure 'lag of the plate' --figure block.max --figure \"= 'block.max' - 'plate.min'\"");
    CHECK(figures.status == 0);
    CHECK_THAT(figures.out, Contains("degC") && Contains(" K"));
    CHECK_THAT(bench.run("probe r --figure 'swing of block.max'").err, Contains("told of a whole run"));
    CHECK_THAT(bench.run("compare r r --stale --figure block.mean").err, Contains("only steady studies can be asked afterwards"));
    CHECK_THAT(bench.run("probe r --figure blok.max").err, Contains("did you mean \"block\""));
    CHECK_THAT(bench.run("probe r --figure block.max --figure 'lag of the plate' --chart c").err, Contains("a chart shows one unit"));
    const auto refused = [&](const std::string& condition, const std::string& why) {
        const Outcome said = bench.run("probe r --when '" + condition + "'");
        CHECK(said.status == 2);
        CHECK_THAT(said.err, Contains(why));
    };
    refused("block", "write for example");
    refused("blok < 45 degC", "did you mean \"block\"");
    refused("block < 45", "without a unit");
    refused("lag of the plate > 45 degC", "degC");
    refused("mass > 1 kg", "give it a name by a [[figure]]");
    CHECK_THAT(bench.run("probe r --when 'block < 45 degC' --part block").err, Contains("a question of its own"));
    CHECK_THAT(bench.run("probe r --study never --when 'block < 45 degC'").err, Contains("no study"));
}

TEST_CASE("a killed run goes on and ends the same to the last digit", "[cli][long]") {
    const Bench bench;
    const fs::path whole = bench.work() / "whole", pieces = bench.work() / "pieces";
    bench.put("plate.toml", content(example) + R"(
[[figure]]
name = "swing"
value = "swing of plate.max"
[[figure]]
name = "warm for"
value = "time plate.max is above 35 degC"
[[figure]]
name = "duty"
value = "thermostat.plate control.duty"
)");
    std::vector<std::string> common{"solve", (bench.work() / "plate.toml").string(), "--study", "keep warm", "--quiet", "--no-pictures", "--checkpoint-steps",
                                    "20"};
#ifdef FIRNFIELD_SANITIZED
    // Many times slower, so that it is killed in the middle all the same.
    common.insert(common.end(), {"--set", "study.keep warm.lasts = 30 min"});
#endif
    std::string line;
    for (const std::string& a : common) line += " \"" + a + "\"";
    REQUIRE(bench.run(line + " --out " + whole.string()).status == 0);
    std::vector<std::string> arguments = common;
    arguments.insert(arguments.end(), {"--out", pieces.string()});
    start_and_kill(arguments, 400);
    arguments.emplace_back("--resume");
    for (const int milliseconds : {150, 333, 520}) {
        if (!fs::exists(pieces)) start_and_kill(arguments, milliseconds);
    }
    if (!fs::exists(pieces)) REQUIRE(bench.run(line + " --resume --out " + pieces.string()).status == 0);
    CHECK(content(whole / "history" / "keep warm.csv") == content(pieces / "history" / "keep warm.csv"));
    CHECK(content(whole / "fields" / "keep warm.temperatures") == content(pieces / "fields" / "keep warm.temperatures"));
    const auto of_run = [](const fs::path& folder) { return nlohmann::json::parse(content(folder / "summary.json"))["studies"][0]["run_figures"]; };
    CHECK(of_run(whole).size() == 3);
    CHECK(of_run(whole)[1]["value"].get<double>() > 1.0);
    CHECK(of_run(whole) == of_run(pieces));
    CHECK_FALSE(fs::exists(bench.work() / "pieces.unfinished"));
}

TEST_CASE("a profile is drawn by check", "[cli]") {
    if (!firnfield::charts_possible()) return;
    const Bench bench;
    const Outcome shown = bench.run("check " + example.string() + " --show pulse --picture " + (bench.work() / "p.png").string());
    CHECK(shown.status == 0);
    CHECK(fs::file_size(bench.work() / "p.png") > 2000);
}
