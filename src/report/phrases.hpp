/// Numbers and remarks as all reports write them.
#pragma once

#include <firnfield/findings.hpp>
#include <firnfield/parameter.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/units.hpp>

#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

/// A temperature with one decimal, without the unit.
[[nodiscard]] std::string degrees(double kelvin, const Units& units);
/// A difference of temperatures without the unit; `sign`: with "+", too.
[[nodiscard]] std::string degrees_apart(double kelvin, const Units& units, int decimals = 1, bool sign = false);
/// Likewise with so many significant digits at most, and with the unit: "0.012 K".
[[nodiscard]] std::string about_degrees(double kelvin, const Units& units, int digits = 2);
/// "°C" and "K", as they stand in heads of columns and on axes.
[[nodiscard]] std::string degree_unit(const Units& units);
[[nodiscard]] std::string difference_unit(const Units& units);
[[nodiscard]] std::string unit_of_lengths(const Units& units);
/// Power with the resolution that matters next to `scale`: a thousandth of it.
[[nodiscard]] std::string watts(double power, double scale);
/// "(12.0, 3.5, 0.0)", in the reader's unit of length.
[[nodiscard]] std::string place(Vec3 p, const Units& units);
/// With its unit and that many digits, temperatures to a tenth: "38.2 °C", "0.10 K", "12.40 W".
[[nodiscard]] std::string amount_text(double si, const QuantityKind& kind, const Units& units, int digits = 4);
/// A quantity of any kind, in the unit people use for it where its kind has a name; of a parameter the width of its spread.
[[nodiscard]] std::string measured_text(const Measured& value, const Units& units, int digits = 3);
[[nodiscard]] std::string spread_text(const ParameterInfo& parameter, const Units& units, int digits = 3);
/// "12.4 min".
[[nodiscard]] std::string duration(double seconds);
[[nodiscard]] std::string heading(std::string_view text);
/// "Study "lab", steady, ambient 35.0 °C".
[[nodiscard]] std::string describe(const Study& study, const Units& units);
void append_warnings(std::string& out, const std::vector<Warning>& warnings);

}  // namespace firnfield
