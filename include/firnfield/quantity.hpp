/// Quantities with units: reading ("0.3 K cm^2/W"), writing, and literals. SI and kelvin inside.
#pragma once

#include <array>
#include <span>
#include <string>
#include <string_view>

namespace firnfield {

/// 0 °C in kelvin.
inline constexpr double zero_celsius = 273.15;

/// Stefan–Boltzmann constant, W/(m² K⁴) (CODATA 2018).
inline constexpr double stefan_boltzmann = 5.670374419e-8;

/// Exponents of kilogram, metre, second, kelvin and ampere.
struct Dimension {
    std::array<signed char, 5> exponents{};
    bool operator==(const Dimension&) const = default;
};

/// What a number stands for. A temperature and a temperature difference are different kinds.
struct QuantityKind {
    std::string_view name;     ///< "thermal conductivity"
    Dimension dimension;       ///< exponents of the base units
    std::string_view example;  ///< a well-formed example, shown in error messages
    std::string_view unit;     ///< that results for machines are in: of SI, but °C for temperatures
    bool absolute_temperature = false;
    /// The number as results for machines have it, and back.
    [[nodiscard]] constexpr double out(double si) const { return absolute_temperature ? si - zero_celsius : si; }
    [[nodiscard]] constexpr double in(double number) const { return absolute_temperature ? number + zero_celsius : number; }
};

namespace kinds {
inline constexpr QuantityKind number{"number", {}, "0.85", "1"};
inline constexpr QuantityKind length{"length", {{0, 1, 0, 0, 0}}, "12 mm", "m"};
inline constexpr QuantityKind area{"area", {{0, 2, 0, 0, 0}}, "4 cm^2", "m^2"};
inline constexpr QuantityKind volume{"volume", {{0, 3, 0, 0, 0}}, "8 cm^3", "m^3"};
inline constexpr QuantityKind mass{"mass", {{1, 0, 0, 0, 0}}, "120 g", "kg"};
inline constexpr QuantityKind time{"time", {{0, 0, 1, 0, 0}}, "30 min", "s"};
inline constexpr QuantityKind temperature{"temperature", {{0, 0, 0, 1, 0}}, "35 degC", "degC", true};
inline constexpr QuantityKind temperature_difference{"temperature difference", {{0, 0, 0, 1, 0}}, "5 K", "K"};
inline constexpr QuantityKind speed{"speed", {{0, 1, -1, 0, 0}}, "2 m/s", "m/s"};
inline constexpr QuantityKind pressure{"pressure", {{1, -1, -2, 0, 0}}, "0.7 bar", "Pa"};
inline constexpr QuantityKind power{"power", {{1, 2, -3, 0, 0}}, "25 W", "W"};
inline constexpr QuantityKind power_density{"power density", {{1, -1, -3, 0, 0}}, "2 MW/m^3", "W/m^3"};
inline constexpr QuantityKind heat_flux{"heat flux", {{1, 0, -3, 0, 0}}, "0.5 W/mm^2", "W/m^2"};
inline constexpr QuantityKind conductivity{"thermal conductivity", {{1, 1, -3, -1, 0}}, "167 W/(m K)", "W/(m K)"};
inline constexpr QuantityKind density{"density", {{1, -3, 0, 0, 0}}, "2700 kg/m^3", "kg/m^3"};
inline constexpr QuantityKind specific_heat{"specific heat", {{0, 2, -2, -1, 0}}, "900 J/(kg K)", "J/(kg K)"};
inline constexpr QuantityKind latent_heat{"latent heat", {{0, 2, -2, 0, 0}}, "200 kJ/kg", "J/kg"};
inline constexpr QuantityKind energy{"energy", {{1, 2, -2, 0, 0}}, "250 J", "J"};
inline constexpr QuantityKind heat_transfer_coefficient{"heat transfer coefficient", {{1, 0, -3, -1, 0}}, "8 W/(m^2 K)", "W/(m^2 K)"};
inline constexpr QuantityKind area_resistance{"area-specific thermal resistance", {{-1, 0, 3, 1, 0}}, "0.3 K cm^2/W", "K m^2/W"};
inline constexpr QuantityKind thermal_resistance{"thermal resistance", {{-1, -2, 3, 1, 0}}, "0.4 K/W", "K/W"};
inline constexpr QuantityKind thermal_conductance{"thermal conductance", {{1, 2, -3, -1, 0}}, "2.5 W/K", "W/K"};
inline constexpr QuantityKind heating_rate{"rate of temperature", {{0, 0, -1, 1, 0}}, "0.5 K/s", "K/s"};
inline constexpr QuantityKind heat_capacity{"heat capacity", {{1, 2, -2, -1, 0}}, "250 J/K", "J/K"};
inline constexpr QuantityKind viscosity{"dynamic viscosity", {{1, -1, -1, 0, 0}}, "1.0 mPa s", "Pa s"};
inline constexpr QuantityKind expansion{"thermal expansion", {{0, 0, 0, -1, 0}}, "0.21e-3 1/K", "1/K"};
inline constexpr QuantityKind resistivity{"electrical resistivity", {{1, 3, -3, 0, -2}}, "1.7e-8 Ohm m", "Ohm m"};
}  // namespace kinds

/// The kind of that name; null where there is none.
[[nodiscard]] const QuantityKind* quantity_named(std::string_view name);
/// The kind that has a dimension: of temperatures the temperature or the difference. Null where it has no name here.
[[nodiscard]] const QuantityKind* quantity_with(const Dimension& dimension, bool absolute_temperature = false);
/// The kind whose results for machines are in that unit; null where there is none.
[[nodiscard]] const QuantityKind* quantity_in(std::string_view machine_unit);
/// All kinds; of two with one dimension the usual one first.
[[nodiscard]] std::span<const QuantityKind* const> all_quantities();
/// The kind of a difference of two.
[[nodiscard]] constexpr const QuantityKind& difference_of(const QuantityKind& kind) { return kind.absolute_temperature ? kinds::temperature_difference : kind; }

/// Whether it is in kelvin: a temperature or a difference.
[[nodiscard]] constexpr bool is_kelvin(const QuantityKind& kind) { return kind.dimension == kinds::temperature.dimension; }

/// Reads a quantity and returns its SI value (kelvin for temperatures).
/// Throws QuantityError naming the column, what is expected and the nearest known unit.
/// Refused: a missing unit, another dimension, `W/m^2 K` (ambiguous), °C for a temperature difference.
[[nodiscard]] double parse_quantity(std::string_view text, const QuantityKind& kind);

/// A quantity of any kind.
struct Measured {
    double value = 0.0;  ///< SI
    Dimension dimension{};
    bool on_a_scale = false;  ///< a temperature given in °C or °F
    bool operator==(const Measured&) const = default;
};
/// Reads a quantity of whatever kind it is: a number alone, or a number with a unit. Throws QuantityError.
[[nodiscard]] Measured parse_measured(std::string_view text);

/// "length", "heat transfer coefficient", … for a dimension that has a name here; else its base units, "kg m^2/s^3".
[[nodiscard]] std::string name_of(const Dimension& dimension);

/// Writes a quantity in a unit people use for its kind so that parse_quantity gives back exactly `value`.
[[nodiscard]] std::string write_quantity(double value, const QuantityKind& kind);

/// Writes a quantity for reading: unit scaled to its size, `digits` significant digits ("38.2 mW", "0.30 K cm²/W").
[[nodiscard]] std::string show_quantity(double value, const QuantityKind& kind, int digits = 3);

/// The unit of results for machines, for reading: "W/(m² K)", "°C".
[[nodiscard]] std::string show_unit(const QuantityKind& kind);

/// Writes a temperature given in kelvin as "84.3 °C".
[[nodiscard]] std::string show_celsius(double kelvin, int decimals = 1);

namespace literals {
#define FIRNFIELD_UNIT_LITERAL(suffix, factor)                                                        \
    constexpr double operator""_##suffix(long double v) { return static_cast<double>(v) * (factor); } \
    constexpr double operator""_##suffix(unsigned long long v) { return static_cast<double>(v) * (factor); }
FIRNFIELD_UNIT_LITERAL(m, 1.0)
FIRNFIELD_UNIT_LITERAL(cm, 0.01)
FIRNFIELD_UNIT_LITERAL(mm, 0.001)
FIRNFIELD_UNIT_LITERAL(um, 1e-6)
FIRNFIELD_UNIT_LITERAL(s, 1.0)
FIRNFIELD_UNIT_LITERAL(min, 60.0)
FIRNFIELD_UNIT_LITERAL(h, 3600.0)
FIRNFIELD_UNIT_LITERAL(W, 1.0)
FIRNFIELD_UNIT_LITERAL(mW, 0.001)
FIRNFIELD_UNIT_LITERAL(kW, 1000.0)
FIRNFIELD_UNIT_LITERAL(K, 1.0)
#undef FIRNFIELD_UNIT_LITERAL
/// Absolute temperature: 35_degC is 308.15 K. For a value below zero write celsius(-20).
constexpr double operator""_degC(long double v) { return static_cast<double>(v) + zero_celsius; }
constexpr double operator""_degC(unsigned long long v) { return static_cast<double>(v) + zero_celsius; }
}  // namespace literals

/// Kelvin of a temperature in °C; for values below zero, where a literal would negate the kelvin.
[[nodiscard]] constexpr double celsius(double degrees) { return degrees + zero_celsius; }

}  // namespace firnfield
