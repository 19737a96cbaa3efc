// Rules that pick faces by what they are like, on solids of every kind.

#include "cli/bench.hpp"
#include "models.hpp"
#include "random_assemblies.hpp"

#include <catch2/catch.hpp>

#include <cmath>
#include <numbers>

using namespace firnfield;
using namespace firnfield::test;
using namespace firnfield::literals;
using Catch::Matchers::Contains;

namespace {

constexpr double pi = std::numbers::pi;

/// Exposed area that a rule picks, m², of the whole product.
double picked(const Model& m, const Selection& rule) {
    const Mesh mesh = build_mesh(m);
    double sum = 0.0;
    for (const Index p : select_patches(m, mesh, rule, "rule")) sum += mesh.multiplicity * mesh.patches.area[p];
    return sum;
}

/// The area that a rule which stands in the model as its first surface picks.
double picked_by_surface(Model m, FacePick faces, std::vector<std::string> parts = {}) {
    Selection rule;
    rule.parts = std::move(parts);
    rule.faces = std::move(faces);
    m.surfaces.push_back(Surface{.name = "meant", .pick = rule});
    return picked(m, rule);
}

FacePick kind(std::string_view name) {
    FacePick pick;
    pick.kind = {std::string(name)};
    return pick;
}

/// A bracket: a plate with three drilled holes, a slot of arcs and a hub with a bore.
Model bracket() {
    Model m{.title = "Bracket"};
    m.mesh.cell = 2_mm;
    Part plate{.name = "plate", .shape = Box{.size = {60_mm, 30_mm, 5_mm}, .at = {}}, .material = "aluminium 6061-T6"};
    plate.holes = {
        Cylinder{.radius = 2_mm, .length = 5_mm, .at = {10_mm, 8_mm, 0.0}}, Cylinder{.radius = 3_mm, .length = 5_mm, .at = {10_mm, 22_mm, 0.0}},
        Cylinder{.radius = 3_mm, .length = 5_mm, .at = {30_mm, 22_mm, 0.0}},
        Prism{.outline = {arc_to(40_mm, 6_mm, 37_mm, 9_mm), line_to(50_mm, 6_mm), arc_to(50_mm, 12_mm, 53_mm, 9_mm), line_to(40_mm, 12_mm)}, .length = 5_mm}};
    m.add(plate);
    m.add(Part{
        .name = "hub", .shape = Tube{.outer_radius = 7_mm, .inner_radius = 3_mm, .length = 12_mm, .at = {0.0, 0.0, 40_mm}}, .material = "aluminium 6061-T6"});
    return m;
}

/// The same solids out of an STL or STEP file.
Model from_file(const Bench& bench, const Model& m, const std::string& extension) {
    Model out = m;
    for (Part& part : out.parts) {
        const std::filesystem::path file = bench.work() / (part.name + extension);
        if (extension == ".stl") {
            write_stl(file, part_surface(m, part.name, 0.005_mm));
            const StlImport import = read_stl(file, 1e-3);
            part.shape = Solid{.surface = import.surface, .source = file.string(), .unit = "mm"};
        } else {
            write_step(file, m, part.name);
            const StepImport import = read_step(file);
            part.shape = cad_solid(import, file.string(), import.solids.front().name);
        }
        part.holes.clear();
    }
    return out;
}

}  // namespace

