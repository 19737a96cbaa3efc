// Quantities as text: to be read back exactly, or to be read by people.

#include <firnfield/error.hpp>
#include <firnfield/quantity.hpp>

#include "base/unit_text.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <span>
#include <vector>

namespace firnfield {
namespace {

struct UnitChoice {
    std::string_view kind;
    std::vector<std::string_view> units;  // as parse_quantity reads them, smallest first
};

/// Units in which people of the trade write each kind, smallest first; the SI unit is always the last resort.
std::span<const std::string_view> usual_units(const QuantityKind& kind) {
    static const std::vector<UnitChoice> choices{
        {"length", {"um", "mm", "m"}},
        {"area", {"mm^2", "cm^2", "m^2"}},
        {"volume", {"mm^3", "cm^3", "m^3"}},
        {"mass", {"mg", "g", "kg"}},
        {"time", {"ms", "s", "min", "h"}},
        {"speed", {"m/s"}},
        {"pressure", {"Pa", "kPa", "bar"}},
        {"temperature", {"degC", "K"}},
        {"temperature difference", {"mK", "K"}},
        {"power", {"uW", "mW", "W", "kW"}},
        {"power density", {"W/m^3", "kW/m^3", "MW/m^3"}},
        {"heat flux", {"W/m^2", "W/cm^2", "W/mm^2"}},
        {"thermal conductivity", {"W/(m K)"}},
        {"density", {"kg/m^3"}},
        {"specific heat", {"J/(kg K)"}},
        {"heat transfer coefficient", {"W/(m^2 K)"}},
        {"area-specific thermal resistance", {"K mm^2/W", "K cm^2/W", "K m^2/W"}},
        {"thermal resistance", {"K/W"}},
        {"thermal conductance", {"W/K"}},
        {"rate of temperature", {"K/h", "K/min", "K/s"}},
        {"latent heat", {"J/kg", "kJ/kg"}},
        {"energy", {"mJ", "J", "kJ", "MJ"}},
        {"heat capacity", {"J/K"}},
        {"electrical resistivity", {"nOhm m", "uOhm m", "Ohm m"}},
        {"dynamic viscosity", {"mPa s", "Pa s"}},
        {"thermal expansion", {"1/K"}},
    };
    for (const UnitChoice& choice : choices) {
        if (choice.kind == kind.name) return choice.units;
    }
    return {};
}

}  // namespace

std::string pretty_unit(std::string_view unit) {
    std::string text;
    for (std::size_t i = 0; i < unit.size(); ++i) {
        if (unit.substr(i).starts_with("^2")) {
            text += "²";
            ++i;
        } else if (unit.substr(i).starts_with("^3")) {
            text += "³";
            ++i;
        } else if (unit.substr(i).starts_with("um")) {
            text += "µm";
            ++i;
        } else if (unit.substr(i).starts_with("degC")) {
            text += "°C";
            i += 3;
        } else if (unit.substr(i).starts_with("degF")) {
            text += "°F";
            i += 3;
        } else if (unit.substr(i).starts_with("degR")) {
            text += "°R";
            i += 3;
        } else {
            text += unit[i];
        }
    }
    return text;
}

/// `digits` significant digits without an exponent where that stays readable.
std::string significant(double value, int digits) {
    if (value == 0.0) return "0";
    const int magnitude = static_cast<int>(std::floor(std::log10(std::abs(value))));
    if (magnitude >= 6 || magnitude < -4) return fmt::format("{:.{}e}", value, digits - 1);
    return fmt::format("{:.{}f}", value, std::max(0, digits - 1 - magnitude));
}

std::string write_quantity(double value, const QuantityKind& kind) {
    if (kind.dimension == Dimension{}) return fmt::format("{}", value);
    std::string best;
    for (const std::string_view unit : usual_units(kind)) {
        const double one = kind.absolute_temperature ? 1.0 : parse_quantity(fmt::format("1 {}", unit), kind);
        const double scaled = kind.absolute_temperature && unit == "degC" ? value - zero_celsius : value / one;
        for (int digits = 1; digits <= 17; ++digits) {
            std::string text = fmt::format("{:.{}g} {}", scaled, digits, unit);
            if (parse_quantity(text, kind) != value) continue;
            if (best.empty() || text.size() < best.size()) best = std::move(text);
            break;
        }
    }
    if (best.empty()) throw Error(fmt::format("no unit writes a {} of {}", kind.name, value));
    return best;
}

UnitOf readable_unit(double value, const QuantityKind& kind) {
    UnitOf best{.name = std::string(kind.unit), .shown = pretty_unit(kind.unit)};
    bool first = true;
    for (const std::string_view candidate : usual_units(kind)) {
        const double one = parse_quantity(fmt::format("1 {}", candidate), kind);
        // Move up once a value would need four digits before the point; mm, cm² and cm³ already at a tenth of one.
        const bool early = candidate.find("cm") != std::string_view::npos || candidate == "mm";
        const double threshold = early ? 0.0999 : 0.9999;
        if (first || (value == 0.0 ? one == 1.0 : std::abs(value) >= threshold * one)) best = {std::string(candidate), pretty_unit(candidate), one};
        first = false;
    }
    return best;
}

std::string show_quantity(double value, const QuantityKind& kind, int digits) {
    if (usual_units(kind).empty()) return significant(value, digits);
    if (kind.absolute_temperature) return show_celsius(value, digits > 3 ? digits - 3 : 1);
    const UnitOf unit = readable_unit(value, kind);
    return significant(value / unit.one, digits) + " " + unit.shown;
}

std::string show_unit(const QuantityKind& kind) { return pretty_unit(kind.unit); }

std::string show_celsius(double kelvin, int decimals) { return without_sign_of_zero(fmt::format("{:.{}f}", kelvin - zero_celsius, decimals)) + " °C"; }

std::string without_sign_of_zero(std::string text) {
    if (text.starts_with('-') && text.find_first_not_of("-0.") == std::string::npos) text.erase(0, 1);
    return text;
}

}  // namespace firnfield
