// The units in which answers are told to people.

#include <firnfield/error.hpp>
#include <firnfield/units.hpp>

#include "base/unit_text.hpp"
#include "base/words.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

bool is_unit_of(const std::string& text, const QuantityKind& kind) {
    try {
        static_cast<void>(parse_quantity("1 " + text, kind));
        return true;
    } catch (const QuantityError&) {
        return false;
    }
}

std::string trimmed(std::string_view text) {
    const std::size_t first = text.find_first_not_of(' ');
    return first == std::string_view::npos ? std::string() : std::string(text.substr(first, text.find_last_not_of(' ') - first + 1));
}

const Units usual{};

/// The unit of lengths in areas, volumes and heat fluxes: of the metric family people have their own for each.
std::string_view area_unit(const Units& units) { return units.length == "ft" ? "ft" : units.length == "in" || units.length == "mil" ? "in" : ""; }

/// A difference of temperatures that the scale counts as one.
double one_degree(const Units& units) {
    return parse_quantity("1 " + units.temperature, kinds::temperature) - parse_quantity("0 " + units.temperature, kinds::temperature);
}

/// Of units with a kelvin in them those that follow the scale of the reader: coefficients and conductivities are data of materials and stay.
bool follows_scale(const QuantityKind& kind) {
    return kind.unit == "K" || kind.unit == "K/s" || kind.unit == "K/W" || kind.unit == "W/K" || kind.unit == "J/K";
}

std::string replaced(std::string_view text, std::string_view what, std::string_view by) {
    std::string out(text);
    const std::size_t at = out.find(what);
    if (at != std::string::npos) out.replace(at, what.size(), by);
    return out;
}

}  // namespace

Units parse_units(std::string_view text, const Units& otherwise) {
    Units out = otherwise;
    bool length = false, temperature = false;
    for (std::size_t at = 0; at <= text.size();) {
        const std::size_t comma = std::min(text.find(',', at), text.size());
        const std::string unit = trimmed(text.substr(at, comma - at));
        if (!length && is_unit_of(unit, kinds::length)) {
            out.length = unit;
            length = true;
        } else if (!temperature && is_unit_of(unit, kinds::temperature)) {
            out.temperature = unit == "°C" ? "degC" : unit == "°F" ? "degF" : unit;
            temperature = true;
        } else {
            throw QuantityError(fmt::format("{} does not name a unit of length, a unit of temperature, or one of each; write for example \"in, degF\"",
                                            in_quotes(std::string(text))),
                                at + 1);
        }
        at = comma + 1;
    }
    return out;
}

UnitOf unit_of(const QuantityKind& kind, const Units& units) {
    UnitOf out{.name = std::string(kind.unit), .shown = pretty_unit(kind.unit), .one = 1.0, .zero = kind.absolute_temperature ? zero_celsius : 0.0};
    if (kind.absolute_temperature && units.temperature != usual.temperature) {
        out.zero = parse_quantity("0 " + units.temperature, kind);
        out.one = one_degree(units);
        out.name = units.temperature;
        out.shown = pretty_unit(units.temperature);
    } else if (kind.unit == "K" && units.temperature == "K") {
        out.name = "delta K";  // told from temperatures, which stand in K, too
    } else if (follows_scale(kind) && units.temperature != usual.temperature && units.temperature != "K") {
        const double one = one_degree(units);
        out.one = kind.dimension.exponents[3] > 0 ? one : 1.0 / one;
        out.name = kind.unit == "K" ? "delta " + units.temperature : replaced(kind.unit, "K", units.temperature);
        out.shown = replaced(out.shown, "K", pretty_unit(units.temperature));
    } else if (kind.unit == "m" && units.length != usual.length) {
        out.one = parse_quantity("1 " + units.length, kind);
        out.name = units.length;
        out.shown = pretty_unit(units.length);
    } else if (const std::string_view of = area_unit(units); !of.empty() && (kind.unit == "m^2" || kind.unit == "m^3" || kind.unit == "W/m^2")) {
        out.name = replaced(kind.unit, "m", of);
        out.one = parse_quantity("1 " + out.name, kind);
        out.shown = pretty_unit(out.name);
    }
    return out;
}

Told told_by_machine_unit(std::string_view unit, const Units& units) {
    const QuantityKind* kind = quantity_in(unit);
    return {kind, kind == nullptr ? UnitOf{} : unit_of(*kind, units)};
}

Told told_by_name(std::string_view name, const Units& units) {
    for (const QuantityKind* kind : all_quantities()) {
        if (UnitOf unit = unit_of(*kind, units); unit.name == name) return {kind, std::move(unit)};
    }
    return {nullptr, {}};
}

std::string show_quantity(double value, const QuantityKind& kind, const Units& units, int digits) {
    const UnitOf unit = unit_of(kind, units);
    if (unit.name == kind.unit) return show_quantity(value, kind, digits);
    if (kind.absolute_temperature) return show_temperature(value, units, digits > 3 ? digits - 3 : 1);
    return significant(unit.out(value), digits) + " " + unit.shown;
}

std::string show_temperature(double kelvin, const Units& units, int decimals) {
    const UnitOf unit = unit_of(kinds::temperature, units);
    return without_sign_of_zero(fmt::format("{:.{}f}", unit.out(kelvin), decimals)) + " " + unit.shown;
}

std::string show_difference(double kelvin, const Units& units, int decimals) {
    const UnitOf unit = unit_of(kinds::temperature_difference, units);
    return without_sign_of_zero(fmt::format("{:.{}f}", unit.out(kelvin), decimals)) + " " + unit.shown;
}

}  // namespace firnfield
