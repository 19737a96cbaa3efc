// Model files: there and back, equal to models built by hand, fingerprints.

#include "models.hpp"

#include <rapidcheck/catch.h>
#include <catch2/catch.hpp>

#include <fstream>
#include <sstream>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;

namespace {

/// A model that uses every key there is.
Model everything() {
    Model m{.title = "Every key, \"quoted\" and ünïcode"};
    m.mesh = MeshOptions{.cell = 2.5_mm, .through = 3, .growth = 1.3, .max_cells = 123456};
    m.add(Mirror{.axis = 1, .at = 1.0 / 3.0, .keep_plus = false});
    m.add(Material{.name = "gap pad G3",
                   .conductivity = {3.0, 3.0, 2.9},
                   .density = 2900.0,
                   .specific_heat = 900.0,
                   .emissivity = 0.9,
                   .resistivity = 1e12,
                   .service_limit = 150_degC,
                   .valid_from = celsius(-40),
                   .valid_to = 150_degC,
                   .group = "pads",
                   .note = "made up"});
    Part base = block("base", {180_mm, 120_mm, 6_mm}, {0.1_mm, 1e-7, 0}, "aluminium 6061-T6");
    base.holes = {Box{.size = {5_mm, 5_mm, 6_mm}, .at = {10_mm, 10_mm, 0}}, Box{.size = {1_mm, 1_mm, 1_mm}}};
    base.cell = 1.5_mm;
    m.add(base);
    Part fin = block("fin", {2_mm, 120_mm, 24_mm}, {2_mm, 0, -0.024}, "gap pad G3");
    fin.repeat = {Repeat{.count = 12, .step = {15.8_mm, 0, 0}}, Repeat{.count = 2, .step = {0, 0, -0.1}}};
    fin.include = false;
    m.add(fin);
    m.add(Surface{.name = "mounting face", .pick = Selection{.parts = {"base"}, .sides = {"-z"}}});
    m.add(Surface{.name = "skin",
                  .pick = Selection{.parts = {"base", "fin *"},
                                    .facing = {outward(Side::minus_z), outward(Side::plus_x)},
                                    .region = Box{.size = {1, 1, 1}, .at = {-0.5, 0, 0}},
                                    .except = {"mounting face"}}});
    m.add(Joint{.name = "a", .between = {"fin 1", "base"}, .resistance = 3e-5, .reach = 0.1_mm});
    m.add(Joint{.between = {"fin 2", "base"}, .total = 0.4});
    m.add(Joint{.between = {"fin 3", "base"}, .layer = Layer{.material = "gap pad G3", .thickness = 0.5_mm}});
    m.add(Joint{.between = {"fin 4", "base"}, .insulated = true});
    m.add(Joint{.between = {"fin 5", "base"}, .exchange_factor = 0.4});
    m.add(Power{.name = "burst", .into = {"base"}, .total = 38_W});
    m.add(Power{.into = {"fin"}, .each = 0.1});
    m.add(Power{.into = {"fin 7"}, .density = 1e5});
    m.add(Power{.on = surface("skin"), .flux = 1000.0});
    Cooling cooling = convection(exposed(), 8.0, celsius(-5));
    cooling.name = "room";
    cooling.emissivity = 0.85;
    cooling.radiant = celsius(-12.3);
    m.add(cooling);
    Cooling second;
    second.on = surface("skin");
    second.material_emissivity = true;
    second.beside = true;
    m.add(second);
    Cooling lawful;
    lawful.on = surface("skin");
    lawful.law = ConvectionLaw{.law = "inclined plate", .fluid = "water", .length = 0.12, .angle = 12.5, .pressure = 70000.0};
    lawful.ambient = 300.0;
    lawful.beside = true;
    m.add(lawful);
    m.add(Hold{.name = "cold plate", .on = Selection{.surfaces = {"mounting face", "skin"}}, .temperature = 77.0});
    m.add(Sensor{.name = "flange", .in = "base", .at = {90_mm, 60_mm, 3_mm}});
    m.add(Limit{.part = "base", .below = 95_degC});
    m.add(Limit{.sensor = "flange", .below = 95_degC, .above = celsius(-20)});
    m.add(Study{.name = "lab", .ambient = 35_degC, .scale = {{"burst", 0.25}}});
    m.add(Study{.name = "ice", .ambient = celsius(-20)});
    m.add(Picture{.name = "inside", .hide = {"fin"}, .azimuth = 12.5, .elevation = -10, .bands = true, .above = 60_degC});
    return m;
}

}  // namespace

