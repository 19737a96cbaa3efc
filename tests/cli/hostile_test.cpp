// Hostile names, full disks, devices, endless work: text stays text, nothing that took time is lost, every refusal is one clear message.

#include "cli/bench.hpp"

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include <chrono>
#include <csignal>
#include <filesystem>
#include <thread>

#include <fcntl.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

namespace fs = std::filesystem;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

/// A model whose every name is `name`, with a study in time, a picture, a variant and all kinds of entries.
std::string model_named(const std::string& name) {
    const std::string q = nlohmann::json(name).dump();  // the escapes of JSON are those of TOML
    return "firnfield = 1\ntitle = " + q +
           "\n[units]\nlength = \"mm\"\ntemperature = \"degC\"\n[mesh]\ncell = 5\nthrough = 1\n"
           "[[material]]\nname = " +
           q + "\nconductivity = \"20 W/(m K)\"\ndensity = \"2000 kg/m^3\"\nspecific_heat = \"900 J/(kg K)\"\nnote = " + q + "\n[[part]]\nname = " + q +
           "\nsize = [20, 20, 5]\nmaterial = " + q +
           "\n[[part]]\nname = \"other\"\nsize = [20, 20, 5]\nat = [0, 0, 5]\nmaterial = \"copper\"\n"
           "[[joint]]\nname = " +
           q + "\nbetween = [\"other\", " + q +
           "]\nresistance = \"1 K cm^2/W\"\n"
           "[[power]]\nname = " +
           q +
           "\ninto = [\"other\"]\ntotal = \"3 W\"\n"
           "[[surface]]\nname = " +
           q +
           "\nfacing = \"+z\"\n"
           "[[cooling]]\nname = " +
           q +
           "\non = \"exposed\"\nconvection = \"20 W/(m^2 K)\"\nambient = 25\n"
           "[[sensor]]\nname = " +
           q + "\nin = \"other\"\nat = [5, 5, 7]\n[[limit]]\nsensor = " + q +
           "\nbelow = 20\n[[limit]]\npart = \"other\"\nbelow = 300\n"
           "[[picture]]\nname = " +
           q + "\n[[study]]\nname = " + q +
           "\n[[study]]\nname = \"in time\"\nkind = \"transient\"\nlasts = \"100 s\"\nambient = 25\n"
           "[[variant]]\nname = " +
           q + "\nchange = { \"cooling.1.ambient\" = 30 }\n[[sweep]]\nname = \"s\"\nover = { \"mesh.through\" = [1, 2] }\n";
}

const std::vector<std::string> hostile{
    "`touch owned`",
    "$(touch owned)",
    "'; touch owned; '",
    "\"; system(\"touch owned\"); \"",
    "@owned %s %n {x}^2_3",
    "a/b",
    "../../up",
    ".hidden",
    "-rf",
    "<!--<script>alert(1)</script>",
    "</script><img src=x onerror=alert(1)>",
    "{{{title}}} {{#limits}}",
    "=cmd|' /C calc'!A0",
    "+1",
    "@SUM(A1)",
    "Ünïcode 温度 → ∞",
    "&amp;<&>\"'",
    "con",
    "x\\ny \\t",
    "%d %s %%",
};

/// A model that takes a while over time, with checkpoints on the way.
const std::string slow =
    "firnfield = 1\n[units]\nlength = \"mm\"\ntemperature = \"degC\"\n[mesh]\ncell = 1.5\n[[part]]\nname = \"a\"\nsize = [60, 60, 8]\nmaterial = \"copper\"\n"
    "[[profile]]\nname = \"p\"\non = \"5 s\"\noff = \"5 s\"\n[[power]]\ninto = [\"a\"]\ntotal = \"30 W\"\nprofile = \"p\"\n"
    "[[cooling]]\non = \"exposed\"\nconvection = \"20 W/(m^2 K)\"\nambient = 25\n[[study]]\nname = \"long\"\nkind = \"transient\"\nlasts = \"2 h\"\nambient = "
    "25\n";

