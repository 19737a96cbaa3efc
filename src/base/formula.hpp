/// Expressions worked out: their numbers by muParser, their kind of quantity by how the result follows a change of units.
#pragma once

#include <firnfield/quantity.hpp>

#include "base/expression.hpp"

#include <memory>
#include <optional>
#include <span>
#include <vector>

namespace firnfield {

/// An expression, ready for any values of its operands.
class Formula {
public:
    /// Throws QuantityError where it cannot be understood.
    explicit Formula(const Expression& expression);
    Formula(Formula&&) noexcept;
    Formula& operator=(Formula&&) noexcept;
    ~Formula();

    /// In SI, of as many operands as the expression has. Not finite where it is not defined for them. Throws QuantityError where the evaluator refuses them.
    [[nodiscard]] double operator()(std::span<const double> operands) const;

    /// The dimension of the result: it follows from how the result changes when base units become smaller. Nothing where the result is 0, which may be
    /// of any kind. Throws QuantityError where it is not finite, and where quantities of different kinds are added or compared.
    [[nodiscard]] std::optional<Dimension> dimension(std::span<const Measured> operands) const;

    /// By how much the result rises when the zero of the temperature scale moves down by one kelvin: 1 for a temperature, 0 for differences of
    /// temperatures and whatever else means the same on all scales. `is_temperature`: of every operand.
    [[nodiscard]] double shift(std::span<const Measured> operands, const std::vector<bool>& is_temperature) const;

private:
    struct Parser;
    std::unique_ptr<Parser> parser_;
};

}  // namespace firnfield
