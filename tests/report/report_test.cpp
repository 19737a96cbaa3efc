// Texts, tables, colours, pictures.

#include "findings/surface_field.hpp"
#include "models.hpp"
#include "report/canvas.hpp"
#include "report/table.hpp"

#include "report/chart_lines.hpp"

#include <catch2/catch.hpp>

#include <cmath>
#include <fstream>
#include <sstream>

using namespace firnfield;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

double linear(double srgb) { return srgb <= 0.04045 ? srgb / 12.92 : std::pow((srgb + 0.055) / 1.055, 2.4); }

/// OKLab of an sRGB colour, written out again here so that the scale is checked by another road than it is made.
std::array<double, 3> oklab(const std::array<double, 3>& rgb) {
    const double r = linear(rgb[0]), g = linear(rgb[1]), b = linear(rgb[2]);
    const double l = std::cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
    const double m = std::cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
    const double s = std::cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
    return {0.2104542553 * l + 0.7936177850 * m - 0.0040720468 * s, 1.9779984951 * l - 2.4285922050 * m + 0.4505937099 * s,
            0.0259040371 * l + 0.7827717662 * m - 0.8086757660 * s};
}

}  // namespace

TEST_CASE("the colour scale is even to the eye and readable in grey", "[report]") {
    constexpr int steps = 40;
    double shortest = 1e9, longest = 0.0;
    auto before = oklab(temperature_colour(0.0));
    for (int i = 1; i <= steps; ++i) {
        const auto here = oklab(temperature_colour(static_cast<double>(i) / steps));
        const double step = std::hypot(here[0] - before[0], here[1] - before[1], here[2] - before[2]);
        shortest = std::min(shortest, step);
        longest = std::max(longest, step);
        CHECK(here[0] < before[0]);  // ever darker
        before = here;
    }
    CHECK(longest / shortest < 1.25);
    CHECK(temperature_colour(-1.0) == temperature_colour(0.0));
    CHECK(temperature_colour(2.0) == temperature_colour(1.0));
}

TEST_CASE("tables align by characters, not bytes", "[report]") {
    Table table({"name", ">value"});
    table.row({"°C", "1"});
    table.row({"long name", "12.5"});
    CHECK(table.text("") == "name       value\n°C             1\nlong name   12.5\n");
    CHECK(wrapped("one two three", 2, 8) == "one\n  two\n  three");
}

TEST_CASE("findings read as a report: verdict first, units, no exponent soup", "[report]") {
    const Model model = block_on_plate();
    const std::string text = to_text(findings(model, solve_steady(model)));
    CHECK(text.find("ALL LIMITS KEPT") < text.find("Parts"));
    CHECK_THAT(text, Contains("block → plate") && Contains("0.200 K cm²/W") && Contains("exposed, radiation"));
    std::istringstream lines(text);
    for (std::string line; std::getline(lines, line);) {
        INFO(line);
        CHECK(line.size() <= 130);
    }
}

TEST_CASE("materials are told with their source", "[report]") {
    CHECK_THAT(to_text(*find_material({}, "copper")), Contains("390 W/(m K)") && Contains("source") && Contains("handbook"));
    CHECK_THAT(to_text(*find_material({}, "FR-4 laminate")), Contains("0.8 / 0.8 / 0.3"));
    CHECK_THAT(to_table(builtin_materials()), Contains("metals") && Contains("aluminium 6061-T6"));
}

TEST_CASE("nearer triangles hide farther ones, and rims run between faces", "[report]") {
    Canvas canvas(20, 20);
    const auto fill = [&](double z, double value, std::uint32_t identity, double right) {
        canvas.begin_face({.identity = identity, .light = 1.0F, .normal = {0, 0, 1}});
        canvas.triangle({{0, 0, z}, value}, {{right, 0, z}, value}, {{0, 40, z}, value});
    };
    fill(5.0, 0.5, 1, 40);
    fill(1.0, 0.0, 2, 40);
    fill(6.0, 0.25, 3, 10);
    const auto grey = [](double value) { return std::array{value, value, value}; };
    const auto none = [](double) { return 0.0; };
    const std::vector<std::uint32_t> plain = canvas.picture(1, grey, none, {canvas, {1, 1, 1}, 0.0F});
    CHECK((plain[19] & 0xFFU) == 128);
    CHECK((plain[0] & 0xFFU) == 64);
    CHECK((plain[9] & 0xFFU) == 64);
    const std::vector<std::uint32_t> rimmed = canvas.picture(1, grey, none, {canvas, {1, 1, 1}, 1.0F});
    CHECK((rimmed[9] & 0xFFU) == 255);
    CHECK((rimmed[0] & 0xFFU) == 64);
    CHECK(canvas.picture(2, grey, none, {canvas, {1, 1, 1}, 0.0F}).size() == 100);
}

