// Findings of a steady study, and what `check` tells, as text.

#include <firnfield/quantity.hpp>
#include <firnfield/text.hpp>

#include "base/words.hpp"
#include "report/phrases.hpp"
#include "report/table.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

std::string copies(Index count) { return count == 1 ? "" : fmt::format(" ×{}", count); }

std::string mass(const std::optional<double>& kilogram) { return kilogram ? show_quantity(*kilogram, kinds::mass) : "?"; }

std::string verdict(const Findings& f) {
    std::string out;
    if (f.limits.empty()) {
        out += fmt::format("NO LIMITS SET   hottest {} in {}\n", show_celsius(f.hottest.temperature), f.hottest.body);
    } else {
        const auto missed = std::count_if(f.limits.begin(), f.limits.end(), [](const LimitFinding& l) { return !l.kept(); });
        const auto& tightest = *std::min_element(f.limits.begin(), f.limits.end(), [](const auto& a, const auto& b) { return a.margin < b.margin; });
        if (missed == 0) {
            out += fmt::format("ALL LIMITS KEPT   smallest margin {:.1f} K, {}\n", tightest.margin, tightest.subject);
        } else {
            out += fmt::format("{} OF {} LIMITS MISSED   worst by {:.1f} K, {}\n", missed, f.limits.size(), -tightest.margin, tightest.subject);
        }
        Table table({"", "limit on", ">limit °C", ">found °C", ">margin K", "where (mm)"});
        std::vector<LimitFinding> ordered = f.limits;
        std::stable_sort(ordered.begin(), ordered.end(), [](const auto& a, const auto& b) { return a.margin < b.margin; });
        for (const LimitFinding& l : ordered) {
            const std::string at = l.worst.lumped ? "lumped node" : place(l.worst.at), where = l.worst.body == l.subject ? at : l.worst.body + " " + at;
            table.row({l.kept() ? "ok" : "MISSED", l.subject, fmt::format("{} {}", l.upper ? "<" : ">", degrees(l.limit)), degrees(l.worst.temperature),
                       fmt::format("{:+.1f}", l.margin), where});
        }
        out += table.text();
    }
    return out;
}

std::string parts_table(const Findings& f) {
    if (f.parts.empty()) return {};
    Table table({"part", ">power W", ">min °C", ">mean °C", ">max °C", "hottest at (mm)", "material"});
    const double scale = f.ledger.throughput;
    for (const PartFinding& p : f.parts) {
        table.row({p.name + copies(p.copies), p.power == 0.0 ? "" : watts(p.power, scale), degrees(p.coldest.temperature), degrees(p.mean),
                   degrees(p.hottest.temperature), place(p.hottest.at), p.material});
    }
    return heading("Parts") + table.text();
}

std::string joints_table(const Findings& f) {
    if (f.joints.empty()) return {};
    Table table({"joint", "contact", ">area", ">flow W", ">drop K"});
    for (const JointFinding& j : f.joints) {
        // Heat flows towards the colder side, so the arrow shows its way.
        const bool forward = j.flow >= 0.0;
        const std::string way = fmt::format("{} → {}", forward ? j.first : j.second, forward ? j.second : j.first);
        table.row({way + copies(j.pairs), j.contact, show_quantity(j.area, kinds::area), watts(std::abs(j.flow), f.ledger.throughput),
                   fmt::format("{:.2f}", std::abs(j.drop))});
    }
    return heading("Joints") + table.text();
}

std::string resistors_table(const Findings& f) {
    if (f.resistors.empty()) return {};
    Table table({"resistor", "heat from → to", ">K/W", ">flow W", ">drop K"});
    for (const ResistorFinding& r : f.resistors) {
        const bool forward = r.flow >= 0.0;
        table.row({r.name, fmt::format("{} → {}", forward ? r.first : r.second, forward ? r.second : r.first), fmt::format("{:.4g}", r.resistance),
                   watts(std::abs(r.flow), f.ledger.throughput), fmt::format("{:.2f}", std::abs(r.drop))});
    }
    return heading("Resistors") + table.text();
}

