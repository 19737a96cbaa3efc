// STEP files: solids out and in again, assemblies as parts of a model, and what is broken.

#include "cli/bench.hpp"
#include "models.hpp"

#include <catch2/catch.hpp>

#include <cmath>
#include <numbers>

#include <sys/stat.h>

using namespace firnfield;
using namespace firnfield::test;
using namespace firnfield::literals;
using Catch::Matchers::Contains;

namespace {

constexpr double pi = std::numbers::pi;

Part solid(std::string name, Shape shape, std::string material = "copper") {
    return {.name = std::move(name), .shape = std::move(shape), .material = std::move(material)};
}

/// One part of every shape, apart from each other, some turned, repeated, mirrored and scaled.
Model all_shapes() {
    Model m{.title = "All shapes"};
    m.add(solid("box", Box{.size = {20_mm, 10_mm, 5_mm}, .at = {}}));
    m.parts.back().holes = {Cylinder{.radius = 2_mm, .length = 5_mm, .at = {6_mm, 5_mm, 0.0}}};
    m.add(solid("rod", Cylinder{.radius = 4_mm, .length = 30_mm, .at = {0.0, 40_mm, 0.0}, .along = 0}));
    m.parts.back().repeat = {Repeat{.count = 3, .step = {0.0, 20_mm, 0.0}}};
    m.add(solid("tube", Tube{.outer_radius = 8_mm, .inner_radius = 5_mm, .length = 12_mm, .at = {60_mm, 0.0, 0.0}}));
    m.parts.back().rotate = {{.axis = {1.0, 2.0, 0.5}, .angle = 37.0}};
    m.add(solid("wedge", Tube{.outer_radius = 8_mm, .inner_radius = 5_mm, .length = 12_mm, .angle = 75.0, .at = {90_mm, 0.0, 0.0}}));
    m.parts.back().mirrored = 1;
    m.add(solid("ball", Sphere{.radius = 6_mm, .at = {120_mm, 0.0, 0.0}}));
    m.add(solid("cone", Cone{.lower_radius = 9_mm, .upper_radius = 3_mm, .length = 14_mm, .at = {150_mm, 0.0, 0.0}}));
    m.parts.back().scale = 1.5;
    m.add(solid("point", Cone{.lower_radius = 5_mm, .upper_radius = 0.0, .length = 8_mm, .at = {180_mm, 0.0, 0.0}}));
    m.add(solid("plate", Prism{.outline = {line_to(0.0, 0.0), line_to(30_mm, 0.0), arc_to(30_mm, 20_mm, 40_mm, 10_mm), line_to(0.0, 20_mm)},
                               .holes = {{line_to(5_mm, 5_mm), line_to(10_mm, 5_mm), line_to(10_mm, 12_mm)}},
                               .length = 4_mm,
                               .at = {0.0, -60_mm, 0.0}}));
    m.add(solid("ring", Revolution{.outline = {line_to(10_mm, 0.0), line_to(14_mm, 0.0), arc_to(14_mm, 6_mm, 17_mm, 3_mm), line_to(10_mm, 6_mm)},
                                   .at = {80_mm, -60_mm, 0.0}}));
    return m;
}

StepImport round_trip(const Bench& bench, const Model& m, const std::string& part = "") {
    write_step(bench.work() / "m.step", m, part);
    return read_step(bench.work() / "m.step");
}

double true_area(const ExactSolid& of) {
    double sum = 0.0;
    for (const ExactFace& face : of.faces()) sum += face.area;
    return sum;
}

/// By area as the facets tell it with their factors.
double told_area(const ClosedSurface& surface) {
    double sum = 0.0;
    for (std::size_t t = 0; t < surface.triangles.size(); ++t) {
        const auto& c = surface.triangles[t];
        sum += surface.faces[surface.face[t]].area_factor * 0.5 *
               length(cross(surface.corners[c[1]] - surface.corners[c[0]], surface.corners[c[2]] - surface.corners[c[0]]));
    }
    return sum;
}

void require_closed(const ClosedSurface& surface) {
    std::map<std::pair<std::uint32_t, std::uint32_t>, int> sides;
    for (const auto& t : surface.triangles) {
        for (std::size_t k = 0; k < 3; ++k) sides[{std::min(t[k], t[(k + 1) % 3]), std::max(t[k], t[(k + 1) % 3])}] += t[k] < t[(k + 1) % 3] ? 1 : -1;
    }
    for (const auto& [side, balance] : sides) REQUIRE(balance == 0);
}

/// A pump head: a bored flange, a hollow dome on it, two studs through both.
Model pump_head() {
    Model m{.title = "Pump head"};
    m.mesh.cell = 2_mm;
    m.add(solid("flange", Cylinder{.radius = 30_mm, .length = 6_mm}, "aluminium 6061-T6"));
    m.parts.back().holes = {Cylinder{.radius = 2.5_mm, .length = 6_mm, .at = {24_mm, 0.0, 0.0}},
                            Cylinder{.radius = 2.5_mm, .length = 6_mm, .at = {-24_mm, 0.0, 0.0}}};
    m.add(solid("dome", Cone{.lower_radius = 20_mm, .upper_radius = 12_mm, .length = 20_mm, .at = {0.0, 0.0, 6_mm}}, "brass CuZn37"));
    m.parts.back().holes = {Sphere{.radius = 8_mm, .at = {0.0, 0.0, 9_mm}}};
    m.add(solid("stud", Cylinder{.radius = 2.5_mm, .length = 30_mm, .at = {24_mm, 0.0, 0.0}}, "stainless steel 1.4301"));
    m.parts.back().repeat = {Repeat{.count = 2, .turn = 180.0}};
    return m;
}

void add_heat(Model& m) {
    m.add(heat("dome", 20_W));
    m.add(Joint{.name = "seat", .between = {"dome", "flange"}, .resistance = 1e-4});
    m.add(Joint{.between = {"stud", "flange"}, .resistance = 1e-5});
    m.add(convection(exposed(), 25.0, 25_degC));
    m.add(Study{.name = "steady", .ambient = 25_degC});
}

}  // namespace

