// Cut bodies: closure, volumes, contacts, rules, planes of symmetry.

#include "models.hpp"

#include "mesh/cut.hpp"

#include <catch2/catch.hpp>

#include <cmath>
#include <numbers>
#include <random>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;
using Catch::Matchers::Contains;

namespace {

constexpr double pi = std::numbers::pi;

/// Largest |Σ outward area vectors| of a cut box over its surface.
double worst_closure(const Grid& grid, const CutBody& body) {
    double worst = 0.0;
    for (const CutBox& box : body.cut) {
        Vec3 sum;
        double all = 0.0;
        for (std::size_t axis = 0; axis < 3; ++axis) {
            sum[static_cast<int>(axis)] += box.high_area[axis] - box.low_area[axis];
            all += box.high_area[axis] + box.low_area[axis];
        }
        for (Index p = box.first_patch; p != no_index; p = body.patches[p].next) {
            sum = sum + body.patches[p].vector;
            all += body.patches[p].area;
        }
        const auto place = grid.place(box.box);
        worst = std::max(worst, length(sum) / std::max(all, grid.width(0, place[0]) * grid.width(1, place[1])));
    }
    return worst;
}

double cut_volume(const Grid& grid, const CutBody& body) {
    double sum = 0.0;
    for (const CutBox& box : body.cut) sum += box.volume;
    for (Index k = 0; k < body.count(2); ++k) {
        for (Index j = 0; j < body.count(1); ++j) {
            for (Index i = 0; i < body.count(0); ++i) {
                if (body.state[body.local(i, j, k)] != CutBody::inside) continue;
                sum += grid.width(0, body.range[0].first + i) * grid.width(1, body.range[1].first + j) * grid.width(2, body.range[2].first + k);
            }
        }
    }
    return sum;
}

Grid any_grid(std::mt19937& random, double reach, double cell) {
    std::uniform_real_distribution<double> size(0.6 * cell, 1.4 * cell);
    Grid grid;
    for (auto& lines : grid.lines) {
        for (double x = -reach - size(random); x < reach + 2.0 * cell; x += size(random)) lines.push_back(x);
    }
    return grid;
}

double area_of(const Model& model, const Mesh& mesh, const Selection& pick) {
    double sum = 0.0;
    for (const Index p : select_patches(model, mesh, pick, "")) sum += mesh.multiplicity * mesh.patches.area[p];
    return sum;
}

}  // namespace

TEST_CASE("every cut cell closes and the volume is the surface's own", "[mesh]") {
    std::mt19937 random(11);
    for (const Shape& shape :
         std::vector<Shape>{Cylinder{.radius = 2, .length = 5}, Sphere{.radius = 3}, Tube{.outer_radius = 3, .inner_radius = 2.7, .length = 4, .along = 1},
                            Cone{.lower_radius = 3, .upper_radius = 0, .length = 4}, Box{.size = {4, 3, 2}, .at = {-2, -1, -1}}}) {
        for (int n = 0; n < 6; ++n) {
            CutSurface input;
            input.surface = triangulate(shape, 0.01);
            const double angle = n == 0 ? 0.0 : 0.3 * n;
            for (Vec3& p : input.surface.corners) p = {p.x * std::cos(angle) - p.z * std::sin(angle), p.y, p.x * std::sin(angle) + p.z * std::cos(angle)};
            const Grid grid = any_grid(random, 6.0, n % 2 == 0 ? 0.5 : 1.3);
            const CutBody body = cut_by_grid(grid, input);
            INFO(name_of(shape) << ", turned by " << angle);
            CHECK(body.quality.leak < 1e-12);
            CHECK(body.quality.volume_spread < 1e-12);
            if (body.between.empty() && std::none_of(body.cut.begin(), body.cut.end(), [](const CutBox& b) { return b.next_piece >= 0; })) {
                CHECK(worst_closure(grid, body) < 1e-12);
            }
            CHECK(cut_volume(grid, body) == Approx(volume(input.surface)).epsilon(1e-12));
        }
    }
}

TEST_CASE("a surface with a hole is closed by the cells, and the leak is told", "[mesh]") {
    std::mt19937 random(2);
    CutSurface input;
    input.surface = triangulate(Sphere{.radius = 3}, 0.02);
    const double whole = volume(input.surface);
    input.surface.triangles.erase(input.surface.triangles.begin() + 40);
    input.surface.face.erase(input.surface.face.begin() + 40);
    const Grid grid = any_grid(random, 6.0, 0.4);
    const CutBody body = cut_by_grid(grid, input);
    CHECK(body.quality.leak > 1e-3);
    CHECK(cut_volume(grid, body) == Approx(whole).epsilon(2e-3));
}

