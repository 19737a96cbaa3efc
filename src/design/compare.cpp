// Designs side by side: differences, the best, what is uncertain, where sweeps meet limits.

#include <firnfield/compare.hpp>
#include <firnfield/quantity.hpp>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

double celsius_of(double kelvin) { return kelvin - zero_celsius; }

double bar_of(const Findings& f, std::string_view kind, const std::string& name) {
    if (!f.error_bars) return 0.0;
    for (const ErrorBar& b : f.error_bars->bars) {
        if (b.kind == kind && b.name == name) return b.error;
    }
    return 0.0;
}

StudyOutcome of_steady(const Findings& f) {
    StudyOutcome out{.study = f.study.name, .verdict = f.limits.empty() ? "no limits" : f.all_limits_kept() ? "kept" : "missed", .hottest = f.hottest};
    for (const LimitFinding& l : f.limits) {
        const double error = bar_of(f, l.of_sensor ? "sensor" : l.upper ? "max" : "min", l.subject);
        out.figures.push_back({"margin", l.subject, "K", l.margin, error, 1, celsius_of(l.limit), l.upper});
    }
    for (const PartFinding& p : f.parts) out.figures.push_back({"hottest", p.name, "degC", celsius_of(p.hottest.temperature), bar_of(f, "max", p.name)});
    for (const SensorFinding& s : f.sensors) out.figures.push_back({"sensor", s.name, "degC", celsius_of(s.temperature), bar_of(f, "sensor", s.name)});
    for (const JointFinding& j : f.joints) out.figures.push_back({"joint drop", j.first + " - " + j.second, "K", std::abs(j.drop)});
    for (const ResistorFinding& r : f.resistors) out.figures.push_back({"joint drop", r.name, "K", std::abs(r.drop)});
    return out;
}

StudyOutcome of_time(const TimeFindings& f) {
    StudyOutcome out{.study = f.study.name, .verdict = f.limits.empty() ? "no limits" : f.all_limits_kept() ? "kept" : "missed", .hottest = f.hottest.spot};
    for (const LimitOverTime& l : f.limits) out.figures.push_back({"margin", l.subject, "K", l.margin, 0.0, 1, celsius_of(l.limit), l.upper});
    for (const LimitOverTime& l : f.limits) {
        if (l.first_crossing && *l.first_crossing > 0.0) out.figures.push_back({"first beyond", l.subject, "s", l.first_crossing, 0.0, 1});
        if (l.met_from) out.figures.push_back({"holds from", l.subject, "s", l.met_from, 0.0, -1});
    }
    for (const PartOverTime& p : f.parts) out.figures.push_back({"hottest", p.name, "degC", celsius_of(p.hottest.spot.temperature)});
    for (const SensorOverTime& s : f.sensors) out.figures.push_back({"sensor", s.name, "degC", celsius_of(s.highest)});
    for (const ThermostatFinding& t : f.thermostats) out.figures.push_back({"duty", t.name, "1", t.duty});
    return out;
}

/// Whether two figures tell the same thing of two designs.
bool same(const Figure& a, const Figure& b) { return a.kind == b.kind && a.name == b.name && a.upper == b.upper && (a.kind != "margin" || a.limit == b.limit); }

const StudyOutcome* find(const Outcome& design, const std::string& study) {
    for (const StudyOutcome& s : design.studies) {
        if (s.study == study) return &s;
    }
    return nullptr;
}

/// The design with the best value, unless all are alike.
std::optional<std::size_t> best_of(const ComparedFigure& figure) {
    std::optional<std::size_t> best, worst;
    for (std::size_t d = 0; d < figure.value.size(); ++d) {
        if (!figure.value[d]) continue;
        const double v = figure.what.better * *figure.value[d];
        if (!best || v > figure.what.better * *figure.value[*best]) best = d;
        if (!worst || v < figure.what.better * *figure.value[*worst]) worst = d;
    }
    constexpr double alike = 1e-3;  // relative to the value: next to nothing
    if (figure.what.better == 0 || !best || std::abs(*figure.value[*best] - *figure.value[*worst]) <= alike * std::max(std::abs(*figure.value[*best]), 1.0))
        return std::nullopt;
    return best;
}

}  // namespace

