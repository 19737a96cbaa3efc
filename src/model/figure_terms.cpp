// Addresses of what a solution tells, and the figures that a model makes of them.

#include "model/figure_terms.hpp"

#include <firnfield/error.hpp>

#include "base/words.hpp"
#include "model/bodies.hpp"
#include "model/checks.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <set>

namespace firnfield {
namespace {

constexpr std::array words{"part", "sensor", "surface", "joint", "resistor", "cooling", "hold", "power", "product"};

constexpr std::array terms{
    TermInfo{TermOf::part, TermWhat::max, "max", &kinds::temperature, true, "hottest place, over all copies and parts that the name picks"},
    TermInfo{TermOf::part, TermWhat::min, "min", &kinds::temperature, true, "coldest place"},
    TermInfo{TermOf::part, TermWhat::mean, "mean", &kinds::temperature, true, "by volume"},
    TermInfo{TermOf::part, TermWhat::share, "share above", &kinds::number, true,
             "of its volume that is hotter than a temperature, as in `part.NAME.share above 60 degC`"},
    TermInfo{TermOf::part, TermWhat::through, "flow through", &kinds::power, true,
             "heat through a plane section of it, towards larger coordinates, as in `part.NAME.flow through x = 12 mm`; of a revolved model x is the radius"},
    TermInfo{TermOf::part, TermWhat::flux, "flux", &kinds::heat_flux, true,
             "highest heat flux in its cells; without an error, as at corners it rises with ever finer cells"},
    TermInfo{TermOf::part, TermWhat::mass, "mass", &kinds::mass, true, "of the whole product"},
    TermInfo{TermOf::sensor, TermWhat::reading, "", &kinds::temperature, false, "what a sensor or a node reads"},
    TermInfo{TermOf::sensor, TermWhat::max, "max", &kinds::temperature, true, "highest reading of those that the name picks"},
    TermInfo{TermOf::sensor, TermWhat::min, "min", &kinds::temperature, true, "lowest reading"},
    TermInfo{TermOf::sensor, TermWhat::mean, "mean", &kinds::temperature, true, "mean reading"},
    TermInfo{TermOf::surface, TermWhat::max, "max", &kinds::temperature, true, "hottest place of a named surface"},
    TermInfo{TermOf::surface, TermWhat::min, "min", &kinds::temperature, true, "coldest place"},
    TermInfo{TermOf::surface, TermWhat::mean, "mean", &kinds::temperature, true, "by area"},
    TermInfo{TermOf::surface, TermWhat::flow, "flow", &kinds::power, true, "heat leaving through it, less what powers put onto it"},
    TermInfo{TermOf::surface, TermWhat::share, "share above", &kinds::number, true,
             "of its area that is hotter than a temperature, as in `surface.NAME.share above 60 degC`"},
    TermInfo{TermOf::joint, TermWhat::flow, "flow", &kinds::power, false,
             "heat through a joint, from the first of its `between` to the second; a pair of parts without a joint is called `a - b`"},
    TermInfo{TermOf::joint, TermWhat::drop, "drop", &kinds::temperature_difference, false, "temperature drop over it, mean over its area"},
    TermInfo{TermOf::resistor, TermWhat::flow, "flow", &kinds::power, false,
             "heat through a resistor, from the first end to the second; the ambient stands second"},
    TermInfo{TermOf::resistor, TermWhat::drop, "drop", &kinds::temperature_difference, false, "temperature drop over it"},
    TermInfo{TermOf::cooling, TermWhat::heat, "heat", &kinds::power, true, "leaving by a cooling; by several it is the sum"},
    TermInfo{TermOf::cooling, TermWhat::convection, "convection", &kinds::power, true, "its part by convection"},
    TermInfo{TermOf::cooling, TermWhat::radiation, "radiation", &kinds::power, true, "its part by radiation"},
    TermInfo{TermOf::cooling, TermWhat::mean, "mean", &kinds::temperature, true, "temperature of the cooled surface, by area"},
    TermInfo{TermOf::hold, TermWhat::heat, "heat", &kinds::power, true, "leaving into a hold"},
    TermInfo{TermOf::power, TermWhat::heat, "heat", &kinds::power, true, "that a power puts in"},
    TermInfo{TermOf::product, TermWhat::mass, "mass", &kinds::mass, false, "of all parts"},
};

constexpr std::array of_runs{
    RunInfo{RunWhat::highest, "highest of ", "", nullptr, "highest of ADDRESS",
            "its highest value over a run, between steps too; ADDRESS may be the name of a figure"},
    RunInfo{RunWhat::lowest, "lowest of ", "", nullptr, "lowest of ADDRESS", "its lowest value"},
    RunInfo{RunWhat::mean, "mean of ", "", nullptr, "mean of ADDRESS", "its mean over time"},
    RunInfo{RunWhat::swing, "swing of ", "", nullptr, "swing of ADDRESS", "from its lowest to its highest value"},
    RunInfo{RunWhat::total, "total of ", "", &kinds::energy, "total of ADDRESS", "of a heat flow: what flows in all"},
    RunInfo{RunWhat::first_time, "first time ", "", &kinds::time, "first time ADDRESS is above VALUE", "when; or `is below`"},
    RunInfo{RunWhat::last_time, "last time ", "", &kinds::time, "last time ADDRESS is above VALUE", "until when; or `is below`"},
    RunInfo{RunWhat::time, "time ", "", &kinds::time, "time ADDRESS is above VALUE", "how long in all, 0 where never; or `is below`"},
    RunInfo{RunWhat::duty, "thermostat.", ".duty", &kinds::number, "thermostat.NAME.duty",
            "share of the time that it is on; of whole periods where there are some"},
    RunInfo{RunWhat::period, "thermostat.", ".period", &kinds::time, "thermostat.NAME.period",
            "from one switching on to the next, mean of the last ten at most"},
    RunInfo{RunWhat::switchings, "thermostat.", ".switchings", &kinds::number, "thermostat.NAME.switchings", "how often it switches"},
    RunInfo{RunWhat::steady_time, "time to steady", "", &kinds::time, "time to steady", "from when on temperatures would move by less than `steady_within`"},
    RunInfo{RunWhat::time_constant, "time constant", "", &kinds::time, "time constant", "the slowest"},
};

constexpr bool is_passing(RunWhat what) { return what == RunWhat::first_time || what == RunWhat::last_time || what == RunWhat::time; }
constexpr bool has_no_name(RunWhat what) { return what == RunWhat::steady_time || what == RunWhat::time_constant; }

/// The names that entries of a kind have.
std::vector<std::string> names_of(const Model& model, TermOf of) {
    std::vector<std::string> out;
    const auto take = [&](const auto& list, const auto& name) {
        for (std::size_t i = 0; i < list.size(); ++i) out.push_back(name(list[i], i));
    };
    switch (of) {
        case TermOf::part:
            take(model.parts, [](const Part& p, std::size_t) { return p.name; });
            break;
        case TermOf::sensor:
            take(sensors_of(model), [](const Sensor& s, std::size_t) { return s.name; });
            break;
        case TermOf::surface:
            take(model.surfaces, [](const Surface& s, std::size_t) { return s.name; });
            break;
        case TermOf::joint:
            take(model.joints, [](const Joint& j, std::size_t) { return display_name(j); });
            break;
        case TermOf::resistor:
            take(model.resistors, [](const Resistor& r, std::size_t) { return display_name(r); });
            break;
        case TermOf::cooling:
            take(model.coolings, [](const Cooling& c, std::size_t i) { return display_name(c, i); });
            break;
        case TermOf::hold:
            take(model.holds, [](const Hold& h, std::size_t i) { return display_name(h, i); });
            break;
        case TermOf::power:
            take(model.powers, [](const Power& p, std::size_t) { return display_name(p); });
            break;
        case TermOf::product:
            break;
    }
    return out;
}

/// The names of a model's entries, listed when they are first asked for.
class Names {
public:
    explicit Names(const Model& model) : model_(model) {}
    [[nodiscard]] const Model& model() const { return model_; }
    [[nodiscard]] const std::vector<std::string>& of(TermOf kind) {
        std::optional<std::vector<std::string>>& list = lists_[static_cast<std::size_t>(kind)];
        if (!list) list = names_of(model_, kind);
        return *list;
    }
    /// Those of all copies of parts; empty where no part has several.
    [[nodiscard]] const std::vector<std::string>& copies() {
        if (!copies_) {
            copies_.emplace();
            for (const PlacedPart& copy : place_parts(model_, true)) {
                if (copy.name != model_.parts[copy.part].name) copies_->push_back(copy.name);
            }
        }
        return *copies_;
    }

private:
    const Model& model_;
    std::array<std::optional<std::vector<std::string>>, words.size()> lists_{};
    std::optional<std::vector<std::string>> copies_{};
};

/// Whether "a - b" names two parts.
bool names_a_pair(const Model& model, std::string_view name) {
    const auto is_part = [&](std::string_view text) {
        return std::any_of(model.parts.begin(), model.parts.end(), [&](const Part& p) { return p.name == text; });
    };
    for (std::size_t at = name.find(" - "); at != std::string_view::npos; at = name.find(" - ", at + 1)) {
        if (is_part(name.substr(0, at)) && is_part(name.substr(at + 3))) return true;
    }
    return false;
}

bool is_there(Names& names, const TermInfo& term, const std::string& name) {
    if (name.empty()) return term.of == TermOf::product;
    const std::vector<std::string>& known = names.of(term.of);
    const auto meant = [&](const std::string& other) { return term.wildcard ? matches_wildcard(name, other) : name == other; };
    if (std::any_of(known.begin(), known.end(), meant)) return true;
    if (term.of == TermOf::joint) return names_a_pair(names.model(), name);
    return term.of == TermOf::part && std::any_of(names.copies().begin(), names.copies().end(), meant);
}

/// The name in "die.max" for the word "max"; nothing where the word does not end the text.
std::optional<std::string> name_before(std::string_view text, std::string_view word) {
    if (word.empty()) return std::string(text);
    if (text.size() < word.size() + 2 || !text.ends_with(word) || text[text.size() - word.size() - 1] != '.') return std::nullopt;
    return std::string(text.substr(0, text.size() - word.size() - 1));
}

/// The plane of a section, "x = 12 mm". Throws QuantityError.
FigureTerm section_in(FigureTerm term, std::string_view plane) {
    const std::size_t equals = plane.find('=');
    const std::size_t axis = plane.empty() ? std::string_view::npos : std::string_view("xyz").find(plane.front());
    if (axis == std::string_view::npos || equals == std::string_view::npos || plane.substr(1, equals - 1).find_first_not_of(' ') != std::string_view::npos)
        throw QuantityError(fmt::format("{} is no plane of a section; write one as in \"x = 12 mm\"", in_quotes(plane)), 1);
    term.axis = static_cast<int>(axis);
    term.at = parse_quantity(plane.substr(equals + 1), kinds::length);
    return term;
}

/// All that a text can mean among entries of a kind. Throws QuantityError for a share above what is no temperature, and for a section across no plane.
std::vector<FigureTerm> meant_by(Names& names, TermOf of, std::string_view text) {
    std::vector<FigureTerm> out;
    for (const TermInfo& term : terms) {
        if (term.of != of) continue;
        if (term.what == TermWhat::share) {
            const std::string mark = fmt::format(".{} ", term.word);
            const std::size_t at = text.rfind(mark);
            if (at == std::string_view::npos || !is_there(names, term, std::string(text.substr(0, at)))) continue;
            out.push_back({.info = &term, .name = std::string(text.substr(0, at)), .above = parse_quantity(text.substr(at + mark.size()), kinds::temperature)});
            continue;
        }
        if (term.what == TermWhat::through) {
            const std::string mark = fmt::format(".{} ", term.word);
            const std::size_t at = text.rfind(mark);
            if (at == std::string_view::npos || !is_there(names, term, std::string(text.substr(0, at)))) continue;
            out.push_back(section_in({.info = &term, .name = std::string(text.substr(0, at))}, text.substr(at + mark.size())));
            continue;
        }
        const std::optional<std::string> name = name_before(text, term.word);
        if (name && is_there(names, term, *name)) out.push_back({.info = &term, .name = *name});
    }
    return out;
}

std::string words_after(TermOf of) {
    std::vector<std::string> known;
    for (const TermInfo& term : terms) {
        if (term.of == of && !term.word.empty()) known.emplace_back(term.word);
    }
    return quoted_list(known, known.size());
}

/// Why an address that begins with the word of a kind names nothing.
std::string refusal(Names& all, TermOf of, std::string_view address, const std::string& rest) {
    const std::size_t dot = rest.rfind('.');
    const std::string name = rest.substr(0, dot), word = dot == std::string::npos ? std::string() : rest.substr(dot + 1);
    const bool known_word = std::any_of(terms.begin(), terms.end(), [&](const TermInfo& t) { return t.of == of && !t.word.empty() && t.word == word; });
    const std::vector<std::string>& names = all.of(of);
    const std::string what(word_of(of));
    const std::string entry = std::find(names.begin(), names.end(), rest) != names.end() ? rest : known_word ? name : std::string();
    if (entry.empty() || std::find(names.begin(), names.end(), entry) != names.end())
        return fmt::format("{} does not say what of the {} is meant: after its name stands a dot and one of {}", in_quotes(address), what, words_after(of));
    return fmt::format("no {} is called {}{}", what, in_quotes(entry), did_you_mean(entry, names));
}

FigureTerm term_called(Names& names, std::string_view address) {
    if (address == "mass") return {.info = &terms.back()};
    const std::size_t dot = address.find('.');
    const auto kind = std::find(words.begin(), words.end(), address.substr(0, dot));
    if (dot != std::string_view::npos && kind != words.end()) {
        const TermOf of = static_cast<TermOf>(kind - words.begin());
        const std::vector<FigureTerm> meant = meant_by(names, of, address.substr(dot + 1));
        if (!meant.empty()) return meant.front();
    }
    // Without the word of a kind what it names has to be the only one.
    std::vector<FigureTerm> meant;
    for (std::size_t k = 0; k < words.size(); ++k) {
        const std::vector<FigureTerm> more = meant_by(names, static_cast<TermOf>(k), address);
        if (!more.empty()) meant.push_back(more.front());
    }
    if (meant.size() == 1) return meant.front();
    if (meant.size() > 1) {
        std::vector<std::string> choices;
        for (const FigureTerm& term : meant) choices.push_back(fmt::format("{}.{}", word_of(term.info->of), address));
        throw Error(fmt::format("{} can mean several things; write one of {}", in_quotes(address), quoted_list(choices, choices.size())));
    }
    if (dot != std::string_view::npos && kind != words.end())
        throw Error(refusal(names, static_cast<TermOf>(kind - words.begin()), address, std::string(address.substr(dot + 1))));
    const std::string name(address.substr(0, address.rfind('.')));
    std::vector<std::string> known;
    for (std::size_t k = 0; k < words.size(); ++k) {
        for (const std::string& entry : names.of(static_cast<TermOf>(k))) known.push_back(entry);
    }
    const auto of = [&](const std::string& text) {
        for (std::size_t k = 0; k < words.size(); ++k) {
            const std::vector<std::string>& list = names.of(static_cast<TermOf>(k));
            if (std::find(list.begin(), list.end(), text) != list.end()) return std::optional(static_cast<TermOf>(k));
        }
        return std::optional<TermOf>();
    };
    for (const std::string& text : {std::string(address), name}) {
        if (const auto found = of(text)) throw Error(refusal(names, *found, address, fmt::format("{}", address)));
    }
    throw Error(fmt::format("{} names nothing of the model{}; an address is a name and what is meant of it, as in \"die.max\", \"joint.pad.flow\" or \"mass\"",
                            in_quotes(address), did_you_mean(name, known)));
}

/// Numbers that operands could be, to find the kind of a result: none of them alike, so that differences do not vanish.
double sample_of(const QuantityKind& kind, std::size_t n, int round) {
    const double varied = 1.0 + 0.37 * static_cast<double>(n % 7) + 0.11 * static_cast<double>(n) + 0.53 * round;
    return kind.absolute_temperature ? 290.0 + 10.0 * varied : varied;
}

class FormMaker : Checks {
public:
    explicit FormMaker(const Model& model) : model_(model), names_(model) {
        // Of all that the history has columns of.
        const auto take = [&](TermOf of, std::initializer_list<std::string_view> endings) {
            for (const std::string& name : names_.of(of)) {
                for (const std::string_view ending : endings) taken_.insert(name + std::string(ending));
            }
        };
        take(TermOf::part, {"", " min", " mean", " max", " melted"});
        take(TermOf::sensor, {""});
        take(TermOf::power, {" in"});
        for (const TermOf of : {TermOf::cooling, TermOf::hold, TermOf::resistor}) take(of, {" out"});
        for (const Thermostat& thermostat : model.thermostats) taken_.insert(thermostat.name + " on");
        taken_.insert("stored");
    }

