/// What bends, as it acts on the modes of a network: with all of its elements, or with a few that tell how much there is of a few patterns of heat.
///
/// Patterns are those that the heat of all elements was seen in (P. Benner, S. Gugercin and K. Willcox, "A survey of projection-based model reduction methods
/// for parametric dynamical systems", SIAM Review 57 (2015) 483, section 2.3). How much there is of each is such that what is left over moves temperatures
/// least, in the norm of energy: a sum over elements, each weighted by the difference of temperature that a pattern makes across it. So what was stable stays
/// stable. A few elements with weights of their own add up to the same; they are found by sample().
#pragma once

#include "reduce/reduced_network.hpp"
#include "reduce/remainder.hpp"
#include "reduce/sample.hpp"

#include <memory>
#include <span>
#include <vector>

namespace firnfield {

/// A moment at which all elements are known.
struct KnownMoment {
    std::vector<double> rise{};  ///< K above the reference, per node of all of them
    Drive::Values values{};
    std::vector<double> heat{};  ///< W beyond the tangent that enters each of these nodes
};

/// Which of two nested sets of modes.
using WhichModes = Amplitudes Nested<Amplitudes>::*;

/// Some patterns of heat, W per node of all bent elements, and what they do to the modes of a network within a time (s).
class PatternSpace {
public:
    PatternSpace(const Remainder& all, std::shared_ptr<const ReducedNetwork> network, std::span<const std::vector<double>> patterns, double longest);
    [[nodiscard]] std::size_t size() const { return input_.size(); }
    /// How much of each pattern is in heat, so that what is left over moves temperatures least.
    [[nodiscard]] std::vector<double> amounts(const std::vector<double>& heat) const;
    /// The same from what each pattern reads of it.
    [[nodiscard]] std::vector<double> amounts_of(std::span<const double> readings) const;
    /// What the patterns read of heat: itself times the temperatures that each of them leads to.
    [[nodiscard]] std::vector<double> readings(const std::vector<double>& heat) const;
    /// K per node of all bent elements that a pattern leads to.
    [[nodiscard]] const std::vector<double>& response(std::size_t pattern) const { return response_[pattern]; }
    /// √W·K: how much it moves, in the norm of energy.
    [[nodiscard]] double size_of(std::size_t pattern) const { return size_[pattern]; }
    [[nodiscard]] const Nested<Amplitudes>& input(std::size_t pattern) const { return input_[pattern]; }
    /// W that enters all nodes together by one of a pattern.
    [[nodiscard]] double enters(std::size_t pattern) const { return enters_[pattern]; }

private:
    std::vector<Nested<Amplitudes>> input_;
    std::vector<std::vector<double>> response_;
    std::vector<double> size_, enters_;
    std::vector<std::vector<double>> inverse_;  // of what they read of each other
};

/// Not for several threads at once. What it is made of has to outlive it.
class BentHeat {
public:
    /// By all elements.
    BentHeat(Remainder& all, std::shared_ptr<const ReducedNetwork> network);
    /// By a few. `within`: share that the sums over the moments may be off by; `longest`: s that heat has to act.
    BentHeat(Remainder& all, std::shared_ptr<const ReducedNetwork> network, std::shared_ptr<const PatternSpace> patterns, std::span<const KnownMoment> moments,
             double within, double longest);

    /// How many elements are looked at.
    [[nodiscard]] std::size_t elements() const { return at_.elements().size(); }
    /// K above the reference of the nodes that these touch.
    [[nodiscard]] std::vector<double> rises(std::span<const double> coordinates) const { return at_.rises(*network_->basis, coordinates); }
    /// What bends puts on each mode beyond the tangent, 1/s of amplitude.
    [[nodiscard]] Amplitudes input(std::span<const double> rise, const Drive::Values& values, WhichModes which);
    /// Its heat flows by the model's entries beyond those of the tangent. They add up to what it puts on the modes.
    [[nodiscard]] HeatFlows flows(std::span<const double> rise, const Drive::Values& values);

private:
    BentHeat(Remainder& all, std::shared_ptr<const ReducedNetwork> network, std::shared_ptr<const PatternSpace> patterns, const WeightedSample& chosen);
    [[nodiscard]] std::vector<double> amounts(std::span<const double> rise, const Drive::Values& values);

    std::shared_ptr<const ReducedNetwork> network_;
    std::shared_ptr<const PatternSpace> patterns_;
    std::unique_ptr<Remainder> few_;  // null where all are looked at
    Remainder& at_;
    std::vector<std::vector<double>> reading_;  // what each pattern reads of one watt of each element
};

/// Orthonormal patterns that these heats (W per node) are made up of, the strongest first, down to a thousandth of that.
[[nodiscard]] std::vector<std::vector<double>> patterns_in(const std::vector<std::vector<double>>& heat, std::size_t most);

}  // namespace firnfield
