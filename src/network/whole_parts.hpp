/// Parts with one temperature throughout: stirred ones, and those that a hold imposes it on. They conduct next to perfectly, up to their surfaces.
#pragma once

#include <firnfield/network.hpp>

#include <memory>
#include <vector>

namespace firnfield {

/// Conductivity of what has one temperature throughout, W/(m K): a film of 1 kW/(m² K) on 0.1 m of it drops a thousand times more than it does, and the
/// heat that passes its cells still stands well above what rounding makes of their temperatures.
inline constexpr double next_to_perfect = 1e5;

/// See Network::materials.
[[nodiscard]] std::vector<std::shared_ptr<const Material>> materials_of(const Model& model, const Mesh& mesh, const Acting& acting);

/// The acting hold that imposes a temperature on each body as a whole; no_index for most. Throws ModelError where two do.
[[nodiscard]] std::vector<Index> holds_of_bodies(const Model& model, const Mesh& mesh, const Acting& acting);

/// Moves what is held as a whole to where it is held: rises above `reference`, K.
void start_held(const Network& network, double reference, std::vector<double>& rise);

}  // namespace firnfield
