// Values and edges of courses over time.

#include <firnfield/profile.hpp>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace firnfield {
namespace {

constexpr double never = std::numeric_limits<double>::infinity();

double cycle_of(const Duty& duty) { return duty.on + duty.off; }

/// Number of the cycle that a time falls into; a time within rounding of the next one's beginning counts to that.
double cycle_at(double since, double length) {
    double n = std::floor(since / length);
    if ((n + 1.0) * length - since <= 1e-12 * std::max(since, length)) n += 1.0;
    return n;
}

double duty_value(const Duty& duty, double time) {
    const double since = time - duty.delay, length = cycle_of(duty);
    if (since < 0.0) return duty.low;
    const double n = cycle_at(since, length);
    if (duty.cycles > 0 && n >= duty.cycles) return duty.low;
    const double phase = std::max(0.0, since - n * length);
    if (phase >= duty.on) return duty.low;
    double share = 1.0;
    if (duty.ramp > 0.0) share = std::min({1.0, phase / duty.ramp, (duty.on - phase) / duty.ramp});
    return duty.low + share * (duty.high - duty.low);
}

double duty_edge(const Duty& duty, double time) {
    const double length = cycle_of(duty), first = std::max(0.0, std::floor((time - duty.delay) / length));
    const double marks[] = {0.0, duty.ramp, duty.on - duty.ramp, duty.on};
    for (double n = first; n <= first + 2.0; n += 1.0) {
        if (duty.cycles > 0 && n >= duty.cycles) break;
        for (const double mark : marks) {
            const double edge = duty.delay + n * length + mark;
            if (edge > time + 1e-12 * std::max(time, length)) return edge;
        }
    }
    return never;
}

double stepped_value(const Curve& points, double time) {
    const auto after = std::upper_bound(points.at.begin(), points.at.end(), time) - points.at.begin();
    return points.value[static_cast<std::size_t>(std::max<std::ptrdiff_t>(after - 1, 0))];
}

double span_of(const Curve& points) { return points.at.back() - points.at.front(); }

/// Where in the table a time falls when the table repeats.
double folded(const Profile& profile, double time, double& laps) {
    const Curve& points = profile.points;
    laps = 0.0;
    if (!profile.repeat || time < points.at.front()) return time;
    laps = cycle_at(time - points.at.front(), span_of(points));
    return std::max(points.at.front(), time - laps * span_of(points));
}

}  // namespace

double value_at(const Profile& profile, double time) {
    if (profile.duty) return duty_value(*profile.duty, time);
    if (profile.sine) {
        const Sine& s = *profile.sine;
        return s.mean + s.amplitude * std::sin(2.0 * std::numbers::pi * (time - s.delay) / s.period);
    }
    double laps = 0.0;
    const double t = folded(profile, time, laps);
    return profile.stepped ? stepped_value(profile.points, t) : profile.points(t);
}

double next_edge(const Profile& profile, double time) {
    if (profile.duty) return duty_edge(*profile.duty, time);
    if (profile.sine) return never;
    double laps = 0.0;
    const double t = folded(profile, time, laps), offset = laps * (profile.repeat ? span_of(profile.points) : 0.0);
    const double after = time + 1e-12 * std::max(std::abs(time), std::abs(t));
    const auto edge = std::partition_point(profile.points.at.begin(), profile.points.at.end(), [&](double e) { return offset + e <= after; });
    if (edge != profile.points.at.end()) return offset + *edge;
    return profile.repeat ? offset + span_of(profile.points) + profile.points.at[1] : never;
}

double mean_of(const Profile& profile) {
    if (profile.sine) return profile.sine->mean;
    if (profile.duty) {
        const Duty& d = *profile.duty;
        return d.low + (d.high - d.low) * (d.on - d.ramp) / cycle_of(d);
    }
    const Curve& points = profile.points;
    if (points.at.size() < 2) return points.value.empty() ? 0.0 : points.value.front();
    double sum = 0.0;
    for (std::size_t i = 1; i < points.at.size(); ++i)
        sum += (points.at[i] - points.at[i - 1]) * (profile.stepped ? points.value[i - 1] : 0.5 * (points.value[i - 1] + points.value[i]));
    return sum / span_of(points);
}

double shortest_stay(const Profile& profile) {
    if (profile.duty) return std::min(profile.duty->on, profile.duty->off > 0.0 ? profile.duty->off : never);
    if (profile.sine) return profile.sine->period / std::numbers::pi;
    const Curve& points = profile.points;
    if (points.at.size() < 2) return never;
    const auto [low, high] = std::minmax_element(points.value.begin(), points.value.end());
    const double half = 0.5 * (*high - *low);
    if (half <= 0.0) return never;
    double shortest = never, last = -never;
    const auto jumps_at = [&](double time) {
        shortest = std::min(shortest, time - last);
        last = time;
    };
    for (std::size_t i = 1; i < points.at.size(); ++i) {
        if (std::abs(points.value[i] - points.value[i - 1]) >= half) jumps_at(profile.stepped ? points.at[i] : 0.5 * (points.at[i - 1] + points.at[i]));
    }
    // Of what repeats, the first jump comes after the last one; the start itself is a jump where the ends differ.
    if (profile.repeat && std::abs(points.value.back() - points.value.front()) >= half) jumps_at(points.at.back());
    return shortest;
}

std::optional<double> period_of(const Profile& profile) {
    if (profile.duty && profile.duty->cycles == 0) return cycle_of(*profile.duty);
    if (profile.sine) return profile.sine->period;
    if (profile.repeat) return span_of(profile.points);
    return std::nullopt;
}

}  // namespace firnfield
