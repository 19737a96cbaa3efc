// Files of runs in time: tables as CSV, kept temperatures, checkpoints, history, moving pictures.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <sstream>

#include <unistd.h>

namespace fs = std::filesystem;
using namespace firnfield;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

struct Scratch {
    Scratch() : path(fs::temp_directory_path() / ("firnfield-files-" + std::to_string(::getpid()) + "-" + std::to_string(std::rand()))) {
        fs::create_directories(path);
    }
    ~Scratch() { fs::remove_all(path); }
    fs::path path;
    fs::path file(const std::string& name, const std::string& content) const {
        std::ofstream(path / name, std::ios::binary) << content;
        return path / name;
    }
};

const std::string head =
    "firnfield = 1\n[[part]]\nname = \"a\"\nsize = [\"1 mm\", \"1 mm\", \"1 mm\"]\nmaterial = \"copper\"\n[[cooling]]\non = \"exposed\"\nconvection = \"9 "
    "W/(m^2 K)\"\n"
    "ambient = \"20 degC\"\n[[profile]]\nname = \"p\"\n";

Profile profile_of(const Scratch& scratch, const std::string& csv) { return read_model(scratch.file("m.toml", head + "csv = " + csv + "\n")).profiles.at(0); }

std::string message_of(const Scratch& scratch, const std::string& csv) {
    try {
        static_cast<void>(profile_of(scratch, csv));
    } catch (const ModelError& error) {
        return error.problems().front().message;
    }
    return {};
}

}  // namespace

TEST_CASE("profiles come from columns of a table by name, with units and a scale", "[io]") {
    Scratch scratch;
    scratch.file("log.csv", "\xEF\xBB\xBFt (min); fan, left;P;air\r\n# a remark\r\n0;1;38;-5\r\n\r\n2;0;19;10.5\r\n");
    const Profile power = profile_of(scratch, "{ file = \"log.csv\", value = \"P\", time_unit = \"min\", scale = 0.5 }");
    CHECK(power.points.at == std::vector<double>{0.0, 120.0});
    CHECK(power.points.value == std::vector<double>{19.0, 9.5});
    CHECK_FALSE(power.gives == CourseOf::temperature);
    const Profile air = profile_of(scratch, "{ file = \"log.csv\", value = \"air\", time_unit = \"min\", unit = \"degC\" }");
    CHECK(air.gives == CourseOf::temperature);
    CHECK(air.points.value[1] == Approx(celsius(10.5)));
    CHECK(profile_of(scratch, "{ file = \"log.csv\" }").points.value[0] == 1.0);  // the second column
    CHECK_THAT(message_of(scratch, "{ file = \"log.csv\", value = \"p\" }"), Contains("has no column \"p\"") && Contains("\"P\""));
    scratch.file("bad.csv", "t,P\n0,1\n1,one\n");
    CHECK_THAT(message_of(scratch, "{ file = \"bad.csv\" }"), Contains("bad.csv:3: expected a number in column 2, found \"one\""));
    scratch.file("short.csv", "t,P\n0,1\n1\n");
    CHECK_THAT(message_of(scratch, "{ file = \"short.csv\" }"), Contains("short.csv:3"));
}

TEST_CASE("kept temperatures come back, and go on after a stop", "[io]") {
    Scratch scratch;
    const fs::path file = scratch.path / "t.temperatures";
    const std::vector<double> rise{1.5, -2.25, 1e-3};
    std::vector<bool> states(70, false);
    states[0] = states[66] = states[69] = true;
    {
        TemperatureWriter writer(file, 3, 70, 300.0);
        writer.add(0.0, rise, states);
        writer.add(10.0, rise, {false, true});
        writer.add(20.0, rise, {});
    }
    TemperatureWriter(file, 3, 70, 300.0, 10.0).add(15.0, rise, {true});
    const KeptTemperatures kept = read_temperatures(file);
    CHECK(kept.reference == 300.0);
    CHECK(kept.time == std::vector<double>{0.0, 10.0, 15.0});
    REQUIRE(kept.on.size() == 3);
    CHECK(kept.on[0] == states);  // more thermostats than bits in a word
    CHECK(kept.on[1][1]);
    CHECK_FALSE(kept.on[1][0]);
    for (std::size_t i = 0; i < 3; ++i) CHECK(kept.rise[1][i] == Approx(rise[i]).epsilon(1e-7));
    fs::resize_file(file, fs::file_size(file) - 1);
    CHECK_THROWS_AS(read_temperatures(file), FileError);
    CHECK_THROWS_AS(read_temperatures(scratch.file("x", "nothing of the kind, but long enough")), FileError);
    CHECK_THROWS_AS(read_temperatures(scratch.path / "none"), FileError);
}