std::string heat_table(const Findings& f) {
    const double scale = f.ledger.throughput;
    std::string out = heading("Heat balance");
    Table table({"", "", ">heat W", ">share", ">area", ">mean °C", ">to °C", ">W/(m² K)"});
    const auto share = [&](double heat) { return scale > 0.0 ? fmt::format("{:.1f} %", 100.0 * heat / scale) : std::string("-"); };
    const auto optional_area = [](const std::optional<double>& area) { return area ? show_quantity(*area, kinds::area) : std::string(); };
    for (const LoadFinding& l : f.loads) {
        table.row({"in", l.name, watts(l.heat, scale), share(l.heat), optional_area(l.area), l.mean_surface ? degrees(*l.mean_surface) : "", "", ""});
    }
    for (const CoolingFinding& c : f.coolings) {
        const std::string area = show_quantity(c.area, kinds::area);
        table.row({"out", c.name + ", convection", watts(c.convection, scale), share(c.convection), area, degrees(c.mean_surface), degrees(c.ambient),
                   fmt::format("{:.2f}", c.mean_coefficient())});
        if (c.radiates) table.row({"", c.name + ", radiation", watts(c.radiation, scale), share(c.radiation), "", "", "", ""});
    }
    for (const HoldFinding& h : f.holds) {
        table.row({"out", h.name + ", held", watts(h.flow, scale), share(h.flow), show_quantity(h.area, kinds::area), "", degrees(h.temperature), ""});
    }
    for (const ResistorFinding& r : f.resistors) {
        if (r.to_ambient) table.row({"out", r.name + ", resistor", watts(r.flow, scale), share(r.flow), "", "", "", ""});
    }
    out += table.text();
    out += fmt::format("  in {} W, out {} W, unaccounted {:.1e} W ({:.1e} of the throughput)\n", watts(f.ledger.loads, scale),
                       watts(f.ledger.convection + f.ledger.radiation + f.ledger.holds + f.ledger.resistors, scale), std::abs(f.ledger.residual),
                       std::abs(f.ledger.relative_residual()));
    return out;
}

std::string yes_no(const std::optional<double>& value, const QuantityKind& kind) { return value ? show_quantity(*value, kind) : "unknown"; }

std::string conductivity_text(const Material& m) {
    if (m.isotropic()) return fmt::format("{:g}", m.conductivity[0]);
    return fmt::format("{:g} / {:g} / {:g}", m.conductivity[0], m.conductivity[1], m.conductivity[2]);
}

/// A large number to two digits.
std::string about(double number) {
    const double digit = std::pow(10.0, std::max(0.0, std::floor(std::log10(number)) - 1.0));
    return grouped(static_cast<unsigned long long>(digit * std::round(number / digit)));
}

/// Temperatures in °C with their bars, flows in W.
std::string error_bars_table(const ErrorBars& e) {
    Table table({"quantity", "of", ">value", ">±", ">order", ""});
    for (const ErrorBar& b : e.bars) {
        // The value with as many decimals as its error deserves.
        const int decimals = std::clamp(1 - static_cast<int>(std::floor(std::log10(std::max(b.error, 1e-6)))), 0, 4);
        table.row({b.kind, b.name,
                   fmt::format("{:.{}f} {}", b.is_temperature() ? b.value - zero_celsius : b.value, decimals, b.is_temperature() ? "°C" : b.unit()),
                   fmt::format("{:.2g} {}", b.error, b.unit()),
                   b.exact   ? "exact"
                   : b.order ? fmt::format("{:.1f}", *b.order)
                             : "-",
                   b.trusted ? "" : "too coarse to be sure"});
    }
    std::string cells;
    for (const Index n : e.cells) cells += (cells.empty() ? "" : ", ") + grouped(n);
    std::string out = heading("Error bars of the mesh") + table.text() + fmt::format("  from meshes of {} cells\n", cells);
    if (!e.outlook.empty()) out += "  " + e.outlook + "\n";
    if (!e.layers.empty())
        out += fmt::format("  the finest mesh has smaller cells across {} {} of the grid\n", e.layers.size(), e.layers.size() == 1 ? "layer" : "layers");
    return out;
}

}  // namespace

