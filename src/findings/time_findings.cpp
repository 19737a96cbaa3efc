// What the record of a run in time means: limits, peaks, sensors, thermostats.

#include "findings/gauges.hpp"

#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "findings/error_reader.hpp"
#include "findings/figure_errors.hpp"
#include "findings/figures.hpp"
#include "findings/run_figures.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <span>

namespace firnfield {
namespace {

/// What the figures of a milestone are called by: where it is one of several parts, with the part.
std::string milestone_name(const Gauges& gauges, const LimitSubject& subject) {
    const auto subjects =
        std::count_if(gauges.subjects.begin(), gauges.subjects.end(), [&](const LimitSubject& s) { return s.milestone == subject.milestone; });
    return subjects > 1 ? fmt::format("{}: {}", display_name(*subject.milestone), subject.name) : display_name(*subject.milestone);
}

MilestoneOverTime told(const Gauges& gauges, const LimitSubject& subject, const TimeRecord::LimitTrack& track, double end) {
    MilestoneOverTime row{.name = milestone_name(gauges, subject),
                          .subject = subject.name,
                          .quantity = subject.quantity,
                          .rising = subject.upper,
                          .value = subject.value,
                          .past = track.beyond};
    if (track.was_beyond) {
        row.past.push_back({track.beyond_since, end});
        row.stays_from = track.beyond_since;
    }
    if (!row.past.empty()) row.first = row.past.front().from;
    return row;
}

/// A limit on what is told of the whole run is judged at its end.
void tell_limit_of_run(const LimitSubject& subject, double found, double end, TimeFindings& out) {
    if (!std::isfinite(found)) {
        out.warnings.push_back(
            {"limit_not_judged", fmt::format("the limit on {} was not judged: it is not defined for what happened, as the first time of what never does",
                                             in_quotes(subject.name))});
        return;
    }
    out.limits.push_back({.subject = subject.name,
                          .of = SubjectKind::figure,
                          .quantity = subject.quantity,
                          .upper = subject.upper,
                          .limit = subject.value,
                          .found = found,
                          .of_run = true,
                          .found_time = end,
                          .worst = {{.temperature = found, .body = subject.name, .lumped = true}, end},
                          .margin = subject.margin(found),
                          .beyond_at_end = subject.margin(found) < 0.0});
}

/// `of_run`: values of the figures that are told of the whole run.
void tell_limits(const Gauges& gauges, const TimeRecord& record, std::span<const double> of_run, TimeFindings& out) {
    for (std::size_t l = 0; l < gauges.subjects.size(); ++l) {
        const LimitSubject& subject = gauges.subjects[l];
        const TimeRecord::LimitTrack& track = record.limits[l];
        if (subject.role == LimitSubject::Role::asked) continue;
        if (subject.role == LimitSubject::Role::milestone) {
            out.milestones.push_back(told(gauges, subject, track, record.time));
            continue;
        }
        if (gauges.is_of_run(subject)) {
            tell_limit_of_run(subject, of_run[*subject.figure], record.time, out);
            continue;
        }
        LimitOverTime row{.subject = subject.name,
                          .of = subject.of(),
                          .quantity = subject.quantity,
                          .upper = subject.upper,
                          .limit = subject.value,
                          .after = subject.after,
                          .beyond = track.beyond,
                          .found = track.worst.spot.temperature,
                          .found_time = track.worst.time,
                          .worst = track.worst,
                          .beyond_at_end = track.was_beyond};
        if (track.was_beyond) row.beyond.push_back({track.beyond_since, record.time});
        if (!row.beyond.empty()) row.first_crossing = row.beyond.front().from;
        if (!row.beyond.empty() && !track.was_beyond) row.met_from = row.beyond.back().to;
        if (!track.judged) {
            out.warnings.push_back({"limit_not_judged", subject.figure && !record.figures[*subject.figure].known
                                                            ? fmt::format("the limit on {} was not judged: it is defined at no time", in_quotes(subject.name))
                                                            : fmt::format("the limit on {} counts only after {}, which the study does not reach",
                                                                          in_quotes(subject.name), show_quantity(row.after, kinds::time))});
            continue;
        }
        row.margin = subject.margin(track.worst.spot.temperature);
        out.limits.push_back(std::move(row));
    }
}

/// What melts at one temperature does so over a range here.
void tell_melting(const Gauges& gauges, TimeFindings& out) {
    std::vector<std::string> told;
    for (const PartGroup& group : gauges.groups) {
        const Material& material = material_named(gauges.model, gauges.model.parts[group.part].material);
        if (!material.melting || material.melting->to > material.melting->from || std::find(told.begin(), told.end(), material.name) != told.end()) continue;
        told.push_back(material.name);
        const Melting range = melting_range(*material.melting, gauges.study.tolerance);
        out.warnings.push_back(
            {"melts_at_one_temperature", fmt::format("{} melts at one temperature, {}; it was let melt over {} around that, a fifth of the study's tolerance",
                                                     material.name, show_temperature(material.melting->from, gauges.model.units),
                                                     show_quantity(range.to - range.from, kinds::temperature_difference, gauges.model.units, 2))});
    }
}

void tell_parts(const Gauges& gauges, const TimeRecord& record, TimeFindings& out) {
    const double length = record.time;
    for (std::size_t g = 0; g < gauges.groups.size(); ++g) {
        const TimeRecord::PartTrack& track = record.parts[g];
        PartOverTime row{
            .name = gauges.model.parts[gauges.groups[g].part].name, .coldest = track.coldest, .hottest = track.hottest, .mean = track.integral / length};
        if (out.parts.empty() || row.hottest.spot.temperature > out.hottest.spot.temperature) out.hottest = row.hottest;
        for (const PartFinding& part : out.end.parts) {
            if (part.name != row.name) continue;
            row.end_min = part.coldest.temperature;
            row.end_mean = part.mean;
            row.end_max = part.hottest.temperature;
        }
        if (gauges.melting[g]) row.liquid = {track.melted_most, track.melted_last};
        out.parts.push_back(std::move(row));
    }
}

void tell_sensors(const Gauges& gauges, const TimeRecord& record, TimeFindings& out) {
    for (std::size_t n = 0; n < gauges.sensors.size(); ++n) {
        const Sensor& sensor = gauges.sensors[n];
        const TimeRecord::SensorTrack& track = record.sensors[n];
        const bool lumped = find_node(gauges.model, sensor.in).has_value();
        if (lumped && track.highest > out.hottest.spot.temperature)
            out.hottest = {{.temperature = track.highest, .body = sensor.name, .lumped = true}, track.highest_time};
        out.sensors.push_back({sensor.name, lumped ? std::string() : sensor.in, track.lowest, track.highest, track.integral / record.time,
                               out.end.sensors[n].temperature, track.lowest_time, track.highest_time, lumped});
    }
}

void tell_named(const Gauges& gauges, const TimeRecord& record, std::span<const double> of_run, TimeFindings& out) {
    for (std::size_t f = 0; f < record.figures.size(); ++f) {
        const bool whole = gauges.named->figures()[f].of_run && gauges.named->missing(f).empty();
        if (whole)
            out.of_run.push_back(
                {gauges.named->figures()[f].name, gauges.named->figures()[f].quantity, std::isfinite(of_run[f]) ? std::optional(of_run[f]) : std::nullopt});
        if (!gauges.named->of_moments(f)) continue;
        const FigureForm& form = gauges.named->figures()[f];
        const TimeRecord::FigureTrack& track = record.figures[f];
        NamedOverTime row{.name = form.name, .quantity = form.quantity};
        if (track.known) {
            row.lowest = track.lowest;
            row.highest = track.highest;
            row.lowest_time = track.lowest_time;
            row.highest_time = track.highest_time;
        }
        if (track.length > 0.0) row.mean = track.integral / track.length;
        for (const NamedFinding& end : out.end.named) {
            if (end.name == form.name) row.end = end.value;
        }
        out.named.push_back(std::move(row));
    }
    // Those of the end tell the same again.
    std::erase_if(out.warnings, [](const Warning& w) { return w.kind == "figure_not_told"; });
    out.warnings.insert(out.warnings.end(), gauges.not_told.begin(), gauges.not_told.end());
}

/// At the end of a run, from one switching to the same one later; the last ten at most.
std::size_t whole_periods(const ThermostatFinding& row) {
    constexpr std::size_t most = 10;
    return std::min((std::max<std::size_t>(row.switchings.size(), 1) - 1) / 2, most);
}

void tell_thermostats(const Gauges& gauges, const TimeRecord& record, const TransientSolution& solution, TimeFindings& out) {
    const std::vector<bool> acting = acting_in(gauges.model, gauges.study).thermostats;
    for (std::size_t t = 0; t < gauges.model.thermostats.size(); ++t) {
        if (!acting[t]) continue;
        ThermostatFinding row{.name = gauges.model.thermostats[t].name,
                              .switchings = {},
                              .on_time = record.thermostats[t].on_time,
                              .duty = record.thermostats[t].on_time / record.time,
                              .period = {},
                              .energy = record.thermostats[t].energy};
        for (const Switching& s : solution.switchings) {
            if (s.thermostat == t) row.switchings.push_back(s);
        }
        const std::size_t count = row.switchings.size();
        if (const std::size_t periods = whole_periods(row); periods > 0) {
            const std::size_t first = count - 1 - 2 * periods;
            const double length = row.switchings.back().time - row.switchings[first].time;
            row.period = length / static_cast<double>(periods);
            double on = 0.0;
            for (std::size_t i = first; i + 1 < count; ++i) {
                if (row.switchings[i].on) on += row.switchings[i + 1].time - row.switchings[i].time;
            }
            row.duty = on / length;
        }
        out.thermostats.push_back(std::move(row));
    }
}

/// Gives every figure that is known how well its bar. To what the mesh leaves open comes what the steps do, as far as the temperature has moved at all.
class Bars {
public:
    Bars(const Gauges& gauges, const TimeRecord& record)
        : steps_(open_by_steps(gauges.study)), record_(record), thin_(parts_too_thin(gauges.model, *gauges.mesh)) {}

