/// What changes a network with time: profiles, and switches thrown by thermostats.
#pragma once

#include <firnfield/network.hpp>

#include <vector>

namespace firnfield {

/// Sets known temperatures and the scales of families to what they are at a time, and nothing else.
class Drive {
public:
    /// What of it may change: a tangent keeps the coefficients that it was taken with.
    enum class Changes : std::uint8_t { everything, loads_and_temperatures };
    /// `network` is as the study gives it; it has to outlive the drive, which changes it.
    Drive(const Model& model, const Study& study, Network& network, Changes changes = Changes::everything);

    /// `on` tells of every thermostat of the model whether it is on. At a jump, what comes after it.
    void set(double time, const std::vector<bool>& on);

    /// What the network depends on: factors by the model's entries, known temperatures (K) as the network has them.
    struct Values {
        std::vector<double> load, convection, radiation, known;
        bool operator==(const Values&) const = default;
    };
    [[nodiscard]] Values values(double time, const std::vector<bool>& on) const;
    /// Sets the network to such values, whatever they come from.
    void set(const Values& next);
    /// What the network is set to.
    [[nodiscard]] const Values& now() const { return now_; }
    /// What makes a value vary in time; what has none is constant.
    struct Course {
        std::vector<const Profile*> profiles;
        std::vector<std::size_t> thermostats;
        [[nodiscard]] bool constant() const { return profiles.empty() && thermostats.empty(); }
        bool operator==(const Course&) const = default;
    };
    /// The factor on a load where all that varies is 1.
    [[nodiscard]] double scale_of_load(std::size_t power) const { return 1.0 / loads_[power].of; }
    [[nodiscard]] const Course& course_of_load(std::size_t power) const { return loads_[power].course; }
    [[nodiscard]] Course course_of_known(std::size_t known) const;
    /// Whether the coefficients of a cooling, by convection or radiation, vary in time.
    [[nodiscard]] bool varies(Index cooling, Channel channel) const;

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
        Course course;
        double of = 1.0;  // what a factor of one is
        [[nodiscard]] double value(double time, const std::vector<bool>& on) const;
    };
    void apply(const Values& values);

    Network& network_;
    Changes changes_;
    std::vector<const Profile*> used_;
    std::vector<Factors> loads_, coolings_, radiations_;
    std::vector<const Profile*> knowns_;  // of the network; null: constant
    Values constant_, now_;
    int coefficient_changes_ = 0;
};

}  // namespace firnfield
