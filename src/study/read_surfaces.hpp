/// What follows from the temperatures of cells.
#pragma once

#include <firnfield/steady.hpp>

#include "network/contact_temperatures.hpp"

namespace firnfield {

/// Surface temperatures and the network as it is, of a solution that has its temperatures, its mesh and its laws.
void read_surfaces(SteadySolution& solution, const ContactReader& contacts);

}  // namespace firnfield