TEST_CASE("parts that touch over part of a curved or flat face", "[mesh]") {
    Model m;
    m.mesh.cell = 2_mm;
    m.add(block("plate", {40_mm, 40_mm, 4_mm}, {}, "aluminium 6061-T6"));
    m.add(Part{.name = "post", .shape = Cylinder{.radius = 5_mm, .length = 20_mm, .at = {20_mm, 17_mm, 4_mm}}, .material = "copper"});
    m.add(Part{.name = "collar", .shape = Tube{.outer_radius = 8_mm, .inner_radius = 5_mm, .length = 6_mm, .at = {20_mm, 17_mm, 10_mm}}, .material = "copper"});
    m.add(Part{.name = "lid", .shape = Cylinder{.radius = 6_mm, .length = 1_mm, .at = {20_mm, 17_mm, 24.2_mm}}, .material = "copper"});
    const auto pair_of = [](const Mesh& mesh, const std::string& a, const std::string& b) -> const ContactPair* {
        for (const ContactPair& pair : mesh.pairs) {
            const std::string &x = mesh.bodies[pair.first].name, &y = mesh.bodies[pair.second].name;
            if ((x == a && y == b) || (x == b && y == a)) return &pair;
        }
        return nullptr;
    };
    const Mesh mesh = build_mesh(m);
    REQUIRE(pair_of(mesh, "plate", "post") != nullptr);
    CHECK(pair_of(mesh, "plate", "post")->area == Approx(pi * 25e-6).epsilon(1e-6));
    CHECK(pair_of(mesh, "post", "collar")->area == Approx(2 * pi * 5e-3 * 6e-3).epsilon(1e-5));
    CHECK(pair_of(mesh, "post", "lid") == nullptr);
    // The end of the post and the bore of the collar are the smaller sides, and touch all over.
    CHECK(pair_of(mesh, "plate", "post")->nominal_area == Approx(pi * 25e-6).epsilon(1e-6));
    CHECK(pair_of(mesh, "post", "collar")->nominal_area == Approx(2 * pi * 5e-3 * 6e-3).epsilon(1e-5));
    REQUIRE(mesh.near_misses.size() == 1);
    CHECK(mesh.near_misses[0].gap == Approx(0.2e-3).epsilon(1e-6));
    CHECK(mesh.near_misses[0].area == Approx(pi * 25e-6).epsilon(1e-3));
    // What is covered is not exposed.
    CHECK(area_of(m, mesh, Selection{.parts = {"plate"}, .sides = {"+z"}}) == Approx(1600e-6 - pi * 25e-6).epsilon(1e-6));
    CHECK(area_of(m, mesh, Selection{.parts = {"post"}, .sides = {"side"}}) == Approx(2 * pi * 5e-3 * 14e-3).epsilon(1e-4));
    CHECK_THROWS_WITH(area_of(m, mesh, Selection{.parts = {"collar"}, .sides = {"bore"}}), Contains("picks no exposed surface"));

    m.add(Joint{.between = {"post", "lid"}, .resistance = 1e-4, .reach = 0.3_mm});
    const Mesh bridged = build_mesh(m);
    CHECK(pair_of(bridged, "post", "lid")->area == Approx(pi * 25e-6).epsilon(1e-3));
    CHECK(pair_of(bridged, "post", "lid")->mean_gap == Approx(0.2e-3).epsilon(1e-6));
    CHECK(bridged.near_misses.empty());
    m.add(convection(exposed(), 10.0, 300.0));
    CHECK(to_text(inspect(m, bridged)).find("facing each other") != std::string::npos);
}

TEST_CASE("a round part displaces an earlier one", "[mesh]") {
    Model m;
    m.mesh.cell = 2_mm;
    m.add(block("plate", {30_mm, 30_mm, 6_mm}, {}, "aluminium 6061-T6"));
    m.add(Part{.name = "stud", .shape = Cylinder{.radius = 4_mm, .length = 12_mm, .at = {15_mm, 15_mm, 0}}, .material = "copper"});
    const Mesh mesh = build_mesh(m);
    CHECK(mesh.bodies[0].volume == Approx(5400e-9 - pi * 16 * 6e-9).epsilon(1e-6));
    REQUIRE(mesh.overlaps.size() == 1);
    CHECK(mesh.overlaps[0].volume == Approx(pi * 16 * 6e-9).epsilon(1e-6));
    CHECK(mesh.pairs[0].area == Approx(2 * pi * 4e-3 * 6e-3).epsilon(1e-4));
}