TEST_CASE("faces keep their names when other solids of the file change", "[io]") {
    const Bench bench;
    const auto names = [&](const Model& m) {
        std::vector<std::string> out;
        const StepImport import = round_trip(bench, m);
        for (const ExactFace& face : import.solid("flange").geometry->faces()) out.push_back(fmt::format("{} {:.6g} {:.6g}", face.name, face.area, face.at.x));
        std::sort(out.begin(), out.end());
        return out;
    };
    Model m = pump_head();
    const std::vector<std::string> before = names(m);
    m.parts[1].holes.clear();
    m.add(solid("washer", Tube{.outer_radius = 5_mm, .inner_radius = 2.5_mm, .length = 1_mm, .at = {24_mm, 0.0, 30_mm}}));
    std::rotate(m.parts.begin(), m.parts.begin() + 1, m.parts.end());
    CHECK(names(m) == before);
}

TEST_CASE("a solid that is there twice is told, left out of a first model, and refused where it is not", "[io]") {
    const Bench bench;
    Model m{.title = "Twice"};
    m.add(solid("plate", Cylinder{.radius = 20_mm, .length = 5_mm}));
    m.add(solid("knob", Cone{.lower_radius = 6_mm, .upper_radius = 4_mm, .length = 8_mm, .at = {0.0, 0.0, 5_mm}}));
    m.add(solid("knob again", Cone{.lower_radius = 6_mm, .upper_radius = 4_mm, .length = 8_mm, .at = {0.0, 0.0, 5_mm}}));
    m.add(solid("knob elsewhere", Cone{.lower_radius = 6_mm, .upper_radius = 4_mm, .length = 8_mm, .at = {12_mm, 0.0, 5_mm}}));
    // Blades that cross in their middles are as large and stand about the same point.
    m.add(solid("blade", Box{.size = {30_mm, 4_mm, 1_mm}, .at = {-15_mm, -2_mm, 30_mm}}));
    m.add(solid("blade across", Box{.size = {4_mm, 30_mm, 1_mm}, .at = {-2_mm, -15_mm, 30_mm}}));
    const StepImport import = round_trip(bench, m);
    const std::string told = to_text(import);
    CHECK_THAT(told, !Contains("\"blade across\" stands"));
    CHECK_THAT(told, Contains("\"knob again\" stands where \"knob\" stands") && !Contains("\"knob elsewhere\" stands"));
    const std::string first = first_model(import, "m.step");
    CHECK_THAT(first, Contains("leave_out = [\"knob again\"]") && Contains("\"plate\" and \"knob"));
    Assembly assembly{.file = "m.step", .leave_out = {"blade*"}};
    Model all{.parts = parts_of(assembly, import)};
    all.add(heat("plate", 1.0));
    all.add(convection(exposed(), 10.0, 300.0));
    CHECK_THROWS_WITH(build_mesh(all), Contains("nothing is left of \"knob\"") && Contains("\"knob again\""));
}