    /// Of a temperature, or of the margin that it leaves.
    void temperature(Figure* figure, const ReadingError& error) const {
        if (figure == nullptr || !std::isfinite(error.open)) return;
        const double added = figure->kind == FigureKind::margin && figure->upper ? -error.added : error.added;
        bar(*figure,
            error.open + (is_kelvin(quantity_of(*figure)) ? std::min(steps_, std::abs(scale_of(*figure, record_.lowest_known))) : 0.0) +
                least_open(*figure, record_.lowest_known),
            added);
    }
    /// The mesh alone passes a limit at the beginning at the earliest.
    void time(Figure* figure, const ReadingError& error) const {
        if (figure != nullptr && figure->value && std::isfinite(error.open))
            bar(*figure, error.open + 1e-9 * *figure->value, std::min(error.added, *figure->value));
    }

    /// Of the period of a thermostat, and of the share of it that it is on: by what each time may be off, s.
    void cycle(const ThermostatFinding& row, Figure* period, Figure* duty, double on, double off) const {
        if (period == nullptr || duty == nullptr || !row.period) return;
        duty->bar = DiscretisationError{.error = std::min(1.0, ((1.0 - row.duty) * on + row.duty * off) / *row.period + 1e-9)};
        period->bar = DiscretisationError{.error = std::min(*row.period, on + off) + 1e-9 * *row.period};
    }

private:
    void bar(Figure& figure, double error, double added) const {
        const bool trusted = std::find(thin_.begin(), thin_.end(), figure.name) == thin_.end();
        figure.solved = *figure.value - added;
        figure.bar = DiscretisationError{.error = error, .trusted = trusted, .correction = added};
    }

