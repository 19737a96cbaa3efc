/// How units and numbers stand in texts for people.
#pragma once

#include <string>
#include <string_view>

namespace firnfield {

/// "W/(m² K)", "°C".
[[nodiscard]] std::string pretty_unit(std::string_view unit);
/// `digits` significant digits without an exponent where that stays readable.
[[nodiscard]] std::string significant(double value, int digits);
/// "0.0" for "-0.0".
[[nodiscard]] std::string without_sign_of_zero(std::string text);

}  // namespace firnfield
