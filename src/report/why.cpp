// An explanation as text and as chart.

#include "report/why.hpp"

#include <firnfield/chart.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/text.hpp>

#include "report/gnuplot.hpp"
#include "report/phrases.hpp"
#include "report/table.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

/// A bar of up to `width` characters, in eighths.
std::string bar(double share, int width) {
    static constexpr std::string_view eighths[] = {"", "▏", "▎", "▍", "▌", "▋", "▊", "▉"};
    const int pieces = static_cast<int>(std::lround(std::clamp(std::abs(share), 0.0, 1.0) * 8 * width));
    std::string out;
    for (int i = 0; i < pieces / 8; ++i) out += "█";
    return out + std::string(eighths[pieces % 8]);
}

std::string pieces_table(const std::vector<Contribution>& all, double rise, std::string_view title, const Units& units) {
    Table table({std::string(title), ">" + difference_unit(units), ">share", ""});
    const ShareOf share = share_of(all, rise);
    for (const Contribution& c : main_pieces(all, rise, 12))
        table.row({phrase(c), degrees_apart(c.rise, units, 2, true), share.text(c.rise), bar(share.bar(c.rise), 30)});
    table.row({"total", degrees_apart(rise, units, 2, true), "", ""});
    return table.text();
}

std::string sensitivity_table(const Explanation& e, const Units& units) {
    const std::string change = ">change " + difference_unit(units);
    Table table({"10 % more", change, "", one_degree(units) + " more", change});
    constexpr std::size_t most = 10;
    std::vector<const Sensitivity*> shares, kelvins;
    for (const Sensitivity& s : e.sensitivities) (s.per_kelvin() ? kelvins : shares).push_back(&s);
    const double largest = shares.empty() ? 0.0 : std::abs(shares.front()->change);
    std::erase_if(shares, [&](const Sensitivity* s) { return std::abs(s->change) < 0.005 * largest; });
    for (std::size_t n = 0; n < std::min(most, std::max(shares.size(), kelvins.size())); ++n) {
        const auto cell = [&](const std::vector<const Sensitivity*>& list, bool value) {
            return n >= list.size() ? std::string() : value ? change_text(*list[n], units) : phrase(*list[n]);
        };
        table.row({cell(shares, false), cell(shares, true), "", cell(kelvins, false), cell(kelvins, true)});
    }
    return table.text();
}

/// A piece of a stacked bar.
void add_piece(std::string& script, int& object, double left, double right, double low, double high, std::size_t shade) {
    static constexpr std::string_view fills[] = {"#7a1f1f", "#c8641b", "#e0a458", "#2b6777", "#8fb3bd", "#1d2f4f",
                                                 "#7f7f2a", "#b9b98a", "#8a5a83", "#bfa3bb", "#6d6d6d", "#bcbcbc"};
    script += fmt::format("set object {} rect from {:.6g},{:.6g} to {:.6g},{:.6g} fc rgb \"{}\" fs solid border lc rgb \"white\"\n", ++object, left, low, right,
                          high, fills[shade % std::size(fills)]);
}

}  // namespace

std::string phrase(const Contribution& c) {
    using Kind = Contribution::Kind;
    switch (c.kind) {
        case Kind::part:
            return "conduction in " + c.name;
        case Kind::joint:
            return "joint " + c.name;
        case Kind::resistor:
            return "resistor " + c.name;
        case Kind::convection:
            return "convection of " + c.name;
        case Kind::radiation:
            return "radiation of " + c.name;
        case Kind::load:
            return "power " + c.name;
        case Kind::surroundings:
            return "warmer surroundings of " + c.name;
        case Kind::storage:
            return (c.rise < 0.0 ? "heat stored in " : "stored heat of ") + c.name;
        case Kind::mesh:
            return "correction for the mesh";
        case Kind::rest:
            break;
    }
    return c.name;
}

std::string phrase(const Sensitivity& s) {
    using Kind = Sensitivity::Kind;
    switch (s.kind) {
        case Kind::conductivity:
            return "conductivity " + s.name;
        case Kind::joint_resistance:
            return "joint resistance " + s.name;
        case Kind::resistance:
            return "resistance of " + s.name;
        case Kind::convection:
            return "convection of " + s.name;
        case Kind::radiation:
            return "radiation of " + s.name;
        case Kind::power:
            return "power " + s.name;
        case Kind::ambient:
            return "ambient of " + s.name;
        case Kind::hold:
            return "temperature of " + s.name;
    }
    return s.name;
}

std::vector<Contribution> main_pieces(const std::vector<Contribution>& all, double rise, std::size_t most, double least) {
    std::vector<Contribution> out;
    Contribution rest{.kind = Contribution::Kind::rest};
    const double whole = std::abs(share_of(all, rise).whole);
    std::size_t merged = 0;
    for (const Contribution& c : all) {
        if (out.size() < most && std::abs(c.rise) >= least * whole) {
            out.push_back(c);
        } else {
            rest.rise += c.rise;
            ++merged;
        }
    }
    rest.name = fmt::format("{} other{}", merged, merged == 1 ? "" : "s");
    if (merged > 0) out.push_back(std::move(rest));
    return out;
}

std::string ShareOf::text(double piece) const { return of_rise && whole != 0.0 ? fmt::format("{:.1f} %", 100.0 * piece / whole) : "-"; }

