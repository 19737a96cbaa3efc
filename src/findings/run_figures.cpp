// Highest and lowest values, totals, times and duties of a run, as figures are made of them.

#include "findings/run_figures.hpp"

#include "findings/figures.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {
namespace {

constexpr double none = std::numeric_limits<double>::quiet_NaN();

/// Reads terms of a run: what they are, and what is left open of them.
class RunReader {
public:
    RunReader(const Gauges& gauges, const TimeRecord& record, const TimeFindings& found) : gauges_(gauges), record_(record), found_(found) {}

    [[nodiscard]] double value(std::size_t t) const {
        const RunTerm& term = gauges_.named->run_terms()[t];
        if (gauges_.passings[t]) return time_of(term.info->what, intervals(record_.limits[*gauges_.passings[t]]));
        if (term.figure) return term.passed ? none : followed(term.info->what, record_.figures[*term.figure]);
        if (term.info->what == RunWhat::steady_time) return found_.steady_time.value_or(none);
        if (term.info->what == RunWhat::time_constant) return found_.time_constant.value_or(none);
        for (const ThermostatFinding& row : found_.thermostats) {
            if (row.name != term.thermostat) continue;
            return term.info->what == RunWhat::duty     ? row.duty
                   : term.info->what == RunWhat::period ? row.period.value_or(none)
                                                        : static_cast<double>(row.switchings.size());
        }
        return none;
    }

    [[nodiscard]] ReadingError error(std::size_t t) const {
        constexpr ReadingError unknown{0.0, none};
        const RunTerm& term = gauges_.named->run_terms()[t];
        if (gauges_.passings[t]) return time_error(term.info->what, record_.limits[*gauges_.passings[t]]);
        if (term.figure) return term.passed ? unknown : followed_error(term.info->what, record_.figures[*term.figure]);
        const bool duty = term.info->what == RunWhat::duty;
        if (!duty && term.info->what != RunWhat::period) return unknown;
        const Figure* figure = find_figure(found_.figures, duty ? FigureKind::duty : FigureKind::period, term.thermostat);
        return figure != nullptr && figure->bar ? ReadingError{0.0, figure->error()} : unknown;
    }

private:
    [[nodiscard]] std::vector<Interval> intervals(const TimeRecord::LimitTrack& track) const {
        std::vector<Interval> out = track.beyond;
        if (track.was_beyond) out.push_back({track.beyond_since, record_.time});
        return out;
    }

    static double time_of(RunWhat what, const std::vector<Interval>& past) {
        if (what == RunWhat::time) {
            double sum = 0.0;
            for (const Interval& interval : past) sum += interval.length();
            return sum;
        }
        if (past.empty()) return none;
        return what == RunWhat::first_time ? past.front().from : past.back().to;
    }

    /// Of the times at which it begins and ends to be past; the end of the run is known.
    static ReadingError time_error(RunWhat what, const TimeRecord::LimitTrack& track) {
        std::vector<std::array<ReadingError, 2>> ends = track.beyond_errors;
        if (track.was_beyond) ends.push_back({track.since_error, ReadingError{}});
        if (ends.empty()) return {0.0, what == RunWhat::time ? 0.0 : none};
        if (what == RunWhat::first_time) return ends.front()[0];
        if (what == RunWhat::last_time) return ends.back()[1];
        ReadingError sum;
        for (const auto& [from, to] : ends) sum.added += to.added - from.added, sum.open += from.open + to.open;
        return sum;
    }

    static double followed(RunWhat what, const TimeRecord::FigureTrack& track) {
        if (!track.known) return none;
        switch (what) {
            case RunWhat::highest:
                return track.highest;
            case RunWhat::lowest:
                return track.lowest;
            case RunWhat::swing:
                return track.highest - track.lowest;
            case RunWhat::total:
                return track.integral;
            default:
                return track.length > 0.0 ? track.integral / track.length : none;
        }
    }

    static ReadingError followed_error(RunWhat what, const TimeRecord::FigureTrack& track) {
        switch (what) {
            case RunWhat::highest:
                return track.highest_error;
            case RunWhat::lowest:
                return track.lowest_error;
            case RunWhat::swing:
                return {track.highest_error.added - track.lowest_error.added, track.highest_error.open + track.lowest_error.open};
            case RunWhat::total:
                return track.integral_error;
            default:
                return {track.integral_error.added / track.length, track.integral_error.open / track.length};
        }
    }

    const Gauges& gauges_;
    const TimeRecord& record_;
    const TimeFindings& found_;
};

}  // namespace

std::vector<double> run_terms(const Gauges& gauges, const TimeRecord& record, const TimeFindings& found) {
    const RunReader reader(gauges, record, found);
    std::vector<double> out;
    for (std::size_t t = 0; t < gauges.named->run_terms().size(); ++t) out.push_back(reader.value(t));
    return out;
}

std::vector<ReadingError> run_term_errors(const Gauges& gauges, const TimeRecord& record, const TimeFindings& found) {
    const RunReader reader(gauges, record, found);
    std::vector<ReadingError> out;
    for (std::size_t t = 0; t < gauges.named->run_terms().size(); ++t) out.push_back(reader.error(t));
    return out;
}

std::vector<double> run_figure_values(const Gauges& gauges, std::span<const double> terms) {
    return gauges.named->combine(std::vector<double>(gauges.named->terms().size(), none), terms);
}

std::vector<ReadingError> run_figure_errors(const Gauges& gauges, std::span<const double> terms, std::span<const ReadingError> errors) {
    const std::vector<double> told = run_figure_values(gauges, terms);
    std::vector<ReadingError> out(told.size());
    std::vector<double> solved(terms.begin(), terms.end());
    for (std::size_t t = 0; t < terms.size(); ++t) {
        std::vector<double> moved(terms.begin(), terms.end());
        moved[t] += errors[t].open;
        solved[t] -= errors[t].added;
        const std::vector<double> others = run_figure_values(gauges, moved);
        // What does not depend on the term stays as it was; a term without a known error leaves that of its figures unknown.
        for (std::size_t f = 0; f < told.size(); ++f) out[f].open += std::abs(others[f] - told[f]);
    }
    const std::vector<double> before = run_figure_values(gauges, solved);
    for (std::size_t f = 0; f < told.size(); ++f) {
        const double added = told[f] - before[f];
        out[f].added = std::isfinite(added) ? added : 0.0;
    }
    return out;
}

}  // namespace firnfield
