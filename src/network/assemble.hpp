/// The walker that makes equations: heat balance of every node at given temperatures, and its linearisation.
#pragma once

#include <firnfield/network.hpp>

#include "linear/network_matrix.hpp"
#include "network/law.hpp"

#include <span>
#include <vector>

namespace firnfield {

/// Heat balance of every node at given temperatures, and its linearisation: a symmetric matrix, and what it lacks.
struct Balance {
    std::vector<double> residual{};                  // W entering each node and not leaving
    std::vector<double> slope{};                     // d(heat to the surroundings)/dT per node, W/K
    std::vector<std::vector<double>> conductance{};  // per family: mean slope of its elements between nodes, W/K; empty where that is the coefficient
    /// Half the difference of the slopes of an element by its two temperatures, W/K: what a symmetric matrix cannot hold.
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

/// W entering and leaving every node.
[[nodiscard]] Balance assemble(const Network& network, const NodeTemperatures& nodes, Slopes slopes = Slopes::tangent);

/// Conductance of all films of each wall together, W/K: their slopes or secants.
[[nodiscard]] std::vector<double> film_conductances(const Network& network, const NodeTemperatures& nodes, Slopes slopes);

/// The edges of the symmetric matrix. What they refer to has to outlive them.
[[nodiscard]] std::vector<Edges> edges_of(const Network& network, const std::vector<std::vector<double>>& conductance);

}  // namespace firnfield
