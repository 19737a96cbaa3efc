/// The temperatures that a run goes on around: where tangents of what bends are taken.
#pragma once

#include <firnfield/network.hpp>

#include <vector>

namespace firnfield {

/// K above the reference per node: what the network as it is driven now leads to within a time (s, may be infinite), from `start` on. By one implicit step,
/// about; where that has no end, as with heat that runs away, some state on the way there.
[[nodiscard]] std::vector<double> middle_state(const Network& network, double reference, const std::vector<double>& start, double time);

}  // namespace firnfield