TEST_CASE("a model written and read again is the same, with every key", "[io]") {
    const Model model = everything();
    const std::string text = write_model(model);
    const Model again = read_model_text(text);
    CHECK(again == model);
    CHECK(write_model(again) == text);
}

TEST_CASE("any numbers survive the trip through a file", "[io][property]") {
    rc::prop("random sizes and temperatures", [] {
        const auto number = [] { return (1e-9 + std::abs(1e-6 * *rc::gen::inRange(-1000000, 1000000))) * std::pow(10.0, *rc::gen::inRange(-5, 2)); };
        Model model;
        model.mesh.cell = number();
        model.add(block("p", {number(), number(), number()}, {-number(), number(), number()}, "copper"));
        model.add(heat("p", number()));
        model.add(convection(exposed(), number(), 1.0 + number()));
        model.add(Limit{.part = "p", .below = 1.0 + number()});
        RC_ASSERT(read_model_text(write_model(model)) == model);
    });
}

TEST_CASE("a file and the same model built by hand are equal", "[io]") {
    const Model model = read_model_text(R"toml(
firnfield = 1
title = "Amplifier on a plate"
[units]
length = "mm"
temperature = "degC"
[mesh]
cell = "2 mm"
[[part]]
name = "plate"
shape = "box"
size = [80, "6 cm", "0.004 m"]
material = "aluminium 6061-T6"
[[part]]
name = "amplifier"
size = [20, 10, 3]
at = [30, 25, 4]
material = "copper"
[[joint]]
between = ["amplifier", "plate"]
resistance = "0.2 K cm^2/W"
[[power]]
into = "amplifier"
total = "25 W"
[[cooling]]
on = "exposed"
convection = "12 W/(m^2 K)"
ambient = 35
[[limit]]
part = "amplifier"
below = "95 degC"
)toml");
    Model built{.title = "Amplifier on a plate"};
    built.mesh.cell = 2_mm;
    built.add(Part{.name = "plate", .shape = Box{.size = {80_mm, 6_cm, 0.004_m}}, .material = "aluminium 6061-T6"});
    built.add(Part{.name = "amplifier", .shape = Box{.size = {20_mm, 10_mm, 3_mm}, .at = {30_mm, 25_mm, 4_mm}}, .material = "copper"});
    built.add(Joint{.between = {"amplifier", "plate"}, .resistance = parse_quantity("0.2 K cm^2/W", kinds::area_resistance)});
    built.add(Power{.into = {"amplifier"}, .total = 25_W});
    built.add(Cooling{.on = exposed(), .convection = 12.0, .ambient = 35_degC});
    built.add(Limit{.part = "amplifier", .below = 95_degC});
    CHECK(model == built);
}

