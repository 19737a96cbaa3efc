/// What a run in time means: when limits are crossed and for how long, peaks, warm-up and cool-down, duty of thermostats, energy.
#pragma once

#include <firnfield/explain.hpp>
#include <firnfield/findings.hpp>
#include <firnfield/transient.hpp>

#include <array>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

namespace firnfield {

struct Interval {
    double from = 0.0, to = 0.0;  ///< s
    [[nodiscard]] double length() const { return to - from; }
};

/// A temperature, where, and when.
struct Moment {
    Spot spot{};
    double time = 0.0;  ///< s
};

struct LimitOverTime {
    std::string subject{};  ///< part, sensor or figure
    SubjectKind of{};
    const QuantityKind* quantity = &kinds::temperature;  ///< of `limit` and `found`
    bool upper = true;                                   ///< "below" rather than "above"
    double limit = 0.0;                                  ///< SI
    double after = 0.0;                                  ///< s; counts from here on
    std::vector<Interval> beyond{};                      ///< all of them, also before `after`
    std::optional<double> first_crossing{};              ///< s, first time beyond; 0 when it begins there
    std::optional<double> met_from{};                    ///< s, from when on it holds until the end, where it did not hold before: warm-up or cool-down time
    double found = 0.0;                                  ///< SI, the worst from `after` on
    bool of_run = false;                                 ///< `found` is told of the whole run, of no moment
    double found_time = 0.0;                             ///< s; of the whole run its end
    Moment worst{};                                      ///< where that is; of a figure no place
    double margin = 0.0;                                 ///< SI, K for a temperature: of the worst
    bool beyond_at_end = false;
    [[nodiscard]] double time_beyond() const;
    [[nodiscard]] bool kept() const { return margin >= 0.0; }
};

/// A milestone: when it is passed, and how long the temperature stays past it.
struct MilestoneOverTime {
    std::string name{};
    std::string subject{};                               ///< part, sensor or figure
    const QuantityKind* quantity = &kinds::temperature;  ///< of `value`
    bool rising = true;                                  ///< passed on the way up
    double value = 0.0;                                  ///< SI
    std::vector<Interval> past{};                        ///< all of them
    std::optional<double> first{};                       ///< s, when it is first passed; 0 when it is at the beginning
    std::optional<double> stays_from{};                  ///< s, from when on it is past until the end
};

/// Share of a volume that is liquid.
struct LiquidShare {
    double most = 0.0, end = 0.0;
};

struct PartOverTime {
    std::string name{};
    Moment coldest{}, hottest{};
    double mean = 0.0;                                    ///< K, by volume and time
    double end_min = 0.0, end_mean = 0.0, end_max = 0.0;  ///< K
    std::optional<LiquidShare> liquid{};                  ///< where it can melt
};

struct SensorOverTime {
    std::string name{}, part{};
    double lowest = 0.0, highest = 0.0, mean = 0.0, end = 0.0;  ///< K
    double lowest_time = 0.0, highest_time = 0.0;               ///< s
    bool lumped = false;                                        ///< of a node: it has no place
};

/// A figure that the model names, over a run. What is absent was defined at no time.
struct NamedOverTime {
    std::string name{};
    const QuantityKind* quantity = &kinds::number;
    std::optional<double> lowest{}, highest{}, mean{}, end{};  ///< SI; the mean by time, as far as it is defined
    std::optional<double> lowest_time{}, highest_time{};       ///< s
};

/// A figure that is told of a run as a whole: "swing of die.max".
struct RunFigure {
    std::string name{};
    const QuantityKind* quantity = &kinds::number;
    std::optional<double> value{};  ///< SI; absent: not defined, as the first time of what never happens
};

struct ThermostatFinding {
    std::string name{};
    std::vector<Switching> switchings{};
    double on_time = 0.0;            ///< s
    double duty = 0.0;               ///< share of the time that it is on; of whole periods where there are some
    std::optional<double> period{};  ///< s, mean of the last periods, at most ten
    double energy = 0.0;             ///< J, of the powers that it switches
};

/// By what heat comes and goes.
enum class HeatKind : std::uint8_t { load, convection, radiation, hold, resistor };

/// Heat that one entry of the model let in or out over a run.
struct EnergyFinding {
    HeatKind kind{};
    std::string name{};
    double energy = 0.0;  ///< J; of a load what it put in, else what left
};

/// How the heat of a run adds up.
struct EnergyBalance {
    std::vector<EnergyFinding> entries{};
    double stored = 0.0;      ///< J, more than at the beginning
    double throughput = 0.0;  ///< J that entered, plus what cells gave out of their own
    double residual = 0.0;    ///< J unaccounted for
    [[nodiscard]] double relative_residual() const { return throughput > 0.0 ? residual / throughput : residual; }
    /// J of the entry of this kind and name; 0 where there is none.
    [[nodiscard]] double of(HeatKind kind, std::string_view name) const;
};

/// Of a cyclic study: the cycle that repeats.
struct SettledCycle {
    double period = 0.0;                       ///< s
    double within = 0.0;                       ///< K that it repeats to, estimated
    int computed = 0;                          ///< cycles, to find it
    std::optional<double> cycles_to_settle{};  ///< from the start until the hottest spot is within 1 %
};

/// Values over time, by columns.
struct History {
    std::vector<std::string> columns{};  ///< with units, "base max (degC)"; the time is not among them
    std::vector<double> time{};          ///< s; twice where something jumps
    std::vector<std::vector<double>> rows{};
};

struct TimeFindings {
    std::string title{};
    Study study{};
    std::vector<LayerSize> layers{};  ///< Findings::layers of the mesh
    std::vector<Figure> figures{};
    std::vector<LimitOverTime> limits{};
    std::vector<MilestoneOverTime> milestones{};
    Moment hottest{};
    std::vector<PartOverTime> parts{};
    std::vector<SensorOverTime> sensors{};
    std::vector<NamedOverTime> named{};
    std::vector<RunFigure> of_run{};
    std::vector<ThermostatFinding> thermostats{};
    History history{};
    std::vector<Warning> warnings{};
    Findings end{};         ///< of the temperatures at the end
    double end_time = 0.0;  ///< s
    std::string stopped{};
    EnergyBalance energy{};
    std::optional<double> remaining_change{};  ///< K that temperatures would still move by, if nothing changed any more
    std::optional<double> steady_time{};       ///< s, from when on that is less than Study::steady_within
    std::optional<double> time_constant{};     ///< s, the slowest
    std::optional<SettledCycle> cycle{};       ///< of a cyclic study
    std::optional<Reduction> reduction{};      ///< where a reduced model was marched
    TransientSummary summary{};
    std::optional<Explanation> why{};  ///< of the worst moment; see explain.hpp

