// How much memory the machine has, and how much a solve takes.

#include "base/memory.hpp"

#include <algorithm>
#include <limits>

#include <unistd.h>

namespace firnfield {

std::size_t machine_memory() {
    const long pages = sysconf(_SC_PHYS_PAGES), size = sysconf(_SC_PAGESIZE);
    if (pages <= 0 || size <= 0) return std::numeric_limits<std::size_t>::max();
    return static_cast<std::size_t>(pages) * static_cast<std::size_t>(size);
}

std::size_t hierarchies_kept(std::size_t cells) {
    constexpr double most_bytes = 1 << 30;
    return static_cast<std::size_t>(std::clamp(most_bytes / (bytes_per_hierarchy * static_cast<double>(std::max<std::size_t>(cells, 1))), 2.0, 12.0));
}

double memory_to_solve(double cells, bool cut, bool in_time) {
    constexpr double program = 20e6, boxes = 560.0, pieces = 750.0, errors_in_time = 250.0;
    const double kept =
        in_time ? errors_in_time + bytes_per_hierarchy * static_cast<double>(hierarchies_kept(static_cast<std::size_t>(std::min(cells, 1e12)))) : 0.0;
    return program + cells * ((cut ? pieces : boxes) + kept);
}

}  // namespace firnfield
