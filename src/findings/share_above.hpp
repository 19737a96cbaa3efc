/// How much of a part is hotter than a temperature.
#pragma once

#include <firnfield/network.hpp>

#include "network/defects.hpp"

#include <span>

namespace firnfield {

/// Of the volume of some bodies, 0 … 1. Within a cell the temperature is taken as linear, with the slopes between its neighbours, so that the share follows
/// smoothly. With what the mesh is off added, where `defects` tell it.
[[nodiscard]] double share_above(const Mesh& mesh, std::span<const Index> bodies, const NodeTemperatures& nodes, const Defects* defects, double temperature);

/// Of the area of some patches, likewise: along a patch the temperature has the slopes of its cell.
[[nodiscard]] double share_of_surface_above(const Mesh& mesh, std::span<const Index> patches, const NodeTemperatures& nodes,
                                            std::span<const double> patch_temperature, const Defects* defects, double temperature);

/// Of a box in which a value is linear, being 0 in the middle and differing by up to ±`half` along each axis: where it is above `level`.
[[nodiscard]] double share_of_box_above(std::array<double, 3> half, double level);

}  // namespace firnfield
