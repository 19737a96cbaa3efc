/// What is read of a run in time: parts, sensors, limits and heat flows, at any time within a step.
#pragma once

#include <firnfield/history.hpp>

#include "findings/extremes.hpp"
#include "findings/figure_errors.hpp"
#include "findings/grouping.hpp"
#include "findings/named_figures.hpp"
#include "material/heat_content.hpp"
#include "network/probe.hpp"
#include "study/mesh_error_march.hpp"

#include <functional>
#include <limits>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace firnfield {

class ReducedCourse;

/// What is added to readings of one moment because cells have a size, and what that leaves open: coldest, hottest and mean of every body, then sensors.
/// Empty where that is not known.
using ReadingErrors = std::vector<ReadingError>;

/// Those at both ends of a step.
struct StepErrors {
    ReadingErrors begin{}, end{};
};

/// All readings at one time.
struct Sample {
    double time = 0.0;
    BodyTemperatures bodies;
    std::vector<double> sensors;  // K
    std::vector<double> limits;   // K beyond each limit; positive is missed
    std::vector<Spot> limit_spots;
    std::vector<double> melted;  // share, per part
    HeatFlows flows;
    std::vector<double> joint_flows;  // W of the whole product, per group of joints
    std::vector<double> figures;      // that the model names; not a number where one is not defined
    ReadingErrors errors;
    std::vector<ReadingError> figure_errors;  // open: not a number where it is not known
    std::vector<ReadingError> limit_errors;   // of what limits look at, likewise
};

/// One side of a limit that counts in the study, a milestone, or what a time is asked for of: a reading and the value that it passes.
struct LimitSubject {
    enum class Role : std::uint8_t { limit, milestone, asked } role{};
    const Milestone* milestone = nullptr;
    bool upper = true;    // past it when higher
    bool hottest = true;  // the place of parts that is looked at
    double after = 0.0;   // s, a limit counts from then on
    double value = 0.0;   // SI
    const QuantityKind* quantity = &kinds::temperature;
    std::string name{};
    std::vector<Index> bodies{};          // of a limit on a part
    std::optional<std::size_t> sensor{};  // index in Gauges::sensors
    std::optional<std::size_t> figure{};  // index in Gauges::named

    [[nodiscard]] bool judges() const { return role == Role::limit; }
    [[nodiscard]] SubjectKind of() const { return figure ? SubjectKind::figure : sensor ? SubjectKind::sensor : SubjectKind::part; }
    /// By how much something is beyond it, SI; negative while it holds.
    [[nodiscard]] double beyond(double found) const { return upper ? found - value : value - found; }
    /// By how much it holds.
    [[nodiscard]] double margin(double found) const { return upper ? value - found : found - value; }
};

/// Reads a study's run.
class Gauges {
public:
    /// `model` and `study` have to outlive it.
    Gauges(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, std::shared_ptr<const Network> network);
    Gauges(const Gauges&) = delete;
    Gauges& operator=(const Gauges&) = delete;

    /// With `errors` added where they are not empty, as far as temperatures can lie in `range`.
    [[nodiscard]] Sample sample(const TimeStep& step, double time, const StepErrors& errors = {}, const PossibleRange& range = {}) const;
    /// Where temperatures tend to from the end of a step, as far as limits look at them; without limits where that is not known.
    [[nodiscard]] Sample tendency(const TimeStep& step, const StepErrors& errors = {}, const PossibleRange& range = {}) const;
    /// K beyond the limit at a time within a step: of a sensor without reading everything else.
    [[nodiscard]] double beyond_limit(const TimeStep& step, std::size_t limit, double time, const StepErrors& errors = {},
                                      const PossibleRange& range = {}) const;
    /// What the mesh makes wrong of all readings at the end of a step, or at its beginning.
    [[nodiscard]] ReadingErrors errors_at(const TimeStep& step, double time, const MeshErrors& found) const;
    /// Of a body, or of a sensor.
    enum class ReadingOf : std::uint8_t { coldest, hottest, mean, sensor };
    [[nodiscard]] std::size_t error_index(ReadingOf kind, std::size_t which) const { return static_cast<std::size_t>(kind) * mesh->bodies.size() + which; }
    /// K, by volume, over the copies of a part.
    [[nodiscard]] double mean_of(const Sample& sample, std::size_t group) const;

    /// Whether a limit is on what is told of the whole run: it is judged at the end.
    [[nodiscard]] bool is_of_run(const LimitSubject& subject) const { return subject.figure && named->figures()[*subject.figure].of_run; }

    /// Heads of the history's columns, and a row of it.
    [[nodiscard]] std::vector<std::string> columns() const;
    [[nodiscard]] std::vector<double> row(const Sample& sample, const std::vector<bool>& on) const;

    const Model& model;
    const std::shared_ptr<const Mesh> mesh;
    const Study& study;
    std::vector<PartGroup> groups;
    std::vector<JointGroup> joints;  ///< whose flows the history has
    std::vector<Sensor> sensors;     ///< with nodes; those of parts that are left out are not read
    std::optional<NamedFigures> named;
    std::vector<LimitSubject> subjects;
    std::vector<std::optional<std::size_t>> passings;         ///< per term of NamedFigures::run_terms(): the subject that knows its times
    std::vector<Warning> not_told;                            ///< figures that the study does not have, and limits on them
    std::vector<std::shared_ptr<const HeatContent>> melting;  ///< per part; null where it does not melt
    bool melts = false;

private:
    /// Temperatures of surfaces as they were read, without what the mesh is off.
    struct Surfaces {
        std::vector<double> patches;
        ContactTemperatures contacts;
    };

    void find_figures();
    void find_subjects();
    void add_subjects(const std::string& part, const std::string& sensor, const std::string& figure, const std::function<void(LimitSubject)>& add) const;
    void find_melting();
    Surfaces read_temperatures(const Network& network, const NodeTemperatures& nodes, Sample& out) const;
    void read_figures(const Network& network, const NodeTemperatures& nodes, const Surfaces& surfaces, Sample& out) const;
    /// How a reduced run is read: what is linear by modes, extremes at the places that were extreme when it was tried.
    struct ReducedReadings;
    [[nodiscard]] const ReducedReadings& readings_of(const TimeStep& step, const ReducedCourse& course) const;
    [[nodiscard]] std::optional<Sample> reduced_sample(const TimeStep& step, double time) const;
    [[nodiscard]] std::optional<ReadingError> term_error(const NamedFigures::Bound& term, const Sample& sample) const;
    [[nodiscard]] std::vector<double> melted(const NodeTemperatures& nodes) const;
    void judge(Sample& out) const;
    void correct(Sample& sample, ReadingErrors errors, const PossibleRange& range) const;

    Acting acting_;
    Extremes extremes_;
    ContactReader contacts_;
    std::vector<Probe> probes_;
    std::vector<Index> sensor_cells_;  // no_index for a node
    std::vector<std::size_t> group_of_body_;
    mutable std::shared_ptr<const ReducedReadings> reduced_;  // of the run at hand
};

/// K that the steps of a study leave open: they err by less than a twentieth of the tolerance in warm-ups and pulses, so a quarter is plenty.
[[nodiscard]] inline double open_by_steps(const Study& study) { return study.fixed_step ? 0.0 : 0.25 * study.tolerance; }

/// Where no load cools or heats: between surroundings and start.
[[nodiscard]] PossibleRange possible_range(const TimeRecord& record);

/// What a record of a run and its solution tell.
[[nodiscard]] TimeFindings time_findings(const Gauges& gauges, const TimeRecord& record, const TransientSolution& solution);

}  // namespace firnfield
