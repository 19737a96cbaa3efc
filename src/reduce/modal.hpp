/// A reduced network in modal form, and its exact march: every mode fades by itself, x' = −λx + input.
#pragma once

#include <array>
#include <cstddef>
#include <span>
#include <vector>

namespace firnfield {

/// Amplitudes of modes, √J·√K: their squares add up to Σ C T².
using Amplitudes = std::vector<double>;

/// Inputs that go on modes within a step: a polynomial of time over the step, from 0 to 1.
struct ModalInput {
    std::array<Amplitudes, 3> coefficient{};
};

/// The modes of a basis: the network's matrix in it is diagonal.
class Modes {
public:
    Modes() = default;
    /// Of the first vectors of a basis, so many. `matrix`: the network's in all of it, row by row, W/K over capacities.
    Modes(const std::vector<std::vector<double>>& matrix, std::size_t columns);

    [[nodiscard]] std::size_t size() const { return rate_.size(); }
    /// 1/s, from slow to fast.
    [[nodiscard]] const std::vector<double>& rate() const { return rate_; }
    /// How much of a vector of the basis is in a mode.
    [[nodiscard]] double share(std::size_t column, std::size_t mode) const { return share_[column * rate_.size() + mode]; }
    /// Of a state on the vectors of the basis.
    [[nodiscard]] std::vector<double> coordinates(const Amplitudes& at) const;
    /// What sums over the vectors of the basis are over the modes.
    [[nodiscard]] Amplitudes from_vectors(std::span<const double> of_vectors) const;

    /// The state after `time` (s) of a step of `length` that begins at `from`.
    [[nodiscard]] Amplitudes after(const Amplitudes& from, const ModalInput& input, double time, double length) const;
    /// Its integral over the step, times s.
    [[nodiscard]] Amplitudes integral(const Amplitudes& from, const ModalInput& input, double length) const;
    /// Its rate of change at the end of one, 1/s.
    [[nodiscard]] Amplitudes slope(const Amplitudes& at, const Amplitudes& input) const;

private:
    std::vector<double> rate_, share_;
};

/// The slowest rate (1/s) at which a disturbance fades where inputs follow the state: `follows`, for each mode, is what inputs change by per amplitude of it.
[[nodiscard]] double slowest_rate(const Modes& modes, const std::vector<Amplitudes>& follows);

}  // namespace firnfield
