// Findings of a steady study, and what `check` tells, as text.

#include <firnfield/quantity.hpp>
#include <firnfield/text.hpp>

#include "base/words.hpp"
#include "report/finding_tables.hpp"
#include "report/phrases.hpp"
#include "report/table.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

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

}  // namespace

std::string to_text(const Findings& f, const Units& units) {
    std::string out = f.title.empty() ? std::string() : f.title + "\n";
    out += describe(f.study, units) + "\n\n" + verdict_line(f, units) + "\n";
    out += to_text(limits_table(f, units));
    if (f.multiplicity > 1.0) out += fmt::format("  (powers, flows and areas are those of the whole product; {:g} of it is computed)\n", 1.0 / f.multiplicity);
    out += to_text(finding_tables(f, units)) + to_text(error_bars_table(f, units));
    if (f.why) out += heading("Why") + to_text(*f.why, units);
    append_warnings(out, f.warnings);
    const SolveSummary& s = f.summary;
    out += "\n";
    if (const std::string note = refinement_note(f, units); !note.empty()) out += wrapped(note, 0) + "\n";
    out += wrapped(fmt::format("{} cells; {}; {:.2f} s mesh, {:.2f} s network, {:.2f} s solve", grouped(f.cells), s.text(), s.mesh_seconds, s.network_seconds,
                               s.solve_seconds),
                   0) +
           "\n";
    return out;
}

std::string to_text(const Inspection& i, const Units& units) {
    std::string out = i.title.empty() ? std::string() : i.title + "\n";
    out += to_text(inspection_tables(i, units));
    if (!i.near_misses.empty()) {
        out += heading("Near misses (no contact: close the gap, or give a joint this reach)");
        for (const auto& m : i.near_misses) {
            out += fmt::format("  {} - {}: gap {} over {}\n", m.first, m.second, show_quantity(m.gap, kinds::length, units),
                               show_quantity(m.area, kinds::area, units));
        }
    }
    if (!i.parts.empty()) {
        const FindingTable rules = rules_table(i, units);
        out += rules.empty() ? heading(rules.title) : to_text(rules);
        out += fmt::format("  {} exposed, {} unclaimed\n", show_quantity(i.exposed_area, kinds::area, units),
                           i.unclaimed_area > 0.0 ? show_quantity(i.unclaimed_area, kinds::area, units) : "none");
    }
    if (!i.overlaps.empty()) {
        out += heading("Overlaps (the later part displaces the earlier)");
        for (const auto& o : i.overlaps) out += fmt::format("  {} displaces {} of {}\n", o.by, show_quantity(o.volume, kinds::volume, units), o.displaced);
    }
    out += heading("Studies");
    for (const auto& s : i.studies) {
        const std::string cost = s.study.kind != StudyKind::steady ? fmt::format(", about {:.2g} s a step", s.seconds)
                                 : s.seconds < 1.0                 ? ", under a second"
                                                                   : fmt::format(", about {:.0f} s", s.seconds);
        out += "  " +
               wrapped(fmt::format("{}; {} in total{}{}", describe(s.study, units), show_quantity(s.power, kinds::power),
                                   s.nonlinear ? ", nonlinear" : ", linear", cost),
                       4) +
               "\n";
        for (const std::string& line : s.in_time) out += "      " + line + "\n";
    }
    append_warnings(out, i.warnings);
    if (!i.parts.empty())
        out += fmt::format("\nGrid {} × {} × {}, {} cells, up to about {} MB to solve\n", i.grid[0], i.grid[1], i.grid[2], grouped(i.cells),
                           about(std::max(1e-6 * i.memory, 1.0)));
    if (i.refined_up_to) {
        const std::string known = i.error_target ? fmt::format("limits, sensors and the hottest place of every part are known to {}",
                                                               show_quantity(*i.error_target, kinds::temperature_difference, units))
                                                 : "limits, sensors and the hottest place are known to 1 % of their rise";
        out += wrapped(fmt::format("Solving refines it until {}, to at most {} cells", known, grouped(static_cast<unsigned long long>(*i.refined_up_to))), 0) +
               "\n";
    }
    if (const FindingTable thin = thin_cells_table(i, units); !thin.empty()) out += to_text(thin) + "\n";
    if (i.poorest) {
        const auto& p = *i.poorest;
        out += wrapped(fmt::format("Coarsest in \"{}\": {} cell{} through {}; for twice as many give the part cell = \"{}\", which makes {}", p.part, p.through,
                                   p.through == 1 ? "" : "s", show_quantity(p.thickness, kinds::length, units), show_quantity(p.cell, kinds::length, units),
                                   p.cells ? "about " + about(*p.cells) + " cells" : "more cells than mesh.max_cells allows"),
                       0) +
               "\n";
    }
    return out;
}

std::string to_text(const Material& m, const Units& units) {
    std::string out = m.name + (m.group.empty() ? "" : "  (" + m.group + ")") + "\n";
    const auto line = [&](std::string_view name, const std::string& value) { out += fmt::format("  {:<22}{}\n", name, value); };
    line("conductivity", conductivity_text(m) + " W/(m K)" + (m.isotropic() ? "" : "  along x / y / z"));
    line("density", yes_no(m.density, kinds::density));
    line("specific heat", yes_no(m.specific_heat, kinds::specific_heat));
    if (m.emissivity) line("emissivity", fmt::format("{:g}", *m.emissivity));
    if (m.resistivity) line("resistivity", yes_no(m.resistivity, kinds::resistivity));
    if (m.service_limit) line("service limit", show_temperature(*m.service_limit, units, 0));
    if (m.valid_from && m.valid_to)
        line("values hold", fmt::format("{} to {}", show_temperature(*m.valid_from, units, 0), show_temperature(*m.valid_to, units, 0)));
    if (!m.note.empty()) line("source", wrapped(m.note, 24));
    return out;
}

std::string to_table(std::span<const Material> materials, const Units& units) {
    std::string out, group;
    Table table({"material", ">W/(m K)", ">kg/m³", ">J/(kg K)", ">emissivity", ">limit " + degree_unit(units)});
    const auto flush = [&] {
        if (!table.empty()) out += heading(group.empty() ? "own" : group) + table.text();
        table = Table({"material", ">W/(m K)", ">kg/m³", ">J/(kg K)", ">emissivity", ">limit " + degree_unit(units)});
    };
    const auto number = [](const std::optional<double>& value) { return value ? fmt::format("{:g}", *value) : std::string("-"); };
    for (const Material& m : materials) {
        if (m.group != group) flush();
        group = m.group;
        table.row({m.name, conductivity_text(m), number(m.density), number(m.specific_heat), number(m.emissivity),
                   m.service_limit ? fmt::format("{:.0f}", unit_of(kinds::temperature, units).out(*m.service_limit)) : "-"});
    }
    flush();
    return out;
}

}  // namespace firnfield
