// `firnfield tolerance`: how likely limits are kept when parts vary.

#include "commands.hpp"

#include <fmt/format.h>

#include <chrono>

namespace firnfield::command {
namespace {

/// A value in base units, as a model file has it.
std::string text_of(double value, const Dimension& dimension) {
    static constexpr std::string_view base[] = {"kg", "m", "s", "K", "A"};
    std::string above, below;
    for (std::size_t i = 0; i < dimension.exponents.size(); ++i) {
        const int exponent = dimension.exponents[i];
        if (exponent == 0) continue;
        std::string& side = exponent > 0 ? above : below;
        side += fmt::format("{}{}", side.empty() ? "" : " ", base[i]);
        if (std::abs(exponent) != 1) side += fmt::format("^{}", std::abs(exponent));
    }
    if (above.empty() && below.empty()) return fmt::format("{:.17g}", value);
    return fmt::format("{:.17g} {}{}", value, above.empty() ? "1" : above, below.empty() ? "" : fmt::format("/({})", below));
}

}  // namespace

int tolerance(const ToleranceOptions& options) {
    const ModelFile file = read_model_file(options.model);
    const Design& design = file.design(options.variant);
    require_studies(file.base(), options.studies);
    std::vector<ParameterInfo> spread;
    for (const ParameterInfo& p : file.parameters()) {
        if (p.spread) spread.push_back(p);
    }
    if (spread.empty())
        throw Error(fmt::format("no parameter of {} has a spread; write one as pad = {{ value = \"0.5 mm\", uniform = \"0.1 mm\" }}", options.model.string()));
    const auto model_at = [&](const std::vector<double>& values, std::string name) {
        std::vector<Change> changes = changes_of(options.set);
        for (std::size_t p = 0; p < spread.size(); ++p) changes.push_back({spread[p].name, text_of(values[p], spread[p].value.dimension)});
        return NamedModel{std::move(name), file.model(design, changes)};
    };
    std::vector<double> nominal;
    for (const ParameterInfo& p : spread) nominal.push_back(p.value.value);
    ProgressLine progress(options.quiet);
    MeshCache meshes;
    const auto solve = [&](const std::vector<NamedModel>& models) {
        DesignOptions how{.studies = options.studies, .meshes = &meshes};
        how.progress = design_progress(progress, models.size() * (options.studies.empty() ? studies_of(file.base()).size() : options.studies.size()));
        std::vector<Outcome> outcomes;
        for (const auto& studies : solve_designs(models, how)) {
            outcomes.emplace_back();
            for (const StudyFindings& study : studies) outcomes.back().studies.push_back(outcome(study));
        }
        return outcomes;
    };
    // The nominal run tells how long the others will take.
    const auto start = std::chrono::steady_clock::now();
    std::vector<Outcome> around = solve({model_at(nominal, "nominal")});
    const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
    const bool linear = options.linear || seconds * options.runs > parse_quantity(options.budget, kinds::time);
    std::vector<NamedModel> models;
    ToleranceFindings found;
    if (linear) {
        for (std::size_t p = 0; p < spread.size(); ++p) {
            for (const double sign : {-1.0, 1.0}) {
                std::vector<double> values = nominal;
                values[p] += sign * deviation_of(spread[p]);
                models.push_back(model_at(values, fmt::format("{} {}", spread[p].name, sign < 0.0 ? "low" : "high")));
            }
        }
        const std::vector<Outcome> moved = solve(models);
        around.insert(around.end(), moved.begin(), moved.end());
        found = linear_chances(spread, around);
    } else {
        std::vector<std::vector<double>> values;
        for (const auto& shares : latin_hypercube(options.runs, spread.size(), options.seed)) {
            std::vector<double> sample;
            for (std::size_t p = 0; p < spread.size(); ++p) sample.push_back(value_at(spread[p], shares[p]));
            models.push_back(model_at(sample, fmt::format("sample {}", models.size() + 1)));
            values.push_back(std::move(sample));
        }
        found = chances(spread, values, solve(models));
    }
    progress.close();
    if (options.json) {
        say("{}", to_json(found));
    } else {
        say("{}\n{}", file.base().title, to_text(found));
    }
    return done;
}

}  // namespace firnfield::command
