// Surface temperatures stay between what surrounds them, and smooth ones are left as they are.

#include "models.hpp"

#include "network/surface_bounds.hpp"

#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;

namespace {

/// A ball in a block whose surface the grid cuts, so that some box centres lie outside of it.
Model ball_in_a_block() {
    Model m;
    m.mesh.cell = 2_mm;
    m.materials = {plain("filling", 0.5), plain("steel", 20.0)};
    m.add(block("case", {20_mm, 20_mm, 20_mm}, {}, "filling"));
    m.add(Part{.name = "ball", .shape = Sphere{.radius = 6_mm, .at = {10_mm, 10_mm, 10_mm}}, .material = "steel"});
    m.add(Joint{.between = {"ball", "case"}, .resistance = 1e-4});
    m.add(heat("ball", 3_W));
    m.add(convection(exposed(), 30.0, 300.0));
    return m;
}

struct Fixture {
    Model model = ball_in_a_block();
    Mesh mesh = build_mesh(model);
    Network network = build_network(model, mesh, studies_of(model).front());
    std::vector<Index> all;
    Fixture() {
        for (Index i = 0; i < mesh.cells.size(); ++i) all.push_back(i);
    }
};

}  // namespace

TEST_CASE("a temperature between its anchors stays, one beyond is moved to the nearest and named", "[network]") {
    const Fixture f;
    const SurfaceBounds bounds(f.mesh, f.network, f.all);
    std::vector<double> rise(f.network.nodes);
    for (Index i = 0; i < f.network.nodes; ++i) rise[i] = 1000.0 * f.mesh.centre(i).x + 500.0 * f.mesh.centre(i).z;
    const NodeReading read = NodeTemperatures{300.0, rise};
    std::size_t bounded = 0;
    for (const Index cell : f.all) {
        const std::span<const Anchor> anchors = bounds.anchors(cell);
        if (anchors.empty()) continue;
        double low = 1e300, high = -1e300;
        for (const Anchor& a : anchors) {
            const double t = a.kind == Anchor::Kind::node   ? 300.0 + rise[a.index]
                             : a.kind == Anchor::Kind::wall ? wall_temperature(f.network, a.index, read).temperature
                                                            : std::nan("");
            if (std::isnan(t)) continue;
            low = std::min(low, t);
            high = std::max(high, t);
        }
        const std::array<Index, 1> one{cell};
        const double middle = 0.5 * (low + high);
        const Bounded inside = bounds.bound(middle, one, f.network, read);
        CHECK(inside.temperature == middle);
        CHECK_FALSE(inside.at.has_value());
        for (const double beyond : {-1e4, 1e4, HUGE_VAL, -HUGE_VAL}) {
            const Bounded moved = bounds.bound(beyond, one, f.network, read);
            CHECK(moved.temperature >= low - 1e-9);
            CHECK(moved.temperature <= high + 1e-9);
            REQUIRE(moved.at.has_value());
            CHECK(std::any_of(anchors.begin(), anchors.end(), [&](const Anchor& a) { return a.kind == moved.at->kind && a.index == moved.at->index; }));
        }
        ++bounded;
    }
    CHECK(bounded > 100);
}

TEST_CASE("a field that is straight is not cut off at any surface", "[network]") {
    // A slab between two faces held, standing at an angle to the grid: the field is straight, and every reading of a surface exact.
    Model m;
    m.mesh.cell = 2_mm;
    m.materials = {plain("steel", 20.0)};
    m.add(Part{.name = "slab",
               .shape = Box{.size = {20_mm, 16_mm, 12_mm}},
               .material = "steel",
               .rotate = {{.axis = {0.0, 1.0, 0.0}, .angle = 33.0}, {.axis = {0.0, 0.0, 1.0}, .angle = 20.0}}});
    m.add(Hold{.on = side("slab", Side::minus_x), .temperature = 300.0});
    m.add(Hold{.on = side("slab", Side::plus_x), .temperature = 400.0});
    const SteadySolution s = solve_steady(m);
    const Mesh& mesh = *s.mesh;
    const auto along = [&](Vec3 at) {
        // Back into the slab's own axes.
        const double a = -20.0 * std::acos(-1.0) / 180.0, b = -33.0 * std::acos(-1.0) / 180.0;
        const Vec3 p{std::cos(a) * at.x - std::sin(a) * at.y, std::sin(a) * at.x + std::cos(a) * at.y, at.z};
        return std::cos(b) * p.x + std::sin(b) * p.z;
    };
    // Cells that are too thin for a temperature of their own take that of their surface or neighbour: a cell's size away, on little area.
    double off = 0.0, area = 0.0, far = 0.0;
    for (std::size_t p = 0; p < mesh.patches.size(); ++p) {
        const double apart = std::abs(s.patch_temperature[p] - 300.0 - 100.0 * along(mesh.foot(p)) / 20e-3);
        CHECK(apart < 10.0);
        off += mesh.patches.area[p] * apart;
        far += apart > 0.1 ? mesh.patches.area[p] : 0.0;
        area += mesh.patches.area[p];
    }
    CHECK(off < 0.05 * area);
    CHECK(far < 0.05 * area);
    const std::vector<double> unbounded = [&] {
        Network open = *s.network;
        open.surface_bounds.reset();
        return patch_temperatures(mesh, open, s.nodes());
    }();
    std::size_t moved = 0;
    for (std::size_t p = 0; p < mesh.patches.size(); ++p) moved += std::abs(unbounded[p] - s.patch_temperature[p]) > 0.5 ? 1 : 0;
    CHECK(moved <= mesh.patches.size() / 100);
}

TEST_CASE("one hot cell does not throw the surfaces around it out of range", "[network]") {
    const Fixture f;
    for (const Index hot : {Index{5}, f.network.nodes / 2, f.network.nodes - 1}) {
        std::vector<double> rise(f.network.nodes, 0.0);
        rise[hot] = 100.0;
        for (const double t : patch_temperatures(f.mesh, f.network, {300.0, rise})) {
            CHECK(t >= 300.0 - 1e-9);
            CHECK(t <= 400.0 + 1e-9);
        }
    }
}
