// Solids, outlines, placements, rays and set operations.

#include <firnfield/geometry.hpp>

#include "geometry/outline.hpp"
#include "geometry/placement.hpp"
#include "geometry/solids.hpp"
#include "geometry/triangle_tree.hpp"

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

using namespace firnfield;

namespace {

constexpr double pi = std::numbers::pi;

/// Area of one face as the model uses it: facets times the face's factor.
double face_area(const ClosedSurface& s, const std::string& tag) {
    double sum = 0.0;
    for (std::size_t t = 0; t < s.triangles.size(); ++t) {
        if (s.faces[s.face[t]].name != tag) continue;
        const auto& c = s.triangles[t];
        sum += 0.5 * length(cross(s.corners[c[1]] - s.corners[c[0]], s.corners[c[2]] - s.corners[c[0]])) * s.faces[s.face[t]].area_factor;
    }
    return sum;
}

}  // namespace

TEST_CASE("solids enclose their exact volume and their faces have the exact area", "[geometry]") {
    const double chord = 0.01;
    const auto check = [&](const Shape& shape, double expected, double tolerance) {
        const ClosedSurface s = triangulate(shape, chord);
        INFO(name_of(shape));
        CHECK(volume(s) == Approx(expected).epsilon(tolerance));
        CHECK(closure_defect(s) < 1e-13);
        for (std::size_t i = 0; i < s.faces.size(); ++i) CHECK(std::count(s.face.begin(), s.face.end(), i) > 0);
        std::vector<std::string> names;
        for (const SurfaceFace& face : s.faces) names.push_back(face.name);
        CHECK(face_names(shape) == names);
    };
    check(Box{.size = {2, 3, 4}, .at = {1, 0, 0}}, 24.0, 1e-13);
    check(Cylinder{.radius = 2, .length = 3, .at = {1, 1, 1}, .along = 0}, 12.0 * pi, 1e-12);
    check(Tube{.outer_radius = 2, .inner_radius = 1.5, .length = 3, .along = 1}, 3.0 * pi * (4 - 2.25), 1e-12);
    check(Tube{.outer_radius = 2, .inner_radius = 0.5, .length = 3, .angle = 70}, 3.0 * pi * (4 - 0.25) * 70 / 360, 1e-12);
    check(Sphere{.radius = 2, .at = {5, 0, 0}}, 32.0 / 3.0 * pi, 1e-12);
    check(Cone{.lower_radius = 2, .upper_radius = 0, .length = 3}, 4.0 * pi, 1e-12);
    check(Cone{.lower_radius = 2, .upper_radius = 1, .length = 3}, pi * (4 + 2 + 1), 1e-12);
    check(Prism{.outline = {line_to(0, 0), line_to(4, 0), line_to(4, 1), line_to(1, 1), line_to(1, 3), line_to(0, 3)},
                .holes = {{line_to(0.2, 0.2), line_to(0.2, 0.6), line_to(0.6, 0.6)}},
                .length = 2},
          2.0 * (4 + 2 - 0.08), 1e-12);
    check(Prism{.outline = {line_to(0, 0), line_to(4, 0), {.x = 0, .y = 0, .through = std::array{2.0, 2.0}}}, .holes = {}, .length = 1}, 2.0 * pi, 3e-3);
    check(Revolution{.outline = {line_to(1, 0), line_to(2, 0), line_to(2, 3), line_to(1, 3)}, .angle = 360}, 9.0 * pi, 1e-12);

    const ClosedSurface rod = triangulate(Cylinder{.radius = 2, .length = 3}, chord);
    CHECK(face_area(rod, "side") == Approx(12.0 * pi).epsilon(1e-12));
    CHECK(face_area(rod, "top") == Approx(4.0 * pi).epsilon(1e-12));
    CHECK(face_area(triangulate(Sphere{.radius = 2}, chord), "side") == Approx(16.0 * pi).epsilon(1e-12));
    CHECK(face_area(triangulate(Cone{.lower_radius = 3, .upper_radius = 0, .length = 4}, chord), "side") == Approx(15.0 * pi).epsilon(1e-12));
    // Facets stay within the chord of the true face.
    for (const Vec3& p : triangulate(Sphere{.radius = 2}, chord).corners) CHECK(std::abs(length(p) - 2.0) < chord);
}