StudyOutcome outcome(const StudyFindings& findings) {
    const Findings* steady = std::get_if<Findings>(&findings);
    return steady != nullptr ? of_steady(*steady) : of_time(std::get<TimeFindings>(findings));
}

std::optional<double> mass_of(const StudyFindings& findings) {
    const Findings* steady = std::get_if<Findings>(&findings);
    double sum = 0.0;
    for (const PartFinding& part : (steady != nullptr ? *steady : std::get<TimeFindings>(findings).end).parts) {
        if (!part.mass) return std::nullopt;
        sum += *part.mass;
    }
    if (!(sum > 0.0)) return std::nullopt;  // of lumped nodes alone nothing is known
    return sum;
}

std::optional<double> ComparedFigure::difference(std::size_t design, std::size_t base) const {
    if (!value[design] || !value[base]) return std::nullopt;
    return *value[design] - *value[base];
}

bool ComparedFigure::uncertain(std::size_t design, std::size_t base) const {
    const auto d = difference(design, base);
    return design != base && d && error[design] + error[base] > 0.0 && std::abs(*d) < std::hypot(error[design], error[base]);
}

std::vector<std::string> Comparison::studies() const {
    std::vector<std::string> names;
    for (const Outcome& design : designs) {
        for (const StudyOutcome& s : design.studies) {
            if (std::find(names.begin(), names.end(), s.study) == names.end()) names.push_back(s.study);
        }
    }
    return names;
}

Comparison compare(std::string title, std::vector<Outcome> designs, std::size_t base) {
    Comparison out{.title = std::move(title), .designs = std::move(designs), .base = base};
    for (const std::string& study : out.studies()) {
        const std::size_t first = out.figures.size();
        for (const Outcome& design : out.designs) {
            const StudyOutcome* own = find(design, study);
            if (own == nullptr) continue;
            for (const Figure& f : own->figures) {
                const bool known = std::any_of(out.figures.begin() + static_cast<std::ptrdiff_t>(first), out.figures.end(),
                                               [&](const ComparedFigure& c) { return same(c.what, f); });
                if (!known) out.figures.push_back({.study = study, .what = f});
            }
        }
        for (std::size_t i = first; i < out.figures.size(); ++i) {
            ComparedFigure& figure = out.figures[i];
            for (const Outcome& design : out.designs) {
                const StudyOutcome* own = find(design, study);
                figure.value.emplace_back();
                figure.error.push_back(0.0);
                if (own == nullptr) continue;
                const auto f = std::find_if(own->figures.begin(), own->figures.end(), [&](const Figure& other) { return same(figure.what, other); });
                if (f == own->figures.end()) continue;
                figure.value.back() = f->value;
                figure.error.back() = f->error;
            }
            figure.best = best_of(figure);
        }
    }
    return out;
}

std::vector<Crossing> crossings(const Comparison& comparison, const std::string& sweep) {
    std::vector<Crossing> out;
    std::vector<std::size_t> points;
    for (std::size_t d = 0; d < comparison.designs.size(); ++d) {
        if (comparison.designs[d].sweep == sweep && comparison.designs[d].at.size() == 1) points.push_back(d);
    }
    const auto number = [&](std::size_t i) { return comparison.designs[points[i]].at.front().number; };
    for (const ComparedFigure& f : comparison.figures) {
        if (f.what.kind != "margin") continue;
        for (std::size_t i = 0; i + 1 < points.size(); ++i) {
            const auto a = f.value[points[i]], b = f.value[points[i + 1]];
            if (!a || !b || (*a >= 0.0) == (*b >= 0.0)) continue;
            const double share = *a / (*a - *b), from = number(i), to = number(i + 1);
            const bool ratios = points.size() > 2 && number(0) > 0.0 && number(2) > 0.0 &&
                                std::abs(number(1) / number(0) - number(2) / number(1)) < 1e-3 * number(1) / number(0);
            out.push_back({f.study, f.what.name, comparison.designs[points[i]].at.front().address,
                           ratios ? from * std::pow(to / from, share) : from + share * (to - from), from, to, f.what.upper, f.what.limit.value_or(0.0)});
        }
    }
    return out;
}

}  // namespace firnfield
