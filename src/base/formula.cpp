// Expressions worked out.

#include "base/formula.hpp"

#include <firnfield/error.hpp>

#include <muParser.h>

#include <algorithm>
#include <cmath>

namespace firnfield {

struct Formula::Parser {
    mu::Parser parser{};
    std::vector<double> numbers{};  // what the parser's variables are bound to
};

Formula::Formula(const Expression& expression) : parser_(std::make_unique<Parser>()) {
    parser_->numbers.resize(expression.operands.size());
    try {
        for (std::size_t n = 0; n < expression.operands.size(); ++n) parser_->parser.DefineVar(operand_name(n), &parser_->numbers[n]);
        parser_->parser.SetExpr(expression.form);
    } catch (const mu::Parser::exception_type& error) {
        throw QuantityError(error.GetMsg(), 1);
    }
}

Formula::Formula(Formula&&) noexcept = default;
Formula& Formula::operator=(Formula&&) noexcept = default;
Formula::~Formula() = default;

double Formula::operator()(std::span<const double> operands) const {
    std::copy_n(operands.begin(), parser_->numbers.size(), parser_->numbers.begin());
    try {
        return parser_->parser.Eval();
    } catch (const mu::Parser::exception_type& error) {
        throw QuantityError(error.GetMsg(), 1);
    }
}

std::optional<Dimension> Formula::dimension(std::span<const Measured> operands) const {
    std::vector<double> numbers(operands.size());
    const auto in_units = [&](std::size_t base, double times) {
        for (std::size_t n = 0; n < operands.size(); ++n) numbers[n] = operands[n].value * std::pow(times, operands[n].dimension.exponents[base]);
        return (*this)(numbers);
    };
    const double result = in_units(0, 1.0);
    if (!std::isfinite(result)) throw QuantityError("a result that is not a finite number", 1);
    if (result == 0.0) return std::nullopt;
    Dimension out;
    for (std::size_t base = 0; base < out.exponents.size(); ++base) {
        const double twice = in_units(base, 2.0) / result, thrice = in_units(base, 3.0) / result;
        const double exponent = std::round(std::log2(std::abs(twice)));
        constexpr double rounding = 1e-9;
        const bool consistent = std::abs(exponent) < 100.0 && std::abs(twice / std::pow(2.0, exponent) - 1.0) < rounding &&
                                std::abs(thrice / std::pow(3.0, exponent) - 1.0) < rounding;
        if (!consistent) throw QuantityError("quantities of different kinds are added or compared", 1);
        out.exponents[base] = static_cast<signed char>(exponent);
    }
    return out;
}

double Formula::shift(std::span<const Measured> operands, const std::vector<bool>& is_temperature) const {
    std::vector<double> numbers(operands.size());
    const auto moved_by = [&](double kelvin) {
        for (std::size_t n = 0; n < operands.size(); ++n) numbers[n] = operands[n].value + (is_temperature[n] ? kelvin : 0.0);
        return (*this)(numbers);
    };
    constexpr double step = 1.0 / 64.0;  // K
    return (moved_by(step) - moved_by(0.0)) / step;
}

}  // namespace firnfield