TEST_CASE("materials of an assembly go by names of solids, of all their copies, or of what they are in; what means nothing is refused", "[io]") {
    const Bench bench;
    const StepImport import = round_trip(bench, pump_head());
    const auto material_of_stud = [&](const std::string& pattern) {
        Assembly assembly{.file = "m.step", .materials = {{pattern, "titanium grade 2"}}};
        for (const Part& part : parts_of(assembly, import)) {
            if (part.name == "stud") return part.material;
        }
        return std::string("none");
    };
    for (const char* pattern : {"stud", "stud *", "st*"}) CHECK(material_of_stud(pattern) == "titanium grade 2");
    CHECK(material_of_stud("dome") == "stainless steel 1.4301");
    CHECK_THROWS_WITH(material_of_stud("studd"), Contains("nothing in the file is called \"studd\"") && Contains("did you mean \"stud\""));
    CHECK_THROWS_WITH(material_of_stud("stud 1"), Contains("means 1 of the 2 copies of \"stud\""));
    // "d*" is the dome, and not all that is in an assembly of such a name.
    StepImport nested = import;
    for (StepSolid& s : nested.solids) {
        for (StepCopy& copy : s.copies) copy.within = "drive";
    }
    const auto materials = [&](const std::string& pattern) {
        std::string out;
        for (const Part& part : parts_of(Assembly{.file = "m.step", .materials = {{pattern, "copper"}}}, nested))
            out += part.material == "copper" ? part.name + " " : "";
        return out;
    };
    CHECK(materials("d*") == "dome ");
    CHECK(materials("drive/*") == "flange dome stud ");
}

TEST_CASE("solids of every shape go out and come in again with their names, places, faces and sizes", "[io]") {
    const Bench bench;
    Model m = all_shapes();
    for (Part& part : m.parts) part.colour = part.name == "rod" ? "#b87333" : part.name == "ball" ? "#0A0b0C" : "";
    const StepImport import = round_trip(bench, m);
    const std::vector<Part> parts =
        parts_of(Assembly{.file = "m.step", .materials = {{"*", "copper"}}, .parts = {{.name = "b*", .colour = "#ffffff"}}}, import);
    for (const Part& part : parts) CHECK(part.colour == (part.name == "rod" ? "#B87333" : part.name.starts_with("b") ? "#ffffff" : ""));
    CHECK(import.schema == "AP214");
    REQUIRE(import.solids.size() == m.parts.size());
    const auto by_hand = std::map<std::string, double>{
        {"box", 20e-3 * 10e-3 * 5e-3 - pi * 4e-6 * 5e-3},
        {"rod", pi * 16e-6 * 30e-3},
        {"tube", pi * (64e-6 - 25e-6) * 12e-3},
        {"wedge", pi * (64e-6 - 25e-6) * 12e-3 * 75.0 / 360.0},
        {"ball", 4.0 / 3.0 * pi * 216e-9},
        {"cone", std::pow(1.5, 3) * pi / 3.0 * 14e-3 * (81e-6 + 27e-6 + 9e-6)},
        {"point", pi / 3.0 * 25e-6 * 8e-3},
        {"plate", (30e-3 * 20e-3 + 0.5 * pi * 100e-6 - 0.5 * 5e-3 * 7e-3) * 4e-3},
    };
    for (const StepSolid& s : import.solids) {
        INFO(s.name);
        REQUIRE(s.geometry);
        CHECK(s.repairs.empty());
        CHECK(s.material == "copper");
        CHECK(s.colour == (s.name == "rod" ? "#B87333" : s.name == "ball" ? "#0A0B0C" : ""));
        CHECK(s.copies.size() == (s.name == "rod" ? 3 : 1));
        if (const auto known = by_hand.find(s.name); known != by_hand.end()) CHECK(s.geometry->volume() == Approx(known->second).epsilon(1e-6));
        for (const double chord : {1_mm, 0.02_mm}) {
            const ClosedSurface facets = s.geometry->facets(chord);
            require_closed(facets);
            CHECK(volume(facets) == Approx(s.geometry->volume()).epsilon(1e-9));
            CHECK(told_area(facets) == Approx(true_area(*s.geometry)).epsilon(1e-6));
        }
        // Where it stands: as the model's own solid does.
        const CadSolid shape = cad_solid(import, "m.step", s.name, {1});
        const std::string copy = s.name == "rod" ? "rod 1" : s.name;
        const Box here = bounds(triangulate(shape, 1e-6)), there = bounds(part_surface(m, copy, 1e-6));
        for (int axis = 0; axis < 3; ++axis) {
            CHECK(here.at[axis] == Approx(there.at[axis]).margin(5e-6));
            CHECK(here.size[axis] == Approx(there.size[axis]).margin(1e-5));
        }
    }
    const auto face = [&](const std::string& of, const std::string& name) {
        for (const ExactFace& f : import.solid(of).geometry->faces()) {
            if (f.name == name) return f;
        }
        FAIL(of << " has no face " << name);
        return ExactFace{};
    };
    CHECK(*face("box", "bore 1").diameter == Approx(4_mm));
    CHECK(face("box", "plane 1").area == Approx(200e-6 - pi * 4e-6));
    CHECK(*face("tube", "cylinder 1").diameter == Approx(16_mm));
    CHECK(*face("tube", "bore 1").diameter == Approx(10_mm));
    CHECK(*face("ball", "sphere 1").diameter == Approx(12_mm));
    CHECK(face("cone", "cone 1").kind == FaceKind::cone);
    CHECK(face("ring", "curved 1").kind == FaceKind::curved);
    CHECK(*face("ring", "bore 1").diameter == Approx(20_mm));
    CHECK_THROWS_WITH(import.solid("bal"), Contains("did you mean \"ball\""));
    CHECK_THROWS_WITH(cad_solid(import, "m.step", "rod", {4}), Contains("3 copies"));
    CHECK_THROWS_WITH(round_trip(bench, m, "bal"), Contains("did you mean \"ball\""));
    CHECK(round_trip(bench, m, "rod 2").solids.size() == 1);
    // Names as people write them, two that would be alike as parts, and a copy's name that is another solid's.
    Model named;
    named.add(solid("Gehäuse \"µ\" M3*8", Box{.size = {5_mm, 5_mm, 5_mm}, .at = {}}));
    named.add(solid("plate", Box{.size = {5_mm, 5_mm, 5_mm}, .at = {20_mm, 0.0, 0.0}}));
    named.parts.back().repeat = {Repeat{.count = 3, .step = {0.0, 20_mm, 0.0}}};
    named.add(solid("symmetry", Box{.size = {5_mm, 5_mm, 5_mm}, .at = {40_mm, 0.0, 0.0}}));
    StepImport names = round_trip(bench, named);
    CHECK(names.solids[0].name == "Gehäuse \"µ\" M3*8");
    std::string clash = content(bench.work() / "m.step");
    for (std::size_t at = clash.find("'symmetry'"); at != std::string::npos; at = clash.find("'symmetry'")) clash.replace(at, 10, "'plate 2'");
    names = read_step_bytes(clash, "clash.step");
    CHECK(names.solids[1].name == "plate (2)");
    CHECK(names.solids[2].name == "plate 2");
    Model clashing;
    for (const Part& part : parts_of({.file = "clash.step", .materials = {{"*", "copper"}}}, names)) clashing.add(part);
    clashing.add(convection(exposed(), 5.0, 25_degC));
    CHECK(validate(clashing).empty());
    Part bored = block("block", {30_mm, 30_mm, 30_mm}, {}, "copper");
    bored.holes = {cad_solid(names, "clash.step", "plate (2)")};
    clashing.add(bored);
    CHECK_THAT(ModelError(validate(clashing)).what(), Contains("holes[0]") && Contains("take one of them"));
    Model flat = m;
    flat.space = Space{.depth = 1.0};
    CHECK_THROWS_WITH(write_step(bench.work() / "flat.step", flat), Contains("no solids"));
    CHECK_THROWS_AS(write_step(bench.work() / "nowhere" / "m.step", m), FileError);
    CHECK(bench.files() == 1);  // nothing half written
}

