// Findings of a study in time as text.

#include <firnfield/quantity.hpp>
#include <firnfield/text.hpp>

#include "base/words.hpp"
#include "report/phrases.hpp"
#include "report/table.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

std::string limits_table(const TimeFindings& f) {
    Table table({"", "limit on", ">limit °C", ">worst °C", ">at", ">margin K", ">first beyond", ">beyond for", ">holds from"});
    std::vector<LimitOverTime> ordered = f.limits;
    std::stable_sort(ordered.begin(), ordered.end(), [](const auto& a, const auto& b) { return a.margin < b.margin; });
    for (const LimitOverTime& l : ordered) {
        const std::string subject = l.after > 0.0 ? fmt::format("{}, after {}", l.subject, duration(l.after)) : l.subject;
        table.row({l.kept() ? "ok" : "MISSED", subject, fmt::format("{} {}", l.upper ? "<" : ">", degrees(l.limit)), degrees(l.worst.spot.temperature),
                   duration(l.worst.time), fmt::format("{:+.1f}", l.margin),
                   l.first_crossing ? (*l.first_crossing == 0.0 ? "from the start" : duration(*l.first_crossing)) : "-",
                   l.beyond.empty() ? "-" : duration(l.time_beyond()) + (l.beyond.size() > 1 ? fmt::format(" ×{}", l.beyond.size()) : ""),
                   l.met_from        ? duration(*l.met_from)
                   : l.beyond_at_end ? "not yet"
                                     : "-"});
    }
    return table.text();
}

std::string verdict(const TimeFindings& f) {
    if (f.limits.empty()) {
        return fmt::format("NO LIMITS SET   hottest {} in {} at {}\n", show_celsius(f.hottest.spot.temperature), f.hottest.spot.body, duration(f.hottest.time));
    }
    const auto missed = std::count_if(f.limits.begin(), f.limits.end(), [](const LimitOverTime& l) { return !l.kept(); });
    const auto& tightest = *std::min_element(f.limits.begin(), f.limits.end(), [](const auto& a, const auto& b) { return a.margin < b.margin; });
    const std::string headline =
        missed == 0 ? fmt::format("ALL LIMITS KEPT   smallest margin {:.1f} K, {} at {}\n", tightest.margin, tightest.subject, duration(tightest.worst.time))
                    : fmt::format("{} OF {} LIMITS MISSED   worst by {:.1f} K, {} at {}\n", missed, f.limits.size(), -tightest.margin, tightest.subject,
                                  duration(tightest.worst.time));
    return headline + limits_table(f);
}

std::string parts_table(const TimeFindings& f) {
    if (f.parts.empty()) return {};
    const bool melts = std::any_of(f.parts.begin(), f.parts.end(), [](const PartOverTime& p) { return p.melted_end.has_value(); });
    std::vector<std::string> head{"part", ">coldest °C", ">at", ">mean °C", ">hottest °C", ">at", ">end mean", ">end max"};
    if (melts) head.insert(head.end(), {">liquid at most", ">at the end"});
    Table table(head);
    const auto share = [](const std::optional<double>& v) { return v ? fmt::format("{:.1f} %", 100.0 * *v) : std::string(); };
    for (const PartOverTime& p : f.parts) {
        std::vector<std::string> row{p.name,
                                     degrees(p.coldest.spot.temperature),
                                     duration(p.coldest.time),
                                     degrees(p.mean),
                                     degrees(p.hottest.spot.temperature),
                                     duration(p.hottest.time),
                                     degrees(p.end_mean),
                                     degrees(p.end_max)};
        if (melts) row.insert(row.end(), {share(p.melted_most), share(p.melted_end)});
        table.row(row);
    }
    return heading("Parts over the whole time") + table.text();
}

std::string thermostats_table(const TimeFindings& f) {
    if (f.thermostats.empty()) return {};
    Table table({"thermostat", ">switched", ">first", ">last", ">duty", ">period", ">energy"});
    for (const ThermostatFinding& t : f.thermostats) {
        table.row({t.name, fmt::format("{} ×", t.switchings.size()), t.switchings.empty() ? "-" : duration(t.switchings.front().time),
                   t.switchings.empty() ? "-" : duration(t.switchings.back().time), fmt::format("{:.1f} %", 100.0 * t.duty),
                   t.period ? duration(*t.period) : "-", show_quantity(t.energy, kinds::energy, 4)});
    }
    return heading("Thermostats") + table.text();
}

