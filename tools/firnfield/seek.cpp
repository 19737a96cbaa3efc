// `firnfield seek`: the value at which a limit is just met.

#include "commands.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

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

/// The least margin of a study, or that of the limit on one subject; lists what there is when there is none.
double margin_in(const StudyOutcome& study, const std::string& subject) {
    double least = std::numeric_limits<double>::infinity();
    std::string known;
    for (const Figure& f : study.figures) {
        if (f.kind != "margin") continue;
        known += fmt::format("{}\"{}\"", known.empty() ? "" : ", ", f.name);
        if (f.value && (subject.empty() || f.name == subject)) least = std::min(least, *f.value);
    }
    if (std::isfinite(least)) return least;
    if (known.empty()) throw Error(fmt::format("study \"{}\" has no limits to meet", study.study));
    throw Error(fmt::format("study \"{}\" has no limit on \"{}\"; it has limits on {}", study.study, subject, known));
}

std::string in_words(const SeekCommandOptions& options, const std::string& unit, const SeekResult& result, const std::string& limit) {
    const auto value = [&](double at) { return fmt::format("{:.5g}{}{}", at, unit.empty() ? "" : " ", unit); };
    std::string out;
    if (!result.at) {
        const auto& first = result.evaluations.front();
        const auto& last = result.evaluations.back();
        out = fmt::format("{} {} all the way: margin {:+.2f} K at {}, {:+.2f} K at {}\n", limit, first.margin >= 0.0 ? "is kept" : "is missed", first.margin,
                          value(first.at), last.margin, value(last.at));
    } else if (result.jumps) {
        out = fmt::format("{} is met up to {} = {}, with a margin of {:+.2f} K; just beyond it is missed by a jump\n", limit, options.address,
                          value(*result.at), result.margin);
    } else if (result.beyond && std::abs(*result.beyond - *result.at) == 1.0 && unit.empty()) {
        out = fmt::format("{} is met with {} = {}, with a margin of {:+.2f} K, and missed with {}\n", limit, options.address, value(*result.at), result.margin,
                          value(*result.beyond));
    } else {
        out = fmt::format("{} is just met at {} = {} (margin {:+.3f} K)\n", limit, options.address, value(*result.at), result.margin);
    }
    const std::size_t width = std::max<std::size_t>(options.address.size(), 12) + 2;
    out += fmt::format("\n  {:<{}}margin K\n", options.address, width);
    for (const auto& e : result.evaluations) out += fmt::format("  {:<{}}{:+.3f}\n", value(e.at), width, e.margin);
    return out;
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
        std::vector<Change> changes = changes_of(options.set);
        changes.push_back({options.address, text_of(at)});
        return file.model(design, changes);
    };
    // Of a count only whole numbers make sense: a half of one is refused.
    SeekOptions how{.within = parse_quantity(options.within, kinds::temperature_difference)};
    if (from.unit.empty() && from.number == std::round(from.number) && to.number == std::round(to.number)) {
        try {
            static_cast<void>(model_at(from.number + 0.5));
        } catch (const ModelError&) {
            how.whole = true;
        }
    }
    ProgressLine progress(options.quiet);
    MeshCache meshes;
    const auto margin = [&](double at) {
        const NamedModel model{text_of(at), model_at(at)};
        DesignOptions solve{.studies = {study}, .meshes = &meshes};
        solve.progress = [&](const std::string& name, const std::string& stage) {
            if (!stage.empty() && stage.find('%') == std::string::npos) progress.show(fmt::format("{} = {}", options.address, name));
            return !progress.interrupted();
        };
        return margin_in(outcome(solve_designs({&model, 1}, solve).front().front()), options.limit);
    };
    const SeekResult result = firnfield::seek(margin, from.number, to.number, how);
    progress.close();
    const std::string limit = options.limit.empty() ? "the tightest limit" : fmt::format("the limit on {}", options.limit);
    if (options.json) {
        say("{}", to_json(result, options.address, from.unit));
    } else {
        say("{}\nStudy \"{}\": {}", file.base().title, study, in_words(options, from.unit, result, limit));
    }
    return result.at ? done : limit_missed;
}

}  // namespace firnfield::command
