/// How units and numbers stand in texts for people.
#pragma once

#include <firnfield/units.hpp>

#include <string>
#include <string_view>

namespace firnfield {

/// "W/(m² K)", "°C".
[[nodiscard]] std::string pretty_unit(std::string_view unit);
/// `digits` significant digits without an exponent where that stays readable.
[[nodiscard]] std::string significant(double value, int digits);
/// Of the units in which people of the trade write a kind the one in which a value is easy to read.
[[nodiscard]] UnitOf readable_unit(double value, const QuantityKind& kind);
/// "0.0" for "-0.0".
[[nodiscard]] std::string without_sign_of_zero(std::string text);

}  // namespace firnfield
