// A program outside of the project that uses the installed library.

#include <firnfield/firnfield.hpp>

#include <fmt/core.h>

int main() {
    using namespace firnfield;
    using namespace firnfield::literals;
    Model model{.title = "Consumer"};
    model.add(Part{.name = "bar", .shape = Box{.size = {50_mm, 10_mm, 10_mm}}, .material = "copper"});
    model.add(Power{.into = {"bar"}, .total = 2_W});
    model.add(Cooling{.on = exposed(), .convection = 10.0, .ambient = 20_degC});
    fmt::print("{}", to_text(findings(model, solve_steady(model))));
    return read_model_text(write_model(model)) == model ? 0 : 1;
}
