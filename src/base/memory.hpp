/// How much memory there is, and how much a computation takes.
#pragma once

#include <cstddef>

namespace firnfield {

/// Memory of the machine, bytes; a very large number where the system does not tell.
[[nodiscard]] std::size_t machine_memory();

/// What a run in time keeps of the solver: hierarchies for steps of different lengths, as many as a gigabyte holds.
inline constexpr double bytes_per_hierarchy = 110.0;  // per cell
[[nodiscard]] std::size_t hierarchies_kept(std::size_t cells);

/// What mesh, network and solver take together at most, bytes: measured with bench/run and over time, rounded up. `cut`: the surfaces of the
/// pieces of round and slanting parts are kept as well.
[[nodiscard]] double memory_to_solve(double cells, bool cut, bool in_time);

}  // namespace firnfield
