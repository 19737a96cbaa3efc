// Comparisons as text and charts.

#include <firnfield/chart.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/text.hpp>

#include "base/words.hpp"
#include "findings/figures.hpp"
#include "report/compare.hpp"
#include "report/gnuplot.hpp"
#include "report/phrases.hpp"
#include "report/table.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

namespace firnfield {
namespace {

constexpr std::size_t columns_at_once = 5;

const StudyOutcome* study_of(const Outcome& design, const std::string& study) {
    for (const StudyOutcome& s : design.studies) {
        if (s.study == study) return &s;
    }
    return nullptr;
}

/// Whether a chart of temperatures can show it.
bool is_margin_in_degrees(const Figure& f) { return f.kind == FigureKind::margin && (f.of == nullptr || f.of->absolute_temperature); }

const Figure* tightest(const StudyOutcome& study) {
    const Figure* least = nullptr;
    for (const Figure& f : study.figures) {
        if (f.kind != FigureKind::margin || !f.value) continue;
        const auto rank = [](const Figure& margin) { return tightness(*margin.value, quantity_of(margin)); };
        if (least == nullptr || rank(f) < rank(*least)) least = &f;
    }
    return least;
}

bool is_time(const Figure& f) { return quantity_of(f).name == kinds::time.name; }
/// With its own unit: in comparisons temperatures and powers stand without.
bool is_named(const Figure& f) { return f.of != nullptr && !is_time(f); }

/// A share counts in percent here.
double percent_of(const Figure& f) { return !is_named(f) && quantity_of(f).name == kinds::number.name ? 100.0 : 1.0; }

std::string value_text(const Figure& f, double value, const Units& units) {
    if (is_time(f)) return duration(value);
    if (is_named(f))
        return (f.kind == FigureKind::margin ? (value < 0.0 ? "-" : "+") : "") +
               amount_text(f.kind == FigureKind::margin ? std::abs(value) : value, quantity_of(f), units);
    if (f.kind == FigureKind::margin) return degrees_apart(value, units, 1, true);
    const double shown = percent_of(f) * unit_of(quantity_of(f), units).out(value);
    return fmt::format("{:.1f}{}", std::abs(shown) < 0.05 ? 0.0 : shown, percent_of(f) > 1.0 ? " %" : "");  // no -0.0
}

std::string difference_text(const Figure& f, double difference, const Units& units) {
    if (is_time(f)) return (difference < 0.0 ? "-" : "+") + duration(std::abs(difference));
    if (is_named(f)) {
        const double next_to = std::max(std::abs(f.value.value_or(0.0)), std::abs(f.limit.value_or(0.0)));
        const bool alike = is_kelvin(quantity_of(f)) ? std::abs(difference) < 0.05 : std::abs(difference) < 5e-4 * next_to;
        return alike ? "=" : (difference < 0.0 ? "-" : "+") + amount_text(std::abs(difference), difference_of(quantity_of(f)), units, 3);
    }
    difference *= percent_of(f) / unit_of(difference_of(quantity_of(f)), units).one;
    return std::abs(difference) < 0.05 ? "=" : fmt::format("{:+.1f}", difference);
}

/// In the reader's scale.
double limit_of(const Figure& f, const Units& units) { return unit_of(kinds::temperature, units).out(f.limit.value_or(zero_celsius)); }

/// The part that is hottest, and how far the spot has moved in it.
std::string hot_place(const StudyOutcome& own, const StudyOutcome* base, const Units& units) {
    constexpr double noticeable = 2e-3;  // m
    const double moved = base == nullptr || base->hottest.body != own.hottest.body ? 0.0 : length(own.hottest.at - base->hottest.at);
    return own.hottest.body + (moved > noticeable ? ", moved " + show_quantity(moved, kinds::length, units, 2) : "");
}

std::string overview(const Comparison& c, const std::string& study, const Units& units) {
    Table table({"design", "", ">least margin", ">change", "of", ">hottest " + degree_unit(units), ">change", "in", ">mass", ">change"});
    const StudyOutcome* base = study_of(c.designs[c.base], study);
    const Figure* base_margin = base == nullptr ? nullptr : tightest(*base);
    double best = -std::numeric_limits<double>::infinity();
    for (const Outcome& d : c.designs) {
        const StudyOutcome* own = study_of(d, study);
        if (own != nullptr && tightest(*own) != nullptr && is_margin_in_degrees(*tightest(*own))) best = std::max(best, *tightest(*own)->value);
    }
    for (std::size_t d = 0; d < c.designs.size(); ++d) {
        const Outcome& design = c.designs[d];
        const StudyOutcome* own = study_of(design, study);
        if (own == nullptr) {
            table.row({design.name, "not solved", "", "", "", "", "", "", "", ""});
            continue;
        }
        const Figure* margin = tightest(*own);
        const auto change = [&](double now, double before) {
            return d == c.base ? std::string("base") : std::abs(now - before) < 0.05 ? std::string("=") : degrees_apart(now - before, units, 1, true);
        };
        table.row(
            {design.name,
             own->verdict == Verdict::missed ? "MISSED"
             : own->verdict == Verdict::kept ? "ok"
                                             : "",
             margin == nullptr                ? ""
             : !is_margin_in_degrees(*margin) ? value_text(*margin, *margin->value, units)
                                              : fmt::format("{}{} {}", *margin->value == best && c.designs.size() > 1 ? "* " : "",
                                                            degrees_apart(*margin->value, units, 1, true), difference_unit(units)),
             margin == nullptr || base_margin == nullptr || !is_margin_in_degrees(*margin) || !is_margin_in_degrees(*base_margin)
                 ? ""
                 : change(*margin->value, *base_margin->value),
             margin == nullptr ? "" : margin->name, degrees(own->hottest.temperature, units),
             base == nullptr ? "" : change(own->hottest.temperature, base->hottest.temperature), hot_place(*own, base, units),
             design.mass ? show_quantity(*design.mass, kinds::mass, 4) : "?",
             d == c.base || !design.mass || !c.designs[c.base].mass ? "" : fmt::format("{:+.1f} %", 100.0 * (*design.mass / *c.designs[c.base].mass - 1.0))});
    }
    return table.text("  ", 30);
}

double largest_change(const ComparedFigure& f, std::size_t base) {
    double most = 0.0;
    for (std::size_t d = 0; d < f.value.size(); ++d) most = std::max(most, std::abs(f.difference(d, base).value_or(0.0)));
    return most;
}

/// Whether a figure is worth a row.
bool matters(const ComparedFigure& f, std::size_t base) {
    const FigureInfo& what = info(f.what.kind);
    if (what.told != FigureInfo::Told::when_it_differs) return what.told == FigureInfo::Told::always;
    const double most = percent_of(f.what) * largest_change(f, base);
    return most > 0.1 && most > 0.02 * percent_of(f.what) * std::abs(quantity_of(f.what).out(f.value[base].value_or(0.0)));
}

std::string details(const Comparison& c, const std::string& study, const std::vector<std::size_t>& designs, bool& uncertain, const Units& units) {
    std::vector<std::string> headings{"figure"};
    for (const std::size_t d : designs) headings.push_back(">" + c.designs[d].name);
    Table table(headings);
    std::vector<const ComparedFigure*> rows;
    for (const ComparedFigure& f : c.figures) {
        if (f.study == study && matters(f, c.base)) rows.push_back(&f);
    }
    // The hottest and the coldest place of the base, whatever is asked for.
    for (const FigureKind kind : {FigureKind::min, FigureKind::max}) {
        const ComparedFigure* found = nullptr;
        for (const ComparedFigure& f : c.figures) {
            if (f.study != study || f.what.kind != kind || !f.value[c.base]) continue;
            const bool further =
                found == nullptr || (kind == FigureKind::max ? *f.value[c.base] > *found->value[c.base] : *f.value[c.base] < *found->value[c.base]);
            if (further) found = &f;
        }
        if (found != nullptr && std::find(rows.begin(), rows.end(), found) == rows.end()) rows.insert(rows.begin(), found);
    }
    // Of the joints those whose drop changes most.
    constexpr std::size_t most_joints = 6;
    std::vector<const ComparedFigure*> joints;
    std::copy_if(rows.begin(), rows.end(), std::back_inserter(joints),
                 [](const ComparedFigure* f) { return f->what.kind == FigureKind::joint_drop || f->what.kind == FigureKind::resistor_drop; });
    std::stable_sort(joints.begin(), joints.end(), [&](const auto* a, const auto* b) { return largest_change(*a, c.base) > largest_change(*b, c.base); });
    std::erase_if(rows, [&](const ComparedFigure* f) {
        return std::find(joints.begin() + static_cast<std::ptrdiff_t>(std::min(joints.size(), most_joints)), joints.end(), f) != joints.end();
    });
    for (const ComparedFigure* f : rows) {
        std::vector<std::string> cells{figure_label(f->what, units)};
        for (const std::size_t d : designs) {
            cells.push_back(compared_text(c, *f, d, "* ", "-", units));
            uncertain = uncertain || cells.back().find("±") != std::string::npos;
        }
        table.row(std::move(cells));
    }
    return table.empty() ? std::string() : table.text("  ", 44);
}

/// "pad" for "parameters.pad" and short addresses as they are.
std::string short_address(const std::string& address) { return address.starts_with("parameters.") ? address.substr(11) : address; }

std::string unit_of(const std::string& text) {
    const std::size_t end = text.find_first_not_of("+-.0123456789eE ");
    return end == std::string::npos ? std::string() : text.substr(end);
}

std::vector<std::string> sweeps_of(const Comparison& c) {
    std::vector<std::string> names;
    for (const Outcome& d : c.designs) {
        if (!d.sweep.empty() && std::find(names.begin(), names.end(), d.sweep) == names.end()) names.push_back(d.sweep);
    }
    return names;
}

std::string crossing_lines(const Comparison& c, const Units& units) {
    std::string out;
    for (const std::string& sweep : sweeps_of(c)) {
        const std::vector<Crossing> found = crossings(c, sweep);
        std::string unit;
        for (const Outcome& d : c.designs) {
            if (d.sweep == sweep && d.at.size() == 1) unit = unit_of(d.at.front().text);
        }
        for (const Crossing& x : found) {
            out += fmt::format("  {}: {} just meets {} {} at {} = {:.4g}{}{}, between {:.4g} and {:.4g} (study {})\n", sweep, x.subject, x.upper ? "<" : ">",
                               amount_text(x.limit, *x.quantity, units), short_address(x.address), x.number, unit.empty() ? "" : " ", unit, x.from, x.to,
                               in_quotes(x.study));
        }
    }
    return out.empty() ? out : heading("Where limits are just met (by straight lines between points; firnfield seek finds them exactly)") + out;
}

constexpr std::string_view fills[] = {"#1d2f4f", "#c8641b", "#2b6777", "#e0a458", "#7a1f1f", "#8fb3bd", "#7f7f2a", "#8a5a83", "#6d6d6d", "#b9b98a"};

}  // namespace

std::string figure_label(const Figure& f, const Units& units) {
    if (f.kind == FigureKind::margin && f.of != nullptr)
        return fmt::format("margin of {} {} {}", f.name, f.upper ? "<" : ">", amount_text(f.limit.value_or(0.0), *f.of, units));
    if (f.kind == FigureKind::margin) return fmt::format("margin of {} {} {:.0f} {}", f.name, f.upper ? "<" : ">", limit_of(f, units), degree_unit(units));
    if (f.kind == FigureKind::joint_drop || f.kind == FigureKind::resistor_drop) return "drop " + f.name;
    return fmt::format("{} {}", info(f.kind).word, f.name);
}

std::string compared_text(const Comparison& c, const ComparedFigure& f, std::size_t design, std::string_view best, std::string_view none, const Units& units) {
    std::string cell = f.value[design] ? value_text(f.what, *f.value[design], units) : std::string(none);
    if (const auto difference = f.difference(design, c.base); difference && design != c.base) {
        const std::string text = difference_text(f.what, *difference, units);
        cell += fmt::format(" ({}{})", f.uncertain(design, c.base) && text != "=" ? "±" : "", text);
    }
    return f.best == design ? std::string(best) + cell : cell;
}

std::string to_text(const Comparison& c, const Units& units) {
    std::string out = fmt::format("{}\n{} designs, compared with {}; * marks the best\n", c.title, c.designs.size(), in_quotes(c.designs[c.base].name));
    bool uncertain = false;
    for (const std::string& study : c.studies()) {
        out += heading(fmt::format("Study \"{}\"", study)) + overview(c, study, units);
        // Base and a few others at a time; many points of sweeps are better looked at as curves.
        std::vector<std::size_t> others;
        for (std::size_t d = 0; d < c.designs.size(); ++d) {
            if (d != c.base && c.designs[d].sweep.empty()) others.push_back(d);
        }
        for (std::size_t first = 0; first < others.size(); first += columns_at_once - 1) {
            std::vector<std::size_t> shown{c.base};
            for (std::size_t i = first; i < std::min(others.size(), first + columns_at_once - 1); ++i) shown.push_back(others[i]);
            out += "\n" + details(c, study, shown, uncertain, units);
        }
    }
    out += crossing_lines(c, units);
    if (uncertain) out += "\n  ± marks differences smaller than what the mesh leaves open.\n";
    return out;
}

void draw_comparison(const std::filesystem::path& stem, const Comparison& c, const std::string& study, const Units& units) {
    const UnitOf scale = unit_of(kinds::temperature, units);
    constexpr std::size_t most_limits = 5, most_designs = 10;
    std::vector<const ComparedFigure*> limits;
    for (const ComparedFigure& f : c.figures) {
        if (f.study == study && is_margin_in_degrees(f.what)) limits.push_back(&f);
    }
    const auto least = [](const ComparedFigure* f) {
        double out = std::numeric_limits<double>::infinity();
        for (const auto& v : f->value) out = v ? std::min(out, *v) : out;
        return out;
    };
    std::stable_sort(limits.begin(), limits.end(), [&](const auto* a, const auto* b) { return least(a) < least(b); });
    if (limits.size() > most_limits) limits.resize(most_limits);
    std::vector<std::size_t> designs;
    for (std::size_t d = 0; d < c.designs.size(); ++d) {
        if (c.designs[d].sweep.empty() && designs.size() < most_designs) designs.push_back(d);
    }
    if (limits.empty() || designs.empty()) return;
    std::string script = fmt::format(
        "set title {}\nset ylabel \"{}\"\nset key outside bottom center horizontal\nset style fill solid 1.0 noborder\nset boxwidth 0.92 absolute\n"
        "set grid noxtics ytics\n",
        plot_text(fmt::format("{}: study \"{}\", the tightest limits", c.title, study)), scale.shown);
    const double pitch = static_cast<double>(designs.size()) + 1.5;
    std::string tics;
    double low = std::numeric_limits<double>::infinity(), high = -low;
    for (std::size_t l = 0; l < limits.size(); ++l) {
        const Figure& f = limits[l]->what;
        const double limit = limit_of(f, units), left = static_cast<double>(l) * pitch - 0.6, right = left + pitch - 1.3;
        tics += fmt::format("{}{} {:.4g}", l == 0 ? "" : ", ", tick_text(fmt::format("{} {} {:g}", f.name, f.upper ? "<" : ">", limit)), 0.5 * (left + right));
        script += fmt::format("set arrow {} from {:.4g},{:.6g} to {:.4g},{:.6g} nohead front lc rgb \"#111111\" lw 2.5\n", l + 1, left, limit, right, limit);
        low = std::min(low, limit);
        high = std::max(high, limit);
    }
    std::string blocks, plots;
    for (std::size_t i = 0; i < designs.size(); ++i) {
        blocks += fmt::format("$d{} << EOD\n", i);
        for (std::size_t l = 0; l < limits.size(); ++l) {
            const auto margin = limits[l]->value[designs[i]];
            if (!margin) continue;
            const double value = limit_of(limits[l]->what, units) - (limits[l]->what.upper ? *margin : -*margin) / scale.one;
            low = std::min(low, value);
            high = std::max(high, value);
            blocks +=
                fmt::format("{:.4g} {:.6g} {}\n", static_cast<double>(l) * pitch + static_cast<double>(i), value, limits[l]->error[designs[i]] / scale.one);
        }
        blocks += "EOD\n";
        plots += fmt::format("{}$d{} using 1:2 with boxes fs pattern {} lc rgb \"{}\" title {}", i == 0 ? "" : ", ", i, 3, fills[i % std::size(fills)],
                             plot_text(c.designs[designs[i]].name));
        plots += fmt::format(", $d{} using 1:2:(sprintf(\"%.1f\",$2)) with labels offset 0,0.6 font \",10\" notitle", i);
        const bool has_bars = std::any_of(limits.begin(), limits.end(), [&](const auto* f) { return f->error[designs[i]] > 0.0; });
        if (has_bars) plots += fmt::format(", $d{} using 1:2:3 with yerrorbars pt 0 lc rgb \"#111111\" notitle", i);
    }
    const double span = std::max(high - low, 1.0);
    script += fmt::format("set xtics ({}) scale 0\nset xrange [{:.4g}:{:.4g}]\nset yrange [{:.6g}:{:.6g}]\n", tics, -1.0,
                          pitch * static_cast<double>(limits.size()) - 1.0, low - 0.25 * span, high + 0.12 * span);
    run_gnuplot(stem, blocks + script + "plot " + plots + "\n");
}

void draw_sweep(const std::filesystem::path& stem, const Comparison& c, const std::string& sweep, const std::string& study, const Units& units) {
    const UnitOf scale = unit_of(kinds::temperature, units);
    std::vector<std::size_t> points;
    for (std::size_t d = 0; d < c.designs.size(); ++d) {
        if (c.designs[d].sweep == sweep && !c.designs[d].at.empty()) points.push_back(d);
    }
    if (points.size() < 2) return;
    const Outcome::Coordinate& x = c.designs[points.front()].at.back();
    std::string script = fmt::format(
        "set title {}\nset xlabel {}\nset key outside right top Left reverse\nset offsets graph 0,graph 0,graph 0.08,graph 0.08\nset autoscale xfix\n",
        plot_text(fmt::format("{}: sweep {}, study \"{}\"", c.title, sweep, study)),
        plot_text(fmt::format("{}{}", short_address(x.address), unit_of(x.text).empty() ? "" : " (" + unit_of(x.text) + ")")));
    const auto number = [&](std::size_t d) { return c.designs[d].at.back().number; };
    if (points.size() > 2 && number(points[0]) > 0.0 && number(points[1]) > 0.0 && number(points[1]) / number(points[0]) > 1.01 &&
        std::abs(number(points[1]) / number(points[0]) - number(points[2]) / number(points[1])) < 1e-3 * number(points[1]) / number(points[0])) {
        script += "set logscale x\nset xtics (";
        for (std::size_t i = 0; i < points.size(); ++i)
            script += fmt::format("{}{} {:.8g}", i == 0 ? "" : ", ", tick_text(fmt::format("{:.3g}", number(points[i]))), number(points[i]));
        script += ")\n";
    }
    std::vector<const ComparedFigure*> limits;
    for (const ComparedFigure& f : c.figures) {
        if (f.study == study && is_margin_in_degrees(f.what)) limits.push_back(&f);
    }
    std::string blocks, plots;
    int block = 0, label = 0;
    const auto curve = [&](const std::vector<std::pair<double, double>>& line, const std::string& title) {
        blocks += fmt::format("$d{} << EOD\n", block);
        for (const auto& [at, value] : line) blocks += fmt::format("{:.8g} {:.8g}\n", at, value);
        blocks += "EOD\n";
        plots += fmt::format("{}$d{} using 1:2 with linespoints lw 2 pt {} lc rgb \"{}\" title {}", plots.empty() ? "" : ", ", block, 4 + block,
                             fills[static_cast<std::size_t>(block) % std::size(fills)], plot_text(title));
        ++block;
    };
    if (c.designs[points.front()].at.size() == 1) {
        // Temperatures of the limits that come nearest, with the value at which each is just met.
        script += fmt::format("set ylabel \"{}\"\n", scale.shown);
        std::stable_sort(limits.begin(), limits.end(), [&](const auto* a, const auto* b) {
            const auto least = [&](const ComparedFigure* f) {
                double out = std::numeric_limits<double>::infinity();
                for (const std::size_t d : points) out = f->value[d] ? std::min(out, *f->value[d]) : out;
                return out;
            };
            return least(a) < least(b);
        });
        constexpr std::size_t most = 4;
        if (limits.size() > most) limits.resize(most);
        std::map<std::pair<double, bool>, std::vector<std::string>> drawn;  // limits at the same height share a label
        for (const ComparedFigure* f : limits) {
            std::vector<std::pair<double, double>> line;
            const double limit = limit_of(f->what, units);
            for (const std::size_t d : points) {
                if (f->value[d]) line.emplace_back(number(d), limit - (f->what.upper ? *f->value[d] : -*f->value[d]) / scale.one);
            }
            curve(line, f->what.name);
            drawn[{limit, f->what.upper}].push_back(f->what.name);
        }
        for (const auto& [level, names] : drawn) {
            script += fmt::format("set arrow from graph 0,first {0:.6g} to graph 1,first {0:.6g} nohead lc rgb \"#333333\" dt (6,6)\n", level.first);
            script += fmt::format("set label {} {} at graph 0.01,first {:.6g} offset 0,0.6 font \",10\"\n", ++label,
                                  plot_text(fmt::format("{} {} {:g}", fmt::join(names, ", "), level.second ? "<" : ">", level.first)), level.first);
        }
        for (const Crossing& at : crossings(c, sweep)) {
            const bool shown = at.quantity->absolute_temperature && at.study == study &&
                               std::any_of(limits.begin(), limits.end(), [&](const auto* f) { return f->what.name == at.subject; });
            if (!shown) continue;
            script += fmt::format("set label {} {} at {:.8g},{:.6g} point pt 7 ps 1.3 offset 0.8,-0.9 font \",10\"\n", ++label,
                                  plot_text(fmt::format("{:.4g}", at.number)), at.number, scale.out(at.limit));
        }
    } else {
        // Two quantities: the least margin, one curve for each value of the first.
        script += fmt::format("set ylabel \"least margin, {}\"\n", difference_unit(units));
        std::vector<std::pair<std::string, std::vector<std::pair<double, double>>>> family;
        for (const std::size_t d : points) {
            const std::string& first = c.designs[d].at.front().text;
            auto found = std::find_if(family.begin(), family.end(), [&](const auto& line) { return line.first == first; });
            if (found == family.end()) found = family.insert(family.end(), {first, {}});
            double least = std::numeric_limits<double>::infinity();
            for (const ComparedFigure* f : limits) least = f->value[d] ? std::min(least, *f->value[d]) : least;
            if (std::isfinite(least)) found->second.emplace_back(number(d), least / scale.one);
        }
        for (const auto& [text, line] : family) curve(line, fmt::format("{} = {}", short_address(c.designs[points.front()].at.front().address), text));
        plots += ", 0 with lines dt (6,6) lc rgb \"#333333\" notitle";
    }
    if (limits.empty()) return;
    run_gnuplot(stem, blocks + script + "plot " + plots + "\n");
}

}  // namespace firnfield
