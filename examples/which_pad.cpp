// Designs in a program: models made in a loop, solved together and compared; the thickness at which the limit is just met; and why the chip is hot.

#include <firnfield/firnfield.hpp>

#include <fmt/core.h>

using namespace firnfield;
using namespace firnfield::literals;

namespace {

Model chip_on_plate(double pad) {
    Model model{.title = "Chip on a plate"};
    model.mesh.cell = 4_mm;
    model.add(Part{.name = "plate", .shape = Box{.size = {60_mm, 60_mm, 3_mm}}, .material = "aluminium 5052"});
    model.add(Part{.name = "chip", .shape = Box{.size = {14_mm, 14_mm, 1.2_mm}, .at = {23_mm, 23_mm, 3_mm}}, .material = "epoxy moulding compound"});
    // A layer without room of its own: the mesh stays the same whatever its thickness.
    model.add(Joint{.name = "pad", .between = {"chip", "plate"}, .layer = Layer{.material = "gap pad 3 W", .thickness = pad}});
    model.add(Power{.name = "chip", .into = {"chip"}, .total = 6_W});
    Selection underside;
    underside.parts = {"plate"};
    underside.sides = {"-z"};
    model.add(Cooling{.name = "cold wall", .on = underside, .convection = 400.0, .ambient = 45_degC});
    model.add(Limit{.part = "chip", .below = 85_degC});
    return model;
}

double margin_at(double pad) {
    const Model model = chip_on_plate(pad);
    return findings(model, solve_steady(model)).limits[0].margin;
}

}  // namespace

int main() {
    std::vector<NamedModel> designs;
    for (const double pad : {0.5_mm, 1_mm, 2_mm, 4_mm}) designs.push_back({fmt::format("{:g} mm", 1e3 * pad), chip_on_plate(pad)});
    std::vector<Outcome> outcomes;
    const auto solved = solve_designs(designs);
    for (std::size_t d = 0; d < designs.size(); ++d)
        outcomes.push_back({.name = designs[d].name, .mass = mass_of(solved[d][0]), .studies = {outcome(solved[d][0])}});
    fmt::print("{}", to_text(compare("Which pad?", outcomes)));

    const SeekResult thickest = seek(margin_at, 0.5_mm, 4_mm);
    if (thickest.at) fmt::print("\nThe limit is just met with {:.2f} mm.\n\n", 1e3 * *thickest.at);

    const Model model = chip_on_plate(1_mm);
    fmt::print("With 1 mm:\n{}", to_text(explain(model, solve_steady(model), {.part = "chip"})));
}
