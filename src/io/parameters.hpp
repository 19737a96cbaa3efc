/// Named quantities of a model file, and expressions of them.
#pragma once

#include <firnfield/error.hpp>
#include <firnfield/model_file.hpp>
#include <firnfield/quantity.hpp>

#include <map>
#include <set>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

/// Whether a text is an expression: it begins with "=".
[[nodiscard]] bool is_expression(std::string_view text);

/// Values by name, and expressions over them: "= base_width / (fins - 1)", "= pad + 0.2 mm".
///
/// Units are checked by evaluation: in other base units a quantity of dimension D changes by the factor that D says, and only an expression
/// that adds and compares like with like gives a result that does.
class Parameters {
public:
    /// Puts in a value. Throws QuantityError for a name that is not letters, digits and "_".
    void set(const std::string& name, const Measured& value);
    /// Puts in an expression, worked out when it is asked for.
    void define(const std::string& name, std::string expression);
    [[nodiscard]] bool knows(const std::string& name) const { return values_.contains(name) || expressions_.contains(name); }
    [[nodiscard]] std::vector<std::string> names() const;

    /// The value of a parameter. Throws QuantityError.
    [[nodiscard]] const Measured& value(const std::string& name) const;
    /// The value of an expression. Throws QuantityError that says what is wrong with it.
    [[nodiscard]] Measured evaluate(std::string_view expression) const;

private:
    std::map<std::string, std::string> expressions_;
    mutable std::map<std::string, Measured> values_;
    mutable std::map<std::string, QuantityError> failures_;  // so that a long chain is walked once, not from each of its links
    mutable std::set<std::string> open_;                     // being worked out
};

}  // namespace firnfield
