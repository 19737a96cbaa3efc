// The figures that a model makes of addresses, at moments and of runs.

#include "model/figure_forms.hpp"

#include <firnfield/error.hpp>

#include "base/words.hpp"
#include "model/checks.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <set>

namespace firnfield {
namespace {

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

/// Numbers that operands could be, to find the kind of a result: none of them alike, so that differences do not vanish.
double sample_of(const QuantityKind& kind, std::size_t n, int round) {
    const double varied = 1.0 + 0.37 * static_cast<double>(n % 7) + 0.11 * static_cast<double>(n) + 0.53 * round;
    return kind.absolute_temperature ? 290.0 + 10.0 * varied : varied;
}

class FormMaker : Checks {
public:
    explicit FormMaker(const Model& model) : model_(model), addresses_(model) {
        // Of all that the history has columns of.
        const auto take = [&](TermOf of, std::initializer_list<std::string_view> endings) {
            for (const std::string& name : addresses_.of(of)) {
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
        const FigureTerm term = addresses_.term(address);
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
            if (addresses_.name_something(text)) continue;
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
            const FigureTerm term = addresses_.term(text);
            out_.figures.push_back(
                {.quantity = term.info->quantity, .formula = Formula({.form = operand_name(0), .operands = {{}}}), .operands = {{.term = term_index(term)}}});
        } catch (...) {
            followed_.erase(place);
            throw;
        }
        return place->second;
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
            const FigureTerm term = addresses_.term(operand.parameter);
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
    Addresses addresses_;
    FigureForms out_;
    std::set<std::string> refused_, taken_;
    std::map<std::string, std::size_t> followed_;  // addresses that only figures of the run are made of
};

}  // namespace

std::span<const RunInfo> run_figures() { return of_runs; }

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
