/// The value of a quantity at which a limit is just met.
#pragma once

#include <firnfield/compare.hpp>
#include <firnfield/model.hpp>
#include <firnfield/progress.hpp>

#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace firnfield {

struct SeekOptions {
    double within = 0.05;    ///< a margin this small is met, SI
    bool whole = false;      ///< only whole numbers count, such as those of fins
    double smallest = 1e-6;  ///< share of the range; the margin jumps where it changes its sign within less
    int most = 40;           ///< evaluations
};

struct SeekResult {
    struct Evaluation {
        double at = 0.0, margin = 0.0;
    };
    std::vector<Evaluation> evaluations{};                          ///< in the order they were made
    std::optional<double> at{};                                     ///< where the margin is nothing; of whole numbers, the last one that keeps the limit
    double margin = 0.0;                                            ///< SI, there
    const QuantityKind* quantity = &kinds::temperature_difference;  ///< of margins
    /// Of steady studies: how far the mesh lets that margin be off, and with it `at`; absent where that is not known.
    std::optional<double> margin_error{}, at_error{};
    std::optional<double> beyond{};  ///< the other end of the last bracket: of whole numbers, the first one that misses
    bool jumps = false;              ///< the margin changes its sign without passing zero within the smallest step tried
};

/// Searches between two values at which the margin has opposite signs; without opposite signs, `at` stays empty.
/// Method: regula falsi with the correction of N. Anderson and Å. Björck, BIT 13 (1973) 253; bisection among whole numbers.
[[nodiscard]] SeekResult seek(const std::function<double(double)>& margin, double from, double to, const SeekOptions& options = {});

/// The least margin of a study, or that of the limit on one part or sensor. Throws Error where there is no such limit, naming those there are.
[[nodiscard]] double margin_in(const StudyOutcome& study, const std::string& subject = {});
/// The same as a figure, with its error.
[[nodiscard]] const Figure& tightest_margin(const StudyOutcome& study, const std::string& subject = {});

struct LimitSeekOptions {
    std::string study{};
    std::string subject{};      ///< part, sensor or figure whose limit is to be met; empty: the tightest limit
    bool may_be_count = false;  ///< the values have no unit: where the model refuses half a number, only whole ones are tried
    SeekOptions search{};
    ProgressCallback progress{};  ///< told the value as the name of the design
};
/// Searches the value of a quantity at which a limit is just met, by solving the study at each value tried. `model_at` gives the model of a value; what it
/// throws goes through.
[[nodiscard]] SeekResult seek_limit(const std::function<Model(double)>& model_at, double from, double to, const LimitSeekOptions& options = {});

}  // namespace firnfield
