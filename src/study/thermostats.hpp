/// Thermostats in a run: what they read, when they switch. Where the error of the mesh is marched beside, they read corrected temperatures.
#pragma once

#include <firnfield/transient.hpp>

#include "network/probe.hpp"
#include "study/mesh_error_march.hpp"

#include <algorithm>
#include <optional>
#include <vector>

namespace firnfield {

class Thermostats {
public:
    /// Throws ModelError for sensors outside their part.
    Thermostats(const Model& model, const Mesh& mesh, const Network& network, const Study& study);

    /// Sets every thermostat by what its sensor reads at the start.
    void begin(const Network& network, const NodeReading& nodes);

    /// The first switching within a step, located on the step's cubic; several where thermostats switch at the same moment.
    [[nodiscard]] std::vector<Switching> first_in(const TimeStep& step) const;
    void apply(const Switching& switching);
    /// Takes what the mesh makes wrong after a step, for the one that follows; null: not known. Unless something jumps in between it goes on as it went.
    void take_errors(const MeshErrorMarch* errors, const TimeStep& step);
    /// What was taken last, for a checkpoint.
    [[nodiscard]] const std::vector<ReadingDrift>& drifts() const { return drifts_; }

    /// Of every thermostat of the model; those that do not act in the study count as on.
    [[nodiscard]] const std::vector<bool>& on() const { return on_; }
    [[nodiscard]] const std::vector<double>& since() const { return since_; }
    [[nodiscard]] const ContactReader& contacts() const { return contacts_; }
    /// Whether one acts in this study.
    [[nodiscard]] bool any() const {
        return std::any_of(probes_.begin(), probes_.end(), [](const auto& p) { return p.has_value(); });
    }
    void resume(std::vector<bool> on, std::vector<double> since, std::vector<ReadingDrift> drifts = {});

private:
    [[nodiscard]] std::optional<double> switch_time(std::size_t t, const TimeStep& step) const;
    [[nodiscard]] double reading(std::size_t t, const TimeStep& step, double time) const;
    [[nodiscard]] double added(std::size_t t, double time) const;

    const Model& model_;
    ContactReader contacts_;
    std::vector<std::optional<Probe>> probes_;  // of those that act
    std::vector<Index> cells_;                  // of their points; no_index for a node
    std::vector<Vec3> points_;
    std::vector<ReadingDrift> drifts_;
    std::vector<bool> on_;
    std::vector<double> since_;
};

}  // namespace firnfield