pid_t start(const std::vector<std::string>& arguments, const fs::path& folder) {
    const pid_t child = ::fork();
    if (child != 0) return child;
    std::vector<char*> argv{const_cast<char*>(FIRNFIELD_COMMAND)};
    for (const std::string& a : arguments) argv.push_back(const_cast<char*>(a.c_str()));
    argv.push_back(nullptr);
    if (::chdir(folder.c_str()) == 0 && std::freopen("/dev/null", "w", stdout) != nullptr && std::freopen("/dev/null", "w", stderr) != nullptr)
        ::execv(FIRNFIELD_COMMAND, argv.data());
    ::_exit(127);
}

bool wait_for(const fs::path& file, int seconds) {
    for (int n = 0; n < 50 * seconds; ++n) {
        if (fs::exists(file)) return true;
        std::this_thread::sleep_for(std::chrono::milliseconds(20));
    }
    return false;
}

}  // namespace

TEST_CASE("no name acts: in files, charts, the page, tables, markup, the terminal", "[cli][long]") {
    for (const std::string& name : hostile) {
        INFO(name);
        const Bench bench;
        bench.put("m.toml", model_named(name));
        CHECK(bench.run("check m.toml").status == 0);
        const Outcome solved = bench.run("solve m.toml --quiet --out r");
        CHECK(solved.status == 1);
        CHECK(solved.err.empty());
        CHECK_FALSE(fs::exists(bench.work() / "owned"));
        for (const auto& entry : fs::recursive_directory_iterator(bench.work())) {
            CHECK_FALSE(entry.path().filename().string().starts_with("."));
            CHECK(entry.path().string().find("owned") == (name.find("owned") == std::string::npos ? std::string::npos : entry.path().string().find("owned")));
        }
        const auto summary = nlohmann::json::parse(content(bench.work() / "r" / "summary.json"));
        CHECK(summary["title"] == name);
        CHECK(summary["studies"][0]["study"]["name"] == name);
        CHECK(bench.run("report r --quiet --out page.html --frames 1").status == 0);
        const std::string page = content(bench.work() / "page.html");
        const std::size_t data = page.find("id=\"page-data\">"), data_end = page.find("</script>", data);
        REQUIRE(data != std::string::npos);
        CHECK(page.find('<', data) == data_end);  // nothing in the data opens markup
        CHECK(page.find("<script>alert") == std::string::npos);
        CHECK(page.find("<img src=x") == std::string::npos);
        const std::string history = content(bench.work() / "r" / "history" / "in time.csv");
        const std::string head = history.substr(0, history.find('\n'));
        for (const std::string cell : {",=", ",+", ",@", ",-", ",\"=", ",\"@"}) CHECK(head.find(cell) == std::string::npos);
        CHECK(bench.run("compare m.toml --quiet --out c").status == 1);
        CHECK(fs::exists(bench.work() / "c" / "comparison.csv"));
        CHECK(bench.run("compare r r").status <= 1);
        CHECK_FALSE(fs::exists(bench.work() / "owned"));
        CHECK_FALSE(fs::exists(bench.work().parent_path() / "up"));
    }
}

TEST_CASE("control characters are refused in names and never reach the terminal", "[cli]") {
    const Bench bench;
    bench.put("m.toml", model_named(std::string("a\x1b]0;owned\x07") + "b"));
    const Outcome refused = bench.run("check m.toml");
    CHECK(refused.status == 2);
    CHECK_THAT(refused.err, Contains("holds the control character \\x1b") && !Contains("\x1b"));
    bench.put("m.toml", model_named("fine"));
    CHECK(bench.run("solve m.toml --quiet --no-pictures --out r").status == 1);
    std::string summary = content(bench.work() / "r" / "summary.json");
    for (std::size_t at = summary.find("\"fine\""); at != std::string::npos; at = summary.find("\"fine\"", at + 1)) summary.replace(at, 6, "\"\\u001b[31m\"");
    bench.put("r/summary.json", summary);
    const Outcome told = bench.run("compare r r --stale");
    CHECK(told.out.find('\x1b') == std::string::npos);
}

