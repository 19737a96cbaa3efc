// Faces of surfaces of which only triangles are known, and meshes that share their edges.

#include "models.hpp"
#include "random_assemblies.hpp"

#include "geometry/conforming.hpp"
#include "geometry/solids.hpp"

#include <catch2/catch.hpp>

#include <map>
#include <numbers>

using namespace firnfield;
using namespace firnfield::test;
using namespace firnfield::literals;

namespace {

constexpr double pi = std::numbers::pi;

/// Edges that are not passed once in each direction by the triangles beside them.
int open_edges(const ClosedSurface& surface) {
    std::map<std::pair<std::uint32_t, std::uint32_t>, int> balance;
    for (const auto& t : surface.triangles) {
        for (std::size_t k = 0; k < 3; ++k) balance[std::minmax(t[k], t[(k + 1) % 3])] += t[k] < t[(k + 1) % 3] ? 1 : -1;
    }
    return static_cast<int>(std::count_if(balance.begin(), balance.end(), [](const auto& edge) { return edge.second != 0; }));
}

/// A solid with holes and additions whose faces often lie in one plane, meet in edges or touch.
Part random_part(unsigned seed) {
    std::mt19937 random(seed);
    const auto from = [&](double low, double high) { return std::uniform_real_distribution<double>(low, high)(random); };
    const auto one_of = [&](int count) { return std::uniform_int_distribution<int>(0, count - 1)(random); };
    const auto whole = [&](int low, int high) { return 1_mm * (low + one_of(high - low + 1)); };
    const double high = from(3_mm, 12_mm);
    const std::array<Shape, 4> bodies{Box{.size = {from(10_mm, 60_mm), from(10_mm, 60_mm), high}}, Cylinder{.radius = from(10_mm, 30_mm), .length = high},
                                      Tube{.outer_radius = from(20_mm, 30_mm), .inner_radius = from(3_mm, 15_mm), .length = high},
                                      Cone{.lower_radius = from(10_mm, 30_mm), .upper_radius = from(5_mm, 20_mm), .length = high}};
    Part part{.name = "part", .shape = bodies[static_cast<std::size_t>(one_of(4))], .material = "copper"};
    for (int i = one_of(4); i >= 0; --i) {
        const Vec3 at{whole(-20, 40), whole(-20, 40), 0.5 * one_of(3) * high};
        const double radius = whole(1, 8);
        const std::array<Shape, 4> more{Sphere{.radius = radius, .at = at}, Box{.size = {radius, 2.0 * radius, high}, .at = at},
                                        Cylinder{.radius = radius, .length = (1 + one_of(2)) * high, .at = at, .along = one_of(3)},
                                        Cone{.lower_radius = radius, .upper_radius = 0.5 * radius, .length = high, .at = at}};
        (one_of(3) > 0 ? part.holes : part.also).push_back(more[static_cast<std::size_t>(one_of(4))]);
    }
    return part;
}

}  // namespace

