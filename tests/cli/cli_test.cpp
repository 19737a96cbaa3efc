// The command as a user runs it: what it prints, what it leaves behind, and its exit status.

#include "cli/bench.hpp"

#include <catch2/catch.hpp>

#include <nlohmann/json.hpp>

#include <sys/wait.h>
#include <array>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <sstream>
#include <string>

using Catch::Matchers::Contains;
using namespace firnfield::test;
namespace fs = std::filesystem;

namespace {

const std::string example = std::string(FIRNFIELD_SOURCE_DIR) + "/examples/two_plates.toml";

}  // namespace

TEST_CASE("help and version", "[cli]") {
    const Bench bench;
    const Outcome help = bench.run("--help");
    CHECK(help.status == 0);
    for (const char* word : {"check", "solve", "materials", "demo", "Exit status"}) CHECK_THAT(help.out, Contains(word));
    CHECK(bench.run("solve --help").status == 0);
    CHECK_THAT(bench.run("--version").out, Contains("firnfield 0."));
    CHECK(bench.run("").status == 2);
    CHECK(bench.run("slove x").status == 2);
    CHECK(bench.run("solve").status == 2);
}

TEST_CASE("solve prints findings and leaves a complete results folder", "[cli]") {
    const Bench bench;
    bench.put("two.toml", content(example));
    const Outcome outcome = bench.run("solve two.toml");
    CHECK(outcome.status == 0);
    CHECK_THAT(outcome.out, Contains("ALL LIMITS KEPT") && Contains("Heat balance") && Contains("two.results"));
    CHECK_THAT(outcome.err, Contains("Newton step"));
    for (const char* file : {"summary.json", "model.toml", "fields/steady.vtu", "pictures/steady - temperature.png"}) {
        INFO(file);
        CHECK(fs::exists(bench.work() / "two.results" / file));
    }
    CHECK(bench.files() == 2);
    // The model as solved gives the same again, over the same folder.
    const auto first = nlohmann::json::parse(content(bench.work() / "two.results/summary.json"));
    CHECK(bench.run("solve two.results/model.toml --out again --no-pictures --quiet").status == 0);
    auto second = nlohmann::json::parse(content(bench.work() / "again/summary.json"));
    CHECK(first["fingerprint"] == second["fingerprint"]);
    CHECK(first["studies"][0]["parts"] == second["studies"][0]["parts"]);
    CHECK_FALSE(fs::exists(bench.work() / "again/pictures"));
}

TEST_CASE("--json prints what the results folder holds", "[cli]") {
    const Bench bench;
    const Outcome outcome = bench.run("solve --json --quiet --no-pictures --out r '" + example + "'");
    CHECK(outcome.status == 0);
    CHECK(outcome.err.empty());
    CHECK(outcome.out == content(bench.work() / "r/summary.json"));
    CHECK(nlohmann::json::parse(bench.run("check --json '" + example + "'").out)["parts"].size() == 2);
}

TEST_CASE("a missed limit is exit status 1, with results", "[cli]") {
    const Bench bench;
    std::string text = content(example);
    text += "\n[[limit]]\npart = \"*\"\nbelow = \"1 degC\"\n";
    bench.put("hot.toml", text);
    const Outcome outcome = bench.run("solve hot.toml --quiet --no-pictures");
    CHECK(outcome.status == 1);
    CHECK_THAT(outcome.out, Contains("LIMITS MISSED"));
    CHECK(fs::exists(bench.work() / "hot.results/summary.json"));
}

TEST_CASE("wrong input is exit status 2, with every message and nothing written", "[cli]") {
    const Bench bench;
    bench.put("bad.toml", "firnfield = 1\n[[part]]\nname = \"a\"\nsize = [1, 2, 3]\nmaterial = \"copper\"\nfoo = 1\n");
    Outcome outcome = bench.run("solve bad.toml");
    CHECK(outcome.status == 2);
    CHECK(outcome.out.empty());
    CHECK_THAT(outcome.err, Contains("bad.toml:4:9: the number 1 needs a unit") && Contains("nothing was written"));

    std::string text = content(example);
    text.replace(text.find("exposed"), 7, "nowhere");
    bench.put("bad.toml", text);
    outcome = bench.run("solve bad.toml");
    CHECK(outcome.status == 2);
    CHECK_THAT(outcome.err, Contains("unknown surface \"nowhere\""));

    // Mistakes that only meshing shows are placed in the file just the same.
    text = content(example) +
           "\n[[part]]\nname = \"far\"\nsize = [\"1 mm\", \"1 mm\", \"1 mm\"]\nat = [\"1 m\", \"1 m\", \"1 m\"]\nmaterial = \"copper\"\n"
           "[[joint]]\nbetween = [\"far\", \"lower\"]\n";
    bench.put("bad.toml", text);
    outcome = bench.run("check bad.toml");
    CHECK(outcome.status == 2);
    CHECK_THAT(outcome.err, Contains("bad.toml:") && Contains("no faces of \"far\" and \"lower\" touch") && Contains("apart"));
    CHECK(bench.files() == 1);

    CHECK(bench.run("solve none.toml").status == 2);
    CHECK_THAT(bench.run("solve --study day '" + example + "'").err, Contains("no study \"day\"; it has \"steady\""));
    CHECK(bench.files() == 1);
}

