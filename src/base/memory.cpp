#include "base/memory.hpp"

#include <fstream>
#include <limits>
#include <string>

namespace firnfield {

std::size_t available_memory() {
    std::ifstream table("/proc/meminfo");
    std::string key;
    std::size_t kilobytes = 0;
    while (table >> key) {
        if (key == "MemAvailable:" && table >> kilobytes) return 1024 * kilobytes;
        table.ignore(std::numeric_limits<std::streamsize>::max(), '\n');
    }
    return std::numeric_limits<std::size_t>::max();
}

}  // namespace firnfield