TEST_CASE("an assembly from STEP gives the temperatures of the same solids built here", "[io]") {
    const Bench bench;
    Model own = pump_head();
    write_step(bench.work() / "head.step", own);
    Assembly assembly{.file = "head.step"};
    Model cad{.title = own.title};
    cad.mesh = own.mesh;
    for (const Part& part : parts_of(assembly, read_step(bench.work() / "head.step"))) cad.add(part);
    REQUIRE(cad.parts.size() == 3);
    add_heat(own);
    add_heat(cad);
    const Findings a = findings(own, solve_steady(own)), b = findings(cad, solve_steady(cad));
    REQUIRE(a.parts.size() == b.parts.size());
    for (std::size_t p = 0; p < a.parts.size(); ++p) {
        INFO(a.parts[p].name);
        const double rise = a.parts[p].mean - 25_degC;
        CHECK(b.parts[p].name == a.parts[p].name);
        CHECK(b.parts[p].material == a.parts[p].material);
        CHECK(b.parts[p].copies == a.parts[p].copies);
        CHECK(*b.parts[p].mass == Approx(*a.parts[p].mass).epsilon(1e-6));
        CHECK(b.parts[p].mean - 25_degC == Approx(rise).epsilon(1e-3));
        CHECK(b.parts[p].hottest.temperature - 25_degC == Approx(a.parts[p].hottest.temperature - 25_degC).epsilon(1e-3));
    }
    for (std::size_t j = 0; j < a.joints.size(); ++j) {
        INFO(a.joints[j].name);
        CHECK(b.joints[j].area == Approx(a.joints[j].area).epsilon(1e-4));
        CHECK(b.joints[j].flow == Approx(a.joints[j].flow).epsilon(5e-3));
    }
    CHECK(b.ledger.relative_residual() < 1e-9);

    // As triangles, too.
    Model triangles = own;
    for (Part& part : triangles.parts) {
        const std::filesystem::path file = bench.work() / (part.name + ".stl");
        Part alone = part;
        alone.repeat.clear();
        Model one{.title = part.name};
        one.add(alone);
        write_stl(file, part_surface(one, part.name, 0.005_mm));
        const StlImport import = read_stl(file, 1e-3);
        CHECK(import.clean());
        part.shape = Solid{.surface = import.surface, .source = file.string(), .unit = "mm"};
        part.holes.clear();
    }
    const Findings c = findings(triangles, solve_steady(triangles));
    for (std::size_t p = 0; p < a.parts.size(); ++p) {
        INFO(a.parts[p].name << " from triangles");
        CHECK(*c.parts[p].mass == Approx(*a.parts[p].mass).epsilon(1e-5));
        CHECK(c.parts[p].mean - 25_degC == Approx(a.parts[p].mean - 25_degC).epsilon(1e-3));
    }
    for (std::size_t j = 0; j < a.joints.size(); ++j) CHECK(c.joints[j].area == Approx(a.joints[j].area).epsilon(1e-3));
}

