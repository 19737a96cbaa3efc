// Chances of keeping limits: from samples, or linear from differences.

#include <firnfield/tolerance.hpp>

#include "base/words.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <limits>
#include <numeric>
#include <random>

namespace firnfield {
namespace {

double normal_share(double z) { return 0.5 * std::erfc(-z / std::sqrt(2.0)); }

/// Where the normal distribution function is p: Newton from a rational guess (Abramowitz and Stegun 26.2.23).
double normal_quantile(double p) {
    const double tail = std::min(p, 1.0 - p), t = std::sqrt(-2.0 * std::log(tail));
    double z = t - (2.515517 + t * (0.802853 + t * 0.010328)) / (1.0 + t * (1.432788 + t * (0.189269 + t * 0.001308)));
    if (p < 0.5) z = -z;
    for (int step = 0; step < 4; ++step) z -= (normal_share(z) - p) * std::sqrt(2.0 * M_PI) * std::exp(0.5 * z * z);
    return z;
}

/// A whole number below `count`, without the freedom that the standard leaves to its distributions.
std::size_t draw(std::mt19937_64& random, std::size_t count) { return static_cast<std::size_t>(random() % count); }
double draw_share(std::mt19937_64& random) { return static_cast<double>(random() >> 11U) * 0x1.0p-53; }

/// 95 % interval of a probability from counts (E. B. Wilson, J. Am. Stat. Assoc. 22 (1927) 209).
std::pair<double, double> interval(double share, double count) {
    constexpr double z = 1.959964;
    const double middle = (share + 0.5 * z * z / count) / (1.0 + z * z / count);
    const double half = z / (1.0 + z * z / count) * std::sqrt(share * (1.0 - share) / count + 0.25 * z * z / (count * count));
    return {std::max(0.0, middle - half), std::min(1.0, middle + half)};
}

std::vector<double> ranks(const std::vector<double>& values) {
    std::vector<std::size_t> order(values.size());
    std::iota(order.begin(), order.end(), 0U);
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return values[a] < values[b]; });
    std::vector<double> rank(values.size());
    for (std::size_t i = 0; i < order.size(); ++i) rank[order[i]] = static_cast<double>(i);
    return rank;
}

double correlation(const std::vector<double>& a, const std::vector<double>& b) {
    const double n = static_cast<double>(a.size());
    const double mean_a = std::accumulate(a.begin(), a.end(), 0.0) / n, mean_b = std::accumulate(b.begin(), b.end(), 0.0) / n;
    double ab = 0.0, aa = 0.0, bb = 0.0;
    for (std::size_t i = 0; i < a.size(); ++i) {
        ab += (a[i] - mean_a) * (b[i] - mean_b);
        aa += (a[i] - mean_a) * (a[i] - mean_a);
        bb += (b[i] - mean_b) * (b[i] - mean_b);
    }
    return aa > 0.0 && bb > 0.0 ? ab / std::sqrt(aa * bb) : 0.0;
}

/// A margin or a figure, and what every run has of it.
struct Tracked {
    Figure what;
    std::string study;
    std::vector<std::optional<double>> values;  // per run

    [[nodiscard]] std::size_t defined() const {
        return static_cast<std::size_t>(std::count_if(values.begin(), values.end(), [](const auto& v) { return v.has_value(); }));
    }
    [[nodiscard]] std::string name() const {
        return what.kind == FigureKind::margin ? fmt::format("the limit on {}", in_quotes(what.name)) : fmt::format("figure {}", in_quotes(what.name));
    }
};

/// Runs need not tell the same: what happens in some may not happen in others.
std::vector<Tracked> tracked(std::span<const Outcome> outcomes) {
    std::vector<Tracked> out;
    for (std::size_t n = 0; n < outcomes.size(); ++n) {
        for (const StudyOutcome& study : outcomes[n].studies) {
            for (const Figure& figure : study.figures) {
                if (figure.kind != FigureKind::margin && figure.kind != FigureKind::figure) continue;
                auto row = std::find_if(out.begin(), out.end(), [&](const Tracked& t) { return t.study == study.study && same(t.what, figure); });
                if (row == out.end()) row = out.insert(out.end(), {figure, study.study, std::vector<std::optional<double>>(outcomes.size())});
                row->values[n] = figure.value;
            }
        }
    }
    return out;
}

/// Of values with the parameters that they came from.
struct Statistics {
    double mean = 0.0, deviation = 0.0, lowest = std::numeric_limits<double>::infinity(), highest = -std::numeric_limits<double>::infinity();
    std::vector<double> influence{};
};

