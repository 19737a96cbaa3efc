/// One run of a reduced network through time: steps between which every mode is known exactly, edges, thermostats, the ledger.
#pragma once

#include <firnfield/transient.hpp>

#include "reduce/bent_step.hpp"
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
    std::function<LinearReading(const Reader&)> linear{};  ///< of the network that the modes are of
    std::shared_ptr<BentHeat> bent{};                      ///< what the network does beyond that; null where it does nothing
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
    /// Heat flows of what bends, beyond those of the tangent. `driven`: what drives the network at that time.
    [[nodiscard]] HeatFlows flows_beyond(double time, const Drive::Values& driven) const;
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

    /// Whether both bases are marched from here on: what they differ by is of interest then.
    void compare(bool both) { compares_ = both; }
    /// As of TimeRun.
    bool project();
    [[nodiscard]] const RemainingChange& remaining() const { return remaining_; }
    [[nodiscard]] const TimeStep& last() const { return last_; }

    void finish(TransientSolution& out, bool time_constant);

    /// Of the network that the modes are of.
    [[nodiscard]] LinearReading read_linear(const Reader& read);
    /// What bends puts on the modes when the rest does nothing, where tangents are taken: with that they are what the network is there.
    [[nodiscard]] Amplitudes constant_input();
    [[nodiscard]] double reference() const { return reference_; }
    /// What drives the network at the beginning.
    [[nodiscard]] Drive::Values driven() const { return drive_.values(phase_, thermostats_.on()); }
    [[nodiscard]] const Reduction& told() const { return told_; }

    [[nodiscard]] const Nested<Amplitudes>& state() const { return state_; }
    [[nodiscard]] const ReducedNetwork& reduced() const { return *reduced_; }
    [[nodiscard]] const Thermostats& thermostats() const { return thermostats_; }
    /// Whether the end of a cycle is linear in its beginning.
    [[nodiscard]] bool is_linear() const { return !all_bent_ && !thermostats_.any(); }

private:
    /// The network with tangents in the place of what bends.
    struct Tangent {
        Tangent(const Model& model, const Study& study, Network of)
            : network(std::move(of)), drive(model, study, network, Drive::Changes::loads_and_temperatures) {}
        Network network;
        Drive drive;
    };
    void take_tangent(const Model& model, const std::vector<double>& rise, double length);
    void find_modes(Reducer& reducer, double length, const TransientOptions& options);
    void thin_out(double within, double length, bool all);
    [[nodiscard]] KnownMoment known_at(std::vector<double> rise, Drive::Values values);
    [[nodiscard]] double learn_from_tried(double length);
    [[nodiscard]] std::vector<std::vector<double>> unknown_patterns(Reducer& reducer, double length, double& moves);
    [[nodiscard]] Amplitudes change_to_rest();
    [[nodiscard]] double slowest_rate_at_end() const;
    [[nodiscard]] bool solve_bent(double begin, double end);

    [[noreturn]] void refuse_to_follow(double time) const;
    void widen_bounds();
    void note();
    void set_inputs(double begin, double end);
    void step_towards(double edge, double jump);
    [[nodiscard]] bool take(double begin, double end);
    void book();
    [[nodiscard]] HeatFlows moved() const;

    std::shared_ptr<const Mesh> mesh_;
    const Study& study_;
    std::chrono::steady_clock::time_point clock_;
    Network network_;
    Drive drive_;
    Thermostats thermostats_;
    double phase_, reference_;
    std::vector<double> middle_;  // K above the reference: where tangents are taken
    Drive::Values middle_values_{};
    std::unique_ptr<Tangent> tangent_;           // null where nothing bends: then the network is its own
    std::unique_ptr<Remainder> all_bent_;        // of all elements
    std::vector<KnownMoment> known_;             // to thin them out by
    std::vector<std::vector<double>> patterns_;  // W per node of all bent ones: what the modes have responses to
    std::shared_ptr<const PatternSpace> pattern_space_;
    bool all_are_needed_ = false;
    bool compares_ = true;
    double open_beyond_ = 0.0;  // K that what bends may be off by, apart from the modes
    double allowed_ = 0.0;      // s: a step that what bends can be followed in
    HeatFlows beyond_;          // of the last step, in the mean
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