    [[nodiscard]] bool all_limits_kept() const;
    [[nodiscard]] Verdict verdict() const;
};

/// What a study of either kind gave.
using StudyFindings = std::variant<Findings, TimeFindings>;

/// What was added to a reading because cells have a size, and what that leaves open. K, or s for a time.
struct ReadingError {
    double added = 0.0, open = 0.0;
};

/// All that a recorder has seen: plain values, so that a run can be put aside and taken up again.
struct TimeRecord {
    struct LimitTrack {
        bool started = false, was_beyond = false, started_beyond = false;
        double beyond_since = 0.0;
        std::vector<Interval> beyond{};
        Moment worst{};
        bool judged = false;
        ReadingError worst_error{}, since_error{};
        std::vector<std::array<ReadingError, 2>> beyond_errors{};  // of both ends
    };
    struct PartTrack {
        Moment coldest{}, hottest{};
        double integral = 0.0;  // K s
        double melted_most = 0.0, melted_last = 0.0;
        ReadingError coldest_error{}, hottest_error{}, integral_error{};  // the last K s
    };
    struct SensorTrack {
        double lowest = 0.0, highest = 0.0, lowest_time = 0.0, highest_time = 0.0, integral = 0.0;
        ReadingError highest_error{};
    };
    struct SwitchTrack {
        double time = 0.0;  // s
        double open = 0.0;  // s, by which the mesh may let it switch too early or too late
    };
    struct ThermostatTrack {
        double energy = 0.0, on_time = 0.0;  // J of what it switches, s
        bool was_on = false;
        double rate = 0.0;  // K/s of its sensor at `time`
        std::vector<SwitchTrack> switches{};
    };
    /// Of a figure that the model names, as far as it was defined.
    struct FigureTrack {
        bool known = false;
        double lowest = 0.0, highest = 0.0, lowest_time = 0.0, highest_time = 0.0, integral = 0.0, length = 0.0;
        ReadingError lowest_error{}, highest_error{}, integral_error{};  // open: not a number where it is not known
    };
    bool started = false;
    double time = 0.0;
    bool jumped = false;
    double next_row = 0.0;
    std::vector<LimitTrack> limits{};
    std::vector<PartTrack> parts{};
    std::vector<SensorTrack> sensors{};
    std::vector<FigureTrack> figures{};
    std::vector<ThermostatTrack> thermostats{};
    History history{};
    /// Whether errors were worked out in every step so far; empty before the first.
    std::optional<bool> errors{};
    std::vector<ReadingError> now{};  // of all readings at `time`
    /// Between which temperatures can lie, K: those of all surroundings and of the start, where no load heats or cools.
    double lowest_known = 0.0, highest_known = 0.0;
    bool heated = false, cooled = false;
};

/// The moment of a run that matters most: where the smallest margin is, or where it is hottest when no limit counts.
struct WorstMoment {
    double time = 0.0;    ///< s
    double margin = 0.0;  ///< K; without limits: minus the temperature
    ExplainOptions what{};
};

/// Watches the steps of a run: give it to TransientOptions::observe.
class HistoryRecorder {
public:
    /// `model` and `study` have to outlive it. `network`: that of the study, where it was built before.
    HistoryRecorder(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::shared_ptr<const Network>& network = {});
    ~HistoryRecorder();
    HistoryRecorder(const HistoryRecorder&) = delete;
    HistoryRecorder& operator=(const HistoryRecorder&) = delete;