TEST_CASE("a checkpoint comes back to the last digit", "[io]") {
    Scratch scratch;
    Checkpoint c{.fingerprint = "abc", .study = "day"};
    c.state = {.time = 1.0 / 3.0,
               .next_length = 0.1,
               .reference = 293.15,
               .rise = {1.0 / 7.0, -0.0},
               .rate = {1e-300, 2.0},
               .on = {true, false},
               .since = {-HUGE_VAL, 0.7},
               .switchings = {{0.2, 1, true}}};
    c.state.ledger.moved.loads = {3.3};
    c.state.ledger.stored = -1.1;
    c.state.summary.steps = 42;
    c.record.limits.push_back({.started = true,
                               .was_beyond = true,
                               .started_beyond = false,
                               .beyond_since = 0.25,
                               .beyond = {{0.1, 0.2}},
                               .worst = {{311.0, {1, 2, 3}, "lid"}, 0.2},
                               .judged = true});
    c.record.history.columns = {"a", "b"};
    c.record.history.time = {0.1};
    c.record.history.rows = {{1.0 / 9.0, 2.0}};
    const fs::path file = scratch.path / "c";
    write_file(file, write_checkpoint(c));
    const Checkpoint back = read_checkpoint(file);
    CHECK(write_checkpoint(back) == write_checkpoint(c));
    CHECK(back.state.rise == c.state.rise);
    CHECK(back.state.since == c.state.since);
    CHECK(back.record.limits[0].worst.spot.body == "lid");
    CHECK(back.record.history.rows == c.record.history.rows);
    CHECK_THROWS_AS(read_checkpoint(scratch.file("junk", "no checkpoint")), FileError);
    CHECK_THROWS_AS(read_checkpoint(scratch.path / "none"), FileError);
}

TEST_CASE("the history as CSV has all digits and quotes what needs it", "[io]") {
    const History history{.columns = {"plain (degC)", "with, comma (W)"}, .time = {0.1}, .rows = {{1.0 / 3.0, -2.0}}};
    CHECK(history_csv(history) == "time (s),plain (degC),\"with, comma (W)\"\n0.1,0.3333333333333333,-2\n");
    // Names come back whatever they hold; what breaks off within one is refused.
    const Scratch scratch;
    const History named{.columns = {"a \"b\", c", "=d", "'e"}, .time = {0.5}, .rows = {{1.0, 2.0, 3.0}}};
    CHECK(read_history(scratch.file("h.csv", history_csv(named))).columns == named.columns);
    CHECK_THROWS_AS(read_history(scratch.file("open.csv", "\"time")), FileError);
    CHECK_THROWS_AS(read_history(scratch.file("none.csv", "")), FileError);
}

TEST_CASE("an animation needs pictures of one size", "[io]") {
    Scratch scratch;
    CHECK_THROWS_AS(write_animation(scratch.path / "a.png", std::vector<fs::path>{scratch.file("no.png", "text")}, 100), FileError);
    const Model model = block_on_plate();
    const SteadySolution solution = solve_steady(model);
    const Findings found = findings(model, solution);
    const std::vector<fs::path> frames{scratch.path / "1.png", scratch.path / "2.png"};
    for (const fs::path& frame : frames) draw_picture(frame, model, solution, found, pictures_of(model).front(), 320, 200);
    write_animation(scratch.path / "a.png", frames, 100);
    CHECK(fs::file_size(scratch.path / "a.png") > fs::file_size(frames[0]));
    draw_picture(frames[1], model, solution, found, pictures_of(model).front(), 400, 200);
    CHECK_THROWS_AS(write_animation(scratch.path / "b.png", frames, 100), FileError);
    CHECK_FALSE(fs::exists(scratch.path / "b.png"));
}
