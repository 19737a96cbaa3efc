#include "commands.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace firnfield::command {
namespace {

void list_laws() {
    fmt::print("Laws\n");
    for (const ConvectionLawInfo& info : convection_laws()) {
        std::string options;
        for (const std::string& key : info.needs) options += " --" + key;
        fmt::print("  {:<30} {:<34} {}\n", "\"" + info.name + "\"", options, info.forced ? "forced" : "natural");
        fmt::print("      {}\n      {}; {}\n", info.meaning, info.source, info.range);
    }
    fmt::print("\nFluids\n  {}\n\nUsual coefficients, W/(m² K)\n", fmt::join(fluid_names(), ", "));
    for (const TypicalCoefficient& t : typical_coefficients()) fmt::print("  {:>7g} to {:<7g} {}\n", t.from, t.to, t.situation);
    fmt::print("\nfirnfield convection \"vertical plate\" --length \"120 mm\" --surface \"75 degC\" --ambient \"25 degC\"\n");
}

std::optional<double> read(const std::optional<std::string>& text, const QuantityKind& kind) {
    if (!text) return std::nullopt;
    return parse_quantity(*text, kind);
}

}  // namespace

int convection(const ConvectionOptions& options) {
    if (options.law.empty()) {
        list_laws();
        return done;
    }
    ConvectionLaw law{.law = options.law, .fluid = options.fluid};
    law.length = read(options.length, kinds::length);
    law.diameter = read(options.diameter, kinds::length);
    law.spacing = read(options.spacing, kinds::length);
    law.angle = read(options.angle, kinds::number);
    law.speed = read(options.speed, kinds::speed);
    law.pressure = read(options.pressure, kinds::pressure).value_or(law.pressure);
    if (!options.surface || !options.ambient) throw Error("give --surface and --ambient, as in --surface \"75 degC\" --ambient \"25 degC\"");
    const double surface = parse_quantity(*options.surface, kinds::temperature), ambient = parse_quantity(*options.ambient, kinds::temperature);
    if (surface <= 0.0 || ambient <= 0.0) throw Error("a temperature is at or below absolute zero");
    const ConvectionResult result = firnfield::convection(law, surface, ambient);
    const auto line = [](std::string_view name, const std::string& value) { fmt::print("  {:<24}{}\n", name, value); };
    fmt::print("{}, {}, surface {}, ambient {}\n", law.law, law.fluid, show_celsius(surface), show_celsius(ambient));
    line("film temperature", show_celsius(result.film_temperature));
    line("conductivity", fmt::format("{:.4g} W/(m K)", result.fluid.conductivity));
    line("kinematic viscosity", fmt::format("{:.4g} m²/s", result.fluid.kinematic_viscosity));
    line("Prandtl number", fmt::format("{:.4g}", result.fluid.prandtl));
    line(result.forced ? "Reynolds number" : "Rayleigh number", fmt::format("{:.4g} ({})", result.driving, result.regime));
    line("Nusselt number", fmt::format("{:.4g}", result.nusselt));
    line("coefficient", fmt::format("{:.3g} W/(m² K)", result.coefficient));
    line("heat flux", fmt::format("{:.3g} W/m²", result.coefficient * (surface - ambient)));
    if (result.optimum_spacing) line("optimum spacing", show_quantity(*result.optimum_spacing, kinds::length));
    for (const ConvectionLawInfo& info : convection_laws()) {
        if (info.name != law.law) continue;
        line("source", info.source);
        line("made for", info.range);
    }
    if (!result.in_range) fmt::print("  ! outside the range the law was made for: take the value as a guess\n");
    return done;
}

}  // namespace firnfield::command
