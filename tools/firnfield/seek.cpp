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

}  // namespace

int seek(const SeekCommandOptions& options) {
    const ModelFile file = read_model_file(options.model);
    const Design& design = file.design(options.variant);
    if (!options.study.empty()) require_studies(file.base(), {options.study});
    const std::string study = options.study.empty() ? studies_of(file.base()).front().name : options.study;
    const NumberAndUnit from = split(options.from), to = split(options.to);
    if (from.unit != to.unit) throw Error(fmt::format("--from and --to take the same unit, found \"{}\" and \"{}\"", from.unit, to.unit));
    const auto text_of = [&](double at) { return fmt::format("{:.12g}{}{}", at, from.unit.empty() ? "" : " ", from.unit); };
    const auto model_at = [&](double at) {
        std::vector<Change> changes = changes_of(options.set, options.as_meshed);
        changes.push_back({options.address, text_of(at)});
        return file.model(design, changes);
    };
    ProgressLine progress(options.quiet);
    LimitSeekOptions how{.study = study, .subject = options.limit, .may_be_count = from.unit.empty()};
    how.search.within = parse_quantity(options.within, kinds::temperature_difference);
    how.progress = [&](const Progress& now) {
        if (now.stage == "begins") progress.show(fmt::format("{} = {} {}", options.address, now.design, from.unit));
        return !ProgressLine::interrupted();
    };
    const SeekResult result = seek_limit(model_at, from.number, to.number, how);
    progress.close();
    const std::string limit = options.limit.empty() ? "the tightest limit" : fmt::format("the limit on {}", options.limit);
    if (options.json) {
        say("{}", to_json(result, options.address, from.unit));
    } else {
        say("{}\nStudy \"{}\": {}", file.base().title, study, to_text(result, options.address, from.unit, limit));
    }
    return result.at ? done : limit_missed;
}

}  // namespace firnfield::command
