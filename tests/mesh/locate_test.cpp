// Where points are found: inside, on faces, edges and corners of every shape, turned or not, on every resolution; and where they are not.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <cmath>
#include <numbers>
#include <random>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

struct Shaped {
    std::string name;
    Shape shape;
    std::vector<Vec3> on;       ///< points of its surface: faces, edges, corners, poles
    std::vector<Vec3> outside;  ///< a millimetre or more away
};

std::vector<Shaped> shapes() {
    const double diagonal = 10_mm / std::sqrt(2.0), octant = 10_mm / std::sqrt(3.0);
    return {
        {"box",
         Box{.size = {20_mm, 14_mm, 6_mm}, .at = {}},
         {{}, {20_mm, 14_mm, 6_mm}, {10_mm, 0.0, 3_mm}, {20_mm, 0.0, 3_mm}, {7_mm, 7_mm, 6_mm}},
         {{21_mm, 7_mm, 3_mm}, {10_mm, 7_mm, -1_mm}}},
        {"cylinder",
         Cylinder{.radius = 10_mm, .length = 12_mm},
         {{0.0, 0.0, 0.0}, {0.0, 0.0, 12_mm}, {10_mm, 0.0, 12_mm}, {diagonal, diagonal, 5_mm}, {0.0, -10_mm, 0.0}},
         {{8_mm, 8_mm, 6_mm}, {0.0, 0.0, 14_mm}}},
        {"tube",
         Tube{.outer_radius = 10_mm, .inner_radius = 6_mm, .length = 12_mm},
         {{6_mm, 0.0, 0.0}, {10_mm, 0.0, 12_mm}, {0.0, 6_mm, 6_mm}, {-diagonal, diagonal, 3_mm}, {8_mm, 0.0, 12_mm}},
         {{0.0, 0.0, 6_mm}, {4_mm, 0.0, 6_mm}, {12_mm, 0.0, 6_mm}}},
        {"wedge",
         Tube{.outer_radius = 10_mm, .inner_radius = 0.0, .length = 8_mm, .angle = 90.0},
         {{0.0, 0.0, 4_mm}, {10_mm, 0.0, 0.0}, {0.0, 10_mm, 8_mm}, {diagonal, diagonal, 4_mm}, {5_mm, 0.0, 4_mm}},
         {{-2_mm, 3_mm, 4_mm}, {9_mm, 9_mm, 4_mm}}},
        {"ball",
         Sphere{.radius = 10_mm},
         {{0.0, 0.0, 10_mm}, {0.0, -10_mm, 0.0}, {octant, octant, octant}, {-octant, octant, -octant}},
         {{8_mm, 8_mm, 8_mm}, {0.0, 0.0, 12_mm}}},
        {"cone",
         Cone{.lower_radius = 10_mm, .upper_radius = 0.0, .length = 12_mm},
         {{0.0, 0.0, 12_mm}, {10_mm, 0.0, 0.0}, {5_mm, 0.0, 6_mm}, {0.0, 0.0, 0.0}},
         {{8_mm, 0.0, 6_mm}, {0.0, 0.0, 14_mm}}},
        {"prism",
         Prism{.outline = {{.x = 0.0, .y = 0.0}, {.x = 24_mm, .y = 2_mm}, {.x = 9_mm, .y = 18_mm}}, .length = 7_mm},
         {{0.0, 0.0, 0.0}, {24_mm, 2_mm, 7_mm}, {9_mm, 18_mm, 3_mm}, {12_mm, 1_mm, 7_mm}},
         {{20_mm, 15_mm, 3_mm}, {10_mm, 8_mm, 9_mm}}},
        {"revolution",
         Revolution{.outline = {{.x = 3_mm, .y = 0.0}, {.x = 10_mm, .y = 0.0}, {.x = 6_mm, .y = 9_mm}, {.x = 3_mm, .y = 9_mm}}},
         {{3_mm, 0.0, 0.0}, {10_mm, 0.0, 0.0}, {0.0, 6_mm, 9_mm}, {-8_mm, 0.0, 4.5_mm}, {0.0, -3_mm, 4_mm}},
         {{0.0, 0.0, 4_mm}, {9.5_mm, 0.0, 8_mm}}},
    };
}

Model alone(const Shaped& shaped, double cell) {
    Model m;
    m.mesh.cell = cell;
    m.mesh.through = 1;
    m.materials = {plain("stuff", 20.0)};
    m.add(Part{.name = "body", .shape = shaped.shape, .material = "stuff"});
    m.add(convection(exposed(), 10.0, 300.0));
    return m;
}

Vec3 turned(Vec3 p, double degrees) {
    const double a = degrees * std::numbers::pi / 180.0;
    return {std::cos(a) * p.x - std::sin(a) * p.y, std::sin(a) * p.x + std::cos(a) * p.y, p.z};
}

