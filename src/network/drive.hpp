/// What changes a network with time: profiles, and switches thrown by thermostats.
#pragma once

#include <firnfield/network.hpp>

#include <vector>

namespace firnfield {

/// Sets known temperatures and the scales of families to what they are at a time, and nothing else.
class Drive {
public:
    /// `network` is as the study gives it; it has to outlive the drive, which changes it.
    Drive(const Model& model, const Study& study, Network& network);

    /// `on` tells of every thermostat of the model whether it is on. At a jump, what comes after it.
    void set(double time, const std::vector<bool>& on);

    /// The next time after `time` at which something jumps or bends.
    [[nodiscard]] double next_edge(double time) const;
    /// A step longer than this, s, could miss what a sine does.
    [[nodiscard]] double longest_step() const;
    /// Counts how often a coefficient has changed: where it has not, the slopes of a linear network are the same.
    [[nodiscard]] int coefficient_changes() const { return coefficient_changes_; }
    /// Until profiles come to an end, temperatures cannot become steady.
    [[nodiscard]] bool changes_after(double time) const;

private:
    /// Everything that multiplies one power or one cooling.
    struct Factors {
        std::vector<const Profile*> profiles;
        std::vector<std::size_t> thermostats;
        double of = 1.0;  // what a factor of one is
        [[nodiscard]] double value(double time, const std::vector<bool>& on) const;
    };
    /// What the network depends on: factors by the model's entries, known temperatures as the network has them.
    struct Values {
        std::vector<double> load, convection, radiation, known;
        bool operator==(const Values&) const = default;
    };
    [[nodiscard]] Values values(double time, const std::vector<bool>& on) const;
    void apply(const Values& values);

    Network& network_;
    std::vector<const Profile*> used_;
    std::vector<Factors> loads_, coolings_, radiations_;
    std::vector<const Profile*> knowns_;  // of the network; null: constant
    Values constant_, now_;
    int coefficient_changes_ = 0;
};

}  // namespace firnfield