    std::pair<FigureForms, std::vector<Problem>> make() {
        std::set<std::string> seen;
        for (std::size_t i = 0; i < model_.figures.size(); ++i) {
            const NamedFigure& figure = model_.figures[i];
            const std::string at = fmt::format("figure[{}]", i);
            if (figure.name.empty()) {
                report(at + ".name", "a figure needs a name");
            } else if (!seen.insert(figure.name).second) {
                report(at + ".name", fmt::format("the name {} is used twice; give each figure its own", in_quotes(figure.name)));
            } else if (taken_.count(figure.name) != 0) {
                report(at + ".name",
                       fmt::format("the name {} is taken by a part, a sensor, a node, or a column of the history; choose another one", in_quotes(figure.name)));
                refused_.insert(figure.name);
            } else if (figure.value.empty()) {
                report(at + ".value", "a figure needs a value, such as \"die.max\" or \"= 'die.max' - 'die.min'\"");
            } else {
                add_figure(at + ".value", figure.name, figure.value);
            }
        }
        for (std::size_t i = 0; i < model_.limits.size(); ++i) {
            const Limit& limit = model_.limits[i];
            if (limit.figure.empty()) continue;
            const std::string at = fmt::format("limit[{}]", i);
            use(at, limit.figure, {{"below", &limit.below}, {"above", &limit.above}});
            if (limit.after != 0.0 && is_of_run(limit.figure))
                report(at + ".after", fmt::format("{} is told of the whole run, so there is nothing to wait for; leave `after` out", in_quotes(limit.figure)));
        }
        for (std::size_t i = 0; i < model_.milestones.size(); ++i) {
            const Milestone& milestone = model_.milestones[i];
            if (milestone.figure.empty()) continue;
            const std::string at = fmt::format("milestone[{}]", i);
            use(at, milestone.figure, {{"rises_above", &milestone.rises_above}, {"falls_below", &milestone.falls_below}});
            if (is_of_run(milestone.figure))
                report(at + ".figure", fmt::format("{} is told of the whole run and passes nothing at a time; put a limit on it", in_quotes(milestone.figure)));
        }
        return {std::move(out_), std::move(problems)};
    }

private:
    void add_figure(const std::string& at, const std::string& name, const std::string& value) {
        try {
            out_.figures.push_back(value.starts_with("=") ? combined(name, value.substr(1)) : single(name, value));
        } catch (const Error& error) {
            report(at, error.what());
            refused_.insert(name);
        }
    }

