/// What stands in the way of a reduced model.
#pragma once

#include "network/drive.hpp"

#include <string>

namespace firnfield {

/// Throws ModelError that names what in a study depends on temperature, or varies in time, in a way that modes of a network cannot follow.
void require_reducible(const Model& model, const Mesh& mesh, const Study& study, const Network& network, const Drive& drive);

/// Bytes that the modes of a study take, about.
[[nodiscard]] double memory_of_modes(const Network& network, const Drive& drive);

}  // namespace firnfield
