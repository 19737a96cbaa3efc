/// Readings that are linear in temperatures and inputs, as heat flows and means are: worked out once for each mode and each input, then sums.
#pragma once

#include <firnfield/network.hpp>

#include "reduce/modal.hpp"

#include <functional>
#include <span>
#include <vector>

namespace firnfield {

/// Anything that is read of a network and its temperatures, in a row.
using Reader = std::function<std::vector<double>(const Network&, const NodeTemperatures&)>;

struct LinearReading {
    std::vector<double> nothing{};                     ///< where everything is at the reference and no heat goes in
    std::vector<std::vector<double>> mode{}, input{};  ///< what an amplitude, or a factor of one, adds to that
    /// At a state, with these factors on the inputs.
    [[nodiscard]] std::vector<double> at(const Amplitudes& state, std::span<const double> factors) const;
    /// The same without what is there where nothing goes on: of differences, and of integrals of what begins at nothing.
    [[nodiscard]] std::vector<double> added(const Amplitudes& state, std::span<const double> factors) const;
};

/// Heat flows in a row, and back from there.
[[nodiscard]] std::vector<double> in_a_row(const HeatFlows& flows);
[[nodiscard]] HeatFlows from_row(std::span<const double> row, const Network& network);
/// As many of each as there are in `like`.
[[nodiscard]] HeatFlows from_row(std::span<const double> row, HeatFlows like);

}  // namespace firnfield
