/// The chance of keeping limits when parameters vary from one product to the next.
#pragma once

#include <firnfield/compare.hpp>
#include <firnfield/parameter.hpp>
#include <firnfield/progress.hpp>

#include <cstdint>
#include <functional>
#include <span>
#include <string>
#include <vector>

namespace firnfield {

/// What the margin of a limit does over the samples.
struct LimitChance {
    std::string study{}, subject{};
    bool upper = true;
    double limit = 0.0;                                  ///< SI
    const QuantityKind* quantity = &kinds::temperature;  ///< of the limit
    double chance = 0.0;                                 ///< of keeping it, 0 … 1
    double low = 0.0, high = 0.0;                        ///< 95 % confidence interval of the chance
    double mean = 0.0, deviation = 0.0;                  ///< SI, of the margin
    double worst = 0.0;                                  ///< SI, smallest margin found; linearised: three deviations below the mean
    std::vector<double> influence{};  ///< per parameter: correlation of its ranks with those of the margin; linearised: share of the variance with its sign
};

/// What a figure that the model names does over the samples.
struct FigureSpread {
    std::string study{}, name{};
    const QuantityKind* quantity = &kinds::number;
    double mean = 0.0, deviation = 0.0;  ///< SI
    double lowest = 0.0, highest = 0.0;  ///< SI, of the samples; linearised: three deviations to either side of the mean
    std::vector<double> influence{};     ///< as LimitChance::influence
};

struct ToleranceFindings {
    std::vector<ParameterInfo> parameters{};
    int runs = 0;
    bool linearised = false;  ///< from differences around the nominal values instead of samples
    std::vector<LimitChance> limits{};
    std::vector<FigureSpread> figures{};
    std::vector<std::string> notes{};  ///< limits and figures that were not defined in every run, which are told of the others alone
    double all_chance = 0.0;           ///< of keeping all of them
    double all_low = 0.0, all_high = 0.0;
};

/// Samples of `dimensions` numbers in 0 … 1: each of them has exactly one value in every n-th of the range, in random order
/// (M. D. McKay, R. J. Beckman, W. J. Conover, Technometrics 21 (1979) 239). The same for the same seed everywhere.
[[nodiscard]] std::vector<std::vector<double>> latin_hypercube(int samples, std::size_t dimensions, std::uint64_t seed);

/// The value of a parameter at a probability: of its uniform or normal distribution.
[[nodiscard]] double value_at(const ParameterInfo& parameter, double probability);

/// Chances from solved samples: `values[n][p]` is what parameter p was in run n, `outcomes[n]` what came of it.
[[nodiscard]] ToleranceFindings chances(std::span<const ParameterInfo> parameters, std::span<const std::vector<double>> values,
                                        std::span<const Outcome> outcomes);

/// Chances from runs around the nominal values: `outcomes` are that of the nominal one, then for each parameter those of it one deviation
/// smaller and larger. Margins are taken as linear and normally distributed.
[[nodiscard]] ToleranceFindings linear_chances(std::span<const ParameterInfo> parameters, std::span<const Outcome> outcomes);

struct ToleranceRuns {
    int runs = 100;
    std::uint64_t seed = 1;
    double budget = 1800.0;              ///< s that the samples may take by what the nominal run took; beyond it differences do instead
    bool linear = false;                 ///< differences in any case
    std::vector<std::string> studies{};  ///< empty: all
    ProgressCallback progress{};
};
/// Solves the nominal design, then samples of the parameters that have a spread, or each of them a deviation smaller and larger, and says what the chances are.
/// `model_at` gives the model of a value per parameter (SI). Throws what solve_designs() and `model_at` throw.
[[nodiscard]] ToleranceFindings find_chances(std::span<const ParameterInfo> parameters, const std::function<Model(std::span<const double>)>& model_at,
                                             const ToleranceRuns& options = {});

/// Standard deviation of a parameter.
[[nodiscard]] double deviation_of(const ParameterInfo& parameter);

}  // namespace firnfield