TEST_CASE("a folder that is not ours is left alone", "[cli]") {
    const Bench bench;
    fs::create_directories(bench.work() / "mine");
    bench.put("mine/letter.txt", "dear");
    CHECK(bench.run("solve --quiet --out mine '" + example + "'").status == 2);
    CHECK(content(bench.work() / "mine/letter.txt") == "dear");
    CHECK(bench.files() == 1);
}

TEST_CASE("materials lists, finds and refuses", "[cli]") {
    const Bench bench;
    CHECK_THAT(bench.run("materials").out, Contains("semiconductors") && Contains("materials."));
    CHECK_THAT(bench.run("materials 6061").out, Contains("167 W/(m K)") && Contains("source"));
    CHECK(bench.run("materials unobtainium").status == 2);
}

TEST_CASE("keys lists tables, tells one, and refuses", "[cli]") {
    const Bench bench;
    CHECK_THAT(bench.run("keys").out, Contains("[[thermostat]]") && Contains("revolution"));
    const Outcome joint = bench.run("keys joint");
    CHECK(joint.status == 0);
    CHECK_THAT(joint.out, Contains("exchange_factor") && Contains("layer.thickness") && Contains("required"));
    CHECK(bench.run("keys '[[joint]]'").out == joint.out);
    CHECK_THAT(bench.run("keys joint --markdown").out, Contains("| `reach` | length"));
    CHECK_THAT(bench.run("keys --markdown").out, Contains("## `[[joint]]`") && Contains("## cone"));
    const Outcome none = bench.run("keys jiont");
    CHECK(none.status == 2);
    CHECK_THAT(none.err, Contains("no table \"jiont\"; there are") && Contains("joint"));
}

TEST_CASE("convection lists, works out, and refuses", "[cli]") {
    const Bench bench;
    CHECK_THAT(bench.run("convection").out, Contains("vertical fin channel") && Contains("Usual coefficients") && Contains("transformer oil"));
    const Outcome plate = bench.run("convection 'vertical plate' --length '120 mm' --surface '75 degC' --ambient '25 degC'");
    CHECK(plate.status == 0);
    CHECK_THAT(plate.out, Contains("6.22638 W/(m² K)") && Contains("Rayleigh number") && Contains("Churchill"));
    CHECK_THAT(bench.run("convection 'flat plate' --length 1mm --speed 100m/s --surface 3000degC --ambient 20degC").out, Contains("outside the range"));
    CHECK_THAT(bench.run("convection 'vertical plate' --surface 75degC --ambient 25degC").err, Contains("needs length"));
    CHECK(bench.run("convection 'vertical plate' --length 1W --surface 75degC --ambient 25degC").status == 2);
    CHECK(bench.run("convection 'vertical plate' --length 1m").status == 2);
}

TEST_CASE("an interrupted solve leaves nothing behind", "[cli]") {
    const Bench bench;
    std::string text = content(std::string(FIRNFIELD_SOURCE_DIR) + "/data/demo.toml");
    bench.put("demo.toml", text);
    for (const char* file : {"antenna-cover.stl", "wall-casting.step"})
        std::filesystem::copy_file(std::string(FIRNFIELD_SOURCE_DIR) + "/data/" + file, bench.work() / file);
    // As soon as it says that it has begun, whatever the machine's speed.
    const std::string line = "cd '" + bench.work().string() + "' && { '" FIRNFIELD_COMMAND "' solve demo.toml --no-pictures >/dev/null 2>err & p=$!; " +
                             "for i in $(seq 1200); do [ -s err ] && break; sleep 0.05; done; kill -INT $p; wait $p; echo $?; }";
    std::array<char, 64> answer{};
    FILE* pipe = popen(line.c_str(), "r");
    REQUIRE(pipe != nullptr);
    REQUIRE(std::fgets(answer.data(), answer.size(), pipe) != nullptr);
    pclose(pipe);
    CHECK(std::string(answer.data()) == "3\n");
    CHECK_THAT(content(bench.work() / "err"), Contains("nothing was written"));
    CHECK(bench.files() == 4);
}

