/// Numbers and remarks as all reports write them.
#pragma once

#include <firnfield/findings.hpp>
#include <firnfield/quantity.hpp>

#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

/// °C with one decimal, without the unit.
[[nodiscard]] std::string degrees(double kelvin);
/// Power with the resolution that matters next to `scale`: a thousandth of it.
[[nodiscard]] std::string watts(double power, double scale);
/// "(12.0, 3.5, 0.0)", in mm.
[[nodiscard]] std::string place(Vec3 p);
/// With its unit and that many digits, temperatures to a tenth and differences of them in K: "38.2 °C", "0.10 K", "12.40 W".
[[nodiscard]] std::string amount_text(double si, const QuantityKind& kind, int digits = 4);
/// "12.4 min".
[[nodiscard]] std::string duration(double seconds);
[[nodiscard]] std::string heading(std::string_view text);
/// "Study "lab", steady, ambient 35.0 °C".
[[nodiscard]] std::string describe(const Study& study);
void append_warnings(std::string& out, const std::vector<Warning>& warnings);

}  // namespace firnfield
