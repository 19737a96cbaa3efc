/// The grammar of expressions in model files: "= base_width / (fins - 1)", "= pad + 0.2 mm".
///
/// A text is read by this grammar and nothing else, and handed to the evaluator in a form that holds only operators, known functions and
/// placeholders: what users write never reaches it.
///
///     expression: choice
///     choice:     either [ "?" choice ":" choice ]
///     either:     both { "||" both }            both:    compare { "&&" compare }
///     compare:    sum [ ("<" | "<=" | ">" | ">=" | "==" | "!=") sum ]
///     sum:        product { ("+" | "-") product }
///     product:    signed { ("*" | "/") signed }
///     signed:     ["+" | "-"] signed | power
///     power:      operand [ "^" signed ]
///     operand:    quantity | number | parameter | "'" name "'" | function "(" choice { "," choice } ")" | "(" choice ")"
#pragma once

#include <firnfield/quantity.hpp>

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

struct Expression {
    /// A number with or without a unit, or the name of something: a parameter, or whatever stands in quotes.
    struct Operand {
        Measured value{};
        std::string parameter{};  ///< empty: the value stands
    };
    std::string form{};  ///< for the evaluator; the n-th operand is called operand_name(n)
    std::vector<Operand> operands{};
};

[[nodiscard]] std::string operand_name(std::size_t n);

/// Reads what follows the "=". Throws QuantityError that tells what was found where, and what is expected.
[[nodiscard]] Expression read_expression(std::string_view text);

}  // namespace firnfield