TEST_CASE("triangles of known shapes are divided into the faces of those shapes", "[geometry]") {
    const auto forget = [](ClosedSurface surface) {
        surface.face.clear();
        surface.faces.clear();
        return surface;
    };
    const std::vector<Shape> shapes{
        Box{.size = {4, 3, 2}, .at = {}},
        Cylinder{.radius = 2, .length = 5},
        Tube{.outer_radius = 2, .inner_radius = 1, .length = 3},
        Sphere{.radius = 2},
        Cone{.lower_radius = 2, .upper_radius = 1, .length = 3},
        Cone{.lower_radius = 2, .upper_radius = 0, .length = 3},
        Prism{.outline = {line_to(0, 0), line_to(6, 0), line_to(6, 3), line_to(0, 3)}, .holes = {{line_to(1, 1), line_to(2, 1), line_to(2, 2)}}, .length = 1},
    };
    for (const Shape& shape : shapes) {
        for (const double chord : {0.05, 0.01}) {
            INFO(name_of(shape) << " " << chord);
            const ClosedSurface known = triangulate(shape, chord);
            const ClosedSurface found = divide_into_faces(forget(known));
            CHECK(found.faces.size() == known.faces.size());
            std::vector<ExactFace> a = list_faces(known), b = list_faces(found);
            const auto order = [](const ExactFace& x, const ExactFace& y) {
                return std::tuple(x.kind, std::lround(1e2 * x.area)) < std::tuple(y.kind, std::lround(1e2 * y.area));
            };
            std::sort(a.begin(), a.end(), order);
            std::sort(b.begin(), b.end(), order);
            for (std::size_t f = 0; f < std::min(a.size(), b.size()); ++f) {
                CHECK(name_of(a[f].kind) == name_of(b[f].kind));
                CHECK(b[f].area == Approx(a[f].area).epsilon(2e-2));
                CHECK(a[f].diameter.has_value() == b[f].diameter.has_value());
                if (a[f].diameter && b[f].diameter) CHECK(*b[f].diameter == Approx(*a[f].diameter).epsilon(2e-2));
            }
        }
    }
    SECTION("planes that go over into fillets stay planes, and a bore with a rounded rim stays a bore") {
        const Shape bar = Prism{.outline = {arc_to(1, 0, 0.2929, 0.2929), line_to(9, 0), arc_to(10, 1, 9.7071, 0.2929), line_to(10, 4),
                                            arc_to(9, 5, 9.7071, 4.7071), line_to(1, 5), arc_to(0, 4, 0.2929, 4.7071), line_to(0, 1)},
                                .length = 6};
        std::map<FaceKind, int> count;
        for (const ExactFace& face : list_faces(divide_into_faces(forget(triangulate(bar, 0.01))))) ++count[face.kind];
        CHECK(count[FaceKind::plane] == 6);
        CHECK(count[FaceKind::cylinder] == 4);
        const Shape bush = Revolution{.outline = {line_to(3, 0), line_to(6, 0), line_to(6, 8), line_to(4, 8), arc_to(3, 7, 3.2929, 7.7071)}};
        bool bore = false;
        for (const ExactFace& face : list_faces(divide_into_faces(forget(triangulate(bush, 0.01))))) {
            if (face.kind != FaceKind::bore) continue;
            bore = true;
            CHECK(*face.diameter == Approx(6.0).epsilon(1e-2));
            CHECK(face.area == Approx(pi * 6.0 * 7.0).epsilon(1e-2));
        }
        CHECK(bore);
    }
}

TEST_CASE("a part with holes and additions has a surface that closes edge by edge, and is as deep as its plane model", "[geometry]") {
    Model m{.title = "Flange"};
    m.add(Part{.name = "flange", .shape = Cylinder{.radius = 30_mm, .length = 6_mm}, .material = "copper"});
    m.parts.front().also = {Box{.size = {20_mm, 4_mm, 10_mm}, .at = {12_mm, -2_mm, 6_mm}}};
    m.parts.front().holes = {Cylinder{.radius = 4_mm, .length = 6_mm}, Sphere{.radius = 3_mm, .at = {0.0, 20_mm, 6_mm}},
                             Cylinder{.radius = 1_mm, .length = 4_mm, .at = {20_mm, -2_mm, 11_mm}, .along = 1}};
    for (const double chord : {0.2_mm, 0.1_mm, 0.05_mm, 0.02_mm, 0.01_mm}) {
        INFO("chord " << chord);
        const ClosedSurface surface = part_surface(m, "flange", chord);
        CHECK(open_edges(surface) == 0);
        CHECK(volume(surface) == Approx((5282.0 * pi + 800.0) * 1e-9).epsilon(2e-4));
        CHECK(conforming(surface) == surface);
    }
    Model flat{.title = "Profile"};
    flat.space = Space{.depth = 25_mm};
    flat.add(block("bar", {10_mm, 10_mm, 1_mm}, {}, "copper"));
    CHECK(volume(part_surface(flat, "bar", 1_mm)) == Approx(10e-3 * 10e-3 * 25e-3));
}

TEST_CASE("whatever is cut out of a solid or added to it, its surface closes", "[property]") {
    for (unsigned seed = 1; seed <= many(200); ++seed) {
        Model m;
        m.add(random_part(seed));
        const double chord = std::pow(10.0, -5.3 + 0.4 * (seed % 5));
        INFO("seed " << seed << ", chord " << chord);
        const ClosedSurface surface = part_surface(m, "part", chord);
        if (surface.triangles.empty()) continue;  // the holes take it all
        CHECK(closure_defect(surface) < 1e-12);
        CHECK(open_edges(surface) == 0);
    }
}