TEST_CASE("a model file takes its parts from a STEP file, chooses among them and changes some", "[io]") {
    const Bench bench;
    write_step(bench.work() / "head.step", pump_head());
    const std::string head = "firnfield = 1\n[units]\nlength = \"mm\"\ntemperature = \"degC\"\n[mesh]\ncell = 4\n";
    const std::string tail =
        "[[power]]\ninto = [\"dome\"]\ntotal = \"20 W\"\n[[cooling]]\non = { sides = [\"cone *\", \"plane *\"] }\nconvection = \"25 W/(m^2 K)\"\nambient = "
        "25\n";
    const auto with = [&](const std::string& assembly) {
        bench.put("m.toml", head + assembly + tail);
        return read_model(bench.work() / "m.toml");
    };
    const Model plain = with("[[assembly]]\nfile = \"head.step\"\n");
    REQUIRE(plain.parts.size() == 3);
    CHECK(plain.parts[2].name == "stud");
    CHECK(plain.parts[2].material == "stainless steel 1.4301");  // as the file says
    // Written again it names solid by solid.
    const std::string written = write_model(plain);
    CHECK_THAT(written, Contains("shape = \"step\"\nfile = \"head.step\"\nsolid = \"stud\"\ncopies = [1, 2]"));
    bench.put("again.toml", written);
    CHECK(read_model(bench.work() / "again.toml") == plain);
    CHECK_NOTHROW(solve_steady(plain));

    const Model changed = with(
        "[[assembly]]\nfile = \"head.step\"\nprefix = \"left \"\nat = [100, 0, 0]\nscale = 2\nleave_out = [\"stud 1\"]\n"
        "materials = { \"*stud*\" = \"copper\", \"left d*\" = \"brass CuZn37\", \"*\" = \"steel C45\" }\n"
        "[[assembly.part]]\nname = \"left f*\"\ncell = 3\n[[assembly]]\nfile = \"head.step\"\npick = [\"dome\"]\n");
    REQUIRE(changed.parts.size() == 4);
    CHECK(changed.parts[0].name == "left flange");
    CHECK(changed.parts[0].material == "steel C45");
    CHECK(*changed.parts[0].cell == Approx(3_mm));
    CHECK(changed.parts[1].material == "brass CuZn37");
    CHECK(changed.parts[3].name == "dome");
    const Mesh mesh = build_mesh(changed);
    REQUIRE(mesh.bodies.size() == 4);
    CHECK(mesh.bodies[2].name == "left stud 2");  // numbers stay those of the file
    CHECK(mesh.bodies[2].volume == Approx(8.0 * pi * 6.25e-6 * 30e-3).epsilon(1e-6));

    // Variants reach its parts by name.
    bench.put("m.toml", head + "[[assembly]]\nfile = \"head.step\"\n" + tail +
                            "[[variant]]\nname = \"copper dome\"\nchange = { \"part.dome.material\" = \"copper\" }\n"
                            "[[variant]]\nname = \"no studs\"\nchange = { \"part.stud.include\" = false, \"assembly.1.scale\" = 1.1 }\n");
    const ModelFile file = read_model_file(bench.work() / "m.toml");
    CHECK(file.model(file.design("copper dome")).parts[1].material == "copper");
    const Model without = file.model(file.design("no studs"));
    CHECK_FALSE(without.parts[2].include);
    CHECK(without.parts[0].scale == 1.1);

    const auto refused = [&](const std::string& assembly, const std::string& where, const std::string& why) {
        INFO(assembly);
        CHECK_THROWS_WITH(with(assembly), Contains(where) && Contains(why));
    };
    const std::string start = "[[assembly]]\nfile = \"head.step\"\n";
    refused("[[assembly]]\nfile = \"hed.step\"\n", "m.toml:8:8", "hed.step");
    refused("[[assembly]]\n", "m.toml:7:1", "\"file\" is missing");
    refused(start + "leave_out = [\"screw *\"]\n", "m.toml:9:14", "nothing in the file is called \"screw *\"");
    refused(start + "pick = [\"dom\"]\n", "m.toml:9", "did you mean \"dome\"");
    refused(start + "leave_out = [\"*\"]\n", "m.toml", "nothing is left");
    refused(start + "material = \"copper\"\n", "m.toml:9", "unknown key \"material\"");
    refused(start + "materials = { \"*\" = \"coper\" }\n", "m.toml", "copper");
    refused(start + "materials = { \"*\" = 3 }\n", "m.toml:9", "a text for each name");
    refused(start + "[[assembly.part]]\nname = \"dme\"\ncell = 2\n", "m.toml", "did you mean \"dome\"");
    refused(start + "[[part]]\nname = \"dome\"\nsize = [1, 1, 1]\nmaterial = \"copper\"\n", "m.toml", "used twice");
    refused("[[part]]\nname = \"x\"\nshape = \"step\"\nfile = \"head.step\"\nsolid = \"stud\"\nmaterial = \"copper\"\ncopies = [1, 3]\n", "m.toml:13",
            "2 copies");
    refused("[[part]]\nname = \"x\"\nshape = \"step\"\nfile = \"head.step\"\nsolid = \"std\"\nmaterial = \"copper\"\n", "m.toml:11", "did you mean \"stud\"");
    refused("[[part]]\nname = \"x\"\nshape = \"step\"\nfile = \"head.step\"\nsolid = \"stud\"\nmaterial = \"copper\"\nchecksum = \"0\"\n", "m.toml:13",
            "not the file");
    CHECK_THROWS_WITH(read_model_text(head + start + tail, ""), Contains("not looked for"));
}