    std::size_t term_index(const FigureTerm& term) {
        const auto found = std::find(out_.terms.begin(), out_.terms.end(), term);
        if (found != out_.terms.end()) return static_cast<std::size_t>(found - out_.terms.begin());
        out_.terms.push_back(term);
        return out_.terms.size() - 1;
    }

    FigureForm single(const std::string& name, const std::string& address) {
        FigureForm form{.name = name, .formula = Formula({.form = operand_name(0), .operands = {{}}})};
        if (const std::optional<std::size_t> run = run_called(address)) {
            form.quantity = out_.run_terms[*run].quantity;
            form.operands = {{.run_term = *run}};
            form.of_run = true;
            return form;
        }
        const FigureTerm term = term_called(names_, address);
        form.quantity = term.info->quantity;
        form.operands = {{.term = term_index(term)}};
        return form;
    }

    /// What an address of a run names, as its place in FigureForms::run_terms; nothing where it is none.
    std::optional<std::size_t> run_called(std::string_view text) {
        for (const RunInfo& info : of_runs) {
            if (!text.starts_with(info.before) || !text.ends_with(info.after) || text.size() < info.before.size() + info.after.size()) continue;
            const std::string_view name = text.substr(info.before.size(), text.size() - info.before.size() - info.after.size());
            if (name.empty() != has_no_name(info.what)) continue;
            if (names_something(text)) continue;
            std::optional<RunTerm> term = run_term(info, name);
            if (!term) continue;
            const auto found = std::find(out_.run_terms.begin(), out_.run_terms.end(), *term);
            if (found != out_.run_terms.end()) return static_cast<std::size_t>(found - out_.run_terms.begin());
            out_.run_terms.push_back(std::move(*term));
            return out_.run_terms.size() - 1;
        }
        return std::nullopt;
    }

