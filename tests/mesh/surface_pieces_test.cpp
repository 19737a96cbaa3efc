// Pieces of the visible surface: closed around every body, of the right areas, each on what it says it lies on.

#include "mesh/surface_pieces.hpp"
#include "random_assemblies.hpp"

#include <catch2/catch.hpp>

#include <cmath>
#include <set>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;

namespace {

struct Sum {
    Vec3 closure{};
    double area = 0.0;
};

Vec3 area_of(const SurfacePieces& surface, const SurfacePiece& piece) {
    Vec3 sum;
    const auto corner = surface.of(piece);
    for (std::size_t i = 1; i + 1 < corner.size(); ++i) {
        const Vec3 origin = surface.corners[corner[0]];
        sum = sum + 0.5 * cross(surface.corners[corner[i]] - origin, surface.corners[corner[i + 1]] - origin);
    }
    return sum;
}

/// Faces of boxes that several pieces share count once.
Sum sum_of(const SurfacePieces& surface) {
    Sum out;
    std::set<std::pair<Index, Side>> seen;
    for (const SurfacePiece& piece : surface.pieces) {
        if (!piece.cuts && !seen.emplace(piece.cell, nearest_side(piece.normal)).second) continue;
        const Vec3 area = area_of(surface, piece);
        out.closure = out.closure + area;
        out.area += length(area);
    }
    return out;
}

PieceView only(const Mesh& mesh, Index body) {
    PieceView view{.hidden = std::vector<bool>(mesh.bodies.size(), true)};
    view.hidden[body] = false;
    return view;
}

}  // namespace

TEST_CASE("pieces close around every body, and lie on cells, patches and contacts of that body", "[mesh]") {
    for (unsigned seed = 1; seed <= 12; ++seed) {
        INFO("seed " << seed);
        const Mesh mesh = build_mesh(RandomAssembly(seed).make());
        for (Index b = 0; b < mesh.bodies.size(); ++b) {
            INFO(mesh.bodies[b].name);
            const SurfacePieces surface = surface_pieces(mesh, only(mesh, b));
            const Sum sum = sum_of(surface);
            REQUIRE(sum.area > 0.0);
            CHECK(length(sum.closure) < 1e-9 * sum.area);
            for (const SurfacePiece& piece : surface.pieces) {
                REQUIRE(piece.body == b);
                REQUIRE(mesh.cells.body[piece.cell] == b);
                CHECK_FALSE(piece.inner);
                CHECK(piece.count >= 3);
                const bool of_contact = piece.on == SurfacePiece::On::first_of_contact || piece.on == SurfacePiece::On::second_of_contact;
                if (piece.on == SurfacePiece::On::patch) CHECK(mesh.patches.cell[piece.place] == piece.cell);
                if (of_contact) CHECK((piece.on == SurfacePiece::On::first_of_contact ? mesh.contacts.first : mesh.contacts.second)[piece.place] == piece.cell);
                const Vec3 area = area_of(surface, piece);
                CHECK(dot(area, piece.normal) >= -1e-9 * length(area));
            }
        }
    }
}

TEST_CASE("a section is closed by inner pieces, and corners take the mean of what meets there", "[mesh]") {
    Model model;
    model.mesh.cell = 2_mm;
    model.add(Part{.name = "block", .shape = Box{.size = {20_mm, 10_mm, 8_mm}, .at = {}}, .material = "copper"});
    const Mesh mesh = build_mesh(model);
    const std::vector<bool> shown(1, false);
    const double whole = 2.0 * (20.0 * 10.0 + 20.0 * 8.0 + 10.0 * 8.0) * 1e-6;
    CHECK(sum_of(surface_pieces(mesh, {.hidden = shown})).area == Approx(whole));

    const SurfacePieces cut = surface_pieces(mesh, {.hidden = shown, .section = HalfSpace{.normal = {1.0, 0.0, 0.0}, .through = {7_mm, 0.0, 0.0}}});
    double inner = 0.0;
    for (const SurfacePiece& piece : cut.pieces) {
        if (piece.inner) inner += length(area_of(cut, piece));
    }
    CHECK(inner == Approx(10.0 * 8.0 * 1e-6));
    CHECK(length(sum_of(cut).closure) < 1e-9 * whole);

    // Values that are linear in space come back as they are; values of pieces are averaged.
    const SurfacePieces all = surface_pieces(mesh, {.hidden = shown});
    const std::vector<double> linear = corner_values(all, [](const SurfacePiece&, Vec3 p) { return 3.0 + 100.0 * p.x; });
    for (std::size_t c = 0; c < linear.size(); ++c) CHECK(linear[c] == Approx(3.0 + 100.0 * all.corners[c].x));
    const std::vector<double> of_cells = corner_values(all, [&](const SurfacePiece& piece, Vec3) { return mesh.centre(piece.cell).x; });
    for (std::size_t c = 0; c < of_cells.size(); ++c) CHECK(std::abs(of_cells[c] - all.corners[c].x) <= 1_mm + 1e-12);
}
