/// What follows from the temperatures of cells.
#pragma once

#include <firnfield/steady.hpp>

#include "network/contact_temperatures.hpp"

namespace firnfield {

/// Surface temperatures of a solution that has its temperatures, its mesh and its network.
void read_surfaces(SteadySolution& solution, const ContactReader& contacts);

}  // namespace firnfield