TEST_CASE("every shape, turn and rule survives the file", "[io]") {
    const auto corner = [](double x, double y) { return OutlinePoint{.x = x, .y = y, .through = std::nullopt}; };
    Model m{.title = "shapes"};
    m.mesh.planes[1] = {1_mm, 2_mm};
    m.mesh.layers = {{.axis = 1, .from = 1_mm, .to = 2.5_mm, .cell = 0.2_mm}, {.axis = 2, .from = -1_mm, .to = 0, .cell = 0.1_mm}};
    m.mesh.regions = {RegionSize{.box = Box{.size = {1_mm, 2_mm, 3_mm}, .at = {0, 0, 1_mm}}, .cell = 0.5_mm}};
    const std::vector<Shape> shapes{Cylinder{.radius = 3_mm, .length = 4_mm, .at = {1_mm, 0, 0}, .along = 0},
                                    Tube{.outer_radius = 3_mm, .inner_radius = 2_mm, .length = 4_mm, .angle = 90, .at = {0, 1_mm, 0}, .along = 1},
                                    Sphere{.radius = 2.5_mm, .at = {0, 0, 9_mm}},
                                    Cone{.lower_radius = 3_mm, .upper_radius = 0, .length = 4_mm},
                                    Prism{.outline = {corner(0, 0), corner(9_mm, 0), {.x = 0, .y = 9_mm, .through = std::array{6_mm, 6_mm}}},
                                          .holes = {{corner(1_mm, 1_mm), corner(2_mm, 1_mm), corner(1_mm, 2_mm)}},
                                          .length = 1_mm},
                                    Revolution{.outline = {corner(1_mm, 0), corner(2_mm, 0), corner(2_mm, 5_mm)}, .angle = 120}};
    for (std::size_t n = 0; n < shapes.size(); ++n) {
        Part part{.name = "part " + std::to_string(n), .shape = shapes[n], .material = "copper"};
        part.holes = {Box{.size = {1_mm, 1_mm, 1_mm}, .at = {}}, Cylinder{.radius = 0.5_mm, .length = 9_mm, .at = {0, 0, -1_mm}}};
        part.also = {Sphere{.radius = 1_mm, .at = {2_mm, 0, 0}}};
        part.scale = 1.5;
        part.mirrored = 1;
        part.rotate = {Rotation{.axis = {0, 0, 1}, .angle = 30, .about = std::nullopt}, Rotation{.axis = {1, 1, 0}, .angle = -12.5, .about = Vec3{1_mm, 0, 0}}};
        part.repeat = {Repeat{.count = 3, .step = {}, .turn = 120, .axis = {0, 0, 1}, .about = {5_mm, 0, 0}}};
        m.add(part);
    }
    Selection pick{
        .parts = {"part 0"}, .sides = {"side", "t*"}, .facing = {{1, 0, 0}, {0.5, 0.5, 0}}, .within = 30, .region = Sphere{.radius = 4_mm, .at = {1_mm, 0, 0}}};
    pick.beyond = {HalfSpace{.normal = {0, 0, -1}, .through = {0, 0, 2_mm}}};
    pick.touching = {"part *"};
    m.add(Surface{.name = "patch", .pick = pick});
    m.add(Mirror{.keep = HalfSpace{.normal = {1, 2, 0}, .through = {1_mm, 0, 0}}});
    m.add(Sector{.pieces = 5, .along = 1, .about = {1_mm, 0, 0}, .from = 12});
    m.add(Picture{.name = "cut", .isotherms = true, .section = HalfSpace{.normal = {0, 1, 0}, .through = {0, 1_mm, 0}}});
    m.space = Space{.revolved = false, .depth = 4_mm};
    CHECK(read_model_text("firnfield = 1\n[space]\nkind = \"revolved\"\n[[part]]\nname = \"rod\"\nshape = \"cylinder\"\nradius = \"1 mm\"\nlength = \"1 "
                          "mm\"\nmaterial = \"copper\"\n")
              .space->revolved);
    CHECK(write_model(m).find("[space]\nkind = \"plane\"\ndepth = 4\n") != std::string::npos);
    m.space.reset();
    CHECK(validate(m).empty());
    CHECK(through_file(m) == m);
    CHECK(fingerprint(through_file(m)) == fingerprint(m));
}

TEST_CASE("every data and example file reads, and means the same after writing", "[io]") {
    std::size_t files = 0;
    for (const char* folder : {"/data", "/examples"}) {
        for (const auto& entry : std::filesystem::directory_iterator(FIRNFIELD_SOURCE_DIR + std::string(folder))) {
            if (entry.path().extension() != ".toml" || entry.path().filename() == "materials.toml") continue;
            INFO(entry.path());
            const Model model = read_model(entry.path());
            CHECK(read_model_text(write_model(model), entry.path().string()) == model);
            ++files;
        }
    }
    CHECK(files >= 3);
}

TEST_CASE("the fingerprint follows the model and the materials it uses", "[io]") {
    const Model model = block_on_plate();
    const std::string print = fingerprint(model);
    CHECK(print.size() == 32);
    CHECK(fingerprint(through_file(model)) == print);
    Model other = model;
    other.powers[0].total = 25.000001;
    CHECK(fingerprint(other) != print);
    other = model;
    other.materials = {*find_material({}, "copper")};
    other.materials[0].conductivity = isotropic(391.0);
    CHECK(fingerprint(other) != print);
}