    std::optional<RunTerm> run_term(const RunInfo& info, std::string_view name) {
        RunTerm term{.info = &info, .quantity = info.quantity};
        if (has_no_name(info.what)) return term;
        if (!info.after.empty()) {
            std::vector<std::string> known;
            for (const Thermostat& thermostat : model_.thermostats) known.push_back(thermostat.name);
            if (std::find(known.begin(), known.end(), name) == known.end())
                throw Error(fmt::format("no thermostat is called {}{}", in_quotes(name), did_you_mean(name, known)));
            term.thermostat = name;
            return term;
        }
        if (is_passing(info.what)) {
            const std::size_t above = name.rfind(" is above "), below = name.rfind(" is below ");
            if (above == std::string_view::npos && below == std::string_view::npos) return std::nullopt;
            constexpr std::size_t length = std::string_view(" is above ").size();
            term.above = above != std::string_view::npos;
            const std::size_t at = term.above ? above : below;
            term.figure = followed(name.substr(0, at));
            term.passed = parse_quantity(name.substr(at + length), *out_.figures[*term.figure].quantity);
            return term;
        }
        term.figure = followed(name);
        const QuantityKind& of = *out_.figures[*term.figure].quantity;
        if (info.what == RunWhat::total && of.name != kinds::power.name)
            throw Error(fmt::format("only heat flows add up over time, and {} is a {}", in_quotes(name), of.name));
        if (term.quantity == nullptr) term.quantity = info.what == RunWhat::swing ? &difference_of(of) : &of;
        return term;
    }