TEST_CASE("faces are picked by kind, diameter and area, of own solids and of files alike", "[mesh]") {
    const Bench bench;
    const Model own = bracket();
    const double bores = pi * 5e-3 * (4e-3 + 2.0 * 6e-3) + pi * 12e-3 * 6e-3, slot_ends = pi * 3e-3 * 5e-3 * 2.0;
    for (const std::string& from : {std::string(), std::string(".step"), std::string(".stl")}) {
        INFO("from " << (from.empty() ? "own solids" : from));
        const Model m = from.empty() ? own : from_file(bench, own, from);
        const double near = from == ".stl" ? 2e-2 : 2e-3;
        CHECK(picked_by_surface(m, kind("bore")) == Approx(bores + slot_ends).epsilon(near));
        CHECK(picked_by_surface(m, kind("cylinder")) == Approx(pi * 14e-3 * 12e-3).epsilon(near));
        FacePick six = kind("bore");
        six.diameter = {6_mm};
        six.area = {80e-6, 300e-6};
        CHECK(picked_by_surface(m, six) == Approx(2.0 * pi * 6e-3 * 5e-3 + pi * 6e-3 * 12e-3).epsilon(near));
        six.diameter = {3_mm, 5_mm};
        six.area.clear();
        CHECK(picked_by_surface(m, six) == Approx(pi * 4e-3 * 5e-3).epsilon(near));
        FacePick large;
        large.area = {1000e-6, 1.0};
        const double holes = pi * (4e-6 + 2.0 * 9e-6) + pi * 9e-6 + 6e-3 * 10e-3;
        CHECK(picked_by_surface(m, large) == Approx(2.0 * (1800e-6 - holes)).epsilon(near));
        CHECK(picked_by_surface(m, large, {"plate"}) == Approx(2.0 * (1800e-6 - holes)).epsilon(near));
        FacePick slot;  // one wall of the slot, from which all four join smoothly
        slot.smooth_from = Vec3{45_mm, 6_mm, 2_mm};
        CHECK(picked_by_surface(m, slot) == Approx(slot_ends + 2.0 * 10e-3 * 5e-3).epsilon(near));
        slot.kind = {"plane"};
        CHECK(picked_by_surface(m, slot) == Approx(2.0 * 10e-3 * 5e-3).epsilon(near));
        FacePick within;
        within.inside = true;
        // The four walls of the slot see each other; drilled holes and the bore of the hub close around themselves.
        CHECK(picked_by_surface(m, within) >= Approx(bores + slot_ends).epsilon(near));
        CHECK(picked_by_surface(m, within) <= Approx(bores + slot_ends + 2.0 * 10e-3 * 5e-3).epsilon(near));
    }
}

TEST_CASE("what rules say about faces holds in mirrors, sectors, plane and revolved models and for parts made of boxes", "[mesh]") {
    SECTION("a mirror") {
        Model m = bracket();
        const double whole = picked_by_surface(m, kind("bore"), {"hub"});
        m.mirrors = {Mirror{.axis = 0, .at = 0.0, .keep_plus = true}};
        CHECK(picked_by_surface(m, kind("bore"), {"hub"}) == Approx(whole).epsilon(1e-3));
        FacePick area;  // of the whole face, although the mirror leaves half of it
        area.area = {pi * 6e-3 * 12e-3};
        CHECK(picked_by_surface(m, area, {"hub"}) == Approx(whole).epsilon(1e-3));
    }
    SECTION("a sector") {
        Model m{.title = "Ring"};
        m.mesh.cell = 1_mm;
        m.add(Part{.name = "hub", .shape = Tube{.outer_radius = 7_mm, .inner_radius = 3_mm, .length = 12_mm}, .material = "copper"});
        m.sector = Sector{.pieces = 6};
        FacePick bore = kind("bore");
        bore.diameter = {6_mm};
        bore.inside = true;
        CHECK(picked_by_surface(m, bore) == Approx(pi * 6e-3 * 12e-3).epsilon(2e-3));
    }
    SECTION("a revolved model") {
        Model m{.title = "Bottle"};
        m.space = Space{.revolved = true};
        m.mesh.cell = 1_mm;
        m.add(Part{.name = "bottle",
                   .shape = Revolution{.outline = {line_to(5_mm, 0.0), line_to(12_mm, 0.0), line_to(12_mm, 30_mm), arc_to(8_mm, 34_mm, 10.8284_mm, 32.8284_mm),
                                                   line_to(5_mm, 34_mm)}},
                   .material = "copper"});
        CHECK(picked_by_surface(m, kind("bore")) == Approx(pi * 10e-3 * 34e-3).epsilon(2e-3));
        FacePick within;
        within.inside = true;
        CHECK(picked_by_surface(m, within) == Approx(pi * 10e-3 * 34e-3).epsilon(2e-3));
        FacePick area;
        area.area = {pi * 24e-3 * 30e-3};
        CHECK(picked_by_surface(m, area) == Approx(pi * 24e-3 * 30e-3).epsilon(2e-3));
        FacePick smooth;  // the outer wall goes over into the shoulder and its top
        smooth.smooth_from = Vec3{12_mm, 0.0, 10_mm};
        const double shoulder = picked_by_surface(m, kind("torus"));
        CHECK(shoulder > 0.0);
        CHECK(picked_by_surface(m, smooth) == Approx(pi * 24e-3 * 30e-3 + shoulder + pi * (64e-6 - 25e-6)).epsilon(2e-3));
    }
    SECTION("a plane model") {
        Model m{.title = "Profile"};
        m.space = Space{.depth = 10_mm};
        m.mesh.cell = 1_mm;
        m.add(Part{.name = "profile", .shape = Box{.size = {40_mm, 20_mm, 10_mm}, .at = {}}, .material = "copper"});
        m.parts.back().holes = {Cylinder{.radius = 6_mm, .length = 10_mm, .at = {20_mm, 10_mm, 0.0}}};
        FacePick within;
        within.inside = true;
        CHECK(picked_by_surface(m, within) == Approx(pi * 12e-3 * 10e-3).epsilon(2e-3));
        within.inside = false;
        CHECK(picked_by_surface(m, within) == Approx(2.0 * (40e-3 + 20e-3) * 10e-3).epsilon(2e-3));
    }
    SECTION("boxes with holes of boxes") {
        Model m{.title = "Crate"};
        m.mesh.cell = 2_mm;
        m.add(block("crate", {40_mm, 30_mm, 20_mm}, {}, "copper"));
        m.parts.back().holes = {Box{.size = {20_mm, 10_mm, 10_mm}, .at = {10_mm, 10_mm, 5_mm}}};
        FacePick within;
        within.inside = true;
        const double cavity = 2.0 * (20.0 * 10.0 + 20.0 * 10.0 + 10.0 * 10.0) * 1e-6, skin = 2.0 * (40.0 * 30.0 + 40.0 * 20.0 + 30.0 * 20.0) * 1e-6;
        CHECK(picked_by_surface(m, within) == Approx(cavity).epsilon(1e-9));
        CHECK(picked_by_surface(m, kind("plane")) == Approx(cavity + skin).epsilon(1e-9));
        FacePick area;
        area.area = {1100e-6, 1300e-6};
        CHECK(picked_by_surface(m, area) == Approx(2.0 * 40e-3 * 30e-3).epsilon(1e-9));
        m.parts.back().holes.clear();
        CHECK(picked_by_surface(m, area) == Approx(2.0 * 40e-3 * 30e-3).epsilon(1e-9));
    }
    SECTION("a screw that displaces the wall of its hole leaves no face that a rule could mean") {
        Model m{.title = "Screw"};
        m.mesh.cell = 1_mm;
        m.add(block("plate", {20_mm, 20_mm, 6_mm}, {}, "copper"));
        m.add(Part{.name = "screw", .shape = Cylinder{.radius = 3_mm, .length = 10_mm, .at = {10_mm, 10_mm, 2_mm}}, .material = "copper"});
        CHECK(picked_by_surface(m, kind("cylinder")) == Approx(pi * 6e-3 * 6e-3).epsilon(5e-3));
    }
}

