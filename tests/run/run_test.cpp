// Studies run from a program: findings in order, sinks as they come, failures beside what was finished, stops, and a results folder without the command.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <cstdlib>
#include <filesystem>

#include <unistd.h>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;

namespace {

/// A heated block with a steady study, a transient that starts from it without heat, and one that starts at a temperature.
Model three_studies() {
    Model m = block_on_plate();
    m.mesh.cell = 8_mm;
    m.add(Study{.name = "hot", .ambient = 35_degC});
    Study cool{.name = "cool down", .ambient = 35_degC, .scale = {{"block", 0.0}}, .kind = StudyKind::transient, .lasts = 120.0};
    cool.start.study = "hot";
    m.add(cool);
    Study warm{.name = "warm up", .ambient = 35_degC, .kind = StudyKind::transient, .lasts = 120.0};
    warm.start.temperature = 35_degC;
    m.add(warm);
    return m;
}

const Findings& steady_of(const RunResult& result, std::size_t n) { return std::get<Findings>(result.findings.at(n)); }
const TimeFindings& in_time_of(const RunResult& result, std::size_t n) { return std::get<TimeFindings>(result.findings.at(n)); }

struct Scratch {
    Scratch() : path(std::filesystem::temp_directory_path() / ("firnfield-run-" + std::to_string(::getpid()) + "-" + std::to_string(std::rand()))) {
        std::filesystem::create_directories(path);
    }
    ~Scratch() { std::filesystem::remove_all(path); }
    std::filesystem::path path;
};

}  // namespace

TEST_CASE("studies run in their order, start from each other, and hand out what they give", "[run]") {
    const Model model = three_studies();
    std::vector<std::string> told;
    RunSinks sinks;
    sinks.steady = [&](const Study& study, const SteadySolution& solution, const Findings& found) {
        told.push_back("steady " + study.name);
        CHECK(solution.temperature.size() == found.cells);
        CHECK(found.why.has_value());
    };
    sinks.begin = [&](const Study& study) -> std::optional<PutAside> {
        told.push_back("begin " + study.name);
        return std::nullopt;
    };
    std::size_t steps = 0;
    sinks.step = [&](const Study&, const TimeStep&) { ++steps; };
    sinks.in_time = [&](const Study& study, const TransientSolution& solution, const TimeFindings& found, Moments&) {
        told.push_back("end " + study.name);
        CHECK(solution.end_time == found.end_time);
    };
    sinks.explained = [&](const Study& study, const SteadySolution&, const Explanation&) { told.push_back("why " + study.name); };
    const RunResult result = run_studies(model, model.studies, {}, sinks);
    CHECK(told == std::vector<std::string>{"why hot", "steady hot", "begin cool down", "why cool down", "end cool down", "begin warm up", "why warm up",
                                           "end warm up"});
    REQUIRE(result.findings.size() == 3);
    CHECK(result.failures.empty());
    CHECK_FALSE(result.stopped);
    CHECK(steps > 10);
    // It starts where the other ended, and is what solving it alone gives.
    CHECK(in_time_of(result, 1).parts[0].hottest.spot.temperature == Approx(steady_of(result, 0).parts[0].hottest.temperature).margin(1e-3));
    const Model meshed = with_layers(model, steady_of(result, 0).layers);
    CHECK(in_time_of(result, 2).parts[1].end_max == solve_over_time(meshed, model.studies[2]).parts[1].end_max);
    // The second alone solves the first for its start, and does not tell of it.
    const RunResult alone = run_studies(model, std::span(model.studies).subspan(1, 1), {.why = false});
    REQUIRE(alone.findings.size() == 1);
    CHECK(in_time_of(alone, 0).parts[0].end_mean == in_time_of(result, 1).parts[0].end_mean);
    CHECK_FALSE(in_time_of(alone, 0).why.has_value());
}

TEST_CASE("a study that fails leaves the others, and a stop what was finished", "[run]") {
    Model model = three_studies();
    // Heat that grows with temperature faster than anything carries it off.
    model.powers[0].temperature_factor = {{300.0, 400.0, 4000.0}, {1.0, 60.0, 6000.0}};
    model.studies[2].lasts = 0.5;
    const RunResult result = run_studies(model, std::vector{model.studies[0], model.studies[2]});
    CHECK(result.failures.size() + result.findings.size() == 2);
    REQUIRE(result.failures.size() == 1);
    CHECK(result.failures[0].study == "hot");
    CHECK_FALSE(result.failures[0].reason.empty());

    const Model sound = three_studies();
    RunOptions options;
    options.progress = [](const Progress& at) { return at.time < 10.0; };
    const RunResult stopped = run_studies(sound, sound.studies, options);
    CHECK(stopped.stopped);
    REQUIRE(stopped.findings.size() == 1);
    CHECK(steady_of(stopped, 0).study.name == "hot");

    Model wrong = three_studies();
    wrong.parts[0].material = "unobtainium";
    CHECK_THROWS_AS(run_studies(wrong, wrong.studies), ModelError);
    Model elsewhere = three_studies();
    elsewhere.studies[1].start.results = "there.results";
    CHECK_THROWS_AS(run_studies(elsewhere, elsewhere.studies), Error);  // nobody here reads a folder
}

TEST_CASE("a program makes the results folder that the command makes, and goes on from a stop", "[run]") {
    const Scratch scratch;
    const Model model = three_studies();
    const auto run_into = [&](const std::filesystem::path& target, const RunOptions& options, bool resume) {
        ResultsFolder folder(target, resume);
        ResultsWriter writer(model, folder, {.pictures = false, .resume = resume});
        const RunResult result = run_studies(model, model.studies, options, writer.sinks());
        if (result.stopped) return result;
        CHECK(writer.finish(result).find("\"warm up\"") != std::string::npos);
        folder.commit();
        return result;
    };
    const RunResult whole = run_into(scratch.path / "whole", {}, false);
    for (const char* file :
         {"summary.json", "model.toml", "fields/hot.vtu", "fields/hot surface.vtu", "fields/warm up.temperatures", "history/cool down.csv"}) {
        INFO(file);
        CHECK(std::filesystem::exists(scratch.path / "whole" / file));
    }
    CHECK(read_model(scratch.path / "whole/model.toml") == model);
    CHECK(read_outcome(scratch.path / "whole").outcome.studies.size() == 3);

    RunOptions stops;
    stops.checkpoint_steps = 3;
    RunOptions goes_on = stops;
    stops.progress = [](const Progress& at) { return at.study != "warm up" || at.time < 30.0; };
    CHECK(run_into(scratch.path / "parts", stops, false).stopped);
    CHECK_FALSE(std::filesystem::exists(scratch.path / "parts"));
    const RunResult rest = run_into(scratch.path / "parts", goes_on, true);
    CHECK_FALSE(rest.stopped);
    const RunResult same = run_into(scratch.path / "same", goes_on, false);  // checkpoints are part of a run
    CHECK(in_time_of(rest, 2).parts[1].end_max == in_time_of(same, 2).parts[1].end_max);
    CHECK(read_file(scratch.path / "parts/history/warm up.csv") == read_file(scratch.path / "same/history/warm up.csv"));
    CHECK(whole.findings.size() == rest.findings.size());
}
