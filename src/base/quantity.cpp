// Quantities with units: reading, and checking of dimensions.

#include <firnfield/error.hpp>
#include <firnfield/quantity.hpp>

#include "base/words.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <cstdlib>
#include <optional>
#include <span>
#include <vector>

namespace firnfield {
namespace {

struct Unit {
    std::string_view name;
    double factor;  // to SI
    Dimension dimension;
    bool takes_prefix = false;
    double offset = 0.0;  // kelvin = (value + offset) * factor, for absolute temperatures only
};

//                                              kg  m   s   K  A
constexpr Dimension none{};
constexpr Dimension dim_mass{{1, 0, 0, 0, 0}};
constexpr Dimension dim_length{{0, 1, 0, 0, 0}};
constexpr Dimension dim_time{{0, 0, 1, 0, 0}};
constexpr Dimension dim_kelvin{{0, 0, 0, 1, 0}};
constexpr Dimension dim_ampere{{0, 0, 0, 0, 1}};
constexpr Dimension dim_power{{1, 2, -3, 0, 0}};
constexpr Dimension dim_energy{{1, 2, -2, 0, 0}};
constexpr Dimension dim_force{{1, 1, -2, 0, 0}};
constexpr Dimension dim_pressure{{1, -1, -2, 0, 0}};
constexpr Dimension dim_volt{{1, 2, -3, 0, -1}};
constexpr Dimension dim_ohm{{1, 2, -3, 0, -2}};
constexpr Dimension dim_volume{{0, 3, 0, 0, 0}};

constexpr double inch = 0.0254;
constexpr double pound = 0.45359237;
constexpr double btu = 1055.05585262;  // International Table
constexpr double rankine = 5.0 / 9.0;

// Exact names are looked up before prefixed ones, so "min" is a minute and "mm" a millimetre.
constexpr std::array units{
    Unit{"m", 1.0, dim_length, true},
    Unit{"g", 1e-3, dim_mass, true},
    Unit{"s", 1.0, dim_time, true},
    Unit{"K", 1.0, dim_kelvin, true},
    Unit{"A", 1.0, dim_ampere, true},
    Unit{"W", 1.0, dim_power, true},
    Unit{"J", 1.0, dim_energy, true},
    Unit{"Wh", 3600.0, dim_energy, true},
    Unit{"N", 1.0, dim_force, true},
    Unit{"Pa", 1.0, dim_pressure, true},
    Unit{"bar", 1e5, dim_pressure, true},
    Unit{"V", 1.0, dim_volt, true},
    Unit{"Ohm", 1.0, dim_ohm, true},
    Unit{"ohm", 1.0, dim_ohm, true},
    Unit{"Ω", 1.0, dim_ohm, true},
    Unit{"l", 1e-3, dim_volume, true},
    Unit{"L", 1e-3, dim_volume, true},
    Unit{"in", inch, dim_length},
    Unit{"ft", 12 * inch, dim_length},
    Unit{"mil", inch / 1000, dim_length},
    Unit{"lb", pound, dim_mass},
    Unit{"oz", pound / 16, dim_mass},
    Unit{"t", 1000.0, dim_mass},
    Unit{"min", 60.0, dim_time},
    Unit{"h", 3600.0, dim_time},
    Unit{"d", 86400.0, dim_time},
    Unit{"BTU", btu, dim_energy},
    Unit{"cal", 4.184, dim_energy, true},
    Unit{"hp", 745.6998715822702, dim_power},
    Unit{"%", 0.01, none},
    Unit{"1", 1.0, none},
    Unit{"degC", 1.0, dim_kelvin, false, zero_celsius},
    Unit{"°C", 1.0, dim_kelvin, false, zero_celsius},
    Unit{"degF", rankine, dim_kelvin, false, 459.67},
    Unit{"°F", rankine, dim_kelvin, false, 459.67},
    Unit{"degR", rankine, dim_kelvin},
};

struct Prefix {
    std::string_view name;
    double factor;
};
constexpr std::array prefixes{Prefix{"p", 1e-12}, Prefix{"n", 1e-9}, Prefix{"u", 1e-6}, Prefix{"µ", 1e-6}, Prefix{"μ", 1e-6}, Prefix{"m", 1e-3},
                              Prefix{"c", 1e-2},  Prefix{"d", 1e-1}, Prefix{"k", 1e3},  Prefix{"M", 1e6},  Prefix{"G", 1e9}};

struct FoundUnit {
    const Unit* unit;
    double prefix;
};

std::optional<FoundUnit> find_unit(std::string_view word) {
    for (const Unit& unit : units) {
        if (unit.name == word) return FoundUnit{&unit, 1.0};
    }
    for (const Prefix& prefix : prefixes) {
        if (!word.starts_with(prefix.name)) continue;
        for (const Unit& unit : units) {
            if (unit.takes_prefix && unit.name == word.substr(prefix.name.size())) return FoundUnit{&unit, prefix.factor};
        }
    }
    return std::nullopt;
}

std::string near_unit(std::string_view word) {
    static const std::vector<std::string> names = [] {
        std::vector<std::string> all{"mm", "cm", "um", "kg", "mW", "kW", "MW", "kJ", "mOhm", "ms"};
        for (const Unit& unit : units) all.emplace_back(unit.name);
        return all;
    }();
    // Units are short, so near means: the same but for case, or one edit.
    for (const std::string& name : names) {
        if (edit_distance(word, name) == 0) return fmt::format(" (did you mean \"{}\"?)", name);
    }
    return did_you_mean(word, names);
}

struct Measure {
    double factor = 1.0;
    Dimension dimension;
    const Unit* offset_unit = nullptr;  // °C or °F, wherever it stands
    bool single = true;                 // one unit alone, to the first power
};

void multiply(Measure& into, const Measure& by, int power) {
    into.factor *= std::pow(by.factor, power);
    for (std::size_t i = 0; i < into.dimension.exponents.size(); ++i) {
        const int exponent = into.dimension.exponents[i] + power * by.dimension.exponents[i];
        into.dimension.exponents[i] = static_cast<signed char>(std::clamp(exponent, -100, 100));
    }
    if (by.offset_unit != nullptr) into.offset_unit = by.offset_unit;
}

/// Recursive-descent reader of "number unit·unit/(unit unit^2)".
class Reader {
public:
    Reader(std::string_view text, const QuantityKind& kind) : text_(text), kind_(kind) {}