std::string to_text(const Findings& f) {
    std::string out = f.title.empty() ? std::string() : f.title + "\n";
    out += describe(f.study) + "\n\n";
    out += verdict(f);
    if (f.multiplicity > 1.0) out += fmt::format("  (powers, flows and areas are those of the whole product; {:g} of it is computed)\n", 1.0 / f.multiplicity);
    out += parts_table(f);
    if (!f.sensors.empty()) {
        const bool nodes = std::any_of(f.sensors.begin(), f.sensors.end(), [](const SensorFinding& s) { return s.part.empty(); });
        Table table({nodes ? "sensor or node" : "sensor", ">°C", "in", "at (mm)"});
        for (const SensorFinding& s : f.sensors)
            table.row({s.name, degrees(s.temperature), s.part.empty() ? "lumped node" : s.part, s.part.empty() ? std::string() : place(s.at)});
        out += heading(nodes ? "Sensors and nodes" : "Sensors") + table.text();
    }
    out += joints_table(f) + resistors_table(f);
    out += heat_table(f);
    if (f.error_bars) out += error_bars_table(*f.error_bars);
    if (f.why) out += heading("Why") + to_text(*f.why);
    append_warnings(out, f.warnings);
    const SolveSummary& s = f.summary;
    out += "\n" +
           wrapped(fmt::format("{} cells; {}; {:.2f} s mesh, {:.2f} s network, {:.2f} s solve", grouped(f.cells), s.text(), s.mesh_seconds, s.network_seconds,
                               s.solve_seconds),
                   0) +
           "\n";
    return out;
}

std::string to_text(const Inspection& i) {
    std::string out = i.title.empty() ? std::string() : i.title + "\n";
    double total_mass = 0.0;
    Table parts({"part", "material", ">size (mm)", ">mass", ">exposed", ">cells", ">through"});
    for (const PartInspection& p : i.parts) {
        total_mass += p.mass.value_or(0.0);
        parts.row({p.name + copies(p.copies), p.material, fmt::format("{:g} × {:g} × {:g}", 1e3 * p.size.x, 1e3 * p.size.y, 1e3 * p.size.z), mass(p.mass),
                   p.exposed > 0.0 ? show_quantity(p.exposed, kinds::area) : "-", grouped(p.cells), fmt::format("{}", p.thinnest)});
    }
    if (!i.parts.empty()) out += heading(fmt::format("Parts, {} in total", show_quantity(total_mass, kinds::mass))) + parts.text();
    for (const std::string& mirror : i.mirrors) out += "  symmetry: " + mirror + "; masses, areas and powers are those of the whole product\n";
    if (!i.joints.empty()) {
        Table joints({"touching", "contact", ">area", ">of faces", ">mean gap", ">largest", "found"});
        const auto gap = [](double g) { return g > 1e-9 ? show_quantity(g, kinds::length) : std::string("-"); };
        for (const JointFinding& j : i.joints) {
            joints.row({fmt::format("{} - {}", j.first, j.second) + copies(j.pairs), j.contact, show_quantity(j.area, kinds::area),
                        fmt::format("{:.0f} %", 100.0 * j.area / j.nominal_area), gap(j.mean_gap), gap(j.largest_gap), j.found});
        }
        out += heading("Joints") + joints.text();
    }
    if (!i.nodes.empty()) {
        Table nodes({"node", ">capacity", "material"});
        for (const NodeInspection& n : i.nodes) nodes.row({n.name, n.capacity ? show_quantity(*n.capacity, kinds::heat_capacity) : "next to none", n.material});
        out += heading("Nodes") + nodes.text();
    }
    if (!i.resistors.empty()) {
        Table resistors({"resistor", "between", ">resistance"});
        for (const ResistorFinding& r : i.resistors)
            resistors.row({r.name, r.first + " - " + r.second, show_quantity(r.resistance, kinds::thermal_resistance, 4)});
        out += heading("Resistors") + resistors.text();
    }
    if (!i.near_misses.empty()) {
        out += heading("Near misses (no contact: close the gap, or give a joint this reach)");
        for (const auto& m : i.near_misses) {
            out += fmt::format("  {} - {}: gap {} over {}\n", m.first, m.second, show_quantity(m.gap, kinds::length), show_quantity(m.area, kinds::area));
        }
    }
    Table rules({"surface rule", "for", ">area", ">patches"});
    for (const RuleInspection& r : i.rules) rules.row({r.name, r.role, show_quantity(r.area, kinds::area), grouped(r.patches)});
    if (!i.parts.empty()) {
        out += heading("Exposed surfaces") + (rules.empty() ? std::string() : rules.text());
        out += fmt::format("  {} exposed, {} unclaimed\n", show_quantity(i.exposed_area, kinds::area),
                           i.unclaimed_area > 0.0 ? show_quantity(i.unclaimed_area, kinds::area) : "none");
    }
    if (!i.overlaps.empty()) {
        out += heading("Overlaps (the later part displaces the earlier)");
        for (const auto& o : i.overlaps) out += fmt::format("  {} displaces {} of {}\n", o.by, show_quantity(o.volume, kinds::volume), o.displaced);
    }
    out += heading("Studies");
    for (const auto& s : i.studies) {
        const std::string cost = s.study.kind != StudyKind::steady ? fmt::format(", about {:.2g} s a step", s.seconds)
                                 : s.seconds < 1.0                 ? ", under a second"
                                                                   : fmt::format(", about {:.0f} s", s.seconds);
        out +=
            "  " +
            wrapped(fmt::format("{}; {} in total{}{}", describe(s.study), show_quantity(s.power, kinds::power), s.nonlinear ? ", nonlinear" : ", linear", cost),
                    4) +
            "\n";
        for (const std::string& line : s.in_time) out += "      " + line + "\n";
    }
    if (i.error_target)
        out += fmt::format("  with error bars: cells are made smaller until temperatures are known to {}\n",
                           show_quantity(*i.error_target, kinds::temperature_difference));
    append_warnings(out, i.warnings);
    if (!i.parts.empty())
        out += fmt::format("\nGrid {} × {} × {}, {} cells, up to about {} MB to solve\n", i.grid[0], i.grid[1], i.grid[2], grouped(i.cells),
                           about(std::max(1e-6 * i.memory, 1.0)));
    if (i.poorest) {
        const auto& p = *i.poorest;
        out += wrapped(fmt::format("Coarsest in \"{}\": {} cell{} through {}; for twice as many give the part cell = \"{}\", which makes {}", p.part, p.through,
                                   p.through == 1 ? "" : "s", show_quantity(p.thickness, kinds::length), show_quantity(p.cell, kinds::length),
                                   p.cells ? "about " + about(*p.cells) + " cells" : "more cells than mesh.max_cells allows"),
                       0) +
               "\n";
    }
    return out;
}

