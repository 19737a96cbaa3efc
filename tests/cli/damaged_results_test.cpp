// Results folders as disks, copies and people leave them: files cut off, emptied, swapped for others or gone. Whatever reads them answers or
// refuses with one message; nothing crashes, hangs, or is written half.

#include "cli/bench.hpp"

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <functional>
#include <vector>

namespace fs = std::filesystem;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

const std::string model =
    "firnfield = 1\ntitle = \"Kept\"\n[units]\nlength = \"mm\"\ntemperature = \"degC\"\n[mesh]\ncell = 5\n"
    "[[part]]\nname = \"base\"\nsize = [40, 30, 6]\nmaterial = \"copper\"\n[[power]]\nname = \"heater\"\ninto = [\"base\"]\ntotal = \"5 W\"\n"
    "[[cooling]]\nname = \"air\"\non = \"exposed\"\nconvection = \"20 W/(m^2 K)\"\nambient = 25\n[[sensor]]\nname = \"tip\"\nin = \"base\"\nat = [20, 15, 6]\n"
    "[[limit]]\npart = \"base\"\nbelow = 200\n[[study]]\nname = \"steady\"\n[[study]]\nname = \"run\"\nkind = \"transient\"\nlasts = \"2 min\"\nambient = "
    "25\nfields_at = [\"1 min\"]\n";

const std::vector<std::string> readers{"probe r --study run --sensor tip", "probe r --study run --part base --at '100 s'", "probe r --study steady --part base",
                                       "report r --quiet --out page.html", "compare r good"};

void put(const fs::path& file, const std::string& text) { std::ofstream(file, std::ios::binary) << text; }

}  // namespace

TEST_CASE("damaged results are refused or told as far as they go", "[cli]") {
    const Bench bench;
    bench.put("m.toml", model);
    REQUIRE(bench.run("solve m.toml --quiet --no-pictures --out good").status == 0);
    std::vector<fs::path> files;
    for (const fs::directory_entry& entry : fs::recursive_directory_iterator(bench.work() / "good")) {
        if (entry.is_regular_file()) files.push_back(fs::relative(entry.path(), bench.work() / "good"));
    }
    REQUIRE(files.size() >= 5);
    using Damage = std::pair<std::string, std::function<void(const fs::path&)>>;
    const std::vector<Damage> damages{
        {"cut in half", [](const fs::path& f) { fs::resize_file(f, fs::file_size(f) / 2); }},
        {"a byte short", [](const fs::path& f) { fs::resize_file(f, fs::file_size(f) - std::min<std::uintmax_t>(1, fs::file_size(f))); }},
        {"empty", [](const fs::path& f) { put(f, ""); }},
        {"of something else", [](const fs::path& f) { put(f, "{ \"name\": [1, 2, { \"x\": null }] }\n"); }},
        {"binary", [](const fs::path& f) { put(f, std::string("\0\xFF\x7F\x01\0\0\0\0\xFF\xFF\xFF\xFF\xFF\xFF\xFF\x7F", 16)); }},
        {"gone", [](const fs::path& f) { fs::remove(f); }},
        {"a folder", [](const fs::path& f) { fs::remove(f), fs::create_directory(f); }},
    };
    for (const fs::path& file : files) {
        if (file.extension() == ".vtu" || file.extension() == ".pvd" || file.extension() == ".svg" || file.extension() == ".png")
            continue;  // nobody here reads them
        for (const auto& [how, damage] : damages) {
            fs::remove_all(bench.work() / "r");
            fs::copy(bench.work() / "good", bench.work() / "r", fs::copy_options::recursive);
            damage(bench.work() / "r" / file);
            for (const std::string& reader : readers) {
                INFO(file << " is " << how << ": " << reader);
                fs::remove(bench.work() / "page.html");
                const std::size_t before = bench.files();
                const Outcome outcome = bench.run(reader);
                INFO(outcome.err);
                CHECK((outcome.status == 0 || outcome.status == 2));
                if (outcome.status != 0) {
                    CHECK(outcome.err.size() > 10);
                    CHECK(std::count(outcome.err.begin(), outcome.err.end(), '\n') <= 4);
                    CHECK(bench.files() == before);
                }
            }
        }
    }
}

TEST_CASE("a damaged summary is refused whatever is wrong in it", "[cli]") {
    const Bench bench;
    bench.put("m.toml", model);
    REQUIRE(bench.run("solve m.toml --quiet --no-pictures --out good").status == 0);
    fs::copy(bench.work() / "good", bench.work() / "r", fs::copy_options::recursive);
    const nlohmann::json good = nlohmann::json::parse(content(bench.work() / "good/summary.json"));
    // Every value of it once replaced by one of another kind, and once taken away.
    std::size_t tried = 0, refused = 0;
    const std::function<void(const nlohmann::json&, nlohmann::json::json_pointer)> walk = [&](const nlohmann::json& j, const nlohmann::json::json_pointer& at) {
        for (const auto& [key, value] : j.items()) {
            const auto here = j.is_object() ? at / key : at / static_cast<std::size_t>(std::stoul(key));
            ++tried;
            if (tried % 17 == 0) {
                nlohmann::json bad = good;
                if (tried % 2 == 0) {
                    bad[here] = value.is_string() ? nlohmann::json(-1e300) : nlohmann::json("surprise");
                } else {
                    bad[here] = nullptr;
                }
                put(bench.work() / "r/summary.json", bad.dump());
                for (const std::string reader : {"compare r good", "report r --quiet --no-view --out page.html"}) {
                    INFO(here.to_string() << ": " << reader);
                    const Outcome outcome = bench.run(reader);
                    INFO(outcome.err);
                    CHECK((outcome.status == 0 || outcome.status == 2));
                    refused += outcome.status == 2 ? 1 : 0;
                }
            }
            if (value.is_structured()) walk(value, here);
        }
    };
    walk(good, nlohmann::json::json_pointer());
    CHECK(tried > 300);
    CHECK(refused > 0);
}

TEST_CASE("results say so when their model has changed, and stay readable when it is gone", "[cli]") {
    const Bench bench;
    bench.put("m.toml", model);
    REQUIRE(bench.run("solve m.toml --quiet --no-pictures --out r").status == 0);
    REQUIRE(bench.run("solve m.toml --quiet --no-pictures --set 'power.heater.total = \"6 W\"' --out s").status == 0);
    CHECK(bench.run("compare r s").status == 0);
    fs::remove(bench.work() / "m.toml");
    const Outcome gone = bench.run("compare r s");
    CHECK(gone.status == 2);
    CHECK_THAT(gone.err, Contains("stale"));
    CHECK(bench.run("compare r s --stale").status == 0);
    CHECK(bench.run("probe r --study run --sensor tip").status == 0);
    CHECK(bench.run("report r --quiet --no-view --out page.html").status == 0);
    // Moved with its model elsewhere, it is still the same.
    fs::create_directory(bench.work() / "elsewhere");
    bench.put("elsewhere/m.toml", model);
    fs::rename(bench.work() / "r", bench.work() / "elsewhere/r");
    fs::rename(bench.work() / "s", bench.work() / "elsewhere/s");
    CHECK(bench.run("compare elsewhere/r elsewhere/s").status == 0);
}