    /// The place of a figure, or of a figure without a name that is made for an address.
    std::size_t followed(std::string_view text) {
        if (const FigureForm* earlier = out_.find(text); earlier != nullptr && !text.empty()) {
            if (earlier->of_run) throw Error(fmt::format("{} is told of the whole run already", in_quotes(text)));
            return static_cast<std::size_t>(earlier - out_.figures.data());
        }
        if (refused_.count(std::string(text)) != 0) throw Error(fmt::format("the figure {} that it is made of is mistaken", in_quotes(text)));
        const auto [place, fresh] = followed_.try_emplace(std::string(text), out_.figures.size());
        if (!fresh) return place->second;
        try {
            const FigureTerm term = term_called(names_, text);
            out_.figures.push_back(
                {.quantity = term.info->quantity, .formula = Formula({.form = operand_name(0), .operands = {{}}}), .operands = {{.term = term_index(term)}}});
        } catch (...) {
            followed_.erase(place);
            throw;
        }
        return place->second;
    }

    /// Whether the model has something of that very name, as a part called "mean of all" would be.
    bool names_something(std::string_view text) {
        for (std::size_t k = 0; k < words.size(); ++k) {
            if (!meant_by(names_, static_cast<TermOf>(k), text).empty()) return true;
        }
        return false;
    }

