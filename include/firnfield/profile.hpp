/// How something goes with time: a factor on a power or a coefficient, or a temperature.
#pragma once

#include <firnfield/curve.hpp>

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace firnfield {

/// On and off in turn, beginning with "on" after the delay.
struct Duty {
    double on = 0.0, off = 0.0;  ///< s, of each cycle
    double delay = 0.0;          ///< s, off before the first cycle
    double ramp = 0.0;           ///< s, of each rise and each fall; both lie within the time that is on
    int cycles = 0;              ///< 0: without end
    double high = 1.0, low = 0.0;
    bool operator==(const Duty&) const = default;
};

/// mean + amplitude · sin(2π (t − delay) / period).
struct Sine {
    double mean = 0.0, amplitude = 1.0;
    double period = 0.0, delay = 0.0;  ///< s
    bool operator==(const Sine&) const = default;
};

/// What the values of a course are.
enum class CourseOf : std::uint8_t {
    factor,
    temperature,  ///< K
    power,        ///< W
};

/// A named course over time, by points, a duty cycle or a sine: exactly one of them.
struct Profile {
    std::string name{};
    Curve points{};        ///< over time, s; constant before the first and after the last
    bool stepped = false;  ///< every value holds until the next point, instead of straight lines
    bool repeat = false;   ///< points start over after the last one
    std::optional<Duty> duty{};
    std::optional<Sine> sine{};
    CourseOf gives = CourseOf::factor;
    bool operator==(const Profile&) const = default;
};

/// Its value at a time, s; at a jump the value after it.
[[nodiscard]] double value_at(const Profile& profile, double time);

/// The first time after `time` at which the course jumps or bends, s; infinite when there is none.
[[nodiscard]] double next_edge(const Profile& profile, double time);

/// Its mean over all of its points, or over a period.
[[nodiscard]] double mean_of(const Profile& profile);

/// After this time the course repeats itself, s; nothing for one that does not.
[[nodiscard]] std::optional<double> period_of(const Profile& profile);

/// How long the course stays between two jumps, s: the shortest time, of points those jumps that are at least half as high as the highest and the lowest
/// are apart; of a sine, what its period is to its depth of penetration √(α P/π). Infinite where it jumps once or never.
[[nodiscard]] double shortest_stay(const Profile& profile);

}  // namespace firnfield
