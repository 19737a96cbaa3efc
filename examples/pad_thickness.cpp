// A design question answered in a loop: how thick may the gap pad be before the chip passes its limit?

#include <firnfield/firnfield.hpp>

#include <fmt/core.h>

using namespace firnfield;
using namespace firnfield::literals;

namespace {

Model chip_on_wall(double pad) {
    Model model{.title = "Chip against a cold wall"};
    model.mesh.cell = 2_mm;
    model.add(Part{.name = "wall", .shape = Box{.size = {60_mm, 60_mm, 3_mm}}, .material = "aluminium 5052"});
    model.add(Part{.name = "chip", .shape = Box{.size = {14_mm, 14_mm, 1.2_mm}, .at = {23_mm, 23_mm, 3_mm + pad}}, .material = "epoxy moulding compound"});
    // The pad is not a part of its own: the joint bridges the gap it fills.
    model.add(Joint{.between = {"chip", "wall"}, .layer = Layer{.material = "gap pad 3 W", .thickness = pad}, .reach = pad});
    model.add(Power{.into = {"chip"}, .total = 6_W});
    Selection outside;
    outside.parts = {"wall"};
    outside.facing = {outward(Side::minus_z)};
    model.add(Hold{.on = outside, .temperature = 45_degC});
    model.add(Limit{.part = "chip", .below = 100_degC});
    return model;
}

}  // namespace

int main() {
    fmt::print("pad (mm)   chip (°C)   margin (K)\n");
    for (const double pad : {0.25_mm, 0.5_mm, 1_mm, 2_mm, 3_mm, 4_mm}) {
        const Model model = chip_on_wall(pad);
        const Findings found = findings(model, solve_steady(model));
        fmt::print("{:8.2f}   {:9.1f}   {:+10.1f}{}\n", 1e3 * pad, found.limits[0].worst.temperature - zero_celsius, found.limits[0].margin,
                   found.limits[0].kept() ? "" : "   missed");
    }
}
