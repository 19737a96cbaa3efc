#include "base/memory.hpp"

#include <limits>

#include <unistd.h>

namespace firnfield {

std::size_t machine_memory() {
    const long pages = sysconf(_SC_PHYS_PAGES), size = sysconf(_SC_PAGESIZE);
    if (pages <= 0 || size <= 0) return std::numeric_limits<std::size_t>::max();
    return static_cast<std::size_t>(pages) * static_cast<std::size_t>(size);
}

}  // namespace firnfield