    double read() {
        skip_space();
        const double number = read_number();
        skip_space();
        if (at_ == text_.size()) return without_unit(number);
        const std::size_t unit_start = at_;
        const Measure measure = read_product(0);
        skip_space();
        if (at_ != text_.size()) fail(at_, fmt::format("unexpected {} after the unit", in_quotes(text_.substr(at_))));
        return convert(number, measure, unit_start);
    }

    Measured read_any() {
        skip_space();
        const double number = read_number();
        skip_space();
        if (at_ == text_.size()) return {number, {}};
        const std::size_t unit_start = at_;
        const Measure measure = read_product(0);
        skip_space();
        if (at_ != text_.size()) fail(at_, fmt::format("unexpected {} after the unit", in_quotes(text_.substr(at_))));
        if (measure.offset_unit != nullptr && !measure.single)
            fail(unit_start, fmt::format("\"{}\" marks a temperature on its scale", measure.offset_unit->name));
        const double value = measure.offset_unit != nullptr ? (number + measure.offset_unit->offset) * measure.factor : number * measure.factor;
        if (!std::isfinite(value)) fail(0, "a number out of range");
        return {value, measure.dimension, measure.offset_unit != nullptr};
    }

private:
    [[noreturn]] void fail(std::size_t at, std::string_view what) const {
        throw QuantityError(fmt::format("{} in {} at column {}; expected a {} such as \"{}\"", what, in_quotes(text_), at + 1, kind_.name, kind_.example),
                            at + 1);
    }

    void skip_space() {
        while (at_ < text_.size() && (text_[at_] == ' ' || text_[at_] == '\t')) ++at_;
    }