Statistics sampled(const Tracked& row, std::size_t parameters, std::span<const std::vector<double>> inputs) {
    Statistics out;
    std::vector<double> values;
    std::vector<std::vector<double>> of_parameter(parameters);
    for (std::size_t n = 0; n < row.values.size(); ++n) {
        if (!row.values[n]) continue;
        values.push_back(*row.values[n]);
        for (std::size_t p = 0; p < parameters; ++p) of_parameter[p].push_back(inputs[n][p]);
    }
    const double count = static_cast<double>(values.size());
    for (const double v : values) {
        out.mean += v / count;
        out.lowest = std::min(out.lowest, v);
        out.highest = std::max(out.highest, v);
    }
    for (const double v : values) out.deviation += (v - out.mean) * (v - out.mean) / std::max(1.0, count - 1.0);
    out.deviation = std::sqrt(out.deviation);
    for (std::size_t p = 0; p < parameters; ++p) out.influence.push_back(correlation(ranks(of_parameter[p]), ranks(values)));
    return out;
}

/// Of the nominal run, then of a deviation less and more of each parameter.
Statistics linearised(const Tracked& row, std::size_t parameters) {
    Statistics out{.mean = row.values.front().value()};
    double variance = 0.0;
    std::vector<double> change;
    for (std::size_t p = 0; p < parameters; ++p) {
        change.push_back(0.5 * (row.values[2 + 2 * p].value() - row.values[1 + 2 * p].value()));
        variance += change.back() * change.back();
    }
    out.deviation = std::sqrt(variance);
    for (const double c : change) out.influence.push_back(variance > 0.0 ? std::copysign(c * c / variance, c) : 0.0);
    out.lowest = out.mean - 3.0 * out.deviation;
    out.highest = out.mean + 3.0 * out.deviation;
    return out;
}

LimitChance limit_row(const Tracked& row, const Statistics& s) {
    return {.study = row.study,
            .subject = row.what.name,
            .upper = row.what.upper,
            .limit = row.what.limit.value_or(0.0),
            .quantity = row.what.of != nullptr ? row.what.of : &kinds::temperature,
            .mean = s.mean,
            .deviation = s.deviation,
            .worst = s.lowest,
            .influence = s.influence};
}

FigureSpread figure_row(const Tracked& row, const Statistics& s) {
    return {row.study, row.what.name, &quantity_of(row.what), s.mean, s.deviation, s.lowest, s.highest, s.influence};
}

/// What the mesh is off in the nominal run it is off in those around it, but for their small difference.
void correct_alike(std::vector<Outcome>& outcomes, const Outcome& nominal) {
    for (Outcome& outcome : outcomes) {
        for (std::size_t s = 0; s < outcome.studies.size(); ++s) {
            for (Figure& figure : outcome.studies[s].figures) {
                const std::vector<Figure>& known = nominal.studies.at(s).figures;
                const auto found = std::find_if(known.begin(), known.end(), [&](const Figure& f) { return same(f, figure); });
                if (found != known.end() && found->bar && figure.value) *figure.value += found->bar->correction.value_or(0.0);
            }
        }
    }
}

}  // namespace

std::vector<std::vector<double>> latin_hypercube(int samples, std::size_t dimensions, std::uint64_t seed) {
    std::mt19937_64 random(seed);
    const auto count = static_cast<std::size_t>(samples);
    std::vector<std::vector<double>> out(count, std::vector<double>(dimensions));
    std::vector<std::size_t> order(count);
    for (std::size_t d = 0; d < dimensions; ++d) {
        std::iota(order.begin(), order.end(), 0U);
        for (std::size_t i = count; i > 1; --i) std::swap(order[i - 1], order[draw(random, i)]);
        for (std::size_t n = 0; n < count; ++n) out[n][d] = (static_cast<double>(order[n]) + draw_share(random)) / static_cast<double>(count);
    }
    return out;
}

double value_at(const ParameterInfo& parameter, double probability) {
    const double middle = parameter.value.value;
    if (!parameter.spread) return middle;
    if (!parameter.spread->normal) return middle + (2.0 * probability - 1.0) * parameter.spread->width;
    constexpr double edge = 1e-9;
    return middle + parameter.spread->width * normal_quantile(std::clamp(probability, edge, 1.0 - edge));
}

double deviation_of(const ParameterInfo& parameter) {
    if (!parameter.spread) return 0.0;
    return parameter.spread->normal ? parameter.spread->width : parameter.spread->width / std::sqrt(3.0);
}

