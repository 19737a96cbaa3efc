// When a temperature or a figure of kept results lies on one side of a value: read off the history.

#include <firnfield/probe.hpp>

#include <firnfield/quantity.hpp>
#include <firnfield/results.hpp>

#include "base/words.hpp"
#include "model/figure_forms.hpp"
#include "report/phrases.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

std::string trimmed(std::string text) {
    text.erase(0, std::min(text.find_first_not_of(' '), text.size()));
    text.erase(text.find_last_not_of(' ') + 1);
    return text;
}

/// "lid < 40 degC" in its parts.
struct Condition {
    std::string subject{};
    bool below = true;
    std::string value{};
};

Condition condition_of(const std::string& text) {
    const std::size_t at = text.find_last_of("<>");
    if (at == std::string::npos || at == 0 || at + 1 >= text.size())
        throw Error(fmt::format("{} is no condition; write for example \"lid < 40 degC\" or \"spread > 5 K\"", in_quotes(text)));
    return {trimmed(text.substr(0, at)), text[at] == '<', trimmed(text.substr(at + 1))};
}

/// What is followed, and the column of the history that follows it.
struct Followed {
    std::string name{}, column{};
    const QuantityKind* quantity = nullptr;
};

Followed followed(const Model& model, const std::string& subject) {
    const FigureForms forms = forms_of_figures(model);
    const FigureForm* figure = forms.find(subject);
    if (figure != nullptr && figure->of_run) throw Error(fmt::format("{} is told of a whole run, so it passes nothing at a time", in_quotes(subject)));
    if (figure != nullptr) return {figure->name, fmt::format("{} ({})", figure->name, figure->quantity->unit), figure->quantity};
    // A part alone is meant by its hottest place.
    const bool part = std::any_of(model.parts.begin(), model.parts.end(), [&](const Part& p) { return p.name == subject; });
    const FigureTerm term = figure_term(model, part ? fmt::format("part.{}.max", subject) : subject);
    const std::string name = part ? fmt::format("hottest place of {}", subject) : subject;
    const QuantityKind& kind = *term.info->quantity;
    const auto column = [&](std::string_view what) { return Followed{name, fmt::format("{}{} ({})", term.name, what, kind.unit), &kind}; };
    const bool one = term.name.find_first_of("*?") == std::string::npos;
    if (one && term.info->of == TermOf::part && kind.absolute_temperature) return column(fmt::format(" {}", term.info->word));
    if (one && term.info->of == TermOf::sensor) return column("");
    const bool all_heat = one && term.info->what == TermWhat::heat;
    if (all_heat && (term.info->of == TermOf::cooling || term.info->of == TermOf::hold)) return column(" out");
    if (all_heat && term.info->of == TermOf::power) return column(" in");
    throw Error(fmt::format("the history does not follow {}: give it a name by a [[figure]] of the model, and solve again", in_quotes(subject)));
}

/// Between rows by straight lines.
std::vector<Interval> intervals(const History& history, std::size_t column, bool below, double value) {
    std::vector<Interval> out;
    const auto beyond = [&](std::size_t r) { return below ? value - history.rows[r][column] : history.rows[r][column] - value; };
    bool inside = false;
    for (std::size_t r = 0; r < history.rows.size(); ++r) {
        const double now = beyond(r);
        if (std::isfinite(now) && (now > 0.0) != inside) {
            double time = history.time[r];
            if (r > 0 && std::isfinite(beyond(r - 1)) && beyond(r - 1) != now) {
                const double before = beyond(r - 1);
                time = history.time[r - 1] + (history.time[r] - history.time[r - 1]) * std::clamp(before / (before - now), 0.0, 1.0);
            }
            inside ? static_cast<void>(out.back().to = time) : out.push_back({time, time});
            inside = !inside;
        } else if (!std::isfinite(now) && inside) {
            out.back().to = history.time[r];
            inside = false;
        }
    }
    if (inside) out.back().to = history.time.back();
    return out;
}

}  // namespace

WhenAnswer probe_when(const std::filesystem::path& folder, const std::string& condition, const std::string& study, const std::optional<Units>& asked_units) {
    WhenAnswer answer;
    const Summary summary = read_summary(folder);
    if (const std::string reason = stale(folder, summary); !reason.empty()) answer.notes.push_back("these results are stale: " + reason);
    const Model model = read_model(folder / "model.toml");
    const Units units = asked_units.value_or(summary.units);
    const Condition asked = condition_of(condition);
    const Followed what = followed(model, asked.subject);
    const double value = parse_quantity(asked.value, *what.quantity);
    answer.condition = fmt::format("{} {} {}", what.name, asked.below ? "below" : "above", amount_text(value, *what.quantity, units));
    bool found = false;
    for (const StudyFindings& solved : summary.studies) {
        const TimeFindings* run = std::get_if<TimeFindings>(&solved);
        const std::string& name = run != nullptr ? run->study.name : std::get<Findings>(solved).study.name;
        if (!study.empty() && name != study) continue;
        found = true;
        if (run == nullptr) {
            if (!study.empty()) throw Error(fmt::format("{} is a steady study: it has no times", in_quotes(study)));
            continue;
        }
        const History history = read_history(folder / "history" / (ResultNames(model).study(name) + ".csv"), summary.units);
        const auto column = std::find(history.columns.begin(), history.columns.end(), what.column);
        WhenAnswer::Study row{.study = name};
        if (history.rows.empty()) continue;
        row.from = history.time.front();
        row.to = history.time.back();
        row.followed = column != history.columns.end();
        if (row.followed) row.times = intervals(history, static_cast<std::size_t>(column - history.columns.begin()), asked.below, what.quantity->out(value));
        answer.studies.push_back(std::move(row));
    }
    if (!found)
        throw Error(study.empty() ? std::string("the results hold no study that was solved") : fmt::format("the results have no study {}", in_quotes(study)));
    if (answer.studies.empty()) throw Error("the results hold no study in time, so nothing passes a value");
    return answer;
}

std::string to_text(const WhenAnswer& answer) {
    std::string out = answer.condition + "\n";
    for (const WhenAnswer::Study& study : answer.studies) {
        out += fmt::format("  study {}: ", in_quotes(study.study));
        if (!study.followed) {
            out += "not there\n";
            continue;
        }
        if (study.times.empty()) out += fmt::format("never until {}", duration(study.to));
        for (std::size_t i = 0; i < study.times.size(); ++i) {
            const Interval& time = study.times[i];
            const bool starts = time.from <= study.from, ends = time.to >= study.to;
            out += i == 0 ? "" : ", ";
            if (starts && ends) {
                out += "all the time";
            } else if (starts) {
                out += "from the start to " + duration(time.to);
            } else if (ends) {
                out += "from " + duration(time.from) + " on";
            } else {
                out += fmt::format("from {} to {}", duration(time.from), duration(time.to));
            }
        }
        out += "\n";
    }
    return out;
}

std::string to_csv(const WhenAnswer& answer) {
    std::string out = "study,from (s),to (s)\n";
    for (const WhenAnswer::Study& study : answer.studies) {
        for (const Interval& time : study.times) out += fmt::format("{},{},{}\n", csv_cell(study.study), time.from, time.to);
    }
    return out;
}

}  // namespace firnfield
