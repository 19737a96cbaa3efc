/// One run of a reduced network through time: steps between which every mode is known exactly, edges, thermostats, the ledger.
#pragma once

#include <firnfield/transient.hpp>

#include "reduce/linear_reading.hpp"
#include "reduce/reduced_network.hpp"
#include "study/run.hpp"
#include "study/thermostats.hpp"

#include <algorithm>
#include <chrono>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

namespace firnfield {

/// A moment that was looked at while the run was tried.
struct TriedMoment {
    double time = 0.0;  ///< s
    Amplitudes state{};
    std::vector<bool> on{};
};

/// What stays the same over a reduced run.
struct ReducedFrame {
    std::shared_ptr<const ReducedNetwork> network{};
    std::function<LinearReading(const Reader&)> linear{};
    std::vector<TriedMoment> tried{};
};

/// Within a step of a reduced run. Not for several threads at once.
class ReducedCourse final : public StepCourse {
public:
    /// `factors`: on loads, then of known temperatures (K above the reference), as polynomials over the step. Nothing is outside of `low` to `high`, K.
    ReducedCourse(std::shared_ptr<const ReducedFrame> frame, double begin, double end, Amplitudes from, ModalInput input,
                  std::array<std::vector<double>, 3> factors, double low, double high);
    [[nodiscard]] std::size_t nodes() const override { return frame_->network->basis->nodes(); }
    [[nodiscard]] double rise(Index node, double time) const override { return std::clamp(frame_->network->basis->at(node, coordinates(time)), low_, high_); }
    [[nodiscard]] std::vector<double> rises(double time) const override { return keep(time)(); }
    [[nodiscard]] std::function<std::vector<double>()> keep(double time) const override;
    [[nodiscard]] const Amplitudes& at(double time) const;
    [[nodiscard]] const std::vector<double>& coordinates(double time) const;
    /// Factors on all inputs.
    [[nodiscard]] std::vector<double> factors(double time) const;
    [[nodiscard]] const std::shared_ptr<const ReducedFrame>& frame() const { return frame_; }

private:
    std::shared_ptr<const ReducedFrame> frame_;
    double begin_, end_;
    Amplitudes from_;
    ModalInput input_;
    std::array<std::vector<double>, 3> factors_;
    double low_, high_;
    mutable double known_time_;
    mutable Amplitudes known_;
    mutable std::vector<double> coordinates_;  // of the same time; empty where they are not known yet
};

class ReducedRun {
public:
    /// Finds the modes, the more of them the further the two bases are apart. Throws ModelError where the study cannot be reduced.
    ReducedRun(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::vector<double>& start, const TransientOptions& options,
               double phase, double length);
    ReducedRun(const ReducedRun&) = delete;
    ReducedRun& operator=(const ReducedRun&) = delete;

    /// The temperatures that the study starts from, at the beginning.
    void begin();
    /// Others, at the beginning, with thermostats as these make them.
    void begin(Nested<Amplitudes> state);
    /// Steps on to a time; `after` sees every step and may end the run by returning false.
    void advance(double to, const TransientOptions& options, const std::function<bool(const TimeStep&)>& after);
    /// Runs on to a time without anybody watching, to see what the two bases differ by, and what moments readers should look at to find out where it matters.
    void try_out(double to, const TransientOptions& options);

    /// As of TimeRun.
    bool project();
    [[nodiscard]] const RemainingChange& remaining() const { return remaining_; }
    [[nodiscard]] const TimeStep& last() const { return last_; }

    void finish(TransientSolution& out, bool time_constant);

    [[nodiscard]] const Nested<Amplitudes>& state() const { return state_; }
    [[nodiscard]] const ReducedNetwork& reduced() const { return *reduced_; }
    [[nodiscard]] const Thermostats& thermostats() const { return thermostats_; }

private:
    [[nodiscard]] LinearReading read_linear(const Reader& read);
    void widen_bounds();
    void note();
    void set_inputs(double begin, double end);
    void step_towards(double edge, double jump);
    void take(double begin, double end);
    void book();
    [[nodiscard]] HeatFlows moved() const;

    std::shared_ptr<const Mesh> mesh_;
    const Study& study_;
    std::chrono::steady_clock::time_point clock_;
    Network network_;
    Drive drive_;
    Thermostats thermostats_;
    double phase_, reference_;
    std::shared_ptr<const ReducedNetwork> reduced_;
    std::shared_ptr<ReducedFrame> frame_;
    Reduction told_{};
    IntegratorCounts counts_of_basis_{};
    bool leads_out_;

    double time_ = 0.0, longest_ = 0.0;
    Nested<Amplitudes> state_, next_;
    Nested<ModalInput> input_;                    // of the step at hand
    std::array<std::vector<double>, 3> factors_;  // of loads and known temperatures over it, as polynomials
    std::optional<ReducedCourse> course_;
    TimeStep last_;
    std::vector<Switching> switchings_;
    TimeLedger ledger_;
    TransientSummary counts_;
    RemainingChange remaining_;
    std::optional<LinearReading> flows_;
    double start_low_, start_high_, low_ = 0.0, high_ = 0.0;  // K above the reference, of the start and of all that was seen since

    /// States at which the two bases are compared: the first ones, then ever fewer, and the last ones.
    struct Noted {
        std::vector<double> difference{};  // on the vectors of the basis
        TriedMoment moment{};
    };
    std::vector<Noted> noted_, lately_;
    double next_note_ = 0.0;
};

}  // namespace firnfield
