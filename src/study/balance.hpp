/// The heat balance of a network at given temperatures, and its linearisation.
#pragma once

#include <firnfield/network.hpp>

#include "linear/network_matrix.hpp"

#include <span>
#include <vector>

namespace firnfield {

/// Heat balance of every node at given temperatures, and its linearisation: a symmetric matrix, and what it lacks.
struct Balance {
    std::vector<double> residual{};   // W entering each node and not leaving
    std::vector<double> slope{};      // d(heat to the surroundings)/dT per node, W/K
    std::vector<double> links{};      // mean slope of each link, W/K; empty where conductances are constant
    std::vector<double> radiative{};  // likewise of each radiative link
    /// Half the difference of the slopes of a link by its two temperatures, W/K: what a symmetric matrix cannot hold.
    struct Skew {
        Index first = 0, second = 0;
        double half_difference = 0.0;
    };
    std::vector<Skew> skew{};
    double throughput = 0.0;  // W entering from loads and warmer surroundings
    double norm = 0.0;

    [[nodiscard]] double relative() const { return throughput > 0.0 ? norm / throughput : norm; }
    [[nodiscard]] bool symmetric() const { return skew.empty(); }
};

/// W entering and leaving every node at `reference` + `rise`.
[[nodiscard]] Balance balance_heat(const Network& network, double reference, const std::vector<double>& rise);

/// The symmetric part of the linearised balance, with the sums of its rows. What it refers to has to outlive it.
[[nodiscard]] NetworkMatrix symmetric_part(const Network& network, const Balance& balance, std::span<const double> excess);

}  // namespace firnfield