ToleranceFindings chances(std::span<const ParameterInfo> parameters, std::span<const std::vector<double>> values, std::span<const Outcome> outcomes) {
    ToleranceFindings out{.parameters = {parameters.begin(), parameters.end()}, .runs = static_cast<int>(outcomes.size())};
    std::vector<bool> all_kept(outcomes.size(), true);
    for (const Tracked& row : tracked(outcomes)) {
        if (row.defined() < outcomes.size()) out.notes.push_back(fmt::format("{} is defined in {} of {} samples", row.name(), row.defined(), outcomes.size()));
        if (row.defined() == 0) continue;
        const Statistics statistics = sampled(row, parameters.size(), values);
        if (row.what.kind == FigureKind::figure) {
            out.figures.push_back(figure_row(row, statistics));
            continue;
        }
        LimitChance& limit = out.limits.emplace_back(limit_row(row, statistics));
        const double count = static_cast<double>(row.defined());
        for (std::size_t n = 0; n < row.values.size(); ++n) {
            if (!row.values[n]) continue;
            limit.chance += *row.values[n] >= 0.0 ? 1.0 : 0.0;
            all_kept[n] = all_kept[n] && *row.values[n] >= 0.0;
        }
        limit.chance /= count;
        std::tie(limit.low, limit.high) = interval(limit.chance, count);
    }
    const double count = static_cast<double>(outcomes.size());
    out.all_chance = static_cast<double>(std::count(all_kept.begin(), all_kept.end(), true)) / count;
    std::tie(out.all_low, out.all_high) = interval(out.all_chance, count);
    return out;
}

ToleranceFindings linear_chances(std::span<const ParameterInfo> parameters, std::span<const Outcome> outcomes) {
    ToleranceFindings out{
        .parameters = {parameters.begin(), parameters.end()}, .runs = static_cast<int>(outcomes.size()), .linearised = true, .all_chance = 1.0};
    for (const Tracked& row : tracked(outcomes)) {
        if (row.defined() < outcomes.size()) {
            out.notes.push_back(fmt::format("{} is not told: it is defined in {} of {} runs", row.name(), row.defined(), outcomes.size()));
            continue;
        }
        const Statistics statistics = linearised(row, parameters.size());
        if (row.what.kind == FigureKind::figure) {
            out.figures.push_back(figure_row(row, statistics));
            continue;
        }
        LimitChance& limit = out.limits.emplace_back(limit_row(row, statistics));
        limit.chance = limit.deviation > 0.0 ? normal_share(limit.mean / limit.deviation) : limit.mean >= 0.0 ? 1.0 : 0.0;
        limit.low = limit.high = limit.chance;
        out.all_chance = std::min(out.all_chance, limit.chance);
    }
    out.all_low = out.all_high = out.all_chance;
    return out;
}

ToleranceFindings find_chances(std::span<const ParameterInfo> parameters, const std::function<Model(std::span<const double>)>& model_at,
                               const ToleranceRuns& options) {
    MeshCache meshes;
    const auto solve = [&](const std::vector<NamedModel>& models, bool errors) {
        std::vector<Outcome> outcomes;
        for (const auto& studies : solve_designs(models, {.studies = options.studies, .errors = errors, .meshes = &meshes, .progress = options.progress})) {
            outcomes.emplace_back();
            for (const StudyFindings& study : studies) outcomes.back().studies.push_back(outcome(study));
        }
        return outcomes;
    };
    std::vector<double> nominal;
    for (const ParameterInfo& p : parameters) nominal.push_back(p.value.value);
    // The nominal run tells how long the others will take.
    const auto start = std::chrono::steady_clock::now();
    std::vector<Outcome> around = solve({{"nominal", model_at(nominal)}}, true);
    const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
    std::vector<NamedModel> models;
    if (options.linear || seconds * options.runs > options.budget) {
        for (std::size_t p = 0; p < parameters.size(); ++p) {
            for (const double sign : {-1.0, 1.0}) {
                std::vector<double> values = nominal;
                values[p] += sign * deviation_of(parameters[p]);
                models.push_back({fmt::format("{} {}", parameters[p].name, sign < 0.0 ? "low" : "high"), model_at(values)});
            }
        }
        std::vector<Outcome> moved = solve(models, false);
        correct_alike(moved, around.front());
        around.insert(around.end(), moved.begin(), moved.end());
        return linear_chances(parameters, around);
    }
    std::vector<std::vector<double>> values;
    for (const auto& shares : latin_hypercube(options.runs, parameters.size(), options.seed)) {
        std::vector<double>& sample = values.emplace_back();
        for (std::size_t p = 0; p < parameters.size(); ++p) sample.push_back(value_at(parameters[p], shares[p]));
        models.push_back({fmt::format("sample {}", values.size()), model_at(sample)});
    }
    std::vector<Outcome> outcomes = solve(models, false);
    correct_alike(outcomes, around.front());
    return chances(parameters, values, outcomes);
}

}  // namespace firnfield
