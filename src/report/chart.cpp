// Charts over time, along sweeps and as bars, drawn by gnuplot.

#include <firnfield/chart.hpp>
#include <firnfield/quantity.hpp>

#include "report/chart_lines.hpp"
#include "report/gnuplot.hpp"
#include "report/phrases.hpp"
#include "report/profile_curve.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <map>

namespace firnfield {
namespace {

// Dark enough on white, far apart in lightness, and each with a dash of its own, so that lines are told apart without colour.
constexpr std::array<std::string_view, 8> colours{"#7a1f1f", "#c8641b", "#2b6777", "#1d2f4f", "#7f7f2a", "#8a5a83", "#4d4d4d", "#3c8d5a"};
constexpr std::array<std::string_view, 8> dashes{"1", "(14,4)", "(8,3)", "(14,4,3,4)", "(5,4)", "(10,3,3,3,3,3)", "(3,3)", "(18,6)"};

struct TimeUnit {
    std::string_view name;
    double seconds;
};
TimeUnit unit_for(double length) {
    if (length < 2e-3) return {"µs", 1e-6};
    if (length < 2.0) return {"ms", 1e-3};
    if (length < 300.0) return {"s", 1.0};
    if (length < 3.0 * 3600.0) return {"min", 60.0};
    return {"h", 3600.0};
}

std::string line_style(std::size_t n) { return fmt::format("lw 2 lc rgb \"{}\" dt {}", colours[n % colours.size()], dashes[n % dashes.size()]); }

/// Solid, since what switches often would lose its dashes.
std::string load_style(std::size_t n) { return fmt::format("lw 1.6 lc rgb \"{}\"", colours[(n + 2) % colours.size()]); }

/// The history's columns with a certain ending, as name and place.
std::vector<std::pair<std::string, std::size_t>> columns_ending(const History& history, std::string_view ending) {
    std::vector<std::pair<std::string, std::size_t>> found;
    for (std::size_t c = 0; c < history.columns.size(); ++c) {
        const std::string& name = history.columns[c];
        if (name.ends_with(ending)) found.emplace_back(name.substr(0, name.size() - ending.size()), c);
    }
    return found;
}

double highest(const History& history, std::size_t column) {
    double most = -1e300;
    for (const auto& row : history.rows) most = std::max(most, row[column]);
    return most;
}

std::string data_block(std::string_view name, const History& history, const std::vector<std::size_t>& columns, double unit, const auto& told) {
    std::string out = fmt::format("${} << EOD\n", name);
    constexpr std::size_t most = 4000;
    for (const std::size_t r : rows_of_chart(history, columns, most)) {
        out += fmt::format("{:.8g}", history.time[r] / unit);
        for (const std::size_t c : columns) out += fmt::format(" {:.7g}", told(history.rows[r][c]));
        out += "\n";
    }
    return out + "EOD\n";
}

}  // namespace

std::vector<std::size_t> rows_of_chart(const History& history, const std::vector<std::size_t>& columns, std::size_t most) {
    const std::size_t count = history.rows.size(), each = 2 * std::max<std::size_t>(1, columns.size());
    std::vector<std::size_t> out;
    const std::size_t stretch = count <= most ? 1 : (count * each + most - 1) / most;
    for (std::size_t from = 0; from < count; from += stretch) {
        const std::size_t to = std::min(count, from + stretch);
        if (columns.empty() || to - from == 1) out.push_back(from);
        if (to - from == 1) continue;
        for (const std::size_t c : columns) {
            std::size_t low = from, high = from;
            for (std::size_t r = from; r < to; ++r) {
                if (history.rows[r][c] < history.rows[low][c]) low = r;
                if (history.rows[r][c] > history.rows[high][c]) high = r;
            }
            out.insert(out.end(), {low, high});
        }
    }
    if (count > 0) out.insert(out.end(), {0, count - 1});
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

std::vector<ChartLine> chart_lines(const TimeFindings& f, const History& history) {
    // The parts that come nearest to their limits, then the hottest; sensors and figures beside them.
    auto parts = columns_ending(history, " max (degC)");
    const auto margin_of = [&](const std::string& name) {
        double least = std::numeric_limits<double>::infinity();
        for (const LimitOverTime& l : f.limits) least = l.of == SubjectKind::part && l.subject == name ? std::min(least, l.margin) : least;
        return least;
    };
    std::stable_sort(parts.begin(), parts.end(), [&](const auto& a, const auto& b) {
        const double margin_a = margin_of(a.first), margin_b = margin_of(b.first);
        return margin_a != margin_b ? margin_a < margin_b : highest(history, a.second) > highest(history, b.second);
    });
    constexpr std::size_t most_parts = 5, most_sensors = 5, most_figures = 3;
    if (parts.size() > most_parts) parts.resize(most_parts);
    std::vector<ChartLine> lines;
    for (auto& [name, column] : parts) lines.push_back({name + ", hottest", name, column});
    const auto add = [&](const std::string& subject, const std::string& name) {
        const auto found = std::find(history.columns.begin(), history.columns.end(), subject + " (degC)");
        if (found != history.columns.end()) lines.push_back({name, subject, static_cast<std::size_t>(found - history.columns.begin())});
    };
    // Sensors with limits first.
    std::vector<const SensorOverTime*> sensors;
    for (const SensorOverTime& s : f.sensors) sensors.push_back(&s);
    std::stable_partition(sensors.begin(), sensors.end(), [&](const SensorOverTime* s) {
        return std::any_of(f.limits.begin(), f.limits.end(), [&](const LimitOverTime& l) { return l.of == SubjectKind::sensor && l.subject == s->name; });
    });
    for (std::size_t n = 0; n < std::min(most_sensors, sensors.size()); ++n) add(sensors[n]->name, "sensor " + sensors[n]->name);
    std::size_t figures = 0;
    for (const NamedOverTime& named : f.named) {
        if (named.quantity->absolute_temperature && figures++ < most_figures) add(named.name, named.name);
    }
    return lines;
}

void draw_history(const std::filesystem::path& stem, const TimeFindings& f, const Units& units) {
    const UnitOf scale = unit_of(kinds::temperature, units);
    const auto degrees_of = [&](double celsius) { return scale.out(kinds::temperature.in(celsius)); };
    const auto as_it_is = [](double value) { return value; };
    const History& history = f.history;
    const TimeUnit unit = unit_for(f.end_time);
    const std::vector<ChartLine> lines = chart_lines(f, history);
    auto loads = columns_ending(history, " in (W)");
    std::erase_if(loads, [&](const auto& load) {
        return std::all_of(history.rows.begin(), history.rows.end(), [&](const auto& row) { return row[load.second] == 0.0; });
    });
    std::vector<std::size_t> temperature_columns, load_columns, switch_columns;
    for (const ChartLine& line : lines) temperature_columns.push_back(line.column);
    for (const auto& line : loads) load_columns.push_back(line.second);
    const auto switches = columns_ending(history, " on (1)");
    for (const auto& line : switches) switch_columns.push_back(line.second);

    std::string script =
        data_block("temperatures", history, temperature_columns, unit.seconds, degrees_of) + data_block("loads", history, load_columns, unit.seconds, as_it_is);
    if (!switches.empty()) script += data_block("switches", history, switch_columns, unit.seconds, as_it_is);
    std::string marks;
    for (const LimitOverTime& l : f.limits) {
        if (!l.quantity->absolute_temperature) continue;
        std::size_t count = 0;
        for (const Interval& i : l.beyond) {
            if (++count > 40) break;
            if (i.from > 0.0) marks += fmt::format("{:.8g} {:.6g}\n", i.from / unit.seconds, scale.out(l.limit));
            if (i.to < f.end_time) marks += fmt::format("{:.8g} {:.6g}\n", i.to / unit.seconds, scale.out(l.limit));
        }
    }
    if (!marks.empty()) script += "$marks << EOD\n" + marks + "EOD\n";

    const bool lower = !loads.empty();
    script += "set multiplot\nset lmargin at screen 0.07\nset rmargin at screen 0.80\n";
    script += fmt::format("set xrange [0:{:.8g}]\n", f.end_time / unit.seconds);
    script += lower ? "set bmargin at screen 0.36\nset tmargin at screen 0.93\nset format x \"\"\n"
                    : fmt::format("set bmargin at screen 0.10\nset tmargin at screen 0.93\nset xlabel \"time ({})\"\n", unit.name);
    script += fmt::format("set title {} left offset 0,0.3\nset ylabel \"{}\"\nset key at screen 0.985,0.925 right top Left reverse spacing 1.25 samplen 2.5\n",
                          plot_text((f.title.empty() ? "" : f.title + ": ") + f.study.name), scale.shown);
    // Limits that came near; one far above would flatten the curves and say little.
    double low = 1e300, high = -1e300;
    for (const std::size_t c : temperature_columns) {
        for (const auto& row : history.rows) low = std::min(low, degrees_of(row[c])), high = std::max(high, degrees_of(row[c]));
    }
    const double span = std::max(high - low, 1.0);
    std::map<std::pair<double, bool>, std::vector<std::string>> labels;  // limits at the same height share one
    int arrow = 0;
    for (const LimitOverTime& l : f.limits) {
        const double value = scale.out(l.limit);
        constexpr double near = 0.35;
        const bool shown =
            l.quantity->absolute_temperature && std::any_of(lines.begin(), lines.end(), [&](const auto& line) { return line.subject == l.subject; });
        if (!shown || l.margin / scale.one > near * span) continue;
        low = std::min(low, value);
        high = std::max(high, value);
        ++arrow;
        script += fmt::format("set arrow {} from graph 0,first {:.6g} to graph 1,first {:.6g} nohead lc rgb \"#222222\" lw 1 dt (6,6)\n", arrow, value, value);
        labels[{value, l.upper}].push_back(l.subject);
    }
    for (const auto& [level, subjects] : labels) {
        script += fmt::format("set label {} at graph 0.995,first {:.6g} right offset 0,0.6 tc rgb \"#222222\" font \",10\"\n",
                              plot_text(fmt::format("{} {} {:g}", fmt::join(subjects, ", "), level.second ? "<" : ">", level.first)), level.first);
    }
    const double margin = 0.06 * (high - low);
    script += fmt::format("set yrange [{:.6g}:{:.6g}]\nplot ", low - margin, high + margin);
    for (std::size_t n = 0; n < lines.size(); ++n) {
        script += fmt::format("{}$temperatures using 1:{} with lines {} title {}", n == 0 ? "" : ", ", n + 2, line_style(n), plot_text(lines[n].name));
    }
    if (!marks.empty()) script += ", $marks using 1:2 with points pt 6 ps 1.4 lw 2 lc rgb \"#000000\" title \"limit crossed\"";
    script += "\n";
    if (lower) {
        script += "unset arrow\nunset label\nunset title\nset bmargin at screen 0.09\nset tmargin at screen 0.32\nset format x\nset yrange [*:*]\n";
        script += fmt::format("set xlabel \"time ({})\"\nset ylabel \"W\"\nset key at screen 0.985,0.315\nset yrange [0:*]\nplot ", unit.name);
        for (std::size_t n = 0; n < loads.size(); ++n) {
            script += fmt::format("{}$loads using 1:{} with lines {} title {}", n == 0 ? "" : ", ", n + 2, load_style(n), plot_text(loads[n].first));
        }
        script += "\n";
    }
    script += "unset multiplot\n";
    run_gnuplot(stem, script);
}

void draw_curves(const std::filesystem::path& stem, const Curves& curves) {
    std::string script = "$data << EOD\n";
    for (std::size_t i = 0; i < curves.x.size(); ++i) {
        script += fmt::format("{:.8g}", curves.x[i]);
        for (const auto& y : curves.y) script += fmt::format(" {:.8g}", y[i]);
        script += "\n";
    }
    script +=
        fmt::format("EOD\nset title {}\nset xlabel {}\nset ylabel {}\nset key outside right top Left reverse\nset offsets 0,0,graph 0.05,graph 0.05\nplot ",
                    plot_text(curves.title), plot_text(curves.x_label), plot_text(curves.y_label));
    if (curves.decades) script.insert(script.rfind("plot "), "set logscale x\nset grid xtics ytics\nset offsets 0,0,graph 0.05,0\n");
    for (std::size_t n = 0; n < curves.names.size(); ++n) {
        script += fmt::format("{}$data using 1:{} with lines {} title {}", n == 0 ? "" : ", ", n + 2, line_style(n), plot_text(curves.names[n]));
    }
    run_gnuplot(stem, script + "\n");
}

std::vector<std::pair<double, double>> profile_curve(const Profile& profile, double span) {
    std::vector<std::pair<double, double>> out;
    constexpr int pieces = 400;
    double time = 0.0;
    for (int n = 0; n < 20000 && time < span; ++n) {
        const double edge = std::min(next_edge(profile, time), span);
        const double length = edge - time;
        const int within = profile.sine ? pieces : 1;
        for (int i = 0; i < within; ++i) out.emplace_back(time + length * i / within, value_at(profile, time + length * i / within));
        out.emplace_back(edge, value_at(profile, edge - 1e-9 * length));  // just before a jump
        time = edge;
    }
    return out;
}

double span_to_show(const Model& model, const Profile& profile) {
    if (const auto period = period_of(profile)) return 4.0 * *period + (profile.duty ? profile.duty->delay : 0.0);
    if (!profile.points.empty()) return 1.1 * profile.points.at.back();
    double longest = 1.0;
    for (const Study& study : model.studies) longest = std::max(longest, study.lasts);
    return longest;
}

void draw_profile(const std::filesystem::path& stem, const Profile& profile, double span, const Units& units) {
    const UnitOf scale = unit_of(kinds::temperature, units);
    const TimeUnit unit = unit_for(span);
    Curves curves{.title = "Profile " + profile.name,
                  .x_label = fmt::format("time ({})", unit.name),
                  .y_label = profile.gives == CourseOf::temperature ? scale.shown
                             : profile.gives == CourseOf::power     ? "W"
                                                                    : "factor",
                  .names = {profile.name},
                  .x = {},
                  .y = {{}}};
    for (const auto& [time, value] : profile_curve(profile, span)) {
        curves.x.push_back(time / unit.seconds);
        curves.y[0].push_back(profile.gives == CourseOf::temperature ? scale.out(value) : value);
    }
    draw_curves(stem, curves);
}

}  // namespace firnfield