    FigureForm combined(const std::string& name, std::string_view text) {
        const Expression read = read_expression(text);
        FigureForm form{.name = name, .formula = Formula(read)};
        std::vector<const QuantityKind*> given;  // null: a number of the expression
        bool varies = false, of_moment = false;
        for (const Expression::Operand& operand : read.operands) {
            if (operand.parameter.empty()) {
                form.operands.push_back({.number = operand.value.value});
                given.push_back(operand.value.on_a_scale ? &kinds::temperature : nullptr);
                continue;
            }
            varies = true;
            if (const FigureForm* earlier = out_.find(operand.parameter)) {
                form.operands.push_back({.figure = static_cast<std::size_t>(earlier - out_.figures.data())});
                given.push_back(earlier->quantity);
                (earlier->of_run ? form.of_run : of_moment) = true;
                continue;
            }
            if (refused_.count(operand.parameter) != 0) throw Error(fmt::format("the figure {} that it is made of is mistaken", in_quotes(operand.parameter)));
            if (const std::optional<std::size_t> run = run_called(operand.parameter)) {
                form.operands.push_back({.run_term = *run});
                given.push_back(out_.run_terms[*run].quantity);
                form.of_run = true;
                continue;
            }
            const FigureTerm term = term_called(names_, operand.parameter);
            form.operands.push_back({.term = term_index(term)});
            given.push_back(term.info->quantity);
            of_moment = true;
        }
        if (form.of_run && of_moment)
            throw Error("it mixes what is told of a whole run with what is read at a moment; say what is meant of the run, as in 'highest of die.max'");
        if (!varies) throw Error("it names nothing that a solution tells: addresses such as 'die.max' stand in single quotes");
        form.quantity = &quantity_of(form, read, given);
        return form;
    }