std::string refusal(const Model& model, const Mesh& mesh, Vec3 at) {
    try {
        static_cast<void>(cell_at_point(model, mesh, "body", at, "here"));
    } catch (const ModelError& error) {
        CHECK(error.problems().front().address == "here");
        return error.problems().front().message;
    }
    return "found";
}

}  // namespace

TEST_CASE("points on the surface of every shape are in it, points beside it are not", "[mesh]") {
    for (const Shaped& shaped : shapes()) {
        for (const double cell : {0.9_mm, 2.1_mm, 6_mm}) {
            for (const double angle : {0.0, 17.0}) {
                INFO(shaped.name << ", cell " << cell << ", turned by " << angle);
                Model model = alone(shaped, cell);
                if (angle != 0.0) model.parts[0].rotate = {{.axis = {0.0, 0.0, 1.0}, .angle = angle}};
                const Mesh mesh = build_mesh(model);
                for (const Vec3 at : shaped.on) {
                    const Vec3 point = turned(at, angle);
                    INFO("(" << 1e3 * point.x << ", " << 1e3 * point.y << ", " << 1e3 * point.z << ") mm");
                    CHECK(refusal(model, mesh, point) == "found");
                }
                for (const Vec3 at : shaped.outside)
                    CHECK_THAT(refusal(model, mesh, turned(at, angle)),
                               Contains("is not in part \"body\"") && Contains("mm away") && Contains("nearest point"));
            }
        }
    }
}

TEST_CASE("a point inside is in the box that holds it", "[mesh]") {
    std::mt19937 random(7);
    const auto uniform = [&](double from, double to) { return std::uniform_real_distribution<double>(from, to)(random); };
    for (const Shaped& shaped : shapes()) {
        INFO(shaped.name);
        const Model model = alone(shaped, 1.7_mm);
        const Mesh mesh = build_mesh(model);
        const Box extent = mesh.bodies[0].box;
        std::size_t inside = 0, outside = 0;
        for (int n = 0; n < 400; ++n) {
            const Vec3 at = extent.at + Vec3{uniform(0.0, 1.0) * extent.size.x, uniform(0.0, 1.0) * extent.size.y, uniform(0.0, 1.0) * extent.size.z};
            if (refusal(model, mesh, at) != "found") {
                ++outside;
                continue;
            }
            ++inside;
            const Index cell = cell_at_point(model, mesh, "body", at, "here");
            const auto place = mesh.grid.place(mesh.cells.box[cell]);
            for (int axis = 0; axis < 3; ++axis) {
                const Index i = place[static_cast<std::size_t>(axis)];
                // The box itself, or a neighbour for slivers that were joined to it.
                const double size = mesh.grid.upper(axis, i) - mesh.grid.lower(axis, i);
                CHECK(at[axis] >= mesh.grid.lower(axis, i) - 1.5 * size);
                CHECK(at[axis] <= mesh.grid.upper(axis, i) + 1.5 * size);
            }
        }
        // As often as the shape fills its extent.
        const double filled = volume(mesh.surfaces.empty() ? triangulate(shaped.shape, 1e-5) : mesh.surfaces[0]) / extent.volume();
        CHECK(static_cast<double>(inside) / static_cast<double>(inside + outside) == Approx(filled).margin(0.08));
    }
}

TEST_CASE("copies, wildcards and what is displaced", "[mesh]") {
    Model m;
    m.mesh.cell = 3_mm;
    m.materials = {plain("stuff", 20.0)};
    m.add(Part{.name = "foot", .shape = Box{.size = {4_mm, 4_mm, 4_mm}}, .material = "stuff", .repeat = {{.count = 3, .step = {10_mm, 0.0, 0.0}}}});
    m.add(block("slab", {40_mm, 20_mm, 6_mm}, {0.0, 0.0, 4_mm}, "stuff"));
    m.add(block("plug", {8_mm, 8_mm, 6_mm}, {10_mm, 5_mm, 4_mm}, "stuff"));
    m.add(convection(exposed(), 10.0, 300.0));
    const Mesh mesh = build_mesh(m);
    const auto body_at = [&](const std::string& part, Vec3 at) { return mesh.bodies[mesh.cells.body[cell_at_point(m, mesh, part, at, "here")]].name; };
    CHECK(body_at("foot", {22_mm, 2_mm, 2_mm}) == "foot 3");
    CHECK(body_at("foot 2", {12_mm, 2_mm, 2_mm}) == "foot 2");
    CHECK(body_at("slab", {30_mm, 10_mm, 7_mm}) == "slab");
    CHECK(body_at("plug", {14_mm, 9_mm, 7_mm}) == "plug");
    CHECK_THROWS_AS(body_at("foot 2", {22_mm, 2_mm, 2_mm}), ModelError);
    CHECK_THROWS_AS(body_at("slab", {14_mm, 9_mm, 7_mm}), ModelError);  // the plug took its place
    CHECK(body_at("slab", {10_mm, 9_mm, 7_mm}) == "slab");              // on the face between both
    CHECK(body_at("plug", {10_mm, 9_mm, 7_mm}) == "plug");
}
