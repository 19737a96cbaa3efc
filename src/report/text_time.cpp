// Findings of a study in time as text.

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

std::string outlook(const TimeFindings& f, const Units& units) {
    std::string out = heading("Where it stands");
    const auto line = [&](const std::string& text) { out += "  " + wrapped(text, 4) + "\n"; };
    if (f.cycle) {
        line(fmt::format("the cycle of {} repeats within {}; found by computing {} cycle{}", duration(f.cycle->period), about_degrees(f.cycle->within, units),
                         f.cycle->computed, f.cycle->computed == 1 ? "" : "s"));
        if (f.cycle->cycles_to_settle)
            line(fmt::format("from the start it takes about {:.0f} cycles ({}) until the hottest spot is within 1 % of it", *f.cycle->cycles_to_settle,
                             duration(*f.cycle->cycles_to_settle * f.cycle->period)));
    } else {
        line(fmt::format("ended at {}: {}", duration(f.end_time), f.stopped));
        if (f.steady_time)
            line(fmt::format("steady within {} from {} on", show_quantity(f.study.steady_within, kinds::temperature_difference, units),
                             duration(*f.steady_time)));
        if (f.remaining_change)
            line(fmt::format("if nothing changed any more, no temperature would move by more than {}", about_degrees(*f.remaining_change, units)));
    }
    if (f.reduction) {
        line(fmt::format("marched by {} modes of the network, found by {} solves in {:.3g} s: within {} of all of it", f.reduction->modes, f.reduction->solves,
                         f.reduction->basis_seconds, about_degrees(f.reduction->open, units)));
        if (f.reduction->acting < f.reduction->bent)
            line(fmt::format("{} of {} surfaces and links that depend on temperature, or vary, stand for all of them", f.reduction->acting, f.reduction->bent));
    }
    if (f.time_constant)
        line(fmt::format("slowest time constant {}: a difference falls to 1 % in {}", duration(*f.time_constant), duration(4.605 * *f.time_constant)));
    return out;
}

}  // namespace

std::string to_text(const TimeFindings& f, const Units& units) {
    std::string out = f.title.empty() ? std::string() : f.title + "\n";
    out += wrapped(describe(f.study, units), 0) + "\n\n" + verdict_line(f, units) + "\n" + to_text(limits_table(f, units)) + to_text(finding_tables(f, units)) +
           outlook(f, units);
    if (f.why) out += heading("Why") + to_text(*f.why, units);
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
