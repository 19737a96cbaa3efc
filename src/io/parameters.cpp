// Named quantities of a model file, worked out in any order.

#include "io/parameters.hpp"

#include <firnfield/error.hpp>

#include "base/formula.hpp"
#include "base/words.hpp"

#include <fmt/format.h>
#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

bool is_digit(char c) { return c >= '0' && c <= '9'; }
bool is_letter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z'); }

[[noreturn]] void fail(std::string_view expression, const std::string& what) {
    throw QuantityError(fmt::format("{} in the expression {}", what, in_quotes(expression)), 1);
}

}  // namespace

bool is_expression(std::string_view text) { return text.starts_with("="); }

void Parameters::set(const std::string& name, const Measured& value) {
    const bool word =
        !name.empty() && !is_digit(name.front()) && std::all_of(name.begin(), name.end(), [](char c) { return is_letter(c) || is_digit(c) || c == '_'; });
    if (!word) throw QuantityError(fmt::format("a parameter's name is letters, digits and \"_\", as in pad_thickness; found {}", in_quotes(name)), 1);
    expressions_.erase(name);
    failures_.erase(name);  // failures of what depends on it are kept: their cause is known
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
    if (const auto known = failures_.find(name); known != failures_.end()) throw known->second;
    const auto expression = expressions_.find(name);
    if (expression == expressions_.end()) throw QuantityError(fmt::format("no parameter is called {}{}", in_quotes(name), did_you_mean(name, names())), 1);
    constexpr std::size_t longest_chain = 200;
    if (open_.size() >= longest_chain) throw QuantityError(fmt::format("more than {} parameters depend on each other in a row", longest_chain), 1);
    if (!open_.insert(name).second) throw QuantityError(fmt::format("the parameter {} depends on itself", in_quotes(name)), 1);
    try {
        const Measured found = evaluate(expression->second);
        open_.erase(name);
        return values_[name] = found;
    } catch (const QuantityError& error) {
        open_.erase(name);
        failures_.emplace(name, error);
        throw;
    }
}

Measured Parameters::evaluate(std::string_view expression) const {
    const Expression read = [&] {
        try {
            return read_expression(expression.substr(expression.find('=') + 1));
        } catch (const QuantityError& error) {
            fail(expression, error.what());
        }
    }();
    std::vector<Measured> operands;
    for (const Expression::Operand& operand : read.operands) operands.push_back(operand.parameter.empty() ? operand.value : value(operand.parameter));
    std::vector<double> numbers;
    for (const Measured& operand : operands) numbers.push_back(operand.value);
    try {
        const Formula formula(read);
        const std::optional<Dimension> dimension = formula.dimension(operands);
        return {formula(numbers), dimension.value_or(Dimension{})};
    } catch (const QuantityError& error) {
        fail(expression, error.what());
    }
}

Change change_to(const ParameterInfo& parameter, double value) {
    // In base units, of which those below stand in brackets.
    static constexpr std::string_view base[] = {"kg", "m", "s", "K", "A"};
    std::string above, below;
    for (std::size_t i = 0; i < parameter.value.dimension.exponents.size(); ++i) {
        const int exponent = parameter.value.dimension.exponents[i];
        if (exponent == 0) continue;
        std::string& side = exponent > 0 ? above : below;
        side += fmt::format("{}{}", side.empty() ? "" : " ", base[i]);
        if (std::abs(exponent) != 1) side += fmt::format("^{}", std::abs(exponent));
    }
    if (above.empty() && below.empty()) return {parameter.name, fmt::format("{:.17g}", value)};
    return {parameter.name, fmt::format("{:.17g} {}{}", value, above.empty() ? "1" : above, below.empty() ? "" : fmt::format("/({})", below))};
}

}  // namespace firnfield
