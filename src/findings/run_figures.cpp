// Highest and lowest values, totals, times and duties of a run, as figures are made of them.

#include "findings/run_figures.hpp"

#include "findings/figures.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {
namespace {

constexpr double none = std::numeric_limits<double>::quiet_NaN();
constexpr ReadingError unknown{0.0, none};

ReadingError over(const ReadingError& error, double length) { return {error.added / length, error.open / length}; }

/// What is told of a figure that was followed.
RunReading followed(RunWhat what, const TimeRecord::FigureTrack& track) {
    const auto& [low, high] = std::pair(track.lowest_error, track.highest_error);
    if (!track.known) return {none, unknown};
    if (what == RunWhat::highest) return {track.highest, high};
    if (what == RunWhat::lowest) return {track.lowest, low};
    if (what == RunWhat::swing) return {track.highest - track.lowest, {high.added - low.added, high.open + low.open}};
    if (what == RunWhat::total) return {track.integral, track.integral_error};
    return track.length > 0.0 ? RunReading{track.integral / track.length, over(track.integral_error, track.length)} : RunReading{none, unknown};
}

/// When, and how long, something is past a value. The end of the run is known.
RunReading time_past(RunWhat what, const TimeRecord::LimitTrack& track, double end) {
    std::vector<Interval> past = track.beyond;
    std::vector<std::array<ReadingError, 2>> errors = track.beyond_errors;
    if (track.was_beyond) {
        past.push_back({track.beyond_since, end});
        errors.push_back({track.since_error, ReadingError{}});
    }
    if (what == RunWhat::time) {
        RunReading sum;
        for (const Interval& interval : past) sum.value += interval.length();
        for (const auto& [from, to] : errors) sum.error.added += to.added - from.added, sum.error.open += from.open + to.open;
        return sum;
    }
    if (past.empty()) return {none, unknown};
    return what == RunWhat::first_time ? RunReading{past.front().from, errors.front()[0]} : RunReading{past.back().to, errors.back()[1]};
}

RunReading of_thermostat(RunWhat what, const std::string& name, const TimeFindings& found) {
    const auto row = std::find_if(found.thermostats.begin(), found.thermostats.end(), [&](const ThermostatFinding& t) { return t.name == name; });
    if (row == found.thermostats.end()) return {none, unknown};
    if (what == RunWhat::switchings) return {static_cast<double>(row->switchings.size()), unknown};
    const bool duty = what == RunWhat::duty;
    const Figure* figure = find_figure(found.figures, duty ? FigureKind::duty : FigureKind::period, name);
    return {duty ? row->duty : row->period.value_or(none), figure != nullptr && figure->bar ? ReadingError{0.0, figure->error()} : unknown};
}

std::vector<double> combined(const Gauges& gauges, std::span<const double> values) {
    return gauges.named->combine(std::vector<double>(gauges.named->terms().size(), none), values);
}

std::vector<double> values_of(std::span<const RunReading> terms) {
    std::vector<double> out;
    for (const RunReading& term : terms) out.push_back(term.value);
    return out;
}

}  // namespace

std::vector<RunReading> run_readings(const Gauges& gauges, const TimeRecord& record, const TimeFindings& found) {
    std::vector<RunReading> out;
    for (std::size_t t = 0; t < gauges.passings.size(); ++t) {
        const RunTerm& term = gauges.named->run_terms()[t];
        const RunWhat what = term.info->what;
        if (gauges.passings[t]) {
            out.push_back(time_past(what, record.limits[*gauges.passings[t]], record.time));
        } else if (term.passed) {
            out.push_back({none, unknown});  // of what the study does not have
        } else if (term.figure) {
            out.push_back(followed(what, record.figures[*term.figure]));
        } else if (!term.thermostat.empty()) {
            out.push_back(of_thermostat(what, term.thermostat, found));
        } else {
            out.push_back({(what == RunWhat::steady_time ? found.steady_time : found.time_constant).value_or(none), unknown});
        }
    }
    return out;
}

std::vector<double> run_figure_values(const Gauges& gauges, std::span<const RunReading> terms) { return combined(gauges, values_of(terms)); }

std::vector<ReadingError> run_figure_errors(const Gauges& gauges, std::span<const RunReading> terms) {
    const std::vector<double> values = values_of(terms), told = combined(gauges, values);
    std::vector<ReadingError> out(told.size());
    std::vector<double> solved = values;
    for (std::size_t t = 0; t < terms.size(); ++t) {
        std::vector<double> moved = values;
        moved[t] += terms[t].error.open;
        solved[t] -= terms[t].error.added;
        const std::vector<double> others = combined(gauges, moved);
        // What does not depend on the term stays as it was; a term without a known error leaves that of its figures unknown.
        for (std::size_t f = 0; f < told.size(); ++f) out[f].open += std::abs(others[f] - told[f]);
    }
    const std::vector<double> before = combined(gauges, solved);
    for (std::size_t f = 0; f < told.size(); ++f) {
        const double added = told[f] - before[f];
        out[f].added = std::isfinite(added) ? added : 0.0;
    }
    return out;
}

}  // namespace firnfield