TEST_CASE("names that make the same file name get files of their own", "[cli]") {
    const Bench bench;
    std::string text = model_named("m");
    text += "[[study]]\nname = \"a/b\"\n[[study]]\nname = \"a-b\"\n[[study]]\nname = \"A-B\"\n[[study]]\nname = \"" + std::string(300, 'x') +
            "1\"\n[[study]]\nname = \"" + std::string(300, 'x') + "2\"\n";
    text +=
        "[[study]]\nname = \"a\"\n[[study]]\nname = \"a - b\"\n[[picture]]\nname = \"b - c\"\n[[picture]]\nname = \"c\"\n[[variant]]\nname = \"W/K\"\nchange = "
        "{ \"cooling.1.ambient\" = 31 }\n[[variant]]\nname = \"W-K\"\nchange = { \"cooling.1.ambient\" = 32 }\n";
    bench.put("m.toml", text);
    CHECK(bench.run("solve m.toml --quiet --no-why --out r").status == 1);
    std::size_t fields = 0, pictures = 0;
    for (const auto& entry : fs::directory_iterator(bench.work() / "r" / "fields")) fields += entry.path().string().ends_with(".temperatures") ? 1 : 0;
    for (const auto& entry : fs::directory_iterator(bench.work() / "r" / "pictures")) pictures += entry.is_regular_file() ? 1 : 0;
    CHECK(fields == 9);
    CHECK(pictures == 9 * 3);
    CHECK(fs::exists(bench.work() / "r" / "fields" / "a-b.vtu"));  // a name that needs no change keeps it
    CHECK(bench.run("probe r --study a/b --part other").status == 0);
    CHECK(bench.run("solve m.toml --quiet --no-why --no-pictures --study m --variant W/K").status <= 1);
    CHECK(bench.run("solve m.toml --quiet --no-why --no-pictures --study m --variant W-K").status <= 1);
    std::size_t folders = 0;
    for (const auto& entry : fs::directory_iterator(bench.work())) folders += entry.path().string().ends_with(".results") ? 1 : 0;
    CHECK(folders == 2);
    CHECK(bench.run("compare m.toml --quiet --study m --out c").status <= 1);
    std::size_t designs = 0;
    for (const auto& entry : fs::directory_iterator(bench.work() / "c" / "designs")) designs += entry.is_regular_file() ? 1 : 0;
    CHECK(designs == 6);
}

TEST_CASE("a full disk and a closed stream end with status 3 and one line", "[cli]") {
    const Bench bench;
    bench.put("m.toml", model_named("m"));
    for (const std::string arguments : {"materials", "convection", "check m.toml", "solve m.toml --quiet --no-pictures --out r"}) {
        INFO(arguments);
        const Outcome full = bench.run(arguments, ">/dev/full");
        CHECK(full.status == 3);
        CHECK_THAT(full.err, Contains("standard output"));
        const Outcome closed = bench.run(arguments, ">&-");
        CHECK(closed.status == 3);
    }
    CHECK(bench.run("materials", "2>&-").status == 0);
    // A folder that cannot hold what is written into it.
    if (fs::exists("/dev/shm") && ::geteuid() == 0) {
        const fs::path small = bench.work() / "small";
        fs::create_directories(small);
        if (std::system(("mount -t tmpfs -o size=96k tmpfs '" + small.string() + "' 2>/dev/null").c_str()) == 0) {
            for (const std::string arguments :
                 {"solve m.toml --quiet --out small/r", "compare m.toml --quiet --out small/c", "check m.toml --show m --picture small/p.png"}) {
                INFO(arguments);
                static_cast<void>(std::system(("head -c 90000 /dev/zero > '" + (small / "filler").string() + "'").c_str()));
                const Outcome full = bench.run(arguments);
                CHECK(full.status == 3);
                CHECK_THAT(full.err, Contains("cannot write") || Contains("could not be written"));
                CHECK_FALSE(fs::exists(small / "r"));
                CHECK_FALSE(fs::exists(small / "c"));
                CHECK_FALSE(fs::exists(small / "p.png"));
            }
            static_cast<void>(std::system(("umount '" + small.string() + "'").c_str()));
        }
    }
}

