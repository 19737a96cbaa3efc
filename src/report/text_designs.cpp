// What a model file offers besides itself, and what a search found, as text.

#include <firnfield/model_file.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/text.hpp>

#include "report/phrases.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield {

std::string designs_text(const ModelFile& file, const Units& units) {
    std::string out;
    if (!file.parameters().empty()) out += "\nParameters\n";
    for (const ParameterInfo& p : file.parameters()) {
        out += fmt::format("  {} = {}", p.name, measured_text(p.value, units));
        if (p.spread) out += fmt::format(", {} {}", p.spread->normal ? "standard deviation" : "±", spread_text(p, units));
        out += "\n";
    }
    if (!file.designs().empty()) out += "\nDesigns (firnfield compare, or solve --variant)\n";
    std::string sweep;
    for (const Design& d : file.designs()) {
        if (!d.sweep.empty() && d.sweep == sweep) continue;  // told with its first point
        sweep = d.sweep;
        const auto points =
            std::count_if(file.designs().begin(), file.designs().end(), [&](const Design& other) { return !sweep.empty() && other.sweep == sweep; });
        out += fmt::format("  {}{}", sweep.empty() ? d.name : sweep, d.from.empty() ? "" : fmt::format(", from {}", d.from));
        if (points > 0)
            out += fmt::format(": a sweep of {} points over", points);
        else
            out += ":";
        for (const Change& c : d.changes)
            out += fmt::format(" {}{}", c.address, points > 0 ? "" : fmt::format(" = {}{}", c.value, &c == &d.changes.back() ? "" : ","));
        out += fmt::format("{}\n", d.note.empty() ? "" : fmt::format(" ({})", d.note));
    }
    return out;
}

std::string to_text(const SeekResult& result, const std::string& address, const std::string& unit, const std::string& limit, const Units& units) {
    const auto value = [&](double at) { return fmt::format("{:.5g}{}{}", at, unit.empty() ? "" : " ", unit); };
    const bool kelvin = is_kelvin(*result.quantity);
    const auto margin = [&](double m, int decimals) {
        if (kelvin) return degrees_apart(m, units, decimals, true) + " " + difference_unit(units);
        return (m < 0.0 ? "-" : "+") + amount_text(std::abs(m), *result.quantity, units);
    };
    std::string out;
    if (!result.at) {
        const auto& first = result.evaluations.front();
        const auto& last = result.evaluations.back();
        out = fmt::format("{} {} all the way: margin {} at {}, {} at {}\n", limit, first.margin >= 0.0 ? "is kept" : "is missed", margin(first.margin, 2),
                          value(first.at), margin(last.margin, 2), value(last.at));
    } else if (result.jumps) {
        out = fmt::format("{} is met up to {} = {}, with a margin of {}; just beyond it is missed by a jump\n", limit, address, value(*result.at),
                          margin(result.margin, 2));
    } else if (result.beyond && std::abs(*result.beyond - *result.at) == 1.0 && unit.empty()) {
        out = fmt::format("{} is met with {} = {}, with a margin of {}, and missed with {}\n", limit, address, value(*result.at), margin(result.margin, 2),
                          value(*result.beyond));
    } else {
        out = fmt::format("{} is just met at {} = {} (margin {})\n", limit, address, value(*result.at), margin(result.margin, 3));
    }
    if (result.margin_error) {
        out += fmt::format("  the mesh leaves this margin open by ±{}{}\n",
                           kelvin ? about_degrees(*result.margin_error, units) : amount_text(*result.margin_error, *result.quantity, units, 2),
                           result.at_error ? fmt::format(", and {} by ±{:.2g}{}{}", address, *result.at_error, unit.empty() ? "" : " ", unit) : std::string());
    }
    std::size_t width = std::max<std::size_t>(address.size(), 12);
    for (const auto& e : result.evaluations) width = std::max(width, value(e.at).size());
    width += 2;
    out += fmt::format("\n  {:<{}}margin{}\n", address, width, kelvin ? " " + difference_unit(units) : "");
    for (const auto& e : result.evaluations)
        out += fmt::format("  {:<{}}{}\n", value(e.at), width, kelvin ? degrees_apart(e.margin, units, 3, true) : margin(e.margin, 3));
    return out;
}

}  // namespace firnfield
