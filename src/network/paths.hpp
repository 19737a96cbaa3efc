/// Whether heat can get away from everywhere.
#pragma once

#include <firnfield/network.hpp>

#include <vector>

namespace firnfield {

/// Bodies from which no path leads to a known temperature, as the network is now.
[[nodiscard]] std::vector<Index> bodies_without_path(const Network& network);

/// Throws ModelError that names the bodies from which no path leads to a known temperature.
void require_paths(const Model& model, const Mesh& mesh, const Network& network);

}  // namespace firnfield