TEST_CASE("devices and pipes are no input, and nothing hangs on them", "[cli]") {
    const Bench bench;
    REQUIRE(::mkfifo((bench.work() / "pipe").c_str(), 0600) == 0);
    for (const std::string file : {"pipe", "/dev/zero", "/dev/stdin", "."}) {
        INFO(file);
        CHECK(bench.run("check " + file + " </dev/null").status == 2);
        CHECK(bench.run("surface " + file + " </dev/null").status == 2);
    }
    bench.put("m.toml", model_named("m") + "[[profile]]\nname = \"p\"\ncsv = { file = \"pipe\" }\n");
    CHECK_THAT(bench.run("check m.toml").err, Contains("no regular file"));
}

TEST_CASE("asked to stop, a run ends within seconds", "[cli]") {
    const Bench bench;
    // Meshing alone takes longer than that.
    bench.put("m.toml",
              "firnfield = 1\n[units]\nlength = \"mm\"\ntemperature = \"degC\"\n[mesh]\ncell = 0.4\n[[part]]\nname = \"a\"\nshape = \"sphere\"\ndiameter = "
              "60\nmaterial = \"copper\"\n"
              "[[power]]\ninto = [\"a\"]\ntotal = \"3 W\"\n[[cooling]]\non = \"exposed\"\nconvection = \"20 W/(m^2 K)\"\nambient = 25\n");
    const pid_t child = start({"solve", "m.toml"}, bench.work());
    REQUIRE(wait_for(bench.work() / "m.results.unfinished" / "run.pid", 60));
    std::this_thread::sleep_for(std::chrono::milliseconds(700));
    const auto asked = std::chrono::steady_clock::now();
    ::kill(child, SIGTERM);
    int status = 0;
    ::waitpid(child, &status, 0);
    CHECK(std::chrono::steady_clock::now() - asked < std::chrono::seconds(20));  // a second of grace, and a busy machine; the solve takes minutes
    CHECK(WIFEXITED(status));
    CHECK(WEXITSTATUS(status) == 3);
    CHECK_FALSE(fs::exists(bench.work() / "m.results"));
}

TEST_CASE("a stop in the middle of meshing keeps the studies that were finished before", "[cli]") {
    const Bench bench;
    bench.put("m.toml",
              "firnfield = 1\n[units]\nlength = \"mm\"\ntemperature = \"degC\"\n[mesh]\ncell = 0.4\n[[part]]\nname = \"a\"\nshape = \"sphere\"\ndiameter = "
              "60\nmaterial = \"copper\"\n"
              "[[power]]\ninto = [\"a\"]\ntotal = \"3 W\"\n[[cooling]]\non = \"exposed\"\nconvection = \"20 W/(m^2 K)\"\nambient = 25\n"
              "[[study]]\nname = \"coarse\"\ncoarsening = 16\n[[study]]\nname = \"fine\"\n");
    const pid_t child = start({"solve", "m.toml", "--no-pictures"}, bench.work());
    REQUIRE(wait_for(bench.work() / "m.results.unfinished" / "summary.json", 120));
    std::this_thread::sleep_for(std::chrono::milliseconds(300));
    ::kill(child, SIGTERM);
    int status = 0;
    ::waitpid(child, &status, 0);
    CHECK(WIFEXITED(status));
    CHECK(WEXITSTATUS(status) == 3);
    REQUIRE(fs::exists(bench.work() / "m.results" / "summary.json"));
    const auto summary = nlohmann::json::parse(content(bench.work() / "m.results" / "summary.json"));
    REQUIRE(summary["studies"].size() == 1);
    CHECK(summary["studies"][0]["study"]["name"] == "coarse");
    CHECK(bench.run("report m.results --quiet --out page.html").status == 0);
    CHECK_FALSE(fs::exists(bench.work() / "m.results.unfinished"));
}