TEST_CASE("boxes that stand turned or mirrored along the axes have their faces where they look, and rules of left-out parts rest", "[mesh]") {
    Model m{.title = "Turned"};
    m.mesh.cell = 2_mm;
    m.add(block("bar", {40_mm, 30_mm, 20_mm}, {}, "copper"));
    FacePick ends;  // 30 × 20, across the longest edge
    ends.area = {600e-6};
    for (const Vec3 axis : {Vec3{0.0, 0.0, 1.0}, Vec3{0.0, 1.0, 0.0}, Vec3{1.0, 0.0, 0.0}}) {
        m.parts.front().rotate = {{.axis = axis, .angle = 90.0}};
        Selection rule;
        rule.faces = ends;
        m.surfaces = {Surface{.name = "ends", .pick = rule}};
        const Mesh mesh = build_mesh(m);
        CHECK(mesh.bodies.front().surface == no_index);  // still built of boxes
        double sum = 0.0;
        for (const Index p : select_patches(m, mesh, rule, "rule")) {
            sum += mesh.patches.area[p];
            // The longest edge lay along x before.
            const Vec3 along = axis.z != 0.0 ? Vec3{0.0, 1.0, 0.0} : axis.y != 0.0 ? Vec3{0.0, 0.0, 1.0} : Vec3{1.0, 0.0, 0.0};
            CHECK(std::abs(dot(mesh.patches.normal[p], along)) == Approx(1.0));
        }
        CHECK(sum == Approx(1200e-6).epsilon(1e-9));
    }
    m.parts.front().rotate = {{.axis = {0.0, 0.0, 1.0}, .angle = 90.0}};
    FacePick at;
    at.smooth_from = Vec3{-15_mm, 40_mm, 10_mm};
    CHECK(picked_by_surface(m, at) == Approx(600e-6).epsilon(1e-9));

    m.surfaces.clear();
    m.add(block("knob", {10_mm, 10_mm, 10_mm}, {100_mm, 0.0, 0.0}, "copper"));
    Cooling fan = convection(Selection{}, 20.0, 300.0);
    fan.on.parts = {"knob"};
    fan.on.faces.smooth_from = Vec3{105_mm, 5_mm, 10_mm};
    m.add(fan);
    m.add(convection(exposed(), 5.0, 300.0));
    m.add(heat("bar", 1.0));
    CHECK_NOTHROW(solve_steady(m));
    m.parts[1].include = false;
    CHECK_NOTHROW(solve_steady(m));
    m.parts[1].include = true;
    m.coolings[0].on.faces.smooth_from = Vec3{105_mm, 5_mm, 60_mm};
    CHECK_THROWS_WITH(solve_steady(m), Contains("cooling[0].on.smooth_from") && Contains("50.0 mm away"));
    m.coolings[0].include = false;
    CHECK_NOTHROW(solve_steady(m));
    Selection foreign;
    foreign.faces = kind("plane");
    CHECK_THROWS_WITH(select_patches(m, build_mesh(m), foreign, "mine"), Contains("mine") && Contains("one of the model"));
}

