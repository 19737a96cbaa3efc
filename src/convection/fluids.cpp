// Properties of the built-in fluids, from tables.

#include <firnfield/convection.hpp>
#include <firnfield/error.hpp>
#include <firnfield/quantity.hpp>

#include "base/words.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace firnfield {
namespace {

/// Air: viscosity by Sutherland, conductivity by the formula of the U.S. Standard Atmosphere 1976, ideal gas.
FluidState air(double t, double pressure) {
    constexpr double gas_constant = 287.05, specific_heat = 1006.0;
    constexpr double ln_10 = 2.302585092994045684;
    const double power = t * std::sqrt(t);
    const double viscosity = 1.458e-6 * power / (t + 110.4);
    const double conductivity = 2.64638e-3 * power / (t + 245.4 * std::exp(-12.0 * ln_10 / t));
    return {conductivity, viscosity * gas_constant * t / pressure, viscosity * specific_heat / conductivity, 1.0 / t};
}

struct LiquidRow {
    double celsius, density, viscosity, conductivity, specific_heat, expansion;  // kg/m³, Pa s, W/(m K), J/(kg K), 1/K
};

struct Liquid {
    std::string_view name;
    std::span<const LiquidRow> table;
};

// Handbook values at saturation.
constexpr std::array water{LiquidRow{0, 999.8, 1.792e-3, 0.561, 4217, -0.068e-3}, LiquidRow{10, 999.7, 1.307e-3, 0.580, 4192, 0.088e-3},
                           LiquidRow{20, 998.2, 1.002e-3, 0.598, 4182, 0.207e-3}, LiquidRow{30, 995.7, 0.798e-3, 0.615, 4178, 0.303e-3},
                           LiquidRow{40, 992.2, 0.653e-3, 0.631, 4179, 0.385e-3}, LiquidRow{50, 988.0, 0.547e-3, 0.644, 4181, 0.457e-3},
                           LiquidRow{60, 983.2, 0.467e-3, 0.654, 4184, 0.522e-3}, LiquidRow{70, 977.8, 0.404e-3, 0.663, 4190, 0.583e-3},
                           LiquidRow{80, 971.8, 0.354e-3, 0.670, 4196, 0.640e-3}, LiquidRow{90, 965.3, 0.315e-3, 0.675, 4205, 0.695e-3},
                           LiquidRow{100, 958.4, 0.282e-3, 0.679, 4216, 0.750e-3}};
// Typical values; mixtures of different make scatter by 5 to 10 %.
constexpr std::array water_glycol{LiquidRow{-20, 1090, 21e-3, 0.36, 3130, 0.45e-3},  LiquidRow{0, 1082, 7.8e-3, 0.37, 3200, 0.50e-3},
                                  LiquidRow{20, 1072, 3.9e-3, 0.38, 3280, 0.55e-3},  LiquidRow{40, 1061, 2.25e-3, 0.39, 3370, 0.60e-3},
                                  LiquidRow{60, 1049, 1.45e-3, 0.40, 3450, 0.65e-3}, LiquidRow{80, 1036, 1.0e-3, 0.41, 3520, 0.70e-3}};
// Typical values of inhibited mineral transformer oil; viscosity scatters by 20 %.
constexpr std::array transformer_oil{LiquidRow{0, 886, 60e-3, 0.134, 1800, 0.75e-3},   LiquidRow{20, 874, 20e-3, 0.133, 1870, 0.75e-3},
                                     LiquidRow{40, 862, 9.5e-3, 0.131, 1950, 0.75e-3}, LiquidRow{60, 849, 5.3e-3, 0.130, 2030, 0.75e-3},
                                     LiquidRow{80, 837, 3.4e-3, 0.129, 2110, 0.75e-3}, LiquidRow{100, 824, 2.4e-3, 0.127, 2190, 0.75e-3}};

constexpr std::array<Liquid, 3> liquids{{{"water", water}, {"water-glycol 50/50", water_glycol}, {"transformer oil", transformer_oil}}};

FluidState interpolate(std::span<const LiquidRow> table, double kelvin) {
    const double celsius = std::clamp(kelvin - zero_celsius, table.front().celsius, table.back().celsius);
    std::size_t i = 0;
    while (i + 2 < table.size() && celsius > table[i + 1].celsius) ++i;
    const LiquidRow &a = table[i], &b = table[i + 1];
    const double u = (celsius - a.celsius) / (b.celsius - a.celsius);
    const auto mix = [u](double p, double q) { return p + u * (q - p); };
    const double viscosity = a.viscosity * std::pow(b.viscosity / a.viscosity, u);  // falls about exponentially
    const double conductivity = mix(a.conductivity, b.conductivity);
    return {conductivity, viscosity / mix(a.density, b.density), viscosity * mix(a.specific_heat, b.specific_heat) / conductivity,
            mix(a.expansion, b.expansion)};
}

const Liquid* find_liquid(std::string_view name) {
    const auto found = std::find_if(liquids.begin(), liquids.end(), [&](const Liquid& l) { return l.name == name; });
    return found == liquids.end() ? nullptr : &*found;
}

[[noreturn]] void unknown_fluid(std::string_view name) {
    const std::vector<std::string> names = fluid_names();
    throw Error(fmt::format("unknown fluid {}{}; there are {}", in_quotes(name), did_you_mean(name, names), quoted_list(names)));
}

}  // namespace

std::vector<std::string> fluid_names() {
    std::vector<std::string> names{"air"};
    for (const Liquid& liquid : liquids) names.emplace_back(liquid.name);
    return names;
}

FluidState fluid_state(std::string_view fluid, double temperature, double pressure) {
    if (fluid == "air") return air(temperature, pressure);
    if (const Liquid* liquid = find_liquid(fluid)) return interpolate(liquid->table, temperature);
    unknown_fluid(fluid);
}

FluidState fluid_state(const Fluid& fluid, double temperature) {
    const double conductivity = fluid.conductivity(temperature), viscosity = fluid.viscosity(temperature);
    return {conductivity, viscosity / fluid.density(temperature), viscosity * fluid.specific_heat(temperature) / conductivity, fluid.expansion(temperature)};
}

std::vector<std::string> problems_of(const Fluid& fluid) {
    std::vector<std::string> problems;
    const auto check = [&](std::string_view key, const Curve& curve, bool positive) {
        if (curve.empty()) {
            problems.push_back(fmt::format("fluid {} has no {}", in_quotes(fluid.name), key));
        } else if (const std::string problem = curve.at.size() == 1 ? std::string() : problem_of(curve); !problem.empty()) {
            problems.push_back(fmt::format("{} of fluid {}: {}", key, in_quotes(fluid.name), problem));
        } else if (!std::all_of(curve.value.begin(), curve.value.end(), [&](double v) { return std::isfinite(v) && (!positive || v > 0.0); })) {
            problems.push_back(fmt::format("{} of fluid {} must be {} everywhere", key, in_quotes(fluid.name), positive ? "positive" : "a finite number"));
        }
    };
    check("conductivity", fluid.conductivity, true);
    check("density", fluid.density, true);
    check("viscosity", fluid.viscosity, true);
    check("specific_heat", fluid.specific_heat, true);
    check("expansion", fluid.expansion, false);
    return problems;
}

FluidRange fluid_range(std::string_view fluid) {
    if (fluid == "air") return {150.0, 1500.0};
    if (const Liquid* liquid = find_liquid(fluid)) return {liquid->table.front().celsius + zero_celsius, liquid->table.back().celsius + zero_celsius};
    unknown_fluid(fluid);
}

}  // namespace firnfield
