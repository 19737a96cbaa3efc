/// How much memory there is, and how much a computation takes.
#pragma once

#include <cstddef>

namespace firnfield {

/// Memory of the machine, bytes; a very large number where the system does not tell.
[[nodiscard]] std::size_t machine_memory();

/// What mesh, network and solver take together at their peak, bytes for each cell: measured with bench/run, rounded up.
inline constexpr double bytes_per_cell = 560.0;

}  // namespace firnfield