    double read_plain_number() {
        double value = 0.0;
        std::size_t start = at_;
        if (start < text_.size() && text_[start] == '+') ++start;
        const char* begin = text_.data() + start;
        const auto [end, status] = std::from_chars(begin, text_.data() + text_.size(), value);
        if (status == std::errc::result_out_of_range) fail(at_, "a number out of range");
        if (status != std::errc{}) fail(at_, text_.empty() ? "nothing" : "no number");
        if (!std::isfinite(value)) fail(at_, "a number that is not finite");
        at_ = static_cast<std::size_t>(end - text_.data());
        return value;
    }

    double read_number() {
        double value = read_plain_number();
        // A fraction as on drawings in inches: "1/4 in". A slash followed by anything but a digit belongs to the unit.
        if (at_ + 1 < text_.size() && text_[at_] == '/' && text_[at_ + 1] >= '0' && text_[at_ + 1] <= '9') {
            const std::size_t slash = at_++;
            const double below = read_plain_number();
            if (below == 0.0) fail(slash + 1, "a division by zero");
            value /= below;
        }
        return value;
    }

    double without_unit(double number) const {
        if (kind_.dimension == none) return number;
        fail(text_.size(), "a number without a unit");
    }

    Measure read_product(int depth) {
        Measure product;
        bool divided = false, divided_open = false;
        int factors = 0;
        int sign = 1;
        while (true) {
            const std::size_t start = at_;
            const Measure factor = read_factor(depth);
            if (divided_open && sign == 1) {
                fail(start, "an ambiguous unit: is what follows the \"/\" part of the denominator? Write parentheses, as in W/(m^2 K),");
            }
            multiply(product, factor, sign);
            ++factors;
            product.single = factors == 1 && sign == 1 && factor.single;
            if (sign == -1) divided_open = divided = true;
            skip_space();
            if (at_ == text_.size() || text_[at_] == ')') break;
            if (text_[at_] == '/') {
                if (divided) fail(at_, "a second \"/\": write one \"/\" with parentheses, as in W/(m K),");
                sign = -1;
                ++at_;
            } else if (text_[at_] == '*') {
                sign = 1;
                ++at_;
            } else if (consume("·")) {
                sign = 1;
            } else {
                sign = 1;
            }
            skip_space();
            if (at_ == text_.size()) fail(at_, "nothing after an operator");
        }
        return product;
    }

    bool consume(std::string_view token) {
        if (!text_.substr(at_).starts_with(token)) return false;
        at_ += token.size();
        return true;
    }

    Measure read_factor(int depth) {
        if (depth > 8) fail(at_, "parentheses nested too deeply");
        Measure base;
        if (text_[at_] == '(') {
            ++at_;
            skip_space();
            if (at_ == text_.size()) fail(at_, "an open parenthesis");
            base = read_product(depth + 1);
            if (at_ == text_.size()) fail(at_, "a missing \")\"");
            ++at_;
            base.single = false;
        } else {
            base = read_unit();
        }
        const int power = read_power();
        if (power == 1) return base;
        Measure raised;
        multiply(raised, base, power);
        raised.single = false;
        return raised;
    }

    Measure read_unit() {
        const std::size_t start = at_;
        while (at_ < text_.size() && std::string_view(" \t*/^()0123456789+-.,").find(text_[at_]) == std::string_view::npos) {
            if (text_.substr(at_).starts_with("·") || text_.substr(at_).starts_with("²") || text_.substr(at_).starts_with("³")) break;
            ++at_;
        }
        if (at_ == start && text_[at_] == '1') ++at_;  // as in "1/K"
        const std::string_view word = text_.substr(start, at_ - start);
        if (word.empty()) fail(start, fmt::format("unexpected {}", in_quotes(text_.substr(start))));
        const std::optional<FoundUnit> found = find_unit(word);
        if (!found) fail(start, fmt::format("unknown unit {}{}", in_quotes(word), near_unit(word)));
        Measure measure;
        measure.factor = found->prefix * found->unit->factor;
        measure.dimension = found->unit->dimension;
        if (found->unit->offset != 0.0) measure.offset_unit = found->unit;
        return measure;
    }

