// The library in one page: describe, solve, read the findings.

#include <firnfield/firnfield.hpp>

#include <fmt/core.h>

using namespace firnfield;
using namespace firnfield::literals;

int main() {
    Model model{.title = "Amplifier on a plate"};
    model.add(Part{.name = "plate", .shape = Box{.size = {80_mm, 60_mm, 4_mm}}, .material = "aluminium 6061-T6"});
    model.add(Part{.name = "amplifier", .shape = Box{.size = {20_mm, 10_mm, 3_mm}, .at = {30_mm, 25_mm, 4_mm}}, .material = "copper"});
    model.add(Joint{.between = {"amplifier", "plate"}, .resistance = 20e-6});  // K m²/W
    model.add(Power{.into = {"amplifier"}, .total = 6_W});
    model.add(Cooling{.on = exposed(), .convection = 12.0, .ambient = 35_degC});  // W/(m² K)
    model.add(Limit{.part = "amplifier", .below = 95_degC});

    const SteadySolution solution = solve_steady(model);
    fmt::print("{}", to_text(findings(model, solution)));
}
