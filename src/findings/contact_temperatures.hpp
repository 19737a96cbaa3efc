/// Temperatures on the two sides of every contact.
#pragma once

#include <firnfield/steady.hpp>

#include <vector>

namespace firnfield {

/// Flow and surface temperatures per contact of the mesh; nothing flows where a joint is insulated.
struct ContactTemperatures {
    std::vector<double> flow;    ///< W from the first to the second cell
    std::vector<double> first;   ///< K, surface of the first cell
    std::vector<double> second;  ///< K, surface of the second cell
};

[[nodiscard]] ContactTemperatures contact_temperatures(const Model& model, const SteadySolution& solution);

}  // namespace firnfield
