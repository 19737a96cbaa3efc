// Scenes: what a viewer reads in them is what the tables tell.

#include "cli/bench.hpp"
#include "models.hpp"

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include <cstring>
#include <limits>
#include <set>

using namespace firnfield;
using namespace firnfield::test;
using namespace firnfield::literals;
using Catch::Matchers::Contains;

namespace {

/// A binary glTF file, read by what its standard says.
class Scene {
public:
    explicit Scene(const std::filesystem::path& file) : bytes_(content(file)) {
        REQUIRE(bytes_.size() % 4 == 0);
        REQUIRE(word(0) == 0x46546C67U);
        REQUIRE(word(4) == 2);
        REQUIRE(word(8) == bytes_.size());
        const std::size_t text = word(12);
        REQUIRE(word(16) == 0x4E4F534AU);
        json = nlohmann::json::parse(bytes_.substr(20, text));
        numbers_ = 28 + text;
        if (numbers_ <= bytes_.size()) {
            REQUIRE(word(20 + text + 4) == 0x004E4942U);
            REQUIRE(json["buffers"][0]["byteLength"] == word(20 + text));
        }
    }

    /// One number of an accessor.
    template <typename T>
    [[nodiscard]] T at(std::size_t accessor, std::size_t place) const {
        const nlohmann::json& view = json["bufferViews"][json["accessors"][accessor]["bufferView"].get<std::size_t>()];
        const std::size_t offset = view["byteOffset"].get<std::size_t>() + place * sizeof(T);
        REQUIRE(place * sizeof(T) < view["byteLength"].get<std::size_t>());
        T value;
        std::memcpy(&value, bytes_.data() + numbers_ + offset, sizeof(T));
        return value;
    }
    [[nodiscard]] std::size_t count(std::size_t accessor) const { return json["accessors"][accessor]["count"]; }

    nlohmann::json json;

private:
    [[nodiscard]] std::uint32_t word(std::size_t at) const {
        std::uint32_t value = 0;
        std::memcpy(&value, bytes_.data() + at, 4);
        return value;
    }
    std::string bytes_;
    std::size_t numbers_ = 0;
};

struct SceneTold {
    double area = 0.0, low = std::numeric_limits<double>::max(), high = -low;
    std::vector<std::string> names{};
};

SceneTold told(const Scene& scene) {
    SceneTold out;
    for (const nlohmann::json& mesh : scene.json.value("meshes", nlohmann::json::array())) {
        out.names.push_back(mesh["name"]);
        const nlohmann::json& primitive = mesh["primitives"][0];
        const std::size_t position = primitive["attributes"]["POSITION"], value = primitive["attributes"]["_VALUE"], triangles = primitive["indices"],
                          normal = primitive["attributes"]["NORMAL"];
        REQUIRE(scene.count(triangles) % 3 == 0);
        const auto point = [&](std::size_t corner) {
            return Vec3{scene.at<float>(position, 3 * corner), scene.at<float>(position, 3 * corner + 1), scene.at<float>(position, 3 * corner + 2)};
        };
        for (std::size_t i = 0; i < scene.count(triangles); i += 3) {
            std::array<Vec3, 3> at;
            for (std::size_t k = 0; k < 3; ++k) {
                const std::size_t corner = scene.at<std::uint32_t>(triangles, i + k);
                REQUIRE(corner < scene.count(position));
                at[k] = point(corner);
            }
            out.area += 0.5 * length(cross(at[1] - at[0], at[2] - at[0]));
        }
        for (std::size_t v = 0; v < scene.count(value); ++v) {
            out.low = std::min<double>(out.low, scene.at<float>(value, v));
            out.high = std::max<double>(out.high, scene.at<float>(value, v));
            const Vec3 n{scene.at<float>(normal, 3 * v), scene.at<float>(normal, 3 * v + 1), scene.at<float>(normal, 3 * v + 2)};
            CHECK(length(n) == Approx(1.0).epsilon(1e-5));
            for (int axis = 0; axis < 3; ++axis) {
                const auto& range = scene.json["accessors"][position];
                CHECK(point(v)[axis] >= range["min"][static_cast<std::size_t>(axis)].get<double>() - 1e-9);
                CHECK(point(v)[axis] <= range["max"][static_cast<std::size_t>(axis)].get<double>() + 1e-9);
            }
        }
    }
    return out;
}

}  // namespace

