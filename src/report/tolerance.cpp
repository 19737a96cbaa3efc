// Chances as text.

#include <firnfield/quantity.hpp>
#include <firnfield/text.hpp>

#include "report/phrases.hpp"
#include "report/table.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

std::string percent(double share) { return fmt::format("{:.1f} %", 100.0 * share); }

std::string decided_by(const ToleranceFindings& t, const std::vector<double>& influence) {
    constexpr double noticeable = 0.3;
    std::string out;
    for (std::size_t p = 0; p < t.parameters.size(); ++p) {
        if (std::abs(influence[p]) >= noticeable) out += fmt::format("{}{} ({:+.2f})", out.empty() ? "" : ", ", t.parameters[p].name, influence[p]);
    }
    return out;
}

std::string headline(const ToleranceFindings& t) {
    if (t.limits.empty()) return fmt::format("NO LIMITS   {} {}\n", t.runs, t.linearised ? "runs around the nominal values" : "samples");
    if (t.linearised)
        return fmt::format("ABOUT {} OF PRODUCTS KEEP THE TIGHTEST LIMIT   from {} runs around the nominal values\n", percent(t.all_chance), t.runs);
    return fmt::format("{} OF PRODUCTS KEEP ALL LIMITS   {} samples; 95 % sure that it is between {} and {}\n", percent(t.all_chance), t.runs,
                       percent(t.all_low), percent(t.all_high));
}

std::string limits_table(const ToleranceFindings& t, const Units& units) {
    Table table({"limit on", ">limit", "study", ">chance", "95 % sure", ">mean margin", ">±", t.linearised ? ">three sigma" : ">worst", "decided by"});
    std::vector<LimitChance> ordered = t.limits;
    std::stable_sort(ordered.begin(), ordered.end(), [](const auto& a, const auto& b) {
        return a.chance != b.chance ? a.chance < b.chance : a.mean / std::max(a.deviation, 1e-12) < b.mean / std::max(b.deviation, 1e-12);
    });
    for (const LimitChance& l : ordered) {
        const QuantityKind& kind = difference_of(*l.quantity);
        const auto signed_amount = [&](double value) { return (value < 0.0 ? "-" : "+") + amount_text(std::abs(value), kind, units, 3); };
        table.row({l.subject, fmt::format("{} {}", l.upper ? "<" : ">", amount_text(l.limit, *l.quantity, units)), l.study, percent(l.chance),
                   t.linearised ? "" : fmt::format("{} to {}", percent(l.low), percent(l.high)), signed_amount(l.mean),
                   amount_text(l.deviation, kind, units, 3), signed_amount(l.worst), decided_by(t, l.influence)});
    }
    return heading("Limits") + table.text();
}

std::string figures_table(const ToleranceFindings& t, const Units& units) {
    Table table({"figure", "study", ">mean", ">±", t.linearised ? ">three sigma below" : ">lowest", t.linearised ? ">above" : ">highest", "decided by"});
    for (const FigureSpread& f : t.figures) {
        const auto amount = [&](double value) { return amount_text(value, *f.quantity, units); };
        table.row({f.name, f.study, amount(f.mean), amount_text(f.deviation, difference_of(*f.quantity), units, 3), amount(f.lowest), amount(f.highest),
                   decided_by(t, f.influence)});
    }
    return heading("Figures") + table.text();
}

}  // namespace

std::string to_text(const ToleranceFindings& t, const Units& units) {
    std::string out = headline(t);
    out += heading("Parameters that vary");
    Table inputs({"parameter", ">nominal", "distribution"});
    for (const ParameterInfo& p : t.parameters) {
        inputs.row({p.name, measured_text(p.value, units, 4),
                    fmt::format("{} {}", p.spread->normal ? "normal, standard deviation" : "uniform, ±", spread_text(p, units, 4))});
    }
    out += inputs.text();
    if (!t.limits.empty()) out += limits_table(t, units);
    if (!t.figures.empty()) out += figures_table(t, units);
    out += t.linearised ? "  Sampling would have taken too long: all is taken as linear in the parameters and normally distributed. In brackets the\n  "
                          "share of the variance, with the sign of the effect.\n"
                        : "  In brackets the rank correlation with the parameter.\n";
    for (const std::string& note : t.notes) out += fmt::format("  {}\n", note);
    return out;
}

}  // namespace firnfield
