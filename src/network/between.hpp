/// Surfaces on the way from a node to another end: temperature, and where on the way they lie.
#pragma once

#include "network/surface_bounds.hpp"

#include <array>

namespace firnfield {

struct BetweenState {
    double temperature = 0.0;  ///< K
    double resistance = 0.0;   ///< K/W from the node to the other end
    double share = 0.0;        ///< of it that lies before the surface
};

[[nodiscard]] BetweenState between_state(const Network& network, const Between& between, const NodeReading& nodes);

/// d T_surface / d T of the node and of the other end, as the laws bend.
[[nodiscard]] std::array<double, 2> slopes_of_between(const Network& network, const Between& between, const NodeReading& nodes);

}  // namespace firnfield