TEST_CASE("the surface to be seen is closed, whole or cut open", "[report]") {
    const Model model = block_on_plate();
    const SteadySolution solution = solve_steady(model);
    const Mesh& mesh = *solution.mesh;
    const auto area_of = [](const SurfaceField& field) {
        std::pair<Vec3, double> sum{};
        for (const SurfacePiece& face : field.pieces) {
            const auto c = field.of(face);
            for (std::size_t i = 1; i + 1 < c.size(); ++i) {
                const Vec3 a = 0.5 * cross(field.corners[c[i]] - field.corners[c[0]], field.corners[c[i + 1]] - field.corners[c[0]]);
                sum.first = sum.first + a;
                sum.second += length(a);
                CHECK(dot(a, face.normal) > 0.0);
            }
        }
        return sum;
    };
    SurfaceView view;
    view.hidden = picked_bodies(model, mesh, {});
    CHECK(surface_field(solution, view).pieces.size() == mesh.patches.size());
    CHECK(area_of(surface_field(solution, view)).second == Approx(2 * (80 * 60 + 80 * 4 + 60 * 4) * 1e-6 + 2 * (20 + 10) * 3e-6));
    view.section = HalfSpace{.normal = {1.0, 0.3, 0.0}, .through = {0.04, 0.03, 0}};
    const auto [closure, area] = area_of(surface_field(solution, view));
    CHECK(length(closure) < 1e-9 * area);
    view = {.hidden = picked_bodies(model, mesh, {"block"}), .section = {}, .above = {}};
    CHECK(area_of(surface_field(solution, view)).second == Approx(2 * (80 * 60 + 80 * 4 + 60 * 4) * 1e-6));
    view.above = 2000.0;
    CHECK(surface_field(solution, view).pieces.empty());
}

TEST_CASE("pictures are drawn for every kind of view", "[report]") {
    Model model = block_on_plate();
    model.add(Mirror{.axis = 0, .at = 0.04, .keep_plus = true});
    const SteadySolution solution = solve_steady(model);
    const Findings f = findings(model, solution);
    const auto file = std::filesystem::temp_directory_path() / ("firnfield-picture-" + std::to_string(std::rand()) + ".png");
    for (const Picture& view :
         {Picture{.name = "plain"}, Picture{.name = "bands", .azimuth = 90, .elevation = -90, .bands = true},
          Picture{.name = "cut", .isotherms = true, .section = HalfSpace{.normal = {0, 1, 0}, .through = {0, 0.03, 0}}},
          Picture{.name = "hot", .above = f.parts[0].mean}, Picture{.name = "too hot", .above = 3000.0}, Picture{.name = "nothing left", .hide = {"*"}}}) {
        INFO(view.name);
        draw_picture(file, model, solution, f, view, 320, 200);
        std::ifstream stream(file, std::ios::binary);
        std::string head(8, '\0');
        stream.read(head.data(), 8);
        CHECK(head == "\x89PNG\r\n\x1a\n");
        CHECK(std::filesystem::file_size(file) > 1500);
    }
    std::filesystem::remove(file);
    CHECK_THROWS_AS(draw_picture("/nonexistent/x.png", model, solution, f, Picture{}, 320, 200), FileError);
}

TEST_CASE("charts of long runs keep every peak and every dip", "[report]") {
    History history{.columns = {"a max (degC)", "b max (degC)"}};
    for (int r = 0; r < 50'000; ++r) {
        history.time.push_back(r);
        history.rows.push_back({r % 37 == 0 ? 80.0 : 40.0, r == 31'234 ? 120.0 : r == 44'001 ? -5.0 : 20.0});
    }
    const std::vector<std::size_t> rows = rows_of_chart(history, {0, 1}, 1000);
    CHECK(rows.size() <= 1002);
    CHECK(rows.front() == 0);
    CHECK(rows.back() == 49'999);
    CHECK(std::is_sorted(rows.begin(), rows.end()));
    for (const std::size_t peak : {31'234U, 44'001U}) CHECK(std::binary_search(rows.begin(), rows.end(), peak));
    for (std::size_t from = 0; from + 400 < history.rows.size(); from += 400) {  // the peaks that come all the time stay everywhere
        CHECK(std::any_of(rows.begin(), rows.end(), [&](std::size_t r) { return r >= from && r < from + 400 && history.rows[r][0] == 80.0; }));
    }
    CHECK(rows_of_chart(history, {0, 1}, 60'000).size() == 50'000);
    CHECK(rows_of_chart(History{}, {}, 10).empty());
}
