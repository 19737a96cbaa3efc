/// Temperatures over time: steps with controlled error, thermostats, and what a periodic load settles to.
#pragma once

#include <firnfield/mesh.hpp>
#include <firnfield/model.hpp>
#include <firnfield/network.hpp>
#include <firnfield/steady.hpp>

#include <array>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace firnfield {

class ContactReader;
class Drive;
class MeshErrors;

/// What has to be added to the temperatures of all nodes because cells have a size, K: after one and after two rounds of the correction.
using NodeErrors = std::array<std::vector<double>, 2>;

/// Temperatures within a step where they are more than a cubic between its ends.
class StepCourse {
public:
    StepCourse() = default;
    StepCourse(const StepCourse&) = delete;
    StepCourse& operator=(const StepCourse&) = delete;
    virtual ~StepCourse() = default;
    [[nodiscard]] virtual std::size_t nodes() const = 0;
    [[nodiscard]] virtual double rise(Index node, double time) const = 0;
    [[nodiscard]] virtual std::vector<double> rises(double time) const = 0;
    /// What gives the same later on, when the step is over.
    [[nodiscard]] virtual std::function<std::vector<double>()> keep(double time) const = 0;
};

/// An accepted step and all that lies within it: a cubic through temperatures and their rates at both ends, or a course of its own.
class TimeStep {
public:
    double begin = 0.0, end = 0.0;                           ///< s
    double reference = 0.0;                                  ///< K
    std::span<const double> rise_begin{}, rise_end{};        ///< K above the reference, per cell
    std::span<const double> rate_begin{}, rate_end{};        ///< K/s of heat content
    std::span<const double> content_begin{}, content_end{};  ///< K; empty where heat content and temperature are the same
    std::vector<bool> on{};                                  ///< of every thermostat of the model, within the step
    bool jump_at_end = false;                                ///< loads jump or bend there, or a thermostat switches
    /// What the mesh makes wrong at the end, and at the beginning where that does not follow from the step before; null where that is not asked for.
    const MeshErrors *errors_begin = nullptr, *errors_end = nullptr;
    std::vector<double> projected{};  ///< rises that temperatures tend to from `end`; empty where that was not asked for or goes on changing

    [[nodiscard]] std::size_t nodes() const { return course != nullptr ? course->nodes() : rise_end.size(); }
    [[nodiscard]] double rise(Index node, double time) const;
    [[nodiscard]] std::vector<double> rises(double time) const;
    /// What gives the rises of a time when the step is over.
    [[nodiscard]] std::function<std::vector<double>()> keep(double time) const;
    /// The network as it is at a time within the step. The next call changes it.
    [[nodiscard]] const Network& network(double time) const;

    bool steep = false;                  ///< of a length that nobody controlled
    double clock = 0.0;                  ///< s, what profiles see at time 0 of the study
    Drive* drive = nullptr;              ///< for network(); owned by the run
    const StepCourse* course = nullptr;  ///< of a reduced model, whose steps have no rises and rates at their ends; else null
    const Network* driven = nullptr;
};

/// Heat that moved since the beginning, by the model's entries, and how it balances. Of the whole product.
struct TimeLedger {
    HeatFlows moved{};        ///< J, entering from powers, leaving otherwise
    double stored = 0.0;      ///< J, more than at the beginning
    double throughput = 0.0;  ///< J that entered, plus what cells gave out of their own
    [[nodiscard]] double residual() const { return moved.net() - stored; }
    [[nodiscard]] double relative_residual() const { return throughput > 0.0 ? residual() / throughput : residual(); }
};

/// A thermostat that switched.
struct Switching {
    double time = 0.0;     ///< s
    Index thermostat = 0;  ///< in the model
    bool on = false;       ///< what it switched to
};

/// What a run did.
struct TransientSummary {
    long long steps = 0, rejected = 0, solves = 0, linear_iterations = 0, factorisations = 0;
    double smallest_step = 0.0, largest_step = 0.0;  ///< s
    double mesh_seconds = 0.0, network_seconds = 0.0, solve_seconds = 0.0;
    /// One line: "212 steps of 1.2 ms to 41 s (14 repeated), 1130 solves, …".
    [[nodiscard]] std::string text() const;
};

/// What is added to the reading of a thermostat because cells have a size, and how that goes on.
struct ReadingDrift {
    double time = 0.0, added = 0.0, rate = 0.0;  ///< s, K, K/s
};

/// Everything that a run needs to go on from where it is.
struct TransientState {
    double time = 0.0, next_length = 0.0;  ///< s
    double reference = 0.0;                ///< K
    std::vector<double> rise{}, rate{};    ///< K, K/s of heat content
    NodeErrors errors{};                   ///< K of heat content; empty where they are not worked out
    HeatFlows flows{};                     ///< W, that the rates belong to
    std::vector<bool> on{};
    std::vector<double> since{};         ///< s, when each thermostat switched last
    std::vector<ReadingDrift> drifts{};  ///< per thermostat
    std::vector<Switching> switchings{};
    TimeLedger ledger{};
    TransientSummary summary{};
    std::optional<double> remaining_change{};  ///< K, at `time`, where it was watched
};

