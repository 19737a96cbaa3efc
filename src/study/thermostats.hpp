/// Thermostats in a run: what they read, when they switch.
#pragma once

#include <firnfield/transient.hpp>

#include "network/probe.hpp"

#include <algorithm>
#include <optional>
#include <vector>

namespace firnfield {

class Thermostats {
public:
    /// Throws ModelError for sensors outside their part.
    Thermostats(const Model& model, const Mesh& mesh, const Network& network, const Study& study);

    /// Sets every thermostat by what its sensor reads at the start.
    void begin(const Network& network, const NodeTemperatures& nodes);

    /// The first switching within a step, located on the step's cubic; several where thermostats switch at the same moment.
    [[nodiscard]] std::vector<Switching> first_in(const TimeStep& step) const;
    void apply(const Switching& switching);

    /// Of every thermostat of the model; those that do not act in the study count as on.
    [[nodiscard]] const std::vector<bool>& on() const { return on_; }
    [[nodiscard]] const std::vector<double>& since() const { return since_; }
    [[nodiscard]] const ContactReader& contacts() const { return contacts_; }
    /// Whether one acts in this study.
    [[nodiscard]] bool any() const {
        return std::any_of(probes_.begin(), probes_.end(), [](const auto& p) { return p.has_value(); });
    }
    void resume(std::vector<bool> on, std::vector<double> since);

private:
    [[nodiscard]] std::optional<double> switch_time(std::size_t t, const TimeStep& step) const;
    [[nodiscard]] double reading(std::size_t t, const TimeStep& step, double time) const;

    const Model& model_;
    ContactReader contacts_;
    std::vector<std::optional<Probe>> probes_;  // of those that act
    std::vector<bool> on_;
    std::vector<double> since_;
};

}  // namespace firnfield
