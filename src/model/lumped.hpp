/// What the ends of resistors name.
#pragma once

#include <firnfield/model.hpp>

#include <array>

namespace firnfield {

struct ResistorEnd {
    enum class Kind : std::uint8_t { node, part, surface, ambient, unknown };
    Kind kind = Kind::unknown;
    std::size_t given = 0;  ///< as the model names it: first or second of `between`
    std::size_t index = 0;  ///< of a node, part or surface in the model
    std::string name{};
    /// Whether it is spread over many cells.
    [[nodiscard]] bool is_spread() const { return kind == Kind::part || kind == Kind::surface; }
};

/// The two ends; the ambient is the second one.
[[nodiscard]] std::array<ResistorEnd, 2> ends_of(const Model& model, const Resistor& resistor);

/// The resistors, by index, that have a node of their own in their middle, because both ends are spread; not those that rest with
/// parts that are left out.
[[nodiscard]] std::vector<std::size_t> resistors_with_middle(const Model& model);

/// What may be wrong with nodes and resistors, but for names of parts.
[[nodiscard]] std::vector<Problem> check_lumped(const Model& model);

}  // namespace firnfield