TEST_CASE("a refused or failed resume loses nothing", "[cli]") {
    const Bench bench;
    bench.put("m.toml", slow);
    const fs::path unfinished = bench.work() / "m.results.unfinished", checkpoint = unfinished / "checkpoints" / "long.checkpoint";
    const pid_t child = start({"solve", "m.toml", "--quiet", "--no-pictures", "--checkpoint-steps", "20"}, bench.work());
    REQUIRE(wait_for(checkpoint, 60));
    ::kill(child, SIGKILL);
    ::waitpid(child, nullptr, 0);
    const std::string kept = content(checkpoint);
    // The model has changed: refused, named, kept.
    std::string other = slow;
    other.replace(other.find("30 W"), 4, "31 W");
    bench.put("m.toml", other);
    const Outcome refused = bench.run("solve m.toml --quiet --no-pictures --resume");
    CHECK(refused.status == 2);
    CHECK_THAT(refused.err, Contains("the model has changed") && Contains("m.results.unfinished"));
    CHECK(content(checkpoint) == kept);
    // A damaged checkpoint, one that lies too deep in itself, and none at all.
    for (const std::string& damaged : {kept.substr(0, kept.size() / 2), std::string(100000, '\x81')}) {
        { std::ofstream(checkpoint, std::ios::binary) << damaged; }
        bench.put("m.toml", slow);
        const Outcome broken = bench.run("solve m.toml --quiet --no-pictures --resume");
        CHECK(broken.status == 2);
        CHECK_THAT(broken.err, Contains("is not a checkpoint"));
        CHECK(content(checkpoint) == damaged);
    }
    { std::ofstream(checkpoint, std::ios::binary) << kept; }
    // Begun anew without --resume: what lay there is put aside and named.
    std::string quick = slow;
    quick.replace(quick.find("2 h"), 3, "30 s");
    bench.put("m.toml", quick);
    const Outcome anew = bench.run("solve m.toml --quiet --no-pictures");
    CHECK(anew.status == 0);
    CHECK_THAT(anew.err, Contains("put aside in m.results.unfinished-1"));
    CHECK(content(bench.work() / "m.results.unfinished-1" / "checkpoints" / "long.checkpoint") == kept);
}

TEST_CASE("a study that fails leaves the finished ones told and kept", "[cli]") {
    const Bench bench;
    std::string text = model_named("m");
    // In the second study the heat grows faster with temperature than the surroundings can take.
    text.replace(text.find("total = \"3 W\"\n"), 14, "total = \"3 W\"\ntemperature_factor = { at = [25, 300, 2000], value = [1, 1, 4000] }\n");
    text += "[[study]]\nname = \"runs away\"\nscale = { m = 40 }\n[[study]]\nname = \"after\"\nambient = 25\n";
    bench.put("m.toml", text);
    const Outcome outcome = bench.run("solve m.toml --quiet --no-pictures --out r");
    CHECK(outcome.status == 3);
    CHECK_THAT(outcome.err, Contains("study \"runs away\"") && Contains("did not settle"));
    CHECK_THAT(outcome.out, Contains("Study \"m\"") && Contains("Study \"after\"") && Contains("Results in r"));
    const auto summary = nlohmann::json::parse(content(bench.work() / "r" / "summary.json"));
    CHECK(summary["studies"].size() == 3);
    CHECK(summary["failed"][0]["study"] == "runs away");

    // A part does not replace what is there, and says where it is instead.
    const std::string before = content(bench.work() / "r" / "summary.json");
    const Outcome again = bench.run("solve m.toml --quiet --no-pictures --out r");
    CHECK(again.status == 3);
    CHECK_THAT(again.out, Contains("Results in r.unfinished"));
    CHECK_THAT(again.err, Contains("earlier results in r stay as they are"));
    CHECK(content(bench.work() / "r" / "summary.json") == before);
    CHECK(nlohmann::json::parse(content(bench.work() / "r.unfinished" / "summary.json"))["studies"].size() == 3);
}

