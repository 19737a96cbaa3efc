#include "io/parameters.hpp"

#include <firnfield/error.hpp>

#include "base/words.hpp"

#include <fmt/format.h>
#include <muParser.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <functional>
#include <list>
#include <optional>

namespace firnfield {
namespace {

/// An expression with its quantities ("0.2 mm") replaced by names.
struct Prepared {
    std::string text;
    std::map<std::string, Measured> quantities;
};

/// The quantity at the beginning of a text, and its length: as much of it as makes a unit.
std::optional<std::pair<Measured, std::size_t>> longest_quantity(std::string text) {
    while (true) {
        try {
            return std::pair{parse_measured(text), text.size()};
        } catch (const QuantityError&) {
            const std::size_t cut = text.find_last_of(" /");
            if (cut == std::string::npos || cut == 0) return std::nullopt;
            text.erase(cut);
        }
        if (text.find_first_not_of("0123456789.eE+- ") == std::string::npos) return std::nullopt;  // a number alone
    }
}

bool is_digit(char c) { return c >= '0' && c <= '9'; }
bool is_letter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z'); }
/// Of the name of a unit, "µm" and "%" included.
bool is_of_unit(char c) { return is_letter(c) || c == '%' || static_cast<unsigned char>(c) >= 0x80; }

/// Where the words of a unit end that begin at `at`: "K cm^2/W", "W/(m^2 K)". A "/" belongs to it when no blank is around it.
std::size_t end_of_unit(const std::string& text, std::size_t at) {
    const auto end_of_word = [&](std::size_t begin) {
        std::size_t end = begin;
        while (end < text.size() && is_of_unit(text[end])) ++end;
        if (end > begin && end + 1 < text.size() && text[end] == '^' && is_digit(text[end + 1])) end += 2;
        return end;
    };
    std::size_t end = end_of_word(at);
    while (end > at && end + 1 < text.size() && text[end] == ' ' && is_of_unit(text[end + 1])) end = end_of_word(end + 1);
    if (end == at || end + 1 >= text.size() || text[end] != '/') return end;
    if (text[end + 1] != '(') return is_of_unit(text[end + 1]) ? end_of_word(end + 1) : end;
    const std::size_t close = text.find(')', end);
    return close == std::string::npos ? end : close + 1;
}

/// Finds numbers followed by a unit, as in "0.2 mm", "10 W/m^2" and "8 W/(m^2 K)". What only looks like a unit ("2 fins") stays, for the parser to
/// complain about.
Prepared prepare(std::string_view expression) {
    const std::string text(expression.substr(expression.find('=') + 1));
    Prepared out;
    for (std::size_t at = 0; at < text.size();) {
        const bool begins = is_digit(text[at]) || (text[at] == '.' && at + 1 < text.size() && is_digit(text[at + 1]));
        const bool within = at > 0 && (is_digit(text[at - 1]) || is_letter(text[at - 1]) || text[at - 1] == '_' || text[at - 1] == '.');  // a name, as in "pad2 mm"
        if (!begins || within) {
            out.text += text[at++];
            continue;
        }
        double number = 0.0;
        std::size_t end = static_cast<std::size_t>(std::from_chars(text.data() + at, text.data() + text.size(), number).ptr - text.data());
        std::size_t unit = end;
        while (unit < text.size() && text[unit] == ' ') ++unit;
        const std::size_t unit_end = end_of_unit(text, unit);
        if (const auto found = unit_end > unit ? longest_quantity(text.substr(at, unit_end - at)) : std::nullopt) {
            const std::string name = fmt::format("quantity_{}_", out.quantities.size() + 1);
            out.text += name;
            out.quantities.emplace(name, found->first);
            at += found->second;
        } else {
            out.text += text.substr(at, end - at);
            at = end;
        }
    }
    return out;
}

/// The factor on a value when base unit `base` becomes `times` smaller.
double scaled(const Measured& value, std::size_t base, double times) { return value.value * std::pow(times, value.dimension.exponents[base]); }

[[noreturn]] void fail(std::string_view expression, const std::string& what) { throw QuantityError(fmt::format("{} in the expression {}", what, in_quotes(expression)), 1); }

}  // namespace

bool is_expression(std::string_view text) { return text.starts_with("="); }

void Parameters::set(const std::string& name, const Measured& value) {
    const bool word = !name.empty() && !is_digit(name.front()) && std::all_of(name.begin(), name.end(), [](char c) { return is_letter(c) || is_digit(c) || c == '_'; });
    if (!word) throw QuantityError(fmt::format("a parameter's name is letters, digits and \"_\", as in pad_thickness; found {}", in_quotes(name)), 1);
    expressions_.erase(name);
    values_[name] = value;
}

void Parameters::define(const std::string& name, std::string expression) {
    set(name, {});
    values_.erase(name);
    expressions_[name] = std::move(expression);
}

std::vector<std::string> Parameters::names() const {
    std::set<std::string> all;
    for (const auto& entry : values_) all.insert(entry.first);
    for (const auto& entry : expressions_) all.insert(entry.first);
    return {all.begin(), all.end()};
}

const Measured& Parameters::value(const std::string& name) const {
    if (const auto known = values_.find(name); known != values_.end()) return known->second;
    const auto expression = expressions_.find(name);
    if (expression == expressions_.end()) throw QuantityError(fmt::format("no parameter is called {}{}", in_quotes(name), did_you_mean(name, names())), 1);
    if (!open_.insert(name).second) throw QuantityError(fmt::format("the parameter {} depends on itself", in_quotes(name)), 1);
    try {
        const Measured found = evaluate(expression->second);
        open_.erase(name);
        return values_[name] = found;
    } catch (...) {
        open_.erase(name);
        throw;
    }
}

Measured Parameters::evaluate(std::string_view expression) const {
    const Prepared prepared = prepare(expression);
    std::map<std::string, Measured> variables = prepared.quantities;
    double result = 0.0;
    std::function<double(std::size_t, double)> in_other_units;
    mu::Parser parser;
    std::list<double> storage;
    try {
        parser.SetExpr(prepared.text);
        for (const auto& [name, address] : parser.GetUsedVar()) {
            if (!variables.contains(name)) variables[name] = value(name);
        }
        std::vector<std::pair<const Measured*, double*>> places;
        for (const auto& [name, measured] : variables) {
            storage.push_back(measured.value);
            parser.DefineVar(name, &storage.back());
            places.emplace_back(&measured, &storage.back());
        }
        result = parser.Eval();
        in_other_units = [&](std::size_t base, double times) {
            for (const auto& [measured, place] : places) *place = scaled(*measured, base, times);
            return parser.Eval();
        };
        if (!std::isfinite(result)) fail(expression, "a result that is not a finite number");
        Measured out{result, {}};
        if (result == 0.0) return out;  // of any kind
        for (std::size_t base = 0; base < out.dimension.exponents.size(); ++base) {
            const double twice = in_other_units(base, 2.0) / result, thrice = in_other_units(base, 3.0) / result;
            const double exponent = std::round(std::log2(std::abs(twice)));
            constexpr double rounding = 1e-9;
            const bool consistent = std::abs(exponent) < 100.0 && std::abs(twice / std::pow(2.0, exponent) - 1.0) < rounding && std::abs(thrice / std::pow(3.0, exponent) - 1.0) < rounding;
            if (!consistent) fail(expression, "quantities of different kinds are added or compared");
            out.dimension.exponents[base] = static_cast<signed char>(exponent);
        }
        return out;
    } catch (const mu::Parser::exception_type& error) {
        fail(expression, fmt::format("{} ", error.GetMsg()));
    }
}

}  // namespace firnfield
