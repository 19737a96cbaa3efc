/// Mistakes in joints, powers, coolings, holds, sensors and limits.
#pragma once

#include <firnfield/error.hpp>
#include <firnfield/model.hpp>

#include "model/bodies.hpp"

#include <vector>

namespace firnfield {

/// `placed`: the parts' copies, which patterns may name.
[[nodiscard]] std::vector<Problem> check_effects(const Model& model, const std::vector<PlacedPart>& placed);

}  // namespace firnfield