TEST_CASE("outlines: arcs, orientation, crossings, triangles", "[geometry]") {
    const FlatOutline half = flatten({line_to(2, 0), {.x = -2, .y = 0, .through = std::array{0.0, 2.0}}}, 1e-4);
    CHECK(signed_area(half.corner) == Approx(2.0 * pi).epsilon(1e-3));
    const FlatOutline clockwise = flatten({line_to(0, 0), line_to(0, 1), line_to(1, 1), line_to(1, 0)}, 1.0);
    CHECK(signed_area(clockwise.corner) == Approx(1.0));
    CHECK_FALSE(crosses_itself({clockwise.corner}));
    CHECK(crosses_itself({{{0, 0}, {1, 1}, {1, 0}, {0, 1}}}));
    // Star-shaped polygons with holes: triangles cover the area once.
    std::mt19937 random(3);
    std::uniform_real_distribution<double> radius(1.0, 2.0);
    for (int n = 0; n < 40; ++n) {
        std::vector<std::vector<Point2>> loops(3);
        for (int i = 0; i < 17; ++i) {
            const double r = radius(random);
            loops[0].push_back({r * std::cos(2.0 * pi * i / 17), r * std::sin(2.0 * pi * i / 17)});
        }
        for (int i = 0; i < 5; ++i) {
            loops[1].push_back({0.3 + 0.2 * std::cos(1.2 * i), 0.2 * std::sin(1.2 * i)});
            loops[2].push_back({-0.4 + 0.1 * radius(random) * std::cos(-1.2 * i), 0.2 * std::sin(-1.2 * i)});
        }
        std::vector<Point2> all;
        for (const auto& loop : loops) all.insert(all.end(), loop.begin(), loop.end());
        double sum = 0.0;
        for (const auto& t : triangulate_polygon(loops)) {
            const double a = signed_area({all[t[0]], all[t[1]], all[t[2]]});
            CHECK(a >= 0.0);
            sum += a;
        }
        CHECK(sum == Approx(signed_area(loops[0]) - std::abs(signed_area(loops[1])) - std::abs(signed_area(loops[2]))).epsilon(1e-12));
    }
}

TEST_CASE("placements turn, mirror and scale about the right point", "[geometry]") {
    CHECK(rotated({0, 0, 1}, 90.0, {1, 0, 0})({2, 0, 0}) == Vec3{1, 1, 0});
    const auto box = place(Box{.size = {1, 2, 3}, .at = {4, 5, 6}}, rotated({1, 0, 0}, 90.0, {}));
    REQUIRE(box);
    CHECK(box->size == Vec3{1, 3, 2});
    CHECK_FALSE(place(Box{.size = {1, 2, 3}, .at = {}}, rotated({1, 0, 0}, 30.0, {})));
    const ClosedSurface image =
        place(triangulate(Cone{.lower_radius = 2, .upper_radius = 1, .length = 3}, 0.1), combine(mirrored(2, {0, 0, 1}), scaled(2.0, {})));
    CHECK(volume(image) == Approx(8.0 * 7.0 * pi));
    CHECK(bounds(image).lower().z == Approx(-4.0));
}

TEST_CASE("rays and winding numbers know inside from outside", "[geometry]") {
    const TriangleTree tree(triangles_of(triangulate(Tube{.outer_radius = 2, .inner_radius = 1, .length = 3}, 0.01)));
    CHECK(tree.inside({1.5, 0, 1}));
    CHECK_FALSE(tree.inside({0, 0, 1}));
    CHECK_FALSE(tree.inside({1.5, 0, 3.1}));
    CHECK(tree.first_hit({1.5, 0, 1}, {0, 0, 1}, 0.0) == Approx(2.0));
    CHECK(tree.crossings({-5, 0.01, 1}, {1, 0, 0}).size() == 4);
}