/// What came in stands against what went out and what was kept, each side of it 100 %: a sum that is negative changes sides.
std::string energy_table(const TimeFindings& f) {
    struct Row {
        std::string name;
        double joule;  // in, if positive
        bool load = false;
    };
    std::vector<Row> rows;
    const HeatFlows& moved = f.ledger.moved;
    for (std::size_t p = 0; p < f.end.loads.size(); ++p) rows.push_back({f.end.loads[p].name, moved.loads[p], true});
    for (std::size_t c = 0; c < f.end.coolings.size(); ++c) {
        rows.push_back({f.end.coolings[c].name + ", convection", -moved.convection[c]});
        if (f.end.coolings[c].radiates) rows.push_back({f.end.coolings[c].name + ", radiation", -moved.radiation[c]});
    }
    for (std::size_t h = 0; h < f.end.holds.size(); ++h) rows.push_back({f.end.holds[h].name + ", held", -moved.holds[h]});
    for (std::size_t r = 0; r < f.end.resistors.size(); ++r) {
        if (f.end.resistors[r].to_ambient) rows.push_back({f.end.resistors[r].name + ", resistor", -moved.resistors[r]});
    }
    rows.push_back({"", -f.ledger.stored});
    const bool nodes = std::any_of(f.sensors.begin(), f.sensors.end(), [](const SensorOverTime& s) { return s.part.empty(); });
    double all = 0.0;
    for (const Row& row : rows) all += std::max(0.0, row.joule);
    Table table({"", "", ">energy", ">share"});
    for (const bool in : {true, false}) {
        for (const Row& row : rows) {
            const bool comes_in = row.joule > 0.0 || (row.joule == 0.0 && row.load);
            if (comes_in != in || (row.name.empty() && row.joule == 0.0)) continue;
            const std::string_view way = !row.name.empty() ? (in ? "in" : "out") : in ? "given" : "kept";
            table.row({std::string(way),
                       !row.name.empty() ? row.name
                       : in              ? nodes ? "up by parts and nodes" : "up by the parts"
                       : nodes           ? "stored in parts and nodes"
                                         : "stored in the parts",
                       show_quantity(std::abs(row.joule), kinds::energy, 4), all > 0.0 ? fmt::format("{:.1f} %", 100.0 * std::abs(row.joule) / all) : "-"});
        }
    }
    return heading(f.period > 0.0 ? "Energy over one cycle" : "Energy over the whole time") + table.text() +
           fmt::format("  unaccounted {:.1e} of the throughput\n", std::abs(f.ledger.relative_residual()));
}

std::string outlook(const TimeFindings& f) {
    std::string out = heading("Where it stands");
    const auto line = [&](const std::string& text) { out += "  " + wrapped(text, 4) + "\n"; };
    if (f.period > 0.0) {
        line(fmt::format("the cycle of {} {}; found by computing {} cycle{}", duration(f.period), f.stopped.substr(f.stopped.find("repeats")),
                         f.cycles_computed, f.cycles_computed == 1 ? "" : "s"));
        if (f.cycles_to_settle)
            line(fmt::format("from the start it takes about {:.0f} cycles ({}) until the hottest spot is within 1 % of it", *f.cycles_to_settle,
                             duration(*f.cycles_to_settle * f.period)));
    } else {
        line(fmt::format("ended at {}: {}", duration(f.end_time), f.stopped));
        if (f.steady_time)
            line(fmt::format("steady within {} from {} on", show_quantity(f.study.steady_within, kinds::temperature_difference), duration(*f.steady_time)));
        if (f.remaining_change) line(fmt::format("if nothing changed any more, no temperature would move by more than {:.2g} K", *f.remaining_change));
    }
    if (f.time_constant)
        line(fmt::format("slowest time constant {}: a difference falls to 1 % in {}", duration(*f.time_constant), duration(4.605 * *f.time_constant)));
    return out;
}

}  // namespace

std::string to_text(const TimeFindings& f) {
    std::string out = f.title.empty() ? std::string() : f.title + "\n";
    out += wrapped(describe(f.study), 0) + "\n\n" + verdict(f) + parts_table(f);
    if (!f.sensors.empty()) {
        const bool nodes = std::any_of(f.sensors.begin(), f.sensors.end(), [](const SensorOverTime& s) { return s.part.empty(); });
        Table table({nodes ? "sensor or node" : "sensor", ">lowest °C", ">mean °C", ">highest °C", ">end °C"});
        for (const SensorOverTime& s : f.sensors) {
            table.row({s.name, fmt::format("{} at {}", degrees(s.lowest), duration(s.lowest_time)), degrees(s.mean),
                       fmt::format("{} at {}", degrees(s.highest), duration(s.highest_time)), degrees(s.end)});
        }
        out += heading(nodes ? "Sensors and nodes" : "Sensors") + table.text();
    }
    out += thermostats_table(f) + energy_table(f) + outlook(f);
    if (f.why) out += heading("Why") + to_text(*f.why);
    append_warnings(out, f.warnings);
    const TransientSummary& s = f.summary;
    out += "\n" +
           wrapped(fmt::format("{} cells; {}; {:.2f} s mesh, {:.2f} s network, {:.2f} s time steps", grouped(f.end.cells), s.text(), s.mesh_seconds,
                               s.network_seconds, s.solve_seconds),
                   0) +
           "\n";
    return out;
}

}  // namespace firnfield