TEST_CASE("rules about faces divide the surface of any assembly without rest", "[property]") {
    for (unsigned seed = 1; seed <= many(20); ++seed) {
        INFO("seed " << seed);
        Model m = random_assembly_of_shapes(seed);
        const double all = picked(m, Selection{});
        std::vector<FacePick> picks;
        for (const FaceKind k : face_kinds) picks.push_back(kind(name_of(k)));
        for (const bool inside : {true, false}) {
            FacePick where;
            where.inside = inside;
            picks.push_back(where);
        }
        for (std::size_t n = 0; n < picks.size(); ++n) {
            Selection rule;
            rule.faces = picks[n];
            m.surfaces.push_back(Surface{.name = fmt::format("picked {}", n), .pick = rule});
        }
        const Mesh mesh = build_mesh(m);
        const auto area = [&](std::size_t n) {
            double sum = 0.0;
            try {
                for (const Index p : select_patches(m, mesh, m.surfaces[m.surfaces.size() - picks.size() + n].pick, "rule"))
                    sum += mesh.multiplicity * mesh.patches.area[p];
            } catch (const ModelError& error) {
                CHECK_THAT(error.what(), Contains("picks no exposed surface"));  // there is none of that kind
            }
            return sum;
        };
        double of_kinds = 0.0;
        for (std::size_t n = 0; n < face_kinds.size(); ++n) of_kinds += area(n);
        CHECK(of_kinds == Approx(all).epsilon(1e-3));  // a body that rules speak of may be cut where it was made of boxes
        CHECK(area(face_kinds.size()) + area(face_kinds.size() + 1) == Approx(all).epsilon(1e-3));
    }
}

TEST_CASE("what a rule says about faces is refused where it cannot be", "[mesh]") {
    const auto says = [](const std::string& rule) {
        const std::string text =
            "firnfield = 1\n[units]\nlength = \"mm\"\ntemperature = \"degC\"\n[[part]]\nname = \"plate\"\nmaterial = \"copper\"\nsize = [40, 30, "
            "5]\n[[power]]\ninto = \"plate\"\ntotal = \"1 W\"\n[[cooling]]\nconvection = "
            "\"5 W/(m^2 K)\"\nambient = 20\non = "
            "{ " +
            rule + " }\n";
        try {
            static_cast<void>(build_mesh(read_model_text(text)));
        } catch (const Error& error) {
            return std::string(error.what());
        }
        return std::string("nothing");
    };
    CHECK_THAT(says("kind = \"bores\""), Contains("no kind of face: \"bores\"") && Contains("did you mean \"bore\""));
    CHECK_THAT(says("diameter = [6, 4]"), Contains("the smallest comes first"));
    CHECK_THAT(says("diameter = [1, 2, 3]"), Contains("found 3 values"));
    CHECK_THAT(says("diameter = -4"), Contains("diameter"));
    CHECK_THAT(says("area = []"), Contains("area"));
    CHECK_THAT(says("kind = []"), Contains("kind"));
    CHECK_THAT(says("inside = \"yes\""), Contains("inside"));
    CHECK_THAT(says("smooth_from = [40, 0, 60]"), Contains("the nearest is 55.0 mm away"));
    CHECK(says("smooth_from = [20, 20, 5.01]") == "nothing");
}