TEST_CASE("results from STEP and STL files can be read when those have changed or are gone, and say so", "[cli]") {
    const Bench bench;
    const Model head = pump_head();
    write_step(bench.work() / "head.step", head);
    write_stl(bench.work() / "flange.stl", part_surface(head, "flange", 0.1_mm));
    bench.put("m.toml",
              "firnfield = 1\n[units]\nlength = \"mm\"\ntemperature = \"degC\"\n[mesh]\ncell = 4\n[[assembly]]\nfile = \"head.step\"\npick = [\"dome\"]\n"
              "[[part]]\nname = \"flange\"\nshape = \"stl\"\nfile = \"flange.stl\"\nunit = \"mm\"\nmaterial = \"copper\"\n"
              "[[power]]\ninto = [\"dome\"]\ntotal = \"20 W\"\n[[cooling]]\non = \"exposed\"\nconvection = \"25 W/(m^2 K)\"\nambient = 25\n");
    CHECK(bench.run("solve m.toml --quiet --no-why").status == 0);
    const std::string probed = bench.run("probe m.results --part dome").out;
    CHECK_THAT(probed, Contains("dome max"));
    std::filesystem::remove(bench.work() / "flange.stl");
    bench.put("head.step", "ISO-10303-21; of something else");
    for (const std::string command : {"probe m.results --part dome", "report m.results", "draw m.results"}) {
        INFO(command);
        const auto told = bench.run(command);
        CHECK(told.status == 0);
    }
    const auto again = bench.run("probe m.results --part dome");
    CHECK_THAT(again.out, Contains(probed));
    CHECK_THAT(again.out + again.err, Contains("stale"));
    CHECK(bench.run("solve m.toml --quiet").status == 2);
    CHECK(bench.run("probe m.results --part dome").status == 0);  // what was there is still there
}

