/// What may be wrong with a solid, and with solids in two dimensions.
#pragma once

#include <firnfield/model.hpp>

#include <string>
#include <vector>

namespace firnfield {

/// Mistakes in the numbers of a shape that stands at `address` of the model.
[[nodiscard]] std::vector<Problem> check_shape(const std::string& address, const Shape& shape);

/// In a plane or revolved model shapes have to be the same all along z, or all around it.
[[nodiscard]] std::vector<Problem> check_space(const Model& model);

}  // namespace firnfield
