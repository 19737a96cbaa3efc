/// Temperatures of walls, group by group and block by block.
#pragma once

#include "network/law.hpp"

#include <functional>
#include <span>

namespace firnfield {

/// Some walls of one group in a row, in balance.
struct WallBlock {
    const WallGroup& group;
    Index begin = 0;  ///< the first of them
    std::span<const WallState> states{};
    std::span<const double> film_heat{};  ///< W leaving each wall, film by film

    /// W leaving the walls of the block by one film of the group.
    [[nodiscard]] std::span<const double> heat_of(std::size_t film) const { return film_heat.subspan(film * states.size(), states.size()); }
};

/// Calls `use` with all walls of a network, in their order.
void each_wall_block(const Network& network, const NodeTemperatures& nodes, const std::function<void(const WallBlock&)>& use);

/// K/W from the node to the wall, with the conductivity at the node's temperature.
[[nodiscard]] double wall_resistance(const Network& network, Index wall, double node_temperature);

}  // namespace firnfield
