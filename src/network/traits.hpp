/// What kind of a network it is, without temperatures.
#pragma once

#include <firnfield/network.hpp>

#include <optional>
#include <vector>

namespace firnfield {

/// Whether heat begins without a slope somewhere, as in natural convection: Newton's method cannot begin at equal temperatures.
[[nodiscard]] bool starts_flat(const Network& network);

/// All that loads put in as they are given, W, whatever the time and the temperatures.
[[nodiscard]] double given_heat(const Network& network);

/// What ten kelvin between all surfaces and their surroundings would move per kelvin, W/K.
[[nodiscard]] double outward_conductance(const Network& network);

/// A dependence on temperature.
struct Bend {
    Channel channel = Channel::conduction;
    Origin origin{};
};
/// Something that depends on temperature, where there is such a thing.
[[nodiscard]] std::optional<Bend> any_bend(const Network& network);
/// What depends on temperature at a node.
[[nodiscard]] std::vector<Bend> bends_at(const Network& network, Index node);

}  // namespace firnfield
