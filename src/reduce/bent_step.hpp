/// What bends over one step: its heat as a polynomial of time through the beginning, the middle and the end, at the temperatures that it leads to there
/// itself (exponential collocation: M. Hochbruck and A. Ostermann, "Exponential integrators", Acta Numerica 19 (2010) 209, section 2.2).
#pragma once

#include <firnfield/network.hpp>

#include "reduce/bent_heat.hpp"
#include "reduce/modal.hpp"

#include <functional>

namespace firnfield {

struct BentStep {
    const Modes& modes;  ///< those
    BentHeat& bent;
    WhichModes which;
    std::function<Drive::Values(double)> values;  ///< at a share of the step
    double length = 0.0;                          ///< s

    struct Solution {
        bool settled = false;
        ModalInput input{};  ///< of the network's own inputs and what bends
        HeatFlows flows{};   ///< beyond those of the tangent, in the mean of the step
        double error = 0.0;  ///< K that the step may be off by
    };
    /// Found by going round: temperatures from the heat, the heat from temperatures, until nothing moves by more than `close` (K). `linear`: the inputs
    /// of the tangent.
    [[nodiscard]] Solution solve(const Amplitudes& from, const ModalInput& linear, double close) const;
    /// Input of what bends at a state, 1/s of amplitude; `rise` is set to the temperatures of its nodes.
    [[nodiscard]] Amplitudes input_at(const Amplitudes& state, const Drive::Values& at, std::vector<double>& rise) const;
};

/// Adds a polynomial through three values, at 0, 1/2 and 1.
void add_through(const Amplitudes& begin, const Amplitudes& middle, const Amplitudes& end, ModalInput& input);

}  // namespace firnfield