    double steps_;
    const TimeRecord& record_;
    std::vector<std::string> thin_;
};

/// By how much the times that a thermostat is on and off in each of its whole periods may be off, s.
std::array<double, 2> phase_errors(const Gauges& gauges, const TimeRecord& record, const ThermostatFinding& row) {
    std::array<double, 2> sums{};  // on, off
    const std::size_t periods = whole_periods(row), count = row.switchings.size();
    const auto thermostat =
        std::find_if(gauges.model.thermostats.begin(), gauges.model.thermostats.end(), [&](const Thermostat& t) { return t.name == row.name; });
    const auto& tracks = record.thermostats[static_cast<std::size_t>(thermostat - gauges.model.thermostats.begin())].switches;
    const auto open_at = [&](double time) {
        const auto at = std::find_if(tracks.begin(), tracks.end(), [&](const auto& t) { return std::abs(t.time - time) <= 1e-9 * time; });
        return at == tracks.end() ? 0.0 : at->open;
    };
    for (std::size_t i = count - 1 - 2 * periods; periods > 0 && i + 1 < count; ++i) {
        const Switching &from = row.switchings[i], &to = row.switchings[i + 1];
        const double length = to.time - from.time, least = from.on ? thermostat->least_on : thermostat->least_off;
        if (length <= least * (1.0 + 1e-9)) continue;  // a clock ends it
        sums[from.on ? 0 : 1] += std::min(length, open_at(from.time) + open_at(to.time)) / static_cast<double>(periods);
    }
    return sums;
}

void tell_errors(const Gauges& gauges, const TimeRecord& record, const TransientSolution& solution, TimeFindings& out) {
    if (!solution.no_errors.empty()) tell_no_errors(out.warnings, solution.no_errors);
    if (!record.errors.value_or(false)) return;
    const Bars bars(gauges, record);
    const auto changed = [&](const Figure* found) { return found == nullptr ? nullptr : &out.figures[static_cast<std::size_t>(found - out.figures.data())]; };
    const auto figure = [&](FigureKind kind, const std::string& name) { return changed(find_figure(out.figures, kind, name)); };
    for (std::size_t l = 0; l < gauges.subjects.size(); ++l) {
        const LimitSubject& subject = gauges.subjects[l];
        const TimeRecord::LimitTrack& track = record.limits[l];
        if (subject.role == LimitSubject::Role::asked || gauges.is_of_run(subject)) continue;
        if (subject.role == LimitSubject::Role::milestone) {
            bars.time(figure(FigureKind::milestone, milestone_name(gauges, subject)),
                      track.beyond_errors.empty() ? track.since_error : track.beyond_errors.front()[0]);
            continue;
        }
        const auto of_limit = [&](FigureKind kind) { return changed(limit_figure(out.figures, kind, subject.name, subject.upper, subject.value)); };
        bars.temperature(of_limit(FigureKind::margin), track.worst_error);
        bars.time(of_limit(FigureKind::first_beyond), track.beyond_errors.empty() ? track.since_error : track.beyond_errors.front()[0]);
        if (!track.beyond_errors.empty()) bars.time(of_limit(FigureKind::met_from), track.beyond_errors.back()[1]);
    }
    for (std::size_t g = 0; g < gauges.groups.size(); ++g) {
        const std::string& name = gauges.model.parts[gauges.groups[g].part].name;
        const TimeRecord::PartTrack& track = record.parts[g];
        bars.temperature(figure(FigureKind::max, name), track.hottest_error);
        bars.temperature(figure(FigureKind::min, name), track.coldest_error);
        bars.temperature(figure(FigureKind::mean, name), {track.integral_error.added / record.time, track.integral_error.open / record.time});
    }
    for (std::size_t f = 0; f < record.figures.size(); ++f) {
        if (!gauges.named->of_moments(f)) continue;
        const std::string& name = gauges.named->figures()[f].name;
        const TimeRecord::FigureTrack& track = record.figures[f];
        bars.temperature(figure(FigureKind::figure, name), track.highest_error);
        bars.temperature(figure(FigureKind::figure_min, name), track.lowest_error);
        if (track.length > 0.0)
            bars.temperature(figure(FigureKind::figure_mean, name), {track.integral_error.added / track.length, track.integral_error.open / track.length});
    }
    for (std::size_t n = 0; n < gauges.sensors.size(); ++n)
        bars.temperature(figure(FigureKind::sensor, gauges.sensors[n].name), record.sensors[n].highest_error);
    for (const ThermostatFinding& row : out.thermostats) {
        const auto [on, off] = phase_errors(gauges, record, row);
        bars.cycle(row, figure(FigureKind::period, row.name), figure(FigureKind::duty, row.name), on, off);
    }
    const std::vector<ReadingError> of_run = run_figure_errors(gauges, run_readings(gauges, record, out));
    for (const RunFigure& row : out.of_run) {
        const std::size_t f = gauges.named->index_of(row.name);
        Figure* told = row.value ? figure(FigureKind::figure, row.name) : nullptr;
        row.quantity->name == kinds::time.name ? bars.time(told, of_run[f]) : bars.temperature(told, of_run[f]);
    }
    for (const LimitSubject& subject : gauges.subjects) {
        if (subject.judges() && gauges.is_of_run(subject))
            bars.temperature(changed(limit_figure(out.figures, FigureKind::margin, subject.name, subject.upper, subject.value)), of_run[*subject.figure]);
    }
    tell_uncertain(out, record.lowest_known, gauges.model.units);
}

/// The end as corrected as the rest.
Findings end_of(const Gauges& gauges, const TimeRecord& record, const TransientSolution& solution) {
    if (!record.errors.value_or(false) || solution.errors[0].empty()) return firnfield::findings(gauges.model, solution.end);
    const Network& network = *solution.end.network;
    const ContactReader contacts(gauges.model, *gauges.mesh);
    MeshErrors errors(gauges.model, *gauges.mesh, network, solution.end.nodes(), contacts);
    errors.correct_first(solution.errors[0]);
    errors.correct_second(solution.errors[1]);
    const ErrorReader reader(*gauges.mesh, network, solution.end.rise, errors.second());
    return evaluate(gauges.model, solution.end, &reader, false, possible_range(record));
}

/// The ledger of the run by the names of the model's entries.
EnergyBalance energy_balance(const Gauges& gauges, const TimeLedger& ledger, const Findings& end) {
    EnergyBalance out{.stored = ledger.stored, .throughput = ledger.throughput, .residual = ledger.residual()};
    const Model& model = gauges.model;
    const Acting acting = acting_in(model, gauges.study);
    for (std::size_t p = 0; p < model.powers.size(); ++p) {
        if (acting.powers[p]) out.entries.push_back({HeatKind::load, display_name(model.powers[p]), ledger.moved.loads[p]});
    }
    for (std::size_t c = 0; c < model.coolings.size(); ++c) {
        const Cooling& cooling = model.coolings[c];
        if (!acting.coolings[c]) continue;
        out.entries.push_back({HeatKind::convection, display_name(cooling, c), ledger.moved.convection[c]});
        if (cooling.radiates()) out.entries.push_back({HeatKind::radiation, display_name(cooling, c), ledger.moved.radiation[c]});
    }
    for (std::size_t h = 0; h < model.holds.size(); ++h) {
        if (acting.holds[h]) out.entries.push_back({HeatKind::hold, display_name(model.holds[h], h), ledger.moved.holds[h]});
    }
    for (std::size_t r = 0; r < end.resistors.size(); ++r) {
        if (end.resistors[r].to_ambient) out.entries.push_back({HeatKind::resistor, end.resistors[r].name, ledger.moved.resistors[r]});
    }
    return out;
}

}  // namespace

double LimitOverTime::time_beyond() const {
    return std::accumulate(beyond.begin(), beyond.end(), 0.0, [](double sum, const Interval& i) { return sum + i.length(); });
}

double EnergyBalance::of(HeatKind kind, std::string_view name) const {
    const auto found = std::find_if(entries.begin(), entries.end(), [&](const EnergyFinding& e) { return e.kind == kind && e.name == name; });
    return found == entries.end() ? 0.0 : found->energy;
}

TimeFindings time_findings(const Gauges& gauges, const TimeRecord& record, const TransientSolution& solution) {
    TimeFindings out;
    out.title = gauges.model.title;
    out.study = gauges.study;
    out.end = end_of(gauges, record, solution);
    out.end_time = record.time;
    out.stopped = solution.stopped;
    out.energy = energy_balance(gauges, solution.ledger, out.end);
    out.remaining_change = solution.remaining_change;
    out.steady_time = solution.steady_time;
    out.time_constant = solution.time_constant;
    if (solution.period > 0.0) out.cycle = {solution.period, solution.settled_within, solution.cycles_computed, solution.cycles_to_settle};
    out.reduction = solution.reduction;
    out.summary = solution.summary;
    out.history = record.history;
    out.warnings = out.end.warnings;
    tell_melting(gauges, out);
    if (out.reduction && out.reduction->open > out.study.tolerance) {
        out.warnings.push_back(
            {"reduction_open",
             fmt::format("the reduced model may be off by {:.2g} K, more than the study's tolerance; write method = \"full\"", out.reduction->open)});
    }
    tell_open_ledger(out.warnings, out.energy.relative_residual());
    tell_thermostats(gauges, record, solution, out);
    const std::vector<double> of_run = run_figure_values(gauges, run_readings(gauges, record, out));
    tell_limits(gauges, record, of_run, out);
    tell_parts(gauges, record, out);
    tell_sensors(gauges, record, out);
    tell_named(gauges, record, of_run, out);
    out.end.milestones.clear();
    out.end.limits.clear();  // judged over the whole time instead
    out.end.figures.clear();
    out.figures = figures_of(out);
    tell_errors(gauges, record, solution, out);
    return out;
}

}  // namespace firnfield