TEST_CASE("small text that asks for endless work is told before it begins", "[cli]") {
    const Bench bench;
    const std::string base = model_named("m");
    const auto with = [&](const std::string& from, const std::string& to) {
        std::string text = base;
        text.replace(text.find(from), from.size(), to);
        return text;
    };
    std::string chained = base, mistakes = base, parameters, corners, planes;
    for (int i = 0; i < 3000; ++i) chained += "[[surface]]\nname = \"s" + std::to_string(i) + "\"\nsurfaces = [\"s" + std::to_string(i + 1) + "\"]\n";
    chained += "[[surface]]\nname = \"s3000\"\nparts = [\"other\"]\n";
    for (int i = 0; i < 20000; ++i) mistakes += "[[power]]\ninto = [\"nobody " + std::to_string(i) + "\"]\ntotal = \"1 W\"\n";
    for (int i = 0; i < 10000; ++i) parameters += "p" + std::to_string(i) + " = \"= p" + std::to_string(i + 1) + " + 1 mm\"\n";
    for (int i = 0; i < 5000; ++i)
        corners += "[" + std::to_string(10.0 * std::cos(i * 0.00125663706)) + ", " + std::to_string(10.0 * std::sin(i * 0.00125663706)) + "], ";
    for (int i = 0; i < 100000; ++i) planes += std::to_string(i * 1e-4) + ", ";
    const std::vector<std::tuple<std::string, std::string, int, std::string>> cases{
        {"chained surfaces", chained, 2, "over 3001 steps"},
        {"many mistakes", mistakes, 2, "20000 mistakes, of which the first 50 are told"},
        {"chained parameters", "firnfield = 1\n[parameters]\n" + parameters + "p10000 = \"1 mm\"\n" + base.substr(14), 2, "depend on each other in a row"},
        {"a prism of 5000 corners", with("size = [20, 20, 5]\nat = [0, 0, 5]", "shape = \"prism\"\nlength = 5\noutline = [" + corners + "]\nat = [10, 10, 5]"),
         0, ""},
        {"planes", with("cell = 5", "cell = 5\nplanes = { x = [" + planes + "] }"), 2, "at most 10 000 planes"},
        {"a sweep of a million",
         base + "[[sweep]]\nname = \"big\"\nover = { \"cooling.1.ambient\" = { from = \"1 degC\", to = \"2 degC\", count = 1000 }, \"mesh.cell\" = { from = "
                "\"1 mm\", to = \"2 mm\", count = 1000 } }\n",
         2, "1000003 designs"},
        {"an error target of nothing", with("cell = 5", "cell = 5\nerror_target = \"1e-12 K\""), 2, "no mesh resolves temperatures"},
        {"a cycle of a nanosecond",
         base + "[[profile]]\nname = \"p\"\non = \"0.5 ns\"\noff = \"0.5 ns\"\n[[power]]\ninto = [\"other\"]\ntotal = \"1 W\"\nprofile = \"p\"\n", 2,
         "every time takes a step of its own"},
        {"steps of a nanosecond", with("lasts = \"100 s\"", "lasts = \"100 s\"\nlongest_step = \"1e-9 s\""), 2, "more than a million"},
        {"fields without number", with("lasts = \"100 s\"", "lasts = \"100 s\"\nfields_every = \"1 ms\""), 2, "more than 2000"},
        {"a hundred thousand copies", with("at = [0, 0, 5]", "at = [0, 0, 5]\nrepeat = { count = 100000, step = [30, 0, 0] }"), 2,
         "copies in all, more than 20 000"},
        {"a cut without a direction", with("[[picture]]\nname = \"m\"", "[[picture]]\nname = \"m\"\nsection = { normal = [0, 0, 0], through = [0, 0, 0] }"), 2,
         "points nowhere"},
    };
    for (const auto& [what, text, status, says] : cases) {
        INFO(what);
        bench.put("m.toml", text);
        const Outcome outcome = bench.run("check m.toml");  // what would take for ever ends the test by its own limit of time
        CHECK(outcome.status == status);
        if (!says.empty()) CHECK_THAT(outcome.err, Contains(says));
    }
}