TEST_CASE("import writes a model that solves when heat and cooling are added", "[cli]") {
    const Bench bench;
    Model head = pump_head();
    head.add(block("label", {2_mm, 2_mm, 0.05_mm}, {0.0, 0.0, 26_mm}, "copper"));
    head.add(block("board", {20_mm, 20_mm, 1.6_mm}, {40_mm, 0.0, 0.0}, "FR-4 board 4 layers"));
    head.add(block("spacer", {20_mm, 20_mm, 2_mm}, {40_mm, 0.0, 1.7_mm}, "copper"));
    write_step(bench.work() / "head.step", head);
    const auto told = bench.run("import head.step");
    CHECK(told.status == 0);
    CHECK_THAT(told.out, Contains("6 solids in 7 places") && Contains("Model in head.toml"));
    const std::string model = content(bench.work() / "head.toml");
    CHECK_THAT(model, Contains("\"dome\" = \"brass CuZn37\"") && (Contains("\"dome\" and \"flange\" touch") || Contains("\"flange\" and \"dome\" touch")));
    CHECK_THAT(model, Contains("# ? These nearly touch") && Contains("reach = "));
    CHECK_THAT(model, Contains("\"label\": "));
    bench.put("whole.toml", model + "[[power]]\ninto = [\"dome\"]\ntotal = \"20 W\"\n[[cooling]]\non = \"exposed\"\nconvection = \"25 W/(m^2 K)\"\n");
    CHECK(bench.run("solve whole.toml --quiet --no-pictures --no-why").status == 0);
    CHECK(bench.run("import head.step").status == 2);  // nothing is written over
    CHECK(content(bench.work() / "head.toml") == model);
    CHECK(bench.run("import head.step --overwrite").status == 0);
    CHECK(bench.run("import nothing.step").status == 2);
    CHECK_THAT(bench.run("surface head.step --part dme").err, Contains("did you mean \"dome\""));
    CHECK_THAT(bench.run("surface head.step --part flange").out, Contains("bore 2"));
    CHECK(bench.run("surface head.step --part flange --out flange.stl").status == 0);
    CHECK(bench.run("surface head.step --part flange --out again.step").status == 0);
    CHECK(read_step(bench.work() / "again.step").solid("flange").geometry->volume() ==
          Approx(read_stl(bench.work() / "flange.stl", 1e-3).volume).epsilon(1e-6));
    CHECK(bench.run("surface whole.toml --out all.step").status == 0);
    CHECK(read_step(bench.work() / "all.step").solids.size() == 6);
    CHECK(bench.run("surface whole.toml --out all.stl").status == 2);
    // What would say nothing is refused.
    for (const std::string command :
         {"surface head.step --chord '1 mm'", "surface flange.stl --chord '1 mm'", "surface flange.stl --part flange", "surface flange.stl --out flange.step",
          "surface whole.toml --out x.step --unit in", "surface whole.toml --out x.step --chord '1 mm'", "surface head.step --out x.step",
          "surface head.step --each --out x.stl", "surface flange.stl --each --out x.step"}) {
        INFO(command);
        CHECK(bench.run(command).status == 2);
    }
    CHECK(read_step(bench.work() / "again.step").solid("flange").material == "aluminium 6061-T6");
    // What is no file stays what it is.
    REQUIRE(mkfifo((bench.work() / "pipe.step").c_str(), 0600) == 0);
    for (const std::string command : {"surface whole.toml --out pipe.step", "import head.step --overwrite --out pipe.step"}) {
        const auto refused = bench.run(command);
        CHECK(refused.status == 3);
        CHECK_THAT(refused.err, Contains("no regular file"));
    }
    CHECK(std::filesystem::is_fifo(bench.work() / "pipe.step"));
}

