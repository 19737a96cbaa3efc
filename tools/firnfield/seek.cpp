// `firnfield seek`: the value at which a limit is just met.

#include "commands.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield::command {
namespace {

/// A number and the unit behind it.
struct NumberAndUnit {
    double number = 0.0;
    std::string unit;
};

NumberAndUnit split(const std::string& text) {
    try {
        std::size_t used = 0;
        const double number = std::stod(text, &used);
        const std::size_t unit = text.find_first_not_of(' ', used);
        return {number, unit == std::string::npos ? std::string() : text.substr(unit)};
    } catch (const std::exception&) {
        throw Error(fmt::format("--from and --to take a value such as \"0.25 mm\", found \"{}\"", text));
    }
}

/// How close to the limit is close enough: 0.05 K, or a thousandth of what a figure of another kind has to meet.
double within(const Model& base, const std::string& subject, const SeekCommandOptions& options) {
    const Model model = with_goal(base, options.goal);
    for (const Limit& limit : model.limits) {
        if (limit.figure != subject || subject.empty()) continue;
        const Threshold& held = limit.below ? *limit.below : *limit.above;
        const QuantityKind& kind = difference_of(*held.kind);
        if (!options.within.empty()) return parse_quantity(options.within, kind);
        if (!is_kelvin(kind)) return 1e-3 * std::abs(held.value);
    }
    return options.within.empty() ? 0.05 : parse_quantity(options.within, kinds::temperature_difference);
}

}  // namespace

int seek(const SeekCommandOptions& options) {
    const ModelFile file = read_to_tell(options.model, options.units);
    const Design& design = file.design(options.variant);
    if (!options.study.empty()) require_studies(file.base(), {options.study});
    const std::string study = options.study.empty() ? studies_of(file.base()).front().name : options.study;
    const NumberAndUnit from = split(options.from), to = split(options.to);
    if (from.unit != to.unit) throw Error(fmt::format("--from and --to take the same unit, found \"{}\" and \"{}\"", from.unit, to.unit));
    const auto text_of = [&](double at) { return fmt::format("{:.12g}{}{}", at, from.unit.empty() ? "" : " ", from.unit); };
    const auto model_at = [&](double at) {
        std::vector<Change> changes = changes_of(options.set, options.as_meshed);
        changes.push_back({options.address, text_of(at)});
        return with_goal(file.model(design, changes), options.goal);
    };
    if (!options.goal.figure.empty() && !options.limit.empty()) throw Error("--figure is a limit of its own; leave out --limit");
    ProgressLine progress(options.quiet);
    const std::string subject = options.goal.figure.empty() ? options.limit : options.goal.figure;
    LimitSeekOptions how{.study = study, .subject = subject, .may_be_count = from.unit.empty()};
    how.search.within = within(file.model(design, changes_of(options.set, options.as_meshed)), subject, options);
    how.progress = [&](const Progress& now) {
        if (now.stage == "begins") progress.show(fmt::format("{} = {} {}", options.address, now.design, from.unit));
        return !ProgressLine::interrupted();
    };
    const SeekResult result = seek_limit(model_at, from.number, to.number, how);
    progress.close();
    const std::string limit = subject.empty() ? "the tightest limit" : fmt::format("the limit on {}", subject);
    if (options.json) {
        say("{}", to_json(result, options.address, from.unit));
    } else {
        say("{}\nStudy \"{}\": {}", file.base().title, study, to_text(result, options.address, from.unit, limit, file.base().units));
    }
    return result.at ? done : limit_missed;
}

}  // namespace firnfield::command