std::string to_text(const Material& m) {
    std::string out = m.name + (m.group.empty() ? "" : "  (" + m.group + ")") + "\n";
    const auto line = [&](std::string_view name, const std::string& value) { out += fmt::format("  {:<22}{}\n", name, value); };
    line("conductivity", conductivity_text(m) + " W/(m K)" + (m.isotropic() ? "" : "  along x / y / z"));
    line("density", yes_no(m.density, kinds::density));
    line("specific heat", yes_no(m.specific_heat, kinds::specific_heat));
    if (m.emissivity) line("emissivity", fmt::format("{:g}", *m.emissivity));
    if (m.resistivity) line("resistivity", yes_no(m.resistivity, kinds::resistivity));
    if (m.service_limit) line("service limit", show_celsius(*m.service_limit, 0));
    if (m.valid_from && m.valid_to) line("values hold", fmt::format("{} to {}", show_celsius(*m.valid_from, 0), show_celsius(*m.valid_to, 0)));
    if (!m.note.empty()) line("source", wrapped(m.note, 24));
    return out;
}

std::string to_table(std::span<const Material> materials) {
    std::string out, group;
    Table table({"material", ">W/(m K)", ">kg/m³", ">J/(kg K)", ">emissivity", ">limit °C"});
    const auto flush = [&] {
        if (!table.empty()) out += heading(group.empty() ? "own" : group) + table.text();
        table = Table({"material", ">W/(m K)", ">kg/m³", ">J/(kg K)", ">emissivity", ">limit °C"});
    };
    const auto number = [](const std::optional<double>& value) { return value ? fmt::format("{:g}", *value) : std::string("-"); };
    for (const Material& m : materials) {
        if (m.group != group) flush();
        group = m.group;
        table.row({m.name, conductivity_text(m), number(m.density), number(m.specific_heat), number(m.emissivity),
                   m.service_limit ? fmt::format("{:.0f}", *m.service_limit - zero_celsius) : "-"});
    }
    flush();
    return out;
}

}  // namespace firnfield
