/// Whether heat can get away from everywhere.
#pragma once

#include <firnfield/network.hpp>

namespace firnfield {

/// Throws ModelError that names the bodies from which no path leads to a known temperature.
void require_paths(const Model& model, const Mesh& mesh, const Network& network);

}  // namespace firnfield
