/// Heat through the surfaces of cells.
#pragma once

#include <firnfield/findings.hpp>

#include "network/contact_temperatures.hpp"
#include "network/defects.hpp"

#include <span>
#include <vector>

namespace firnfield {

/// Heat that leaves through each patch of the mesh, W; with `defects` corrected for what the mesh misses.
[[nodiscard]] std::vector<double> heat_through_patches(const Mesh& mesh, const Network& network, const NodeTemperatures& nodes,
                                                       const Defects* defects = nullptr);

/// Heat that passes the plane across an axis at a place (m) within these bodies, towards larger coordinates, W of the computed piece. Between planes of the
/// grid it changes evenly; in the plane in which a body begins or ends it is what enters or leaves there.
[[nodiscard]] double heat_through_section(const Mesh& mesh, const Network& network, const NodeTemperatures& nodes, const ContactTemperatures& contacts,
                                          std::span<const Index> bodies, int axis, double at, const Defects* defects = nullptr);

/// Like heat_flux() of a solution, for any temperatures.
[[nodiscard]] std::vector<Vec3> heat_flux(const Mesh& mesh, const Network& network, const NodeTemperatures& nodes, const ContactTemperatures& contacts);
/// W/m², the largest in these bodies.
[[nodiscard]] double highest_flux(const Mesh& mesh, std::span<const Vec3> flux, std::span<const Index> bodies);

/// Where the heat flux of each part is largest, the largest first. `flux`: W/m², per cell.
[[nodiscard]] std::vector<FluxFinding> highest_fluxes(const Model& model, const Mesh& mesh, std::span<const Vec3> flux);

}  // namespace firnfield
