/// A network reduced to its modes: what they are made of, what its inputs do to them, and how to get temperatures of nodes back.
#pragma once

#include "network/drive.hpp"
#include "reduce/basis.hpp"
#include "reduce/modal.hpp"
#include "study/integrator.hpp"

#include <functional>
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
    std::shared_ptr<const Basis> basis{};     ///< of both: the coarse modes are of the first vectors
    std::vector<Nested<Amplitudes>> load{};   ///< 1/s of amplitude, of each power of the model with a factor of 1
    std::vector<Nested<Amplitudes>> known{};  ///< the same of each known temperature, a kelvin above the reference
    std::vector<double> heat_of_load{};       ///< W of each power with a factor of 1
    Nested<Amplitudes> start{};               ///< of the temperatures to start from
    Amplitudes stored{};                      ///< J above the reference per amplitude
    double shortest = 0.0;                    ///< s: changes faster than this move no temperature by the tolerance
    double seconds = 0.0;

    /// K above the reference, per node.
    [[nodiscard]] std::vector<double> rises(const Amplitudes& fine) const { return basis->sum(modes.fine.coordinates(fine)); }
    /// The fine run less the coarse one, on the vectors of the basis.
    [[nodiscard]] std::vector<double> difference(const Nested<Amplitudes>& state) const;
};

/// The largest that one of several sums of vectors is anywhere, K.
[[nodiscard]] double largest_rise(const Basis& basis, const std::vector<std::vector<double>>& coordinates);

/// Sets a network to where nothing goes on: no heat, all known temperatures at the reference. Then `use` is called with each of its inputs alone: loads with
/// a factor of one, then known temperatures a kelvin above the reference. In the end nothing goes on again. `like`: values of the network.
void each_input(Drive& drive, const Drive::Values& like, double reference, const std::function<void()>& use);

struct ReductionProblem {
    Network& network;  ///< that `drive` sets; linear, with coefficients that do not change
    Drive& drive;
    double reference = 0.0;                       ///< K
    const std::vector<double>& start;             ///< K above the reference, per node
    double begin = 0.0, longest = 0.0;            ///< s: when the run begins and how long it is
    double tolerance = 0.1;                       ///< K
    std::size_t thermostats = 0;                  ///< of the model
    std::vector<std::vector<double>> patterns{};  ///< W per node: what else puts heat in, each by a course of its own
    std::function<void(int)> progress{};          ///< told how many solves are done
};

/// Finds modes, and more of them each time it is asked. What the problem refers to has to outlive it.
class Reducer {
public:
    explicit Reducer(const ReductionProblem& problem);
    ~Reducer();
    Reducer(const Reducer&) = delete;
    Reducer& operator=(const Reducer&) = delete;
    /// With rates half as far apart as before; the modes that it gave before are no longer good then. Throws ComputationError where a solve does not settle.
    [[nodiscard]] std::shared_ptr<const ReducedNetwork> next();
    /// With responses to another pattern of heat (W per node) instead.
    [[nodiscard]] std::shared_ptr<const ReducedNetwork> next_with(const std::vector<std::vector<double>>& patterns);
    /// K per node that heat (W per node) leads to within a time (s).
    [[nodiscard]] std::vector<double> response(const std::vector<double>& heat, double time);
    /// What it did so far.
    [[nodiscard]] const IntegratorCounts& counts() const;

private:
    class Work;
    std::unique_ptr<Work> work_;
};

}  // namespace firnfield