    int read_power() {
        if (consume("²")) return 2;
        if (consume("³")) return 3;
        if (!consume("^")) return 1;
        int power = 0;
        const auto [end, status] = std::from_chars(text_.data() + at_, text_.data() + text_.size(), power);
        if (status != std::errc{} || power == 0 || std::abs(power) > 9) fail(at_, "no whole power from -9 to 9 after \"^\"");
        at_ = static_cast<std::size_t>(end - text_.data());
        return power;
    }

    double convert(double number, const Measure& measure, std::size_t unit_start) const {
        if (measure.offset_unit != nullptr && (!measure.single || !kind_.absolute_temperature)) {
            fail(unit_start,
                 fmt::format("\"{}\" marks a temperature on its scale; a temperature difference is in K, which is not what stands", measure.offset_unit->name));
        }
        if (measure.dimension != kind_.dimension) {
            fail(unit_start, fmt::format("unit {} does not measure a {}", in_quotes(text_.substr(unit_start)), kind_.name));
        }
        const double value = measure.offset_unit != nullptr ? (number + measure.offset_unit->offset) * measure.factor : number * measure.factor;
        if (!std::isfinite(value)) fail(0, "a number out of range");
        return value;
    }

    std::string_view text_;
    const QuantityKind& kind_;
    std::size_t at_ = 0;
};

}  // namespace

Measured parse_measured(std::string_view text) {
    static constexpr QuantityKind any{"quantity", {}, "12 mm", ""};
    return Reader(text, any).read_any();
}

namespace {

/// Those that values can have; of two with one dimension the usual one first.
constexpr std::array quantity_kinds{&kinds::number,
                                    &kinds::length,
                                    &kinds::area,
                                    &kinds::volume,
                                    &kinds::mass,
                                    &kinds::time,
                                    &kinds::temperature,
                                    &kinds::temperature_difference,
                                    &kinds::speed,
                                    &kinds::pressure,
                                    &kinds::power,
                                    &kinds::power_density,
                                    &kinds::heat_flux,
                                    &kinds::conductivity,
                                    &kinds::density,
                                    &kinds::specific_heat,
                                    &kinds::latent_heat,
                                    &kinds::energy,
                                    &kinds::heat_transfer_coefficient,
                                    &kinds::area_resistance,
                                    &kinds::thermal_resistance,
                                    &kinds::thermal_conductance,
                                    &kinds::heating_rate,
                                    &kinds::heat_capacity,
                                    &kinds::resistivity};

}  // namespace

const QuantityKind* quantity_named(std::string_view name) {
    const auto found = std::find_if(quantity_kinds.begin(), quantity_kinds.end(), [&](const QuantityKind* k) { return k->name == name; });
    return found == quantity_kinds.end() ? nullptr : *found;
}

const QuantityKind* quantity_in(std::string_view machine_unit) {
    const auto found = std::find_if(quantity_kinds.begin(), quantity_kinds.end(), [&](const QuantityKind* k) { return k->unit == machine_unit; });
    return found == quantity_kinds.end() ? nullptr : *found;
}

std::span<const QuantityKind* const> all_quantities() { return quantity_kinds; }

const QuantityKind* quantity_with(const Dimension& dimension, bool absolute_temperature) {
    const auto found = std::find_if(quantity_kinds.begin(), quantity_kinds.end(),
                                    [&](const QuantityKind* k) { return k->dimension == dimension && k->absolute_temperature == absolute_temperature; });
    return found == quantity_kinds.end() ? nullptr : *found;
}

std::string name_of(const Dimension& dimension) {
    for (const QuantityKind* kind : quantity_kinds) {
        if (kind->dimension == dimension) return std::string(kind->name);
    }
    std::string out;
    for (std::size_t i = 0; i < dimension.exponents.size(); ++i) {
        if (dimension.exponents[i] == 0) continue;
        static constexpr std::string_view base[] = {"kg", "m", "s", "K", "A"};
        out += fmt::format("{}{}", out.empty() ? "" : " ", base[i]);
        if (dimension.exponents[i] != 1) out += fmt::format("^{}", static_cast<int>(dimension.exponents[i]));
    }
    return out;
}

double parse_quantity(std::string_view text, const QuantityKind& kind) { return Reader(text, kind).read(); }

}  // namespace firnfield