ShareOf share_of(const std::vector<Contribution>& all, double rise) {
    constexpr double next_to_nothing = 0.02;  // of the largest piece
    double largest = 0.0;
    for (const Contribution& c : all) largest = std::max(largest, std::abs(c.rise));
    const bool of_rise = std::abs(rise) >= next_to_nothing * largest;
    return {.whole = of_rise ? rise : largest, .of_rise = of_rise};
}

std::string one_degree(const Units& units) { return "1 " + difference_unit(units); }

std::string change_text(const Sensitivity& s, const Units& units) {
    return s.per_kelvin() ? fmt::format("{:+.2f}", s.change) : degrees_apart(s.change, units, 2, true);
}

std::string headline(const Explanation& e, const Units& units) {
    const bool sensor = !e.spot.lumped && e.spot.body != e.subject && !e.subject.empty() && !e.coldest && !e.spot.body.starts_with(e.subject);
    std::string out = fmt::format("{} is {}{} {}", e.subject,
                                  sensor      ? "at "
                                  : e.coldest ? "coldest at "
                                              : "hottest at ",
                                  show_temperature(e.spot.temperature, units), e.spot.lumped ? std::string("(a lumped node)") : place(e.spot.at, units));
    if (e.time) out += fmt::format(" at {}", duration(*e.time));
    out += fmt::format(", {} above {}", show_difference(e.rise, units), show_temperature(e.base, units));
    if (e.limit) out += fmt::format("; its limit is {}", show_temperature(*e.limit, units));
    return out;
}

std::string to_text(const Explanation& e, const Units& units) {
    std::string out = fmt::format("  {}\n", wrapped(headline(e, units), 2));
    if (!e.held_by.empty())
        return out + fmt::format("  {}\n", wrapped(fmt::format("hold \"{}\" imposes this temperature: nothing else in the model explains it", e.held_by), 2));
    out += "\n" + pieces_table(e.along, e.rise, "Heat path", units) + "\n" + pieces_table(e.by_load, e.rise, "Heat sources", units);
    if (!e.sensitivities.empty()) out += "\n" + sensitivity_table(e, units);
    if (e.time) out += "  At this moment parts take up or give off heat, which counts among the sources.\n";
    if (!e.linear) out += "  The model is nonlinear: the splits hold at the temperatures found, the changes for small steps.\n";
    return out;
}

void draw_explanation(const std::filesystem::path& stem, const Explanation& e, const Units& units) {
    const double one = unit_of(kinds::temperature_difference, units).one;
    std::string script = fmt::format("set title {} offset 0,0.5\nunset key\nunset grid\nset grid x lc rgb \"#dddddd\" lt 1 lw 1\nunset ytics\nset border 1\n",
                                     plot_text(headline(e, units)));
    script += fmt::format("set xlabel {}\n", plot_text(fmt::format("{} above {}", difference_unit(units), show_temperature(e.base, units))));
    int object = 0, label = 0;
    double lowest = 0.0, highest = std::max(0.0, e.rise);
    struct Stack {
        std::string_view title;
        const std::vector<Contribution>* all;
        std::size_t most;
    };
    const Stack stacks[] = {{"heat path", &e.along, 11}, {"heat sources", &e.by_load, 6}};
    double y = 0.0;
    for (const Stack& stack : stacks) {
        script += fmt::format("set label {} {} at graph 0,first {:.4g} offset 0,0 font \",13\"\n", ++label, plot_text(std::string(stack.title)), -y + 0.2);
        double at = 0.0;
        std::size_t n = 0;
        // A staircase: every piece begins where the one above it ends, so that lengths and the sum are seen at once.
        for (const Contribution& c : main_pieces(*stack.all, e.rise, stack.most, 0.01)) {
            y += 1.0;
            add_piece(script, object, at / one, (at + c.rise) / one, -y + 0.1, -y + 0.9, n++);
            const double end = std::max(at, at + c.rise);
            const bool inside_left = end > 0.62 * std::max(e.rise, 1e-9);
            script += fmt::format("set label {} {} at {:.6g},{:.4g} {} offset {},0 tc rgb \"#222222\"\n", ++label,
                                  plot_text(fmt::format("{}  {} {}", phrase(c), degrees_apart(c.rise, units, 1, true), difference_unit(units))),
                                  (inside_left ? std::min(at, at + c.rise) : end) / one, -y + 0.5, inside_left ? "right" : "left", inside_left ? -1 : 1);
            at += c.rise;
            lowest = std::min(lowest, at);
            highest = std::max(highest, at);
        }
        y += 1.6;
    }
    const double span = std::max(highest - lowest, 1e-9);
    script +=
        fmt::format("set xrange [{:.6g}:{:.6g}]\nset yrange [{:.4g}:{:.4g}]\n", (lowest - 0.02 * span) / one, (highest + 0.04 * span) / one, -y + 1.0, 0.6);
    if (e.limit && *e.limit > e.base && *e.limit - e.base < highest + 0.04 * span) {
        script += fmt::format(
            "set arrow 1 from {0:.6g},graph 0 to {0:.6g},graph 1 nohead lc rgb \"#222222\" lw 1 dt (6,6)\nset label {1} {2} at {0:.6g},graph 0.97 right offset "
            "-1,0\n",
            (*e.limit - e.base) / one, ++label, plot_text("limit " + show_temperature(*e.limit, units)));
    }
    run_gnuplot(stem, script + "plot NaN notitle\n");
}

}  // namespace firnfield