TEST_CASE("surface files are told, repaired and written; rules are drawn", "[cli]") {
    const Bench bench;
    bench.put("round.toml",
              "firnfield = 1\n[units]\nlength = \"mm\"\ntemperature = \"degC\"\n[[part]]\nname = \"rod\"\nshape = \"cylinder\"\ndiameter = 10\nlength = 20\n"
              "material = \"copper\"\n[[power]]\ninto = [\"rod\"]\ntotal = \"2 W\"\n[[cooling]]\nname = \"draught\"\non = { sides = \"side\" }\nconvection = "
              "\"20 W/(m^2 K)\"\nambient = 20\n");
    const Outcome written = bench.run("surface round.toml --part rod --out rod.stl");
    CHECK(written.status == 0);
    CHECK_THAT(written.out, Contains("1.57 cm³ enclosed") && Contains("Surface in rod.stl"));
    const Outcome told = bench.run("surface rod.stl");
    CHECK(told.status == 0);
    CHECK_THAT(told.out, Contains("watertight") && Contains("× 20 mm, lower corner at ("));
    const Outcome none = bench.run("surface round.toml --part rode --out x.stl");
    CHECK(none.status == 2);
    CHECK_THAT(none.err, Contains("did you mean \"rod\"?"));
    CHECK(bench.run("surface round.toml").status == 2);
    CHECK(bench.run("surface rod.stl --unit furlong").status == 2);
    CHECK_THAT(told.out, Contains("3 faces") && Contains("cylinder 1  cylinder   6.30 cm²") && Contains("plane 2"));
    const Outcome faces = bench.run("surface round.toml --part rod --set 'part.rod.diameter = 12' --picture rod.png --azimuth 20");
    CHECK(faces.status == 0);
    CHECK_THAT(faces.out, Contains("\"rod\", where it stands: 3 faces") && Contains("side    cylinder  7.54 cm²"));
    CHECK(content(bench.work() / "rod.png").substr(1, 3) == "PNG");
    for (const char* refused : {"surface rod.stl --azimuth 5", "surface rod.stl --variant thick", "surface rod.stl --each --picture x.png --out x.stl",
                                "surface round.toml --picture x.png", "surface rod.stl --picture x.jpg", "surface rod.stl --picture x.png --azimuth nan",
                                "surface rod.stl --picture x.png --elevation 91", "surface round.toml --part rod --picture no/where/x.png"}) {
        INFO(refused);
        CHECK(bench.run(refused).status >= 2);
        CHECK_FALSE(std::filesystem::exists(bench.work() / "x.png"));
    }
    bench.put("cut.stl", "solid x\nouter loop\nvertex 0 0");
    const Outcome cut = bench.run("surface cut.stl");
    CHECK(cut.status == 2);
    CHECK_THAT(cut.err, Contains("it is cut off"));

    const Outcome drawn = bench.run("check round.toml --show draught");
    CHECK(drawn.status == 0);
    CHECK(std::filesystem::file_size(bench.work() / "draught.png") > 1500);
    const Outcome unknown = bench.run("check round.toml --show draft");
    CHECK(unknown.status == 2);
    CHECK_THAT(unknown.err, Contains("no rule is called \"draft\"; there are \"unclaimed\" and \"draught\""));
}

TEST_CASE("the program that makes the built-in table leaves out nothing of an entry", "[cli]") {
    const Bench bench;
    bench.put("t.toml",
              "[[material]]\ngroup = \"g\"\nname = \"wax\"\nconductivity = \"0.2 W/(m K)\"\ndensity = \"900 kg/m^3\"\nspecific_heat = \"2 kJ/(kg K)\"\nmelting "
              "= { from = \"50 degC\", to = \"55 degC\", latent_heat = \"200 kJ/kg\" }\nnote = \"n\"\n");
    const fs::path made = bench.work() / "t.cpp";
    REQUIRE(std::system(("'" FIRNFIELD_MATERIAL_TABLE "' '" + (bench.work() / "t.toml").string() + "' '" + made.string() + "'").c_str()) == 0);
    CHECK_THAT(content(made), Contains("Melting{323.15, 328.15, 200000}") && Contains("wax"));
}