TEST_CASE("probe tells any time, in the unit of the file, and error bars are done or refused", "[cli]") {
    const Bench bench;
    std::string text = model_named("m");
    text.replace(text.find("length = \"mm\""), 13, "length = \"cm\"");
    for (const auto& [from, to] : std::vector<std::pair<std::string, std::string>>{{"[20, 20, 5]", "[2, 2, 0.5]"},
                                                                                   {"[20, 20, 5]", "[2, 2, 0.5]"},
                                                                                   {"[0, 0, 5]", "[0, 0, 0.5]"},
                                                                                   {"[5, 5, 7]", "[0.5, 0.5, 0.7]"},
                                                                                   {"cell = 5", "cell = 0.5"}}) {
        text.replace(text.find(from), from.size(), to);
    }
    bench.put("m.toml", text);
    CHECK(bench.run("solve m.toml --quiet --no-pictures --out r").status == 1);
    // Between two kept moments by running on: the same as in a run that kept just that moment.
    const Outcome between = bench.run("probe r --study 'in time' --sensor m --at '33.7 s' --csv");
    CHECK(between.status == 0);
    CHECK_THAT(between.err, Contains("run on from"));
    std::string asked = text;
    asked.replace(asked.find("lasts = \"100 s\""), 15, "lasts = \"100 s\"\nfields_at = [\"33.7 s\"]");
    bench.put("m.toml", asked);
    CHECK(bench.run("solve m.toml --quiet --no-pictures --out kept").status == 1);
    const Outcome exact = bench.run("probe kept --study 'in time' --sensor m --at '33.7 s' --csv");
    const auto value = [](const std::string& csv) { return std::stod(csv.substr(csv.rfind(',') + 1)); };
    CHECK(value(between.out) == Approx(value(exact.out)).margin(0.02));
    CHECK(bench.run("probe r --study 'in time' --sensor m --at '200 s'").status == 2);
    CHECK(value(bench.run("probe r --study m --point 'other: 0.5, 0.5, 0.7' --csv").out) ==
          value(bench.run("probe r --study m --point 'other: 5 mm, 5 mm, 0.7' --csv").out));
    const Outcome refused = bench.run("solve m.toml --quiet --no-pictures --study 'in time' --error-bars --out e");
    CHECK(refused.status == 2);
    CHECK_THAT(refused.err, Contains("for steady studies"));
    const Outcome mixed = bench.run("solve m.toml --quiet --no-pictures --error-bars --out e");
    CHECK_THAT(mixed.out, Contains("several meshes are solved for steady studies only"));
    const auto summary = nlohmann::json::parse(content(bench.work() / "e" / "summary.json"));
    for (const auto& figure : summary["studies"][0]["figures"]) {
        if (figure["unit"] == "degC") CHECK(figure["value"].get<double>() < 200.0);  // not in kelvin among degrees
        if (figure["error_bar"]["exact"] == true) CHECK(figure["error_bar"]["order"].is_null());
    }
}