    /// The kind of what an expression gives, found with numbers that stand for its operands.
    static const QuantityKind& quantity_of(const FigureForm& form, const Expression& read, const std::vector<const QuantityKind*>& given) {
        std::optional<Dimension> dimension;
        double shift = 0.0;
        constexpr int rounds = 3;  // one of them may give 0, or lie where the expression is not defined
        for (int round = 0; round < rounds && !dimension; ++round) {
            std::vector<Measured> operands;
            std::vector<bool> is_temperature;
            for (std::size_t n = 0; n < given.size(); ++n) {
                const bool number = form.operands[n].number.has_value();
                operands.push_back(number ? read.operands[n].value : Measured{sample_of(*given[n], n, round), given[n]->dimension});
                is_temperature.push_back(given[n] != nullptr && given[n]->absolute_temperature);
            }
            try {
                dimension = form.formula.dimension(operands);
                shift = form.formula.shift(operands, is_temperature);
            } catch (const QuantityError&) {
                if (round + 1 == rounds) throw;
            }
        }
        constexpr double rounding = 1e-6;
        const bool kelvin = dimension && *dimension == kinds::temperature.dimension;
        if (std::abs(shift) > rounding && !(kelvin && std::abs(shift - 1.0) < rounding))
            throw Error(
                "temperatures are put together in a way that depends on where their scale begins; differences and means of them do not: 'a.max' - 'b.max', "
                "('a.max' + 'b.max') / 2");
        const QuantityKind* found = quantity_with(dimension.value_or(Dimension{}), std::abs(shift) > rounding);
        if (found == nullptr) throw Error(fmt::format("it gives {}, which has no name here", name_of(*dimension)));
        return *found;
    }