TEST_CASE("solids without and with others, wherever they stand", "[geometry]") {
    const ClosedSurface plate = triangulate(Box{.size = {10, 10, 2}, .at = {}}, 1.0);
    const auto left = [&](const Shape& tool) { return subtract(plate, triangulate(tool, 0.005), "inner"); };
    // Through holes, blind holes, a pocket flush with a side, one that takes a corner away, faces in common.
    CHECK(volume(left(Cylinder{.radius = 2, .length = 4, .at = {5, 5, -1}}).surface) == Approx(200 - 8 * pi).epsilon(1e-12));
    CHECK(volume(left(Cylinder{.radius = 2, .length = 2, .at = {5, 5, 0}}).surface) == Approx(200 - 8 * pi).epsilon(1e-12));
    CHECK(volume(left(Cylinder{.radius = 2, .length = 1, .at = {5, 5, 1}}).surface) == Approx(200 - 4 * pi).epsilon(1e-12));
    CHECK(volume(left(Box{.size = {4, 4, 1}, .at = {0, 0, 1}}).surface) == Approx(184.0).epsilon(1e-12));
    CHECK(volume(left(Sphere{.radius = 1, .at = {5, 5, 2}}).surface) == Approx(200 - 2.0 / 3.0 * pi).epsilon(1e-3));
    const SolidResult beside = left(Box{.size = {4, 4, 1}, .at = {0, 0, 2}});
    CHECK_FALSE(beside.changed);
    CHECK(left(Box{.size = {12, 12, 4}, .at = {-1, -1, -1}}).surface.triangles.empty());
    const SolidResult both = unite(plate, triangulate(Box{.size = {4, 4, 5}, .at = {8, 8, 0}}, 1.0));
    CHECK(volume(both.surface) == Approx(200 + 80 - 8).epsilon(1e-12));

    std::mt19937 random(7);
    std::uniform_real_distribution<double> anywhere(-1.0, 1.0);
    const ClosedSurface ball = triangulate(Sphere{.radius = 1.3}, 0.05), rod = triangulate(Cylinder{.radius = 0.8, .length = 3, .at = {0, 0, -1.5}}, 0.02);
    for (int n = 0; n < 60; ++n) {
        const Placement where = combine(moved({anywhere(random), anywhere(random), anywhere(random)}),
                                        rotated({anywhere(random), anywhere(random), 1.1}, 180.0 * anywhere(random), {}));
        const ClosedSurface tool = place(rod, where);
        const SolidResult without = subtract(ball, tool, ""), with = unite(ball, tool);
        CHECK(without.defect < 1e-7);
        // A ∪ B = (A without B) + B
        CHECK(volume(with.surface) == Approx(volume(without.surface) + volume(tool)).epsilon(1e-7));
    }
}

TEST_CASE("regions are drawn onto surfaces exactly", "[geometry]") {
    const ClosedSurface plate = triangulate(Box{.size = {10, 10, 2}, .at = {}}, 1.0);
    std::vector<bool> inside;
    std::vector<std::uint32_t> origin;
    const ClosedSurface drawn = imprint(plate, triangulate(Cylinder{.radius = 2, .length = 1, .at = {5, 5, 1.5}}, 1e-3), inside, origin);
    double sum = 0.0;
    for (std::size_t t = 0; t < drawn.triangles.size(); ++t) {
        const auto& c = drawn.triangles[t];
        if (inside[t]) sum += 0.5 * length(cross(drawn.corners[c[1]] - drawn.corners[c[0]], drawn.corners[c[2]] - drawn.corners[c[0]]));
        CHECK(drawn.face[t] == plate.face[origin[t]]);
    }
    CHECK(sum == Approx(4.0 * pi).epsilon(1e-12));
    CHECK(area(drawn) == Approx(area(plate)).epsilon(1e-12));
}
