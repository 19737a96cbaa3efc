// Where a margin is nothing, within a range: a bracketing search that knows whole numbers and jumps.

#include <firnfield/error.hpp>
#include <firnfield/seek.hpp>

#include "base/words.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {
namespace {

using Evaluation = SeekResult::Evaluation;

void among_whole_numbers(const std::function<Evaluation(double)>& evaluate, Evaluation low, Evaluation high, SeekResult& out) {
    while (std::abs(high.at - low.at) > 1.5) {
        const Evaluation middle = evaluate(std::round(0.5 * (low.at + high.at)));
        ((middle.margin >= 0.0) == (low.margin >= 0.0) ? low : high) = middle;
    }
    const Evaluation& kept = low.margin >= 0.0 ? low : high;
    out.at = kept.at;
    out.margin = kept.margin;
    out.beyond = (low.margin >= 0.0 ? high : low).at;
}

void between(const std::function<Evaluation(double)>& evaluate, Evaluation low, Evaluation high, const SeekOptions& options, SeekResult& out) {
    const double span = std::abs(high.at - low.at);
    double weight_low = low.margin, weight_high = high.margin;
    // The answer is on the side that keeps the limit.
    const auto kept = [&]() -> const Evaluation& { return low.margin >= 0.0 ? low : high; };
    Evaluation last = std::abs(low.margin) < std::abs(high.margin) ? low : high;
    int steps_back = 0;
    while (kept().margin > options.within && std::abs(high.at - low.at) > options.smallest * span && static_cast<int>(out.evaluations.size()) < options.most) {
        double at = low.at - weight_low * (high.at - low.at) / (weight_high - weight_low);
        if (std::abs(last.margin) <= options.within) {
            // Close to it, but on the other side: a little this way, more each time.
            const double needed = (0.1 * options.within - last.margin) / (kept().margin - last.margin);
            at = last.at + std::min(0.5, std::exp2(steps_back++) * needed) * (kept().at - last.at);
        } else {
            // A bracket that hardly shrinks is halved.
            const double share = (at - low.at) / (high.at - low.at);
            if (!(share > 0.01 && share < 0.99)) at = low.at + (share < 0.5 ? 0.05 : 0.95) * (high.at - low.at);
        }
        last = evaluate(at);
        if ((last.margin >= 0.0) == (low.margin >= 0.0)) {
            // The end that stays counts for less, so that the next point falls on its side.
            const double factor = 1.0 - last.margin / weight_low;
            weight_high *= factor > 0.0 ? factor : 0.5;
            low = last;
            weight_low = last.margin;
        } else {
            const double factor = 1.0 - last.margin / weight_high;
            weight_low *= factor > 0.0 ? factor : 0.5;
            high = last;
            weight_high = last.margin;
        }
    }
    out.jumps = kept().margin > options.within;
    out.at = kept().at;
    out.margin = kept().margin;
    out.beyond = (low.margin >= 0.0 ? high : low).at;
}

}  // namespace

SeekResult seek(const std::function<double(double)>& margin, double from, double to, const SeekOptions& options) {
    SeekResult out;
    const auto evaluate = [&](double at) {
        out.evaluations.push_back({at, margin(at)});
        return out.evaluations.back();
    };
    const Evaluation low = evaluate(from), high = evaluate(to);
    if ((low.margin >= 0.0) == (high.margin >= 0.0)) return out;
    if (options.whole) {
        among_whole_numbers(evaluate, low, high, out);
    } else {
        between(evaluate, low, high, options, out);
    }
    return out;
}

const Figure& tightest_margin(const StudyOutcome& study, const std::string& subject) {
    const Figure* least = nullptr;
    bool mixed = false;
    std::vector<std::string> known;
    for (const Figure& f : study.figures) {
        if (f.kind != FigureKind::margin) continue;
        known.push_back(f.name);
        const bool counts = f.value && (subject.empty() || f.name == subject);
        mixed = mixed || (counts && least != nullptr && !(quantity_of(f).dimension == quantity_of(*least).dimension));
        if (counts && (least == nullptr || *f.value < *least->value)) least = &f;
    }
    if (mixed) throw Error(fmt::format("study {} has limits on different quantities; say which is to be met: {}", in_quotes(study.study), quoted_list(known)));
    if (least != nullptr) return *least;
    if (known.empty()) throw Error(fmt::format("study {} has no limits to meet", in_quotes(study.study)));
    throw Error(fmt::format("study {} has no limit on {}; it has limits on {}", in_quotes(study.study), in_quotes(subject), quoted_list(known)));
}

double margin_in(const StudyOutcome& study, const std::string& subject) { return *tightest_margin(study, subject).value; }

namespace {

/// Kelvin of margin for each unit of the value, around where it is met; nothing where the search saw too little.
std::optional<double> slope_around(const SeekResult& found) {
    std::vector<SeekResult::Evaluation> near = found.evaluations;
    std::sort(near.begin(), near.end(), [&](const auto& a, const auto& b) { return std::abs(a.at - *found.at) < std::abs(b.at - *found.at); });
    if (near.size() < 2 || near[0].at == near[1].at || near[0].margin == near[1].margin) return std::nullopt;
    return (near[1].margin - near[0].margin) / (near[1].at - near[0].at);
}

}  // namespace

SeekResult seek_limit(const std::function<Model(double)>& model_at, double from, double to, const LimitSeekOptions& options) {
    SeekOptions search = options.search;
    if (options.may_be_count && from == std::round(from) && to == std::round(to)) {
        try {
            static_cast<void>(model_at(from + 0.5));
        } catch (const ModelError&) {
            search.whole = true;
        }
    }
    MeshCache meshes;
    const auto solved = [&](double at) {
        const NamedModel model{fmt::format("{:.12g}", at), model_at(at)};
        const DesignOptions solve{.studies = {options.study}, .meshes = &meshes, .progress = options.progress};
        return outcome(solve_designs({&model, 1}, solve).front().front());
    };
    const QuantityKind* quantity = &kinds::temperature_difference;
    const auto margin_at = [&](double at) {
        const StudyOutcome there = solved(at);
        const Figure& margin = tightest_margin(there, options.subject);
        quantity = &quantity_of(margin);
        return *margin.value;
    };
    SeekResult found = seek(margin_at, from, to, search);
    found.quantity = quantity;
    if (!found.at) return found;
    const StudyOutcome there = solved(*found.at);
    if (const Figure& margin = tightest_margin(there, options.subject); margin.bar) {
        found.margin_error = margin.bar->error;
        if (const auto slope = slope_around(found)) found.at_error = margin.bar->error / std::abs(*slope);
    }
    return found;
}

}  // namespace firnfield