    /// A limit or a milestone on a figure or an address: it has to be there, and its values have to be of its kind.
    void use(const std::string& at, const std::string& name, const std::vector<std::pair<std::string, const std::optional<Threshold>*>>& values) {
        if (out_.find(name) == nullptr) {
            if (refused_.count(name) != 0) return;
            std::vector<std::string> known;
            for (const NamedFigure& figure : model_.figures) known.push_back(figure.name);
            try {
                out_.figures.push_back(single(name, name));
            } catch (const Error& error) {
                const std::string near = did_you_mean(name, known);
                report(at + ".figure", near.empty() ? fmt::format("no figure has that name, and as an address: {}", error.what())
                                                    : fmt::format("no figure is called {}{}", in_quotes(name), near));
                refused_.insert(name);
                return;
            }
        }
        const QuantityKind& kind = *out_.find(name)->quantity;
        for (const auto& [key, value] : values) {
            if (!*value || (*value)->kind->name == kind.name) continue;
            report(fmt::format("{}.{}", at, key),
                   fmt::format("{} is a {}, found a {}; write it as in \"{}\"", in_quotes(name), kind.name, (*value)->kind->name, kind.example));
        }
    }

    bool is_of_run(const std::string& name) const {
        const FigureForm* form = out_.find(name);
        return form != nullptr && form->of_run;
    }

    const Model& model_;
    Names names_;
    FigureForms out_;
    std::set<std::string> refused_, taken_;
    std::map<std::string, std::size_t> followed_;  // addresses that only figures of the run are made of
};

}  // namespace

std::span<const TermInfo> figure_terms() { return terms; }
std::span<const RunInfo> run_figures() { return of_runs; }
std::string_view word_of(TermOf of) { return words[static_cast<std::size_t>(of)]; }

FigureTerm figure_term(const Model& model, std::string_view address) {
    Names names(model);
    return term_called(names, address);
}

const FigureForm* FigureForms::find(std::string_view name) const {
    const auto found = std::find_if(figures.begin(), figures.end(), [&](const FigureForm& f) { return f.name == name; });
    return found == figures.end() ? nullptr : &*found;
}

std::vector<std::size_t> FigureForms::terms_of(const FigureForm& form) const {
    std::vector<std::size_t> out;
    for (const FigureForm::Operand& operand : form.operands) {
        if (operand.term) out.push_back(*operand.term);
        const std::optional<std::size_t> other = operand.run_term ? run_terms[*operand.run_term].figure : operand.figure;
        const std::vector<std::size_t> inner = other ? terms_of(figures[*other]) : std::vector<std::size_t>();
        out.insert(out.end(), inner.begin(), inner.end());
    }
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

FigureForms forms_of_figures(const Model& model) {
    auto [forms, problems] = FormMaker(model).make();
    if (!problems.empty()) throw ModelError(std::move(problems));
    return std::move(forms);
}

void ask_for(Model& model, const std::string& figure) {
    if (std::any_of(model.figures.begin(), model.figures.end(), [&](const NamedFigure& f) { return f.name == figure; })) return;
    Model asked = model;
    asked.figures.push_back({.name = figure, .value = figure});
    const std::vector<Problem> before = check_figures(model), problems = check_figures(asked);
    if (problems.size() > before.size()) {
        const auto fresh =
            std::find_if(problems.begin(), problems.end(), [&](const Problem& p) { return std::find(before.begin(), before.end(), p) == before.end(); });
        std::vector<std::string> known;
        for (const NamedFigure& f : model.figures) known.push_back(f.name);
        const std::string near = did_you_mean(figure, known);
        throw Error(near.empty() ? fmt::format("{}: {}", in_quotes(figure), fresh->message) : fmt::format("no figure is called {}{}", in_quotes(figure), near));
    }
    model.figures = std::move(asked.figures);
}

const QuantityKind& quantity_of(const Model& model, const std::string& figure) {
    Model asked = model;
    ask_for(asked, figure);
    asked.limits.clear();
    asked.milestones.clear();
    return *forms_of_figures(asked).find(figure)->quantity;
}

std::vector<Problem> check_figures(const Model& model) { return FormMaker(model).make().second; }

}  // namespace firnfield