TEST_CASE("STEP files that are broken are refused with a reason or mended, and none of them hangs", "[io]") {
    const Bench bench;
    const StepImport sound = round_trip(bench, pump_head());
    const std::string text = content(bench.work() / "m.step");
    const auto replaced = [&](const std::string& from, const std::string& to, bool all = false) {
        std::string out = text;
        std::size_t at = out.find(from);
        REQUIRE(at != std::string::npos);
        for (; at != std::string::npos; at = all ? out.find(from, at + to.size()) : std::string::npos) out.replace(at, from.size(), to);
        return out;
    };
    const auto without_line = [&](const std::string& with) {
        const std::size_t at = text.find(with), begin = text.rfind('\n', at) + 1, end = text.find(";\n", at) + 2;
        REQUIRE(at != std::string::npos);
        return text.substr(0, begin) + text.substr(end);
    };
    /// Solids as mere shells, as some programs write them.
    const auto loose_shells = [&] {
        std::string out = text;
        for (std::size_t at = out.find("MANIFOLD_SOLID_BREP('',"); at != std::string::npos; at = out.find("MANIFOLD_SOLID_BREP('',")) {
            const std::size_t from = out.find('#', at), to = out.find(')', from);
            out = out.substr(0, at) + "SHELL_BASED_SURFACE_MODEL('',(" + out.substr(from, to - from) + "))" + out.substr(to + 1);
        }
        return out;
    };
    // Refused, or read in some way; never a crash.
    std::vector<std::string> damaged{"",
                                     " ",
                                     "solid x\nendsolid\n",
                                     "ISO-10303-21;",
                                     "ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\nENDSEC;\nEND-ISO-10303-21;\n",
                                     text.substr(0, text.size() / 2),
                                     text.substr(0, text.size() - 40),
                                     text.substr(0, 900),
                                     without_line("ADVANCED_FACE"),
                                     without_line("CLOSED_SHELL"),
                                     without_line("MANIFOLD_SOLID_BREP"),
                                     without_line("CARTESIAN_POINT"),
                                     without_line("DIRECTION"),
                                     without_line("PLANE("),
                                     without_line("CYLINDRICAL_SURFACE"),
                                     without_line("EDGE_CURVE"),
                                     without_line("VERTEX_POINT"),
                                     without_line("NEXT_ASSEMBLY_USAGE"),
                                     without_line("LENGTH_UNIT"),
                                     replaced("CLOSED_SHELL", "OPEN_SHELL", true),
                                     replaced("MANIFOLD_SOLID_BREP", "SHELL_BASED_SURFACE_MODEL", true),
                                     replaced("AUTOMOTIVE_DESIGN", "KITCHEN_DESIGN"),
                                     replaced("ADVANCED_FACE", "ADVANCED_FARCE", true),
                                     replaced("30.", "NAN"),  // this one would go on for ever

                                     replaced("CYLINDRICAL_SURFACE('',#", "CYLINDRICAL_SURFACE('',#9999999,#"),
                                     replaced(",.T.)", ",.F.)", true),
                                     replaced("CIRCLE", "CIRCUS", true)};
    for (std::size_t n = 0; n < 12; ++n) {  // numbers exchanged here and there
        std::string other = text;
        for (std::size_t at = 2000 + 997 * n; at < other.size(); at += 7919) other[at] = static_cast<char>('0' + (at + n) % 10);
        damaged.push_back(other);
    }
    std::size_t read = 0, refused = 0;
    for (std::size_t n = 0; n < damaged.size(); ++n) {
        INFO("file " << n);
        try {
            const StepImport import = read_step_bytes(damaged[n], "damaged.step");
            ++read;
            CHECK_FALSE(import.solids.empty());
            for (const StepSolid& s : import.solids) {
                CHECK((s.geometry != nullptr) != !s.why_not.empty());
                if (!s.geometry) continue;
                const ClosedSurface facets = s.geometry->facets(0.2_mm);
                require_closed(facets);
                CHECK(volume(facets) > 0.0);
            }
        } catch (const FileError& error) {
            ++refused;
            CHECK_THAT(error.what(), Contains("damaged.step"));
        }
    }
    CHECK(read + refused == damaged.size());
    CHECK(refused >= 5);
    // Lengths are in the unit of the file, masses and names as they were.
    const StepImport metres = read_step_bytes(replaced("SI_UNIT(.MILLI.,.METRE.)", "SI_UNIT($,.METRE.)", true), "metres.step");
    for (const StepSolid& s : metres.solids) {
        REQUIRE(s.geometry);
        CHECK(s.geometry->volume() == Approx(1e9 * sound.solid(s.name).geometry->volume()).epsilon(1e-6));
        CHECK(s.copies.back().place.offset.z == Approx(1e3 * sound.solid(s.name).copies.back().place.offset.z).margin(1e-9));
    }
    std::string in_inches = replaced("( LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT(.MILLI.,.METRE.) )",
                                     "( CONVERSION_BASED_UNIT('INCH',#900003) LENGTH_UNIT() NAMED_UNIT(#900001) )", true);
    in_inches.insert(in_inches.rfind("ENDSEC;"),
                     "#900001 = DIMENSIONAL_EXPONENTS(1.,0.,0.,0.,0.,0.,0.);\n#900002 = ( LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT(.MILLI.,.METRE.) );\n"
                     "#900003 = LENGTH_MEASURE_WITH_UNIT(LENGTH_MEASURE(25.4),#900002);\n");
    for (const StepSolid& s : read_step_bytes(in_inches, "inches.step").solids) {
        REQUIRE(s.geometry);
        CHECK(s.geometry->volume() == Approx(std::pow(25.4, 3) * sound.solid(s.name).geometry->volume()).epsilon(1e-6));
        CHECK(s.copies.back().place.offset.z == Approx(25.4 * sound.solid(s.name).copies.back().place.offset.z).margin(1e-9));
    }
    // Loose faces are sewn together again; what misses one is named, with its reason.
    const StepImport loose = read_step_bytes(loose_shells(), "loose.step");
    const StepImport open = read_step_bytes(without_line("ADVANCED_FACE"), "open.step");
    const auto unusable = std::find_if(open.solids.begin(), open.solids.end(), [](const StepSolid& s) { return !s.geometry; });
    REQUIRE(unusable != open.solids.end());
    CHECK_THAT(unusable->why_not, Contains("open"));
    Assembly assembly{.file = "open.step", .materials = {{"*", "copper"}}};
    CHECK_THROWS_WITH(parts_of(assembly, open), Contains(unusable->name) && Contains("leave_out"));
    assembly.leave_out = {unusable->name};
    CHECK(parts_of(assembly, open).size() == 2);
    for (const StepSolid& s : loose.solids) {
        INFO(s.name << ": " << s.why_not);
        REQUIRE(s.geometry);
        CHECK(s.geometry->volume() == Approx(sound.solid(s.name).geometry->volume()).epsilon(1e-6));
    }
}
