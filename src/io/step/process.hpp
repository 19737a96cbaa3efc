/// Work in a process for itself, with limits of time and memory. Files that are damaged, or made for harm, lead the CAD kernel astray: it follows references to
/// nothing, and into loops.
#pragma once

#include <cstdint>
#include <functional>
#include <string>

namespace firnfield::step {

/// What came of the work.
struct Answer {
    std::string bytes{};
    bool done = false;      ///< it came to its end
    bool too_slow = false;  ///< it was ended for the time it took
};

/// Lets `work` make bytes in so many seconds of processor time and so much memory (bytes), and no more. Throws Error where no process can be started.
[[nodiscard]] Answer apart(const std::function<std::string()>& work, unsigned seconds, std::uintmax_t memory);

}  // namespace firnfield::step