TEST_CASE("a scene has a node for every copy, the area of the surface, and the temperatures of the tables", "[report]") {
    const Bench bench;
    Model m = block_on_plate();
    m.parts.back().repeat = {Repeat{.count = 2, .step = {0.0, 14_mm, 0.0}}};
    m.parts.back().name = "block \"<ü>\"";
    m.joints.front().between[0] = "block*";
    m.powers.front().into = {"block*"};
    m.limits.clear();
    const SteadySolution s = solve_steady(m);
    const Findings f = findings(m, s, {.errors = false});
    write_scene(bench.work() / "all.glb", m, s, f, Picture{});
    const Scene scene(bench.work() / "all.glb");
    const SceneTold all = told(scene);
    CHECK(all.names == std::vector<std::string>{"plate", "block \"<ü>\" 1", "block \"<ü>\" 2"});
    CHECK(scene.json["nodes"].size() == 4);
    double exposed = 0.0;
    for (const double a : s.mesh->patches.area) exposed += a;
    CHECK(all.area >= exposed * (1.0 - 1e-6));  // what is covered is there, too
    CHECK(all.high <= f.hottest.temperature - 273.15 + 1e-3);
    CHECK(all.high == Approx(f.hottest.temperature - 273.15).margin(0.5));
    CHECK(scene.json["asset"]["extras"]["unit"] == "°C");

    SECTION("hidden parts are not in it, a section cuts, and nothing that is hot enough is no empty list") {
        write_scene(bench.work() / "some.glb", m, s, f, Picture{.hide = {"block*"}});
        CHECK(told(Scene(bench.work() / "some.glb")).names == std::vector<std::string>{"plate"});
        write_scene(bench.work() / "cut.glb", m, s, f, Picture{.section = HalfSpace{.normal = {1.0, 0.0, 0.0}, .through = {40_mm, 0.0, 0.0}}});
        CHECK(told(Scene(bench.work() / "cut.glb")).area < 0.7 * all.area);
        write_scene(bench.work() / "none.glb", m, s, f, Picture{.above = 2000.0});
        const Scene none(bench.work() / "none.glb");
        CHECK(told(none).names.empty());
        for (const char* list : {"meshes", "accessors", "bufferViews", "buffers"}) CHECK(!none.json.contains(list));
    }
    SECTION("parts are in their own colours") {
        Model coloured = m;
        coloured.parts.front().colour = "#ff0000";
        write_scene(bench.work() / "parts.glb", coloured, s, f, Picture{.show = Shown::parts});
        const Scene parts(bench.work() / "parts.glb");
        std::set<std::array<std::uint16_t, 3>> blocks;
        for (std::size_t n = 0; n < 3; ++n) {
            const std::size_t colour = parts.json["meshes"][n]["primitives"][0]["attributes"]["COLOR_0"];
            for (std::size_t v = 0; v < parts.count(colour); ++v) {
                const std::array<std::uint16_t, 3> rgb{parts.at<std::uint16_t>(colour, 4 * v), parts.at<std::uint16_t>(colour, 4 * v + 1),
                                                       parts.at<std::uint16_t>(colour, 4 * v + 2)};
                if (n > 0) blocks.insert(rgb);
                if (n == 0) CHECK(rgb == std::array<std::uint16_t, 3>{65535, 0, 0});
            }
        }
        CHECK(blocks.size() == 1);
        CHECK(fingerprint(coloured) == fingerprint(m));
    }
    SECTION("heat flux has its own unit") {
        write_scene(bench.work() / "flux.glb", m, s, f, Picture{.show = Shown::heat_flux});
        const Scene flux(bench.work() / "flux.glb");
        CHECK_THAT(flux.json["asset"]["extras"]["unit"].get<std::string>(), Contains("W"));
        CHECK(told(flux).low >= 0.0);
    }
}

TEST_CASE("draw writes scenes of results at any time, and refuses what they have no use for", "[cli]") {
    const Bench bench;
    Model m = block_on_plate();
    m.limits.clear();
    m.mesh.refine = false;
    m.add(Study{.name = "warm up", .ambient = 35_degC, .kind = StudyKind::transient, .lasts = 60.0});
    bench.put("m.toml", write_model(m));
    REQUIRE(bench.run("solve m.toml --quiet --no-pictures").status == 0);
    const test::Outcome early = bench.run("draw m.results --at '5 s' --out early.glb --set 'hide = [\"block\"]'"),
                        late = bench.run("draw m.results --out late.glb");
    INFO(early.err << late.err);
    REQUIRE(early.status == 0);
    REQUIRE(late.status == 0);
    CHECK(told(Scene(bench.work() / "early.glb")).names == std::vector<std::string>{"plate"});
    CHECK(told(Scene(bench.work() / "early.glb")).high < told(Scene(bench.work() / "late.glb")).high);
    CHECK(Scene(bench.work() / "early.glb").json["asset"]["extras"]["seconds"] == Approx(5.0));
    for (const char* refused : {"--set 'azimuth = 30'", "--set 'bands = true'", "--width 900"}) {
        const test::Outcome outcome = bench.run(std::string("draw m.results --out no.glb ") + refused);
        CHECK(outcome.status == 2);
        CHECK_THAT(outcome.err, Contains("a scene has no"));
    }
    CHECK(!std::filesystem::exists(bench.work() / "no.glb"));
    const test::Outcome other = bench.run("draw m.results --out no.gltf");
    CHECK(other.status == 2);
    CHECK_THAT(other.err, Contains(".png or .glb"));
}
