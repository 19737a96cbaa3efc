// Findings as tables, for text and page alike.

#include "report/finding_tables.hpp"

#include "findings/schema/in_time.hpp"
#include "findings/schema/inspection.hpp"
#include "report/table.hpp"
#include "report/table_maker.hpp"

#include <algorithm>
#include <limits>
#include <tuple>

namespace firnfield {
namespace {

/// Without a unit in the columns of temperatures; with its own where it is of a figure.
std::string value_text(double value, const auto& limit, const Units& units) {
    return limit.of == SubjectKind::figure ? amount_text(value, *limit.quantity, units) : degrees(value, units);
}
std::string limit_text(const auto& limit, const Units& units) { return fmt::format("{} {}", limit.upper ? "<" : ">", value_text(limit.limit, limit, units)); }
std::string margin_text(const auto& limit, const Units& units) {
    if (limit.of != SubjectKind::figure) return degrees_apart(limit.margin, units, 1, true);
    return (limit.margin < 0.0 ? "-" : "+") + amount_text(std::abs(limit.margin), difference_of(*limit.quantity), units);
}

std::string where(const auto& limit, const Spot& spot, const std::string& subject, const Units& units) {
    if (limit.of == SubjectKind::figure) return {};
    const std::string at = spot.lumped ? "lumped node" : place(spot.at, units);
    return spot.body == subject ? at : spot.body + " " + at;
}

/// Like error_text(), with the one decimal that temperatures and margins have.
std::string margin_error(const Figure* margin, const Units& units) {
    if (margin != nullptr && margin->of != nullptr)
        return margin->bar && margin->bar->error > 5e-4 * std::abs(margin->limit.value_or(0.0))
                   ? amount_text(margin->bar->error, quantity_of(*margin), units, 2)
                   : std::string();
    return margin == nullptr || !margin->bar || margin->bar->error < 0.05 ? std::string() : degrees_apart(margin->bar->error, units);
}

/// A time, with how far it may be off behind it.
std::string timed(double time, const Figure* figure) {
    if (figure == nullptr || !figure->bar || figure->bar->error < 1e-3 * time) return duration(time);
    return duration(time) + " ± " + duration(figure->bar->error);
}

/// A limit's row, without the study. In time there is no room for `places` where lines are short.
std::vector<std::string> limit_cells(const LimitFinding& l, std::span<const Figure>, bool, const Units& units) {
    return {l.kept() ? "ok" : "MISSED",
            l.subject,
            limit_text(l, units),
            value_text(l.found, l, units),
            "",
            margin_text(l, units),
            where(l, l.worst, l.subject, units),
            "",
            "",
            ""};
}

std::vector<std::string> limit_cells(const LimitOverTime& l, std::span<const Figure> figures, bool places, const Units& units) {
    const auto figure = [&](FigureKind kind) { return limit_figure(figures, kind, l.subject, l.upper, l.limit); };

    return {l.kept() ? "ok" : "MISSED",
            l.after > 0.0 ? fmt::format("{}, after {}", l.subject, duration(l.after)) : l.subject,
            limit_text(l, units),
            value_text(l.found, l, units),
            l.of_run ? "whole run" : duration(l.found_time),
            margin_text(l, units),
            places ? where(l, l.worst.spot, l.subject, units) : std::string(),
            l.first_crossing ? (*l.first_crossing == 0.0 ? "from the start" : timed(*l.first_crossing, figure(FigureKind::first_beyond))) : "",
            l.beyond.empty() ? "" : duration(l.time_beyond()) + (l.beyond.size() > 1 ? fmt::format(" ×{}", l.beyond.size()) : ""),
            l.met_from        ? timed(*l.met_from, figure(FigureKind::met_from))
            : l.of_run        ? ""
            : l.beyond_at_end ? "not yet"
                              : ""};
}

/// Limits of several studies in one table.
class LimitRows {
public:
    explicit LimitRows(const Units& units) : units_(units) {}
    void add(const auto& findings, const std::string& study) {
        for (const auto& limit : findings.limits) {
            std::vector<std::string> cells = limit_cells(limit, findings.figures, !study.empty(), units_);
            cells.insert(cells.begin() + 4, margin_error(margin_of(findings.figures, limit), units_));
            cells.insert(cells.begin(), study);
            rows_.emplace_back(tightness(limit.margin, *limit.quantity), std::move(cells));
        }
    }
    [[nodiscard]] FindingTable table() {
        FindingTable out{.columns = {{"study", false},
                                     {"", false},
                                     {"limit on", false},
                                     {"limit " + degree_unit(units_), true},
                                     {"found " + degree_unit(units_), true},
                                     {"±", true},
                                     {"at", true},
                                     {"margin " + difference_unit(units_), true},
                                     {fmt::format("where ({})", unit_of_lengths(units_)), false},
                                     {"first beyond", true},
                                     {"beyond for", true},
                                     {"holds from", true}}};
        std::stable_sort(rows_.begin(), rows_.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
        for (auto& row : rows_) {
            out.kept.push_back(std::get<0>(row.first));
            out.rows.push_back(std::move(row.second));
        }
        drop_empty_columns(out);
        return out;
    }

private:
    const Units& units_;
    std::vector<std::pair<std::tuple<bool, bool, double>, std::vector<std::string>>> rows_;
};

/// Sensors and lumped nodes stand in one table.
template <typename T>
FindingTable sensors_table(const std::vector<T>& sensors, const Units& units, std::span<const Figure> figures) {
    const bool nodes = std::any_of(sensors.begin(), sensors.end(), [](const T& s) { return s.lumped; });
    FindingTable out = table_of(nodes ? "Sensors and nodes" : "Sensors", sensors, units, 1.0, figures);
    if (nodes) out.columns.front().head = "sensor or node";
    return out;
}

/// Where the heat goes: what comes in, then what leaves, each side of it 100 %: warm air and held faces that give heat stand on the side of what comes in.
FindingTable heat_table(const Findings& f, const Units& units) {
    const double scale = f.ledger.throughput;
    FindingTable out{.title = "Heat balance",
                     .columns = {{"", false},
                                 {"", false},
                                 {"heat W", true},
                                 {"±", true},
                                 {"share", true},
                                 {"area", true},
                                 {"mean " + degree_unit(units), true},
                                 {"to " + degree_unit(units), true},
                                 {"W/(m² K)", true}}};
    struct Row {
        std::string name;
        double heat;  // W coming in
        bool load;
        std::string error;
        std::vector<std::string> more;
    };
    std::vector<Row> rows;
    const auto error_of = [&](FigureKind kind, const std::string& name) { return error_text(find_figure(f.figures, kind, name), units, scale); };
    for (const LoadFinding& l : f.loads)
        rows.push_back(
            {l.name, l.heat, true, {}, {l.area ? show_quantity(*l.area, kinds::area, units) : "", l.mean_surface ? degrees(*l.mean_surface, units) : ""}});
    for (const CoolingFinding& c : f.coolings) {
        rows.push_back({c.name + ", convection",
                        -c.convection,
                        false,
                        error_of(c.radiates && c.convection != 0.0 ? FigureKind::convection : FigureKind::cooling, c.name),
                        {show_quantity(c.area, kinds::area, units), degrees(c.mean_surface, units), degrees(c.ambient, units),
                         fmt::format("{:.2f}", c.mean_coefficient())}});
        if (c.radiates) rows.push_back({c.name + ", radiation", -c.radiation, false, error_of(FigureKind::radiation, c.name), {}});
    }
    for (const HoldFinding& h : f.holds)
        rows.push_back({h.name + ", held",
                        -h.flow,
                        false,
                        error_of(FigureKind::hold, h.name),
                        {h.area > 0.0 ? show_quantity(h.area, kinds::area, units) : "", "", degrees(h.temperature, units)}});
    for (const ResistorFinding& r : f.resistors) {
        if (r.to_ambient) rows.push_back({r.name + ", resistor", -r.flow, false, error_of(FigureKind::resistor_flow, r.name), {}});
    }
    double sum_in = 0.0, sum_out = 0.0;
    for (const Row& row : rows) (row.heat > 0.0 ? sum_in : sum_out) += std::abs(row.heat);
    for (const bool in : {true, false}) {
        const double all = in ? sum_in : sum_out;
        for (Row& row : rows) {
            const bool comes_in = row.heat > 0.0 || (row.heat == 0.0 && row.load);
            if (comes_in != in) continue;
            std::vector<std::string> cells{in ? "in" : "out", row.name, watts(std::abs(row.heat), scale), row.error,
                                           all > 0.0 ? fmt::format("{:.1f} %", 100.0 * std::abs(row.heat) / all) : "-"};
            cells.insert(cells.end(), row.more.begin(), row.more.end());
            cells.resize(out.columns.size());
            out.rows.push_back(std::move(cells));
        }
    }
    out.notes.push_back(fmt::format("in {} W, out {} W, unaccounted {:.1e} W ({:.1e} of the throughput)", watts(sum_in, scale), watts(sum_out, scale),
                                    std::abs(f.ledger.residual), std::abs(f.ledger.relative_residual())));
    drop_empty_columns(out);
    return out;
}

/// The parts with the highest heat flux.
FindingTable flux_table(const Findings& f, const Units& units) {
    constexpr std::size_t most = 5;
    FindingTable out{.title = "Highest heat flux", .columns = {{"part", false}, {"flux", true}, {fmt::format("at ({})", unit_of_lengths(units)), false}}};
    for (std::size_t n = 0; n < std::min(most, f.fluxes.size()); ++n) {
        const FluxFinding& row = f.fluxes[n];
        out.rows.push_back(
            {row.part, show_quantity(row.flux, kinds::heat_flux, units), row.body == row.part ? place(row.at, units) : row.body + " " + place(row.at, units)});
    }
    if (f.fluxes.size() > most) out.notes.push_back(fmt::format("{} more parts in --json", f.fluxes.size() - most));
    return out;
}

/// What came in stands against what went out and what was kept, each side of it 100 %: a sum that is negative changes sides.
FindingTable energy_table(const TimeFindings& f) {
    struct Row {
        std::string name;
        double joule;  // in, if positive
        bool load = false;
    };
    std::vector<Row> rows;
    constexpr std::string_view how[] = {"", ", convection", ", radiation", ", held", ", resistor"};
    for (const EnergyFinding& e : f.energy.entries) {
        const bool load = e.kind == HeatKind::load;
        rows.push_back({e.name + std::string(how[static_cast<std::size_t>(e.kind)]), load ? e.energy : -e.energy, load});
    }
    rows.push_back({"", -f.energy.stored});
    const bool nodes = std::any_of(f.sensors.begin(), f.sensors.end(), [](const SensorOverTime& s) { return s.lumped; });
    double all = 0.0;
    for (const Row& row : rows) all += std::max(0.0, row.joule);
    FindingTable out{.title = f.cycle ? "Energy over one cycle" : "Energy over the whole time",
                     .columns = {{"", false}, {"", false}, {"energy", true}, {"share", true}}};
    for (const bool in : {true, false}) {
        for (const Row& row : rows) {
            const bool comes_in = row.joule > 0.0 || (row.joule == 0.0 && row.load);
            if (comes_in != in || (row.name.empty() && row.joule == 0.0)) continue;
            const std::string_view way = !row.name.empty() ? (in ? "in" : "out") : in ? "given" : "kept";
            out.rows.push_back({std::string(way),
                                !row.name.empty() ? row.name
                                : in              ? nodes ? "up by parts and nodes" : "up by the parts"
                                : nodes           ? "stored in parts and nodes"
                                                  : "stored in the parts",
                                show_quantity(std::abs(row.joule), kinds::energy, 4),
                                all > 0.0 ? fmt::format("{:.1f} %", 100.0 * std::abs(row.joule) / all) : "-"});
        }
    }
    out.notes.push_back(fmt::format("unaccounted {:.1e} of the throughput", std::abs(f.energy.relative_residual())));
    return out;
}

/// One line for limits of either kind of study.
template <typename F, typename WhenWorst>
std::string verdict_of(const F& f, const std::string& hottest, const WhenWorst& when, const Units& units) {
    if (f.limits.empty()) return "NO LIMITS SET   hottest " + hottest;
    const auto missed = std::count_if(f.limits.begin(), f.limits.end(), [](const auto& l) { return !l.kept(); });
    const auto& tightest = *std::min_element(f.limits.begin(), f.limits.end(),
                                             [](const auto& a, const auto& b) { return tightness(a.margin, *a.quantity) < tightness(b.margin, *b.quantity); });
    const std::string which = tightest.subject + when(tightest);
    const std::string error = margin_error(margin_of(f.figures, tightest), units), open = error.empty() ? "" : " ± " + error;
    const double margin = std::abs(tightest.margin);
    const std::string by = tightest.of == SubjectKind::figure ? amount_text(margin, difference_of(*tightest.quantity), units) + open
                                                              : fmt::format("{}{} {}", degrees_apart(margin, units), open, difference_unit(units));
    return missed == 0 ? fmt::format("ALL LIMITS KEPT   smallest margin {}, {}", by, which)
                       : fmt::format("{} OF {} LIMITS MISSED   worst by {}, {}", missed, f.limits.size(), by, which);
}

void add(std::vector<FindingTable>& tables, FindingTable table) {
    if (!table.empty()) tables.push_back(std::move(table));
}

}  // namespace

std::string to_text(const FindingTable& table) {
    if (table.empty()) return {};
    std::vector<std::string> heads;
    for (const FindingTable::Column& column : table.columns) heads.push_back((column.right ? ">" : "") + column.head);
    Table text(std::move(heads));
    for (const auto& row : table.rows) text.row(row);
    std::string out = (table.title.empty() ? std::string() : heading(table.title)) + text.text();
    for (const std::string& note : table.notes) out += "  " + note + "\n";
    return out;
}

std::string to_text(std::span<const FindingTable> tables) {
    std::string out;
    for (const FindingTable& table : tables) out += to_text(table);
    return out;
}

FindingTable limits_table(const Findings& findings, const Units& units) {
    LimitRows rows(units);
    rows.add(findings, {});
    return rows.table();
}

FindingTable limits_table(const TimeFindings& findings, const Units& units) {
    LimitRows rows(units);
    rows.add(findings, {});
    return rows.table();
}

FindingTable limits_table(std::span<const StudyFindings> studies, const Units& units) {
    LimitRows rows(units);
    for (const StudyFindings& study : studies) std::visit([&](const auto& f) { rows.add(f, f.study.name); }, study);
    return rows.table();
}

std::vector<FindingTable> finding_tables(const Findings& f, const Units& units) {
    const double scale = f.ledger.throughput;
    std::vector<FindingTable> out;
    add(out, table_of("Parts", f.parts, units, scale, f.figures));
    add(out, sensors_table(f.sensors, units, f.figures));
    add(out, table_of("Figures", f.named, units, scale, f.figures));
    add(out, table_of("Milestones", f.milestones, units));
    add(out, table_of("Joints", f.joints, units, scale, f.figures));
    add(out, table_of("Resistors", f.resistors, units, scale, f.figures));
    add(out, heat_table(f, units));
    add(out, flux_table(f, units));
    return out;
}

std::vector<FindingTable> finding_tables(const TimeFindings& f, const Units& units) {
    std::vector<FindingTable> out;
    add(out, table_of("Parts over the whole time", f.parts, units, 1.0, f.figures));
    add(out, sensors_table(f.sensors, units, f.figures));
    add(out, table_of("Figures over the whole time", f.named, units, 1.0, f.figures));
    add(out, table_of("Figures of the run", f.of_run, units, 1.0, f.figures));
    add(out, table_of("Milestones", f.milestones, units, 1.0, f.figures));
    add(out, table_of("Thermostats", f.thermostats, units));
    add(out, energy_table(f));
    return out;
}

std::string refinement_note(const Findings& f, const Units& units) {
    if (!f.refinement) return {};
    const auto& rounds = f.refinement->rounds;
    const std::string how = rounds.size() == 1 ? std::string(f.refinement->met ? "Mesh fine enough" : "Mesh not refined")
                                               : fmt::format("Mesh refined from {} to {} cells in {} solves", grouped(rounds.front().cells),
                                                             grouped(rounds.back().cells), rounds.size());
    if (!f.refinement->met) return how + ": " + f.refinement->outlook;
    const MeshRefinement::Round& last = rounds.back();
    return fmt::format("{}: what is known worst is {}, to ±{} where ±{} are allowed", how, in_quotes(last.worst), about_degrees(last.error, units),
                       about_degrees(last.allowed, units));
}

FindingTable error_bars_table(const Findings& f, const Units& units) {
    FindingTable out{.title = "Error bars of the mesh",
                     .columns = {{"quantity", false}, {"of", false}, {"value", true}, {"±", true}, {"order", true}, {"", false}}};
    if (!f.error_bars) return out;
    for (const Figure& figure : f.figures) {
        if (!figure.bar || of_limit(figure.kind)) continue;  // of a limit: its temperature tells it
        const DiscretisationError& bar = *figure.bar;
        if (bar.exact && std::abs(figure.value.value_or(0.0)) <= bar.error) continue;  // nothing, as the drop over a perfect joint
        const QuantityKind& quantity = quantity_of(figure);
        const UnitOf unit = unit_of(quantity, units);
        // The value with as many decimals as its error deserves.
        const int decimals = std::clamp(1 - static_cast<int>(std::floor(std::log10(std::max(bar.error / unit.one, 1e-6)))), 0, 4);
        out.rows.push_back({std::string(info(figure.kind).word), figure.name,
                            fmt::format("{:.{}f} {}", unit.out(figure.value.value_or(0.0)), decimals, unit.shown),
                            fmt::format("{:.2g} {}", bar.error / unit.one, unit_of(difference_of(quantity), units).shown),
                            bar.exact   ? "exact"
                            : bar.order ? fmt::format("{:.1f}", *bar.order)
                                        : "-",
                            bar.trusted ? "" : "too coarse to be sure"});
    }
    const ErrorBars& e = *f.error_bars;
    std::string cells;
    for (const Index n : e.cells) cells += (cells.empty() ? "" : ", ") + grouped(n);
    out.notes.push_back(fmt::format("from meshes of {} cells", cells));
    return out;
}

std::vector<FindingTable> inspection_tables(const Inspection& i, const Units& units) {
    double mass = 0.0;
    for (const PartInspection& p : i.parts) mass += p.mass.value_or(0.0);
    std::vector<FindingTable> out;
    add(out, table_of(fmt::format("Parts, {} in total", show_quantity(mass, kinds::mass)), i.parts, units));
    if (!out.empty()) {
        for (const std::string& mirror : i.mirrors)
            out.back().notes.push_back("symmetry: " + mirror + "; masses, areas and powers are those of the whole product");
    }
    add(out, table_of("Joints", i.joints, units));
    add(out, table_of("Nodes", i.nodes, units));
    add(out, table_of("Resistors", i.resistors, units));
    add(out, table_of("Figures", i.figures, units));
    return out;
}

FindingTable thin_cells_table(const Inspection& inspection, const Units& units) {
    return table_of("Thin cells, where heat spreads from less than a whole face or has little time", inspection.thin_cells, units);
}

FindingTable rules_table(const Inspection& inspection, const Units& units) { return table_of("Exposed surfaces", inspection.rules, units); }

std::string verdict_line(const Findings& f, const Units& units) {
    return verdict_of(
        f, fmt::format("{} in {}", show_temperature(f.hottest.temperature, units), f.hottest.body), [](const LimitFinding&) { return std::string(); }, units);
}

std::string verdict_line(const TimeFindings& f, const Units& units) {
    return verdict_of(
        f, fmt::format("{} in {} at {}", show_temperature(f.hottest.spot.temperature, units), f.hottest.spot.body, duration(f.hottest.time)),
        [](const LimitOverTime& l) { return l.of_run ? " of the whole run" : " at " + duration(l.found_time); }, units);
}

}  // namespace firnfield
