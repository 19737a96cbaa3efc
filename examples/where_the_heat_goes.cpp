// Reads a model file, changes one thing, and compares where the heat goes. Usage: where_the_heat_goes MODEL.toml

#include <firnfield/firnfield.hpp>

#include <fmt/core.h>

using namespace firnfield;

int main(int argc, char** argv) try {
    if (argc != 2) {
        fmt::print(stderr, "usage: where_the_heat_goes MODEL.toml\n");
        return 2;
    }
    Model model = read_model(argv[1]);
    for (const bool painted : {false, true}) {
        if (painted) {
            for (Cooling& cooling : model.coolings) cooling.emissivity = 0.92;
        }
        const Findings found = findings(model, solve_steady(model));
        fmt::print("{:<10} hottest {:>9} in {:<12} convection {:6.2f} W  radiation {:6.2f} W\n", painted ? "painted" : "as given",
                   show_celsius(found.hottest.temperature), found.hottest.body, found.ledger.convection, found.ledger.radiation);
    }
} catch (const Error& error) {
    fmt::print(stderr, "{}\n", error.what());
    return 2;
}