TEST_CASE("rules pick curved surfaces by face, direction, region, plane and neighbour", "[mesh]") {
    Model m;
    m.mesh.cell = 1_mm;
    m.add(Part{.name = "rod", .shape = Cylinder{.radius = 6_mm, .length = 20_mm}, .material = "copper"});
    m.add(Part{.name = "foot", .shape = Cylinder{.radius = 6_mm, .length = 2_mm, .at = {0, 0, -2_mm}}, .material = "copper"});
    Selection spot{.parts = {"rod"}, .sides = {"top"}};
    spot.region = Sphere{.radius = 3_mm, .at = {0, 0, 20_mm}};
    m.add(Surface{.name = "spot", .pick = spot});
    const Mesh mesh = build_mesh(m);
    CHECK(area_of(m, mesh, Selection{.parts = {"rod"}, .sides = {"s*"}}) == Approx(2 * pi * 6e-3 * 20e-3).epsilon(1e-4));
    CHECK(area_of(m, mesh, m.surfaces[0].pick) == Approx(pi * 9e-6).epsilon(2e-3));
    CHECK(area_of(m, mesh, Selection{.parts = {"rod"}, .facing = {{1, 0, 0}}}) == Approx(0.25 * 2 * pi * 6e-3 * 20e-3).epsilon(0.1));
    CHECK(area_of(m, mesh, Selection{.parts = {"rod"}, .facing = {{1, 0, 0}}, .within = 89.0}) == Approx(0.5 * 2 * pi * 6e-3 * 20e-3).epsilon(0.1));
    CHECK(area_of(m, mesh, Selection{.sides = {"side"}, .beyond = {HalfSpace{.normal = {0, 0, 1}, .through = {0, 0, 10_mm}}}}) ==
          Approx(2 * pi * 6e-3 * 10e-3).epsilon(1e-3));
    CHECK(area_of(m, mesh, Selection{.sides = {"bottom"}, .touching = {"rod"}}) == Approx(pi * 36e-6).epsilon(1e-4));
    m.surfaces[0].pick.sides = {"lid"};
    CHECK_THROWS_WITH(build_mesh(m), Contains("no such face: \"lid\"; there are \"bottom\", \"side\", \"top\" and \"inner\""));
}

TEST_CASE("planes of symmetry at any angle, and sectors, share the product", "[mesh]") {
    Model whole;
    whole.mesh.cell = 1_mm;
    whole.add(Part{.name = "disc", .shape = Cylinder{.radius = 10_mm, .length = 3_mm}, .material = "stainless steel 1.4301"});
    whole.add(Part{.name = "pin", .shape = Cylinder{.radius = 2_mm, .length = 3_mm, .at = {6_mm, 0, 3_mm}}, .material = "stainless steel 1.4301"});
    whole.parts[1].repeat = {Repeat{.count = 6, .turn = 60.0}};
    whole.add(heat("pin", 6.0));
    whole.add(convection(exposed(), 40.0, 300.0));
    whole.add(Joint{.between = {"pin", "disc"}, .total = 2.0});
    const auto solve = [](const Model& m) {
        const SteadySolution s = solve_steady(m);
        return findings(m, s);
    };
    const Findings full = solve(whole);
    Model half = whole, sector = whole;
    half.add(Mirror{.keep = HalfSpace{.normal = {std::cos(pi / 6), std::sin(pi / 6), 0}, .through = {}}});
    sector.add(Sector{.pieces = 6, .from = -30.0});
    for (const Model& m : {half, sector}) {
        const Findings f = solve(m);
        // The planes cut through facets, and a facet is no exact share of the circle.
        CHECK(f.parts[0].volume == Approx(full.parts[0].volume).epsilon(1e-4));
        CHECK(f.parts[1].volume == Approx(full.parts[1].volume).epsilon(1e-4));
        CHECK(f.ledger.convection == Approx(6.0).epsilon(1e-8));
        CHECK(f.coolings[0].convection == Approx(6.0).epsilon(1e-6));
        CHECK(f.coolings[0].area == Approx(full.coolings[0].area).epsilon(1e-3));
        CHECK(f.hottest.temperature - 300.0 == Approx(full.hottest.temperature - 300.0).epsilon(3e-3));
        CHECK(f.joints[0].area == Approx(full.joints[0].area).epsilon(1e-3));
    }
}
