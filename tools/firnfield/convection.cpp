// `firnfield convection`: coefficients from laws.

#include "commands.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace firnfield::command {
namespace {

void list_laws() {
    say("Laws\n");
    for (const ConvectionLawInfo& info : convection_laws()) {
        std::string options;
        for (const std::string& key : info.needs) options += " --" + key;
        say("  {:<30} {:<34} {}\n", "\"" + info.name + "\"", options, info.forced ? "forced" : "natural");
        say("      {}\n      {}; {}\n", info.meaning, info.source, info.range);
    }
    say("\nFluids\n  {}\n\nUsual coefficients, W/(m² K)\n", fmt::join(fluid_names(), ", "));
    for (const TypicalCoefficient& t : typical_coefficients()) say("  {:>7g} to {:<7g} {}\n", t.from, t.to, t.situation);
    say("\nfirnfield convection \"vertical plate\" --length \"120 mm\" --surface \"75 degC\" --ambient \"25 degC\"\n");
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
    const Units units = options.units.empty() ? Units{} : parse_units(options.units);
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
    if (!options.model.empty()) law = with_own_fluid(read_model(options.model), law);
    const ConvectionResult result = firnfield::convection(law, surface, ambient);
    if (options.json) {
        say("{}", to_json(law, result, surface, ambient));
        return done;
    }
    const auto line = [](std::string_view name, const std::string& value) { say("  {:<24}{}\n", name, value); };
    say("{}, {}, surface {}, ambient {}\n", law.law, law.fluid, show_temperature(surface, units), show_temperature(ambient, units));
    line("film temperature", show_temperature(result.film_temperature, units));
    line("conductivity", fmt::format("{:.6g} W/(m K)", result.fluid.conductivity));
    line("kinematic viscosity", fmt::format("{:.6g} m²/s", result.fluid.kinematic_viscosity));
    line("Prandtl number", fmt::format("{:.6g}", result.fluid.prandtl));
    line(result.forced ? "Reynolds number" : "Rayleigh number", fmt::format("{:.6g} ({})", result.driving, result.regime));
    line("Nusselt number", fmt::format("{:.6g}", result.nusselt));
    line("coefficient", fmt::format("{:.6g} W/(m² K)", result.coefficient));
    line("heat flux", fmt::format("{:.6g} W/m²", result.coefficient * (surface - ambient)));
    if (result.optimum_spacing) line("optimum spacing", show_quantity(*result.optimum_spacing, kinds::length, units));
    for (const ConvectionLawInfo& info : convection_laws()) {
        if (info.name != law.law) continue;
        line("source", info.source);
        line("made for", info.range);
    }
    if (!result.in_range) say("  ! outside the range the law was made for: take the value as a guess\n");
    return done;
}

}  // namespace firnfield::command
