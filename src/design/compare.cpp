// Designs side by side: differences, the best, what is uncertain, where sweeps meet limits.

#include <firnfield/compare.hpp>
#include <firnfield/quantity.hpp>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

const StudyOutcome* find(const Outcome& design, const std::string& study) {
    for (const StudyOutcome& s : design.studies) {
        if (s.study == study) return &s;
    }
    return nullptr;
}

/// The design with the best value, unless all are alike. Where a time never comes in one of them, none is best: never may be better or worse.
std::optional<std::size_t> best_of(const ComparedFigure& figure, bool of_all) {
    const int better = info(figure.what.kind).better;
    if (better == 0 || !of_all) return std::nullopt;
    std::optional<std::size_t> best, worst;
    for (std::size_t d = 0; d < figure.value.size(); ++d) {
        if (!figure.value[d]) continue;
        const double v = better * *figure.value[d];
        if (!best || v > better * *figure.value[*best]) best = d;
        if (!worst || v < better * *figure.value[*worst]) worst = d;
    }
    constexpr double alike = 1e-3;  // relative to the value: next to nothing
    if (!best || std::abs(*figure.value[*best] - *figure.value[*worst]) <= alike * std::max(std::abs(*figure.value[*best]), 1.0)) return std::nullopt;
    return best;
}

}  // namespace

StudyOutcome outcome(const StudyFindings& findings) {
    if (const Findings* f = std::get_if<Findings>(&findings)) return {f->study.name, f->verdict(), f->hottest, f->figures};
    const TimeFindings& f = std::get<TimeFindings>(findings);
    return {f.study.name, f.verdict(), f.hottest.spot, f.figures};
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

double ComparedFigure::error_of_difference(std::size_t design, std::size_t base) const {
    const double both = std::hypot(error[design], error[base]);
    const bool estimated = std::max(design, base) < correction.size() && correction[design] && correction[base];
    if (!estimated) return both;
    constexpr double own_share = 0.2;  // of a correction: what two similar meshes do not have in common
    const double change = std::abs(*correction[design] - *correction[base]);
    const double larger = std::max(std::abs(*correction[design]), std::abs(*correction[base]));
    const double least = 1e-3 * std::abs(*value[design] - *value[base]);
    return std::min(both, 0.5 * change + own_share * larger + least);
}

bool ComparedFigure::uncertain(std::size_t design, std::size_t base) const {
    const auto d = difference(design, base);
    const double off = error_of_difference(design, base);
    return design != base && d && off > 0.0 && std::abs(*d) < off;
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
            bool of_all = true;  // that solved the study
            for (const Outcome& design : out.designs) {
                const StudyOutcome* own = find(design, study);
                figure.value.emplace_back();
                figure.error.push_back(0.0);
                figure.correction.emplace_back();
                if (own == nullptr) continue;
                const auto f = std::find_if(own->figures.begin(), own->figures.end(), [&](const Figure& other) { return same(figure.what, other); });
                if (f == own->figures.end()) {
                    of_all = of_all && quantity_of(figure.what).name != kinds::time.name;
                    continue;
                }
                figure.value.back() = f->value;
                figure.error.back() = f->error();
                if (f->bar) figure.correction.back() = f->bar->correction;
            }
            figure.best = best_of(figure, of_all);
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
        if (f.what.kind != FigureKind::margin) continue;
        for (std::size_t i = 0; i + 1 < points.size(); ++i) {
            const auto a = f.value[points[i]], b = f.value[points[i + 1]];
            if (!a || !b || (*a >= 0.0) == (*b >= 0.0)) continue;
            const double share = *a / (*a - *b), from = number(i), to = number(i + 1);
            const bool ratios = points.size() > 2 && number(0) > 0.0 && number(2) > 0.0 &&
                                std::abs(number(1) / number(0) - number(2) / number(1)) < 1e-3 * number(1) / number(0);
            out.push_back({f.study, f.what.name, comparison.designs[points[i]].at.front().address,
                           ratios ? from * std::pow(to / from, share) : from + share * (to - from), from, to, f.what.upper, f.what.limit.value_or(0.0),
                           f.what.of != nullptr ? f.what.of : &kinds::temperature});
        }
    }
    return out;
}

}  // namespace firnfield
