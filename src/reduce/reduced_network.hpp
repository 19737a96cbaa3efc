/// A network reduced to its modes: what they are made of, what its inputs do to them, and how to get temperatures of nodes back.
#pragma once

#include "network/drive.hpp"
#include "reduce/modal.hpp"

#include <memory>
#include <vector>

namespace firnfield {

/// The same run told by two bases, of which one is part of the other: what they differ by says how good they are.
template <typename T>
struct Nested {
    T fine{}, coarse{};
};

struct ReducedNetwork {
    Nested<Modes> modes{};
    std::size_t nodes = 0;
    std::vector<double> weight{};             ///< K per amplitude, node by node, of the fine modes
    std::vector<double> coarse_in_fine{};     ///< amplitudes of fine modes that one of a coarse mode is, coarse mode by coarse mode
    std::vector<Nested<Amplitudes>> load{};   ///< 1/s of amplitude, of each power of the model with a factor of 1
    std::vector<Nested<Amplitudes>> known{};  ///< the same of each known temperature, a kelvin above the reference
    std::vector<double> heat_of_load{};       ///< W of each power with a factor of 1
    Nested<Amplitudes> start{};               ///< of the temperatures to start from
    Amplitudes stored{};                      ///< J above the reference per amplitude
    double shortest = 0.0;                    ///< s: changes faster than this move no temperature by the tolerance
    long long solves = 0;
    double seconds = 0.0;

    /// Of one node, K above the reference.
    [[nodiscard]] double rise(std::size_t node, const Amplitudes& at) const;
    [[nodiscard]] std::vector<double> rises(const Amplitudes& at) const;
    /// The fine run less the coarse one, in fine modes.
    [[nodiscard]] Amplitudes difference(const Nested<Amplitudes>& state) const;
    /// The largest that one of several states has anywhere, K.
    [[nodiscard]] double largest_rise(const std::vector<Amplitudes>& states) const;
};

struct ReductionProblem {
    Network& network;  ///< that `drive` sets; linear, with coefficients that do not change
    Drive& drive;
    double reference = 0.0;                    ///< K
    const std::vector<double>& start;          ///< K above the reference, per node
    double begin = 0.0, longest = 0.0;         ///< s: when the run begins and how long it is
    double tolerance = 0.1;                    ///< K
    int density = 1;                           ///< how many times as many rates as usual
    std::size_t thermostats = 0;               ///< of the model
    std::function<void(int, int)> progress{};  ///< told how many of how many solves are done
};

/// Finds the modes. Throws ComputationError where a solve does not settle.
[[nodiscard]] std::shared_ptr<const ReducedNetwork> reduce_network(const ReductionProblem& problem);

}  // namespace firnfield
