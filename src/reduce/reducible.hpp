/// What stands in the way of a reduced model.
#pragma once

#include "network/drive.hpp"

#include <string>

namespace firnfield {

/// Throws ModelError that names what in a study depends on temperature in a way that modes of a network cannot follow.
void require_reducible(const Model& model, const Study& study, const Network& network);

/// Bytes that the modes of a study take, about.
[[nodiscard]] double memory_of_modes(const Network& network, const Drive& drive);

}  // namespace firnfield
