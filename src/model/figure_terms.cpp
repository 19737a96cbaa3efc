// Addresses of what a solution tells at a moment.

#include "model/figure_terms.hpp"

#include <firnfield/error.hpp>

#include "base/words.hpp"
#include "model/bodies.hpp"

#include <fmt/format.h>

#include <algorithm>

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

bool is_there(Addresses& names, const TermInfo& term, const std::string& name) {
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
std::vector<FigureTerm> meant_by(Addresses& names, TermOf of, std::string_view text) {
    std::vector<FigureTerm> out;
    for (const TermInfo& term : terms) {
        if (term.of != of) continue;
        if (term.what == TermWhat::share || term.what == TermWhat::through) {  // what is meant stands behind the word
            const std::string mark = fmt::format(".{} ", term.word);
            const std::size_t at = text.rfind(mark);
            if (at == std::string_view::npos || !is_there(names, term, std::string(text.substr(0, at)))) continue;
            FigureTerm found{.info = &term, .name = std::string(text.substr(0, at))};
            const std::string_view behind = text.substr(at + mark.size());
            if (term.what == TermWhat::share) {
                found.above = parse_quantity(behind, kinds::temperature);
            } else {
                found = section_in(std::move(found), behind);
            }
            out.push_back(std::move(found));
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
std::string refusal(Addresses& all, TermOf of, std::string_view address, const std::string& rest) {
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

FigureTerm term_called(Addresses& names, std::string_view address) {
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

}  // namespace

std::span<const TermInfo> figure_terms() { return terms; }
std::string_view word_of(TermOf of) { return words[static_cast<std::size_t>(of)]; }

const std::vector<std::string>& Addresses::of(TermOf kind) {
    std::optional<std::vector<std::string>>& list = lists_[static_cast<std::size_t>(kind)];
    if (!list) list = names_of(model_, kind);
    return *list;
}

const std::vector<std::string>& Addresses::copies() {
    if (!copies_) {
        copies_.emplace();
        for (const PlacedPart& copy : place_parts(model_, true)) {
            if (copy.name != model_.parts[copy.part].name) copies_->push_back(copy.name);
        }
    }
    return *copies_;
}

FigureTerm Addresses::term(std::string_view address) { return term_called(*this, address); }

bool Addresses::name_something(std::string_view text) {
    for (std::size_t k = 0; k < words.size(); ++k) {
        if (!meant_by(*this, static_cast<TermOf>(k), text).empty()) return true;
    }
    return false;
}

FigureTerm figure_term(const Model& model, std::string_view address) { return Addresses(model).term(address); }

}  // namespace firnfield
