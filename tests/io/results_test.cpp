// Summaries, fields and results folders.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <nlohmann/json.hpp>

#include <fstream>
#include <sstream>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;
namespace fs = std::filesystem;

namespace {

/// A folder of its own for a test, removed afterwards.
struct Scratch {
    Scratch() : path(fs::temp_directory_path() / ("firnfield-test-" + std::to_string(std::rand()))) { fs::create_directories(path); }
    ~Scratch() { fs::remove_all(path); }
    fs::path path;
};

std::size_t entries(const fs::path& folder) { return static_cast<std::size_t>(std::distance(fs::directory_iterator(folder), fs::directory_iterator())); }

}  // namespace

TEST_CASE("the summary says the same as the findings", "[io]") {
    const Model model = block_on_plate();
    const Findings found = findings(model, solve_steady(model));
    const std::vector<StudyFindings> all{found};
    const auto json = nlohmann::json::parse(to_json(summarise(model, all)));
    CHECK(json["firnfield"] == version);
    CHECK(json["fingerprint"] == fingerprint(model));
    const auto& study = json["studies"][0];
    CHECK(study["verdict"] == "kept");
    CHECK(study["hottest"]["body"] == "block");
    CHECK(study["hottest"]["temperature"].get<double>() == Approx(found.hottest.temperature - zero_celsius));
    CHECK(study["limits"][0]["margin"].get<double>() == Approx(found.limits[0].margin));
    CHECK(study["ledger"]["loads"].get<double>() == Approx(15.0));
    CHECK(study["coolings"][0]["radiation"].get<double>() == Approx(found.coolings[0].radiation));
    CHECK(study["solver"]["converged"] == true);
    const auto inspection = nlohmann::json::parse(to_json(inspect(model, build_mesh(model))));
    CHECK(inspection["parts"][1]["name"] == "block");
}

TEST_CASE("text from the outside cannot break the JSON", "[io]") {
    Model model = block_on_plate();
    model.title = "bad \xff bytes \"and\" quotes";
    const std::vector<StudyFindings> all{findings(model, solve_steady(model))};
    CHECK_NOTHROW(nlohmann::json::parse(to_json(summarise(model, all))));
}

TEST_CASE("a results folder appears whole or not at all", "[io]") {
    Scratch scratch;
    const fs::path target = scratch.path / "run.results";
    {
        ResultsFolder folder(target);
        write_file(folder.path() / "fields.vtu", "1");
        CHECK_FALSE(fs::exists(target));
    }
    CHECK(entries(scratch.path) == 0);  // given up: nothing stays

    {
        ResultsFolder folder(target);
        write_file(folder.path() / "summary.json", "0");  // a study is finished
        CHECK_FALSE(fs::exists(target));
        CHECK(folder.has_results());
        CHECK(folder.give_up() == ResultsFolder::Left::results);
        CHECK(folder.give_up() == ResultsFolder::Left::results);
    }
    CHECK(fs::exists(target / "summary.json"));
    CHECK(entries(scratch.path) == 1);
    {
        ResultsFolder folder(target);
        write_file(folder.path() / "summary.json", "part of a run");
        CHECK(folder.give_up() == ResultsFolder::Left::results);
        CHECK(folder.has_results());  // beside the earlier results, which stay
        fs::remove_all(folder.path());
    }
    CHECK(read_file(target / "summary.json") == "0");

    for (const char* content : {"1", "2"}) {
        ResultsFolder folder(target / "");
        write_file(folder.path() / "summary.json", content);
        folder.commit();
        std::ifstream stream(target / "summary.json");
        std::string text;
        stream >> text;
        CHECK(text == content);
        CHECK(entries(scratch.path) == 1);
    }
}

TEST_CASE("what is not a results folder is never replaced", "[io]") {
    Scratch scratch;
    fs::create_directories(scratch.path / "photos");
    write_file(scratch.path / "photos" / "a.jpg", "x");
    CHECK_THROWS_WITH(ResultsFolder(scratch.path / "photos"), Contains("is not a results folder"));
    write_file(scratch.path / "file", "x");
    CHECK_THROWS_AS(ResultsFolder(scratch.path / "file"), FileError);
    CHECK_THROWS_AS(ResultsFolder(scratch.path / "file" / "below"), FileError);
    CHECK(fs::exists(scratch.path / "photos" / "a.jpg"));
    CHECK_THROWS_AS(write_file(scratch.path / "none" / "x", "1"), FileError);
    CHECK_THROWS_WITH(read_model(scratch.path / "none.toml"), Contains("does the file exist"));
    CHECK_THROWS_WITH(read_model(scratch.path), Contains("is a folder"));
}

TEST_CASE("fields have a header that fits their data", "[io]") {
    Scratch scratch;
    const Model model = block_on_plate();
    const SteadySolution solution = solve_steady(model);
    const fs::path file = scratch.path / "steady.vtu";
    write_vtu(file, solution);
    std::ifstream stream(file, std::ios::binary);
    std::ostringstream text;
    text << stream.rdbuf();
    CHECK_THAT(text.str(), Contains("NumberOfCells=\"" + std::to_string(solution.mesh->cells.size()) + "\""));
    CHECK_THAT(text.str(), Contains("Name=\"temperature\"") && Contains("Name=\"heat flux\"") && Contains("Name=\"part\""));
    CHECK_THAT(text.str(), Contains("</VTKFile>"));
}