struct TransientOptions {
    /// Called after every step; returning false ends the run there.
    std::function<bool(const TimeStep&)> observe{};
    ProgressCallback progress{};
    /// Called after every `checkpoint_steps` steps with what resume() needs. A run that goes on from there does the same as this one.
    std::function<void(const TransientState&)> checkpoint{};
    long long checkpoint_steps = 100;
    std::optional<TransientState> resume{};
    bool time_constant = true;                 ///< work out the slowest time constant at the end
    std::shared_ptr<const Network> network{};  ///< of the study, where it was built before
    bool errors = false;                       ///< work out what the mesh makes wrong, for those who watch the steps
    NodeErrors start_errors{};                 ///< of the temperatures to start from; empty: none, as of temperatures that are given
};

/// The reduced model that a study was marched with.
struct Reduction {
    int modes = 0;
    long long solves = 0;        ///< of the whole network, to find them
    double basis_seconds = 0.0;  ///< s of computing, for that
    double march_seconds = 0.0;
    long long bent = 0;    ///< surfaces and links whose heat depends on temperature other than in proportion, or that vary in time
    long long acting = 0;  ///< of those, so many that stand for all of them
    double open = 0.0;     ///< K by which temperatures may differ from those of the whole network, anywhere and at any time: estimated
};

struct TransientSolution {
    SteadySolution end{};     ///< temperatures and network at the end
    NodeErrors errors{};      ///< of the temperatures at the end, where that was asked for
    std::string no_errors{};  ///< why they are not known although they were asked for
    double end_time = 0.0;    ///< s
    std::string stopped{};    ///< why: "the time is over", "steady", …
    std::vector<Switching> switchings{};
    std::vector<bool> started_on{};  ///< of every thermostat
    TimeLedger ledger{};
    std::optional<double> remaining_change{};  ///< K; absent where loads go on changing or nothing leads to the surroundings
    std::optional<double> steady_time{};       ///< s, when the remaining change fell below Study::steady_within
    std::optional<double> time_constant{};     ///< s, the slowest, at the end
    TransientSummary summary{};

    std::optional<Reduction> reduction{};  ///< where Study::method asks for one

    // Of a cyclic study:
    double period = 0.0;                       ///< s
    int cycles_computed = 0;                   ///< to find the settled one
    std::optional<double> cycles_to_settle{};  ///< from the start until within 1 %
    double settled_within = 0.0;               ///< K, estimated distance from the settled cycle
};

/// The rises above their common reference from which a transient begins, K per cell: one temperature or one per part. A start from
/// another study is the caller's to give.
[[nodiscard]] std::vector<double> start_temperatures(const Model& model, const Mesh& mesh, const Study& study);

/// Runs a study in time of either kind, by the method that it asks for. Throws as the functions below; ModelError for a study by a reduced model of
/// what cannot be reduced.
[[nodiscard]] TransientSolution solve_in_time(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::vector<double>& start,
                                              const TransientOptions& options = {});

/// Runs a transient study from `start` (K per cell), with the whole network whatever method it asks for. Throws ModelError for a model that cannot be used,
/// ComputationError when steps fail.
[[nodiscard]] TransientSolution solve_transient(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::vector<double>& start,
                                                const TransientOptions& options = {});

/// Finds the settled cycle of a periodic load, likewise; `observe` sees its steps, with times from 0 to the period.
///
/// With d the change over a cycle of length P, temperatures are corrected by d + K⁻¹Cd/P − 2(PK + 4C)⁻¹Cd, which takes both slow and fast
/// parts to where they repeat, until nothing is further than a tenth of the tolerance from there.
[[nodiscard]] TransientSolution solve_cyclic(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::vector<double>& start,
                                             const TransientOptions& options = {});

/// Temperatures of a study in time at one moment.
struct KeptMoment {
    double time = 0.0;           ///< s
    double reference = 0.0;      ///< K
    std::vector<double> rise{};  ///< K above the reference, per cell
    std::vector<bool> on{};      ///< of every thermostat
};
/// The field at a later time of a study, by running on from a moment that was kept. Of a cyclic study times count from the beginning of the
/// settled cycle. Throws as solve_transient().
[[nodiscard]] SteadySolution run_on(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const KeptMoment& from, double to);

/// Makes moments of a study out of kept temperatures, each in the network as it is then.
class Moments {
public:
    /// What it is made of has to outlive it. `network`: that of the study, where it was built before.
    Moments(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::shared_ptr<const Network>& network = {});
    ~Moments();
    Moments(const Moments&) = delete;
    Moments& operator=(const Moments&) = delete;
    /// `on` tells of every thermostat whether it was on; left out: all were.
    [[nodiscard]] SteadySolution at(double time, double reference, std::vector<double> rise, std::vector<bool> on = {});

private:
    const Model& model_;
    std::shared_ptr<const Mesh> mesh_;
    const Study& study_;
    Network network_;
    std::unique_ptr<Drive> drive_;
    std::unique_ptr<ContactReader> contacts_;
};

}  // namespace firnfield
