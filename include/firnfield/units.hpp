/// The units in which answers are told to people. Results for machines (JSON, VTU) stay in SI and °C.
#pragma once

#include <firnfield/quantity.hpp>

#include <string>
#include <string_view>

namespace firnfield {

/// What `[units]` of a model file or `--units` chose. Everything else follows from these two: areas, volumes and heat fluxes from the length where it is
/// of the inch family, differences, rates and thermal resistances from the temperature.
struct Units {
    std::string length = "mm", temperature = "degC";
    bool operator==(const Units&) const = default;
};

/// Reads "in, degF", or one of the two; what is not named stays as in `otherwise`. Throws QuantityError for what is no unit of either.
[[nodiscard]] Units parse_units(std::string_view text, const Units& otherwise = {});

/// The one unit that all numbers of a kind have in a column, on an axis or in a CSV file.
struct UnitOf {
    std::string name;   ///< "degF", "delta degF" of a difference, "in^2"
    std::string shown;  ///< for reading: "°F", "in²"
    double one = 1.0;   ///< SI
    double zero = 0.0;  ///< SI, of a scale of temperatures
    [[nodiscard]] double out(double si) const { return (si - zero) / one; }
    [[nodiscard]] double in(double number) const { return number * one + zero; }
};
[[nodiscard]] UnitOf unit_of(const QuantityKind& kind, const Units& units);

/// A number as results for machines have it (QuantityKind::unit) in the unit of the reader, and back.
struct Told {
    const QuantityKind* kind;
    UnitOf unit;
    [[nodiscard]] double out(double machine) const { return unit.out(kind->in(machine)); }
    [[nodiscard]] double in(double told) const { return kind->out(unit.in(told)); }
};
/// By the unit of results for machines, and by the name of the reader's. Of what no kind is measured in there is nothing to tell otherwise: null kind.
[[nodiscard]] Told told_by_machine_unit(std::string_view unit, const Units& units);
[[nodiscard]] Told told_by_name(std::string_view name, const Units& units);

/// Writes a quantity for reading: unit scaled to its size where the reader has not chosen one, `digits` significant digits.
[[nodiscard]] std::string show_quantity(double value, const QuantityKind& kind, const Units& units, int digits = 3);

/// Writes a temperature given in kelvin as "183.7 °F".
[[nodiscard]] std::string show_temperature(double kelvin, const Units& units, int decimals = 1);

/// Writes a difference of temperatures as "12.3 K" or "22.1 °F".
[[nodiscard]] std::string show_difference(double kelvin, const Units& units, int decimals = 1);

}  // namespace firnfield
