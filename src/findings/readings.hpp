/// What one moment gives between things: heat through joints and resistors, and the drops over them.
#pragma once

#include <firnfield/model.hpp>
#include <firnfield/network.hpp>

#include "network/defects.hpp"

#include <vector>

namespace firnfield {

/// Per pair of touching bodies, from its first to its second, of the kept piece.
struct PairReadings {
    std::vector<double> flow{};  ///< W
    std::vector<double> drop{};  ///< K m²: over the area
};
/// With what the mesh is off added, where `defects` tell it.
[[nodiscard]] PairReadings read_pairs(const Mesh& mesh, const Network& network, const NodeTemperatures& nodes, const ContactTemperatures& contacts,
                                      const Defects* defects = nullptr);

/// Per resistor of the model, from its first end to its second, of the whole product.
struct ResistorReadings {
    std::vector<double> flow{};                                                                              ///< W
    std::vector<double> solved_flow{};                                                                       ///< W, without what the mesh is off
    std::vector<double> resistance{};                                                                        ///< K/W, at the temperatures found
    [[nodiscard]] double drop(std::size_t resistor) const { return flow[resistor] * resistance[resistor]; }  ///< K
};
[[nodiscard]] ResistorReadings read_resistors(const Model& model, const Mesh& mesh, const Network& network, const NodeTemperatures& nodes,
                                              const Defects* defects = nullptr);

}  // namespace firnfield