    /// False once all limits are decided and the study asks to stop then.
    bool operator()(const TimeStep& step);

    /// What resume() needs. From here on this recorder does exactly what a resumed one would.
    [[nodiscard]] const TimeRecord& put_aside();
    void resume(TimeRecord record);

    [[nodiscard]] TimeFindings findings(const TransientSolution& solution) const;

    /// So far; nothing before the first step. With a part or sensor in `what`, the moment at which that is hottest (or coldest).
    [[nodiscard]] std::optional<WorstMoment> worst(const ExplainOptions& what = {}) const;

private:
    class Work;
    std::unique_ptr<Work> work_;
};

/// Holds the temperatures at the worst moment of a run, so that they can be explained.
class PeakCatcher {
public:
    /// `recorder` has to outlive it and to see every step first.
    explicit PeakCatcher(const HistoryRecorder& recorder, ExplainOptions what = {}) : recorder_(recorder), what_(std::move(what)) {}
    void see(const TimeStep& step);
    /// Explains it; nothing where the moment was not seen, as before a run was taken up again.
    [[nodiscard]] std::optional<SteadySolution> solution(Moments& moments) const;
    /// What to explain of it.
    [[nodiscard]] const ExplainOptions& what() const { return worst_->what; }

private:
    const HistoryRecorder& recorder_;
    ExplainOptions what_;
    std::optional<WorstMoment> worst_;
    double reference_ = 0.0;
    std::function<std::vector<double>()> rise_;
    std::vector<bool> on_;
};

/// Meshes the model, runs a transient or cyclic study and tells what happened: all of it in one call. A study that it starts from is
/// solved before. Throws what solve_transient() throws, and ModelError for a start from a results folder, which is read elsewhere.
/// `mesh` may be one that exists already; `progress` may stop it with Cancelled.
/// `errors`: correct its figures for what the mesh makes wrong, and tell in Figure::bar what that and the steps leave open.
[[nodiscard]] TimeFindings solve_over_time(const Model& model, const Study& study, std::shared_ptr<const Mesh> mesh = {}, const ProgressCallback& progress = {},
                                           bool errors = true);

/// Solves a study of any kind and explains what `what` names: of a study in time its worst moment. `what.progress` is told of all of it.
[[nodiscard]] Explanation solve_and_explain(const Model& model, const Study& study, ExplainOptions what = {});

}  // namespace firnfield
