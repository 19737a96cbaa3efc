// Small models that several tests use.
#pragma once

#include <firnfield/firnfield.hpp>

#include <string>

namespace firnfield::test {

inline Material plain(std::string name, double conductivity) {
    return Material{.name = std::move(name), .conductivity = isotropic(conductivity), .density = 2000.0, .specific_heat = 1000.0};
}

inline Part block(std::string name, Vec3 size, Vec3 at, std::string material) {
    return Part{.name = std::move(name), .shape = Box{.size = size, .at = at}, .material = std::move(material)};
}

inline Selection side(std::string part, Side direction) {
    Selection pick;
    pick.parts = {std::move(part)};
    pick.sides = {std::string(name_of(direction))};
    return pick;
}

inline Cooling convection(Selection on, double coefficient, double ambient) {
    Cooling cooling;
    cooling.on = std::move(on);
    cooling.convection = coefficient;
    cooling.ambient = ambient;
    return cooling;
}

inline Power heat(std::string into, double total) {
    Power power;
    power.into = {std::move(into)};
    power.total = total;
    return power;
}

/// A heated block on a plate, cooled by convection and radiation.
inline Model block_on_plate() {
    using namespace firnfield::literals;
    Model model{.title = "Block on a plate"};
    model.mesh.cell = 4_mm;
    model.add(block("plate", {80_mm, 60_mm, 4_mm}, {}, "aluminium 6061-T6"));
    model.add(block("block", {20_mm, 10_mm, 3_mm}, {30_mm, 25_mm, 4_mm}, "copper"));
    model.add(Joint{.name = "pad", .between = {"block", "plate"}, .resistance = 20e-6});
    model.add(heat("block", 15_W));
    Cooling cooling = convection(exposed(), 12.0, 35_degC);
    cooling.emissivity = 0.8;
    model.add(cooling);
    model.add(Limit{.part = "block", .below = 130_degC});
    return model;
}

/// The model after a trip through its file format.
inline Model through_file(const Model& model) { return read_model_text(write_model(model)); }

}  // namespace firnfield::test
