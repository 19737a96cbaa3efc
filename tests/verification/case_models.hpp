// Steady cases with independent answers, as models; used for the answers themselves and for what error bars say of them.
#pragma once

#include "models.hpp"

namespace firnfield::test {

using namespace firnfield::literals;

inline Hold hold(Selection on, double celsius_value) { return Hold{.on = std::move(on), .temperature = celsius(celsius_value)}; }

inline Cooling film(Selection on, double coefficient, double ambient) { return convection(std::move(on), coefficient, celsius(ambient)); }

inline Selection sides(std::string part, std::vector<std::string> names) {
    Selection pick;
    pick.parts = {std::move(part)};
    pick.sides = std::move(names);
    return pick;
}

inline Selection patch_of(std::string part, Side facing, Box region) {
    Selection pick;
    pick.parts = {std::move(part)};
    pick.facing = {outward(facing)};
    pick.region = region;
    return pick;
}

/// A rectangle of a face perpendicular to z, a little thicker than nothing so that the face lies inside.
inline Box window(double x0, double x1, double y0, double y1, double z) { return Box{.size = {x1 - x0, y1 - y0, 2e-4}, .at = {x0, y0, z - 1e-4}}; }

inline Power source(std::string name, double watt, Selection on) {
    Power power;
    power.name = std::move(name);
    power.on = std::move(on);
    power.total = watt;
    return power;
}

/// s05: slab with generation between unequal films.
inline Model generating_slab(double cell = 0.25_mm) {
    Model m;
    m.mesh.cell = cell;
    m.mesh.through = 1;
    m.materials = {plain("k1.4", 1.4)};
    m.add(block("slab", {20_mm, 1_mm, 1_mm}, {}, "k1.4"));
    m.add(Power{.into = {"slab"}, .density = 200000.0});
    m.add(film(side("slab", Side::minus_x), 15.0, 20.0));
    m.add(film(side("slab", Side::plus_x), 60.0, 35.0));
    return m;
}

/// b01: plate with convection on two edges.
inline Model convected_plate(double cell = 10_mm) {
    Model m;
    m.mesh.cell = cell;
    m.mesh.through = 1;
    m.materials = {plain("k52", 52.0)};
    m.add(block("plate", {0.6, 1.0, 10_mm}, {}, "k52"));
    m.add(hold(side("plate", Side::minus_y), 100.0));
    m.add(film(sides("plate", {"+x", "+y"}), 750.0, 0.0));
    return m;
}

/// o01: orthotropic rectangle with generation.
inline Model orthotropic_plate(double cell = 1_mm) {
    Model m;
    m.mesh.cell = cell;
    m.mesh.through = 1;
    m.materials = {Material{.name = "grain", .conductivity = {2.0, 20.0, 20.0}}};
    m.add(block("plate", {100_mm, 60_mm, 1_mm}, {}, "grain"));
    m.add(Power{.into = {"plate"}, .density = 50000.0});
    m.add(hold(sides("plate", {"-x", "+x"}), 30.0));
    m.add(hold(sides("plate", {"-y", "+y"}), 30.0));
    return m;
}

/// f01: straight fin.
inline Model straight_fin(double cell = 0.5_mm, int through = 8) {
    Model m;
    m.mesh.cell = cell;
    m.mesh.through = through;
    m.materials = {plain("k180", 180.0)};
    m.add(block("fin", {30_mm, 2_mm, 4_mm}, {}, "k180"));
    m.add(hold(side("fin", Side::minus_x), 80.0));
    m.add(film(sides("fin", {"-y", "+y", "+x"}), 60.0, 20.0));
    return m;
}

/// p01: centred source on a plate, as a quarter with two mirrors.
inline Model spreading_plate(double cell = 1_mm, int through = 12) {
    Model m;
    m.mesh.cell = cell;
    m.mesh.through = through;
    m.materials = {plain("k160", 160.0)};
    m.add(block("plate", {100_mm, 80_mm, 6_mm}, {}, "k160"));
    m.add(source("source", 30_W, patch_of("plate", Side::minus_z, window(40_mm, 60_mm, 32_mm, 48_mm, 0))));
    m.add(film(side("plate", Side::plus_z), 90.0, 25.0));
    m.add(Mirror{.axis = 0, .at = 50_mm, .keep_plus = false});
    m.add(Mirror{.axis = 1, .at = 40_mm, .keep_plus = false});
    return m;
}

/// p03: two sources on one plate.
inline Model two_sources(double cell = 2_mm, int through = 12) {
    Model m;
    m.mesh.cell = cell;
    m.mesh.through = through;
    m.materials = {plain("k200", 200.0)};
    m.add(block("plate", {150_mm, 100_mm, 8_mm}, {}, "k200"));
    m.add(source("A", 40.0, patch_of("plate", Side::minus_z, window(30_mm, 55_mm, 30_mm, 50_mm, 0))));
    m.add(source("B", 18.0, patch_of("plate", Side::minus_z, window(100_mm, 112_mm, 60_mm, 75_mm, 0))));
    m.add(film(side("plate", Side::plus_z), 60.0, 30.0));
    return m;
}

/// p04: spreader on a base with a joint between; half of it.
inline Model compound_spreader(double cell = 1_mm, int through = 4) {
    Model m;
    m.mesh.cell = cell;
    m.mesh.through = through;
    m.materials = {plain("k390", 390.0), plain("k180", 180.0)};
    m.add(block("spreader", {60_mm, 60_mm, 1_mm}, {}, "k390"));
    m.add(block("base", {60_mm, 60_mm, 5_mm}, {0, 0, 1_mm}, "k180"));
    m.add(Joint{.between = {"spreader", "base"}, .resistance = 1.5e-5});
    m.add(source("source", 50_W, patch_of("spreader", Side::minus_z, window(24_mm, 36_mm, 24_mm, 36_mm, 0))));
    m.add(film(side("base", Side::plus_z), 400.0, 35.0));
    m.add(Mirror{.axis = 0, .at = 30_mm, .keep_plus = true});
    return m;
}

/// p06: conductivities and thickness of a board of four copper and three insulating layers.
struct Board {
    static constexpr double copper = 35e-6, insulation = 450e-6, all = 4 * copper + 3 * insulation;
    static constexpr double in_plane = (4 * copper * 390.0 + 3 * insulation * 0.3) / all, through = all / (4 * copper / 390.0 + 3 * insulation / 0.3);
};

/// p06: the source, the film and the mirrors of the board, whose outermost layers are `top` and `bottom`.
inline Model finished_board(Model m, const std::string& top, const std::string& bottom) {
    m.add(source("source", 1.2, patch_of(top, Side::minus_z, window(20_mm, 30_mm, 20_mm, 30_mm, 0))));
    m.add(film(side(bottom, Side::plus_z), 50.0, 20.0));
    m.add(Mirror{.axis = 0, .at = 25_mm, .keep_plus = true});
    m.add(Mirror{.axis = 1, .at = 25_mm, .keep_plus = true});
    return m;
}

inline Model layered_board(double cell = 0.5_mm) {
    Model m;
    m.mesh.cell = cell;
    m.mesh.through = 1;
    m.mesh.growth = 1.5;
    m.materials = {plain("copper", 390.0), plain("dielectric", 0.3)};
    double z = 0.0;
    for (int layer = 0; layer < 7; ++layer) {
        const bool copper = layer % 2 == 0;
        const double thickness = copper ? Board::copper : Board::insulation;
        m.add(block("layer " + std::to_string(layer + 1), {50_mm, 50_mm, thickness}, {0, 0, z}, copper ? "copper" : "dielectric"));
        z += thickness;
    }
    return finished_board(std::move(m), "layer 1", "layer 7");
}

inline Model smeared_board(double cell = 0.5_mm, int through = 24) {
    Model m;
    m.mesh.cell = cell;
    m.mesh.through = through;
    m.materials = {Material{.name = "board", .conductivity = {Board::in_plane, Board::in_plane, Board::through}}};
    m.add(block("board", {50_mm, 50_mm, Board::all}, {}, "board"));
    return finished_board(std::move(m), "board", "board");
}

/// f04: pin fin, its axis along x.
inline Model pin_fin(double cell = 0.5_mm) {
    Model m;
    m.mesh.cell = cell;
    m.materials = {plain("k160", 160.0)};
    m.add(Part{.name = "pin", .shape = Cylinder{.radius = 2.5_mm, .length = 30_mm}, .material = "k160"});
    m.parts[0].rotate = {Rotation{.axis = {0, 1, 0}, .angle = 90.0, .about = std::nullopt}};
    m.add(hold(sides("pin", {"bottom"}), 75.0));
    m.add(film(sides("pin", {"side", "top"}), 80.0, 25.0));
    return m;
}

/// f06: annular fin as a plane of revolution.
inline Model annular_fin(double cell = 1_mm) {
    Model m;
    m.space = Space{.revolved = true};
    m.mesh.cell = cell;
    m.materials = {plain("k200", 200.0)};
    m.add(Part{.name = "fin", .shape = Tube{.outer_radius = 30_mm, .inner_radius = 12.5_mm, .length = 1_mm}, .material = "k200"});
    m.add(hold(sides("fin", {"bore"}), 110.0));
    m.add(film(sides("fin", {"side", "top", "bottom"}), 45.0, 25.0));
    return m;
}

/// p07: a round source on a disc, a quarter of it.
inline Model disc_with_source(double cell = 0.6_mm, int through = 6) {
    Model m;
    m.mesh.cell = cell;
    m.mesh.through = through;
    m.materials = {plain("k120", 120.0)};
    m.add(Part{.name = "disc", .shape = Cylinder{.radius = 30_mm, .length = 4_mm}, .material = "k120"});
    Selection spot = sides("disc", {"top"});
    spot.region = Cylinder{.radius = 5_mm, .length = 2_mm, .at = {0, 0, 3_mm}};
    m.add(source("source", 20.0, spot));
    m.add(film(sides("disc", {"bottom"}), 250.0, 25.0));
    m.add(Mirror{.axis = 0, .at = 0.0, .keep_plus = true});
    m.add(Mirror{.axis = 1, .at = 0.0, .keep_plus = true});
    return m;
}

}  // namespace firnfield::test
