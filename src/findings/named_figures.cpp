// Figures that a model names: what their terms are read from, and their values.

#include "findings/named_figures.hpp"

#include "base/words.hpp"
#include "findings/grouping.hpp"
#include "findings/heat_flux.hpp"
#include "findings/readings.hpp"
#include "findings/share_above.hpp"
#include "model/bodies.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

namespace firnfield {
namespace {

constexpr double none = std::numeric_limits<double>::quiet_NaN();

}  // namespace

NamedFigures::NamedFigures(const Model& model, const Mesh& mesh, const Study& study, const std::vector<std::string>& sensors)
    : model_(model), mesh_(mesh), study_(study), forms_(forms_of_figures(model)) {
    for (const FigureTerm& term : forms_.terms) terms_.push_back(bind(term, study, sensors));
}

NamedFigures::Bound NamedFigures::bind(const FigureTerm& term, const Study& study, const std::vector<std::string>& sensors) const {
    Bound out{.info = term.info, .above = term.above.value_or(0.0), .axis = term.axis, .at = term.at};
    const auto take = [&](const std::vector<std::string>& names, const std::vector<bool>* acting) {
        bool left_out = false;
        for (std::size_t i = 0; i < names.size(); ++i) {
            if (term.info->wildcard ? !matches_wildcard(term.name, names[i]) : names[i] != term.name) continue;
            if (acting != nullptr && !(*acting)[i]) {
                left_out = true;
            } else {
                out.entries.push_back(i);
            }
        }
        if (out.entries.empty())
            out.missing = left_out ? fmt::format("{} {} is left out", word_of(term.info->of), in_quotes(term.name))
                                   : fmt::format("there is no {} {}", word_of(term.info->of), in_quotes(term.name));
    };
    const auto names = [](const auto& list, const auto& name) {
        std::vector<std::string> all;
        for (std::size_t i = 0; i < list.size(); ++i) all.push_back(name(list[i], i));
        return all;
    };
    const Acting acting = acting_in(model_, study);
    switch (term.info->of) {
        case TermOf::part:
        case TermOf::product:
            for (Index b = 0; b < mesh_.bodies.size(); ++b) {
                const Part& part = model_.parts[mesh_.bodies[b].part];
                if (term.info->of == TermOf::part && !picks(term.name, mesh_.bodies[b].name, part.name)) continue;
                out.bodies.push_back(b);
                if (term.info->what != TermWhat::mass) continue;
                const Material& material = material_named(model_, part.material);
                if (!material.density && out.missing.empty()) out.missing = fmt::format("{} has no density", in_quotes(material.name));
                out.constant += material.density.value_or(0.0) * mesh_.bodies[b].volume * mesh_.multiplicity;
            }
            if (out.bodies.empty()) out.missing = fmt::format("no part {} is in the assembly", in_quotes(term.name));
            if (out.missing.empty() && term.info->what == TermWhat::through) bind_section(out);
            break;
        case TermOf::sensor:
            take(sensors, nullptr);
            break;
        case TermOf::surface:
            for (const Surface& surface : model_.surfaces) {
                if (!matches_wildcard(term.name, surface.name)) continue;
                try {
                    for (const Index p : select_patches(model_, mesh_, surface.pick, "surface")) out.patches.push_back(p);
                } catch (const ModelError&) {  // it picks nothing here
                }
            }
            std::sort(out.patches.begin(), out.patches.end());
            out.patches.erase(std::unique(out.patches.begin(), out.patches.end()), out.patches.end());
            for (const Index p : out.patches) out.area += mesh_.patches.area[p];
            if (out.patches.empty()) out.missing = fmt::format("surface {} picks nothing", in_quotes(term.name));
            break;
        case TermOf::joint:
            bind_joint(term.name, out);
            break;
        case TermOf::resistor:
            take(names(model_.resistors, [](const Resistor& r, std::size_t) { return display_name(r); }), nullptr);
            break;
        case TermOf::cooling:
            take(names(model_.coolings, [](const Cooling& c, std::size_t i) { return display_name(c, i); }), &acting.coolings);
            break;
        case TermOf::hold:
            take(names(model_.holds, [](const Hold& h, std::size_t i) { return display_name(h, i); }), &acting.holds);
            break;
        case TermOf::power:
            take(names(model_.powers, [](const Power& p, std::size_t) { return display_name(p); }), &acting.powers);
            break;
    }
    return out;
}

/// How often the product has the section, and whether the parts reach it.
void NamedFigures::bind_section(Bound& out) const {
    out.constant = mesh_.multiplicity;
    for (const Mirror& mirror : model_.mirrors) {
        if (mirror.keep) out.missing = "a section is not told where a plane of symmetry is oblique";
        if (!mirror.keep && mirror.axis == out.axis) out.constant /= 2.0;  // its image lies elsewhere, and heat passes it the other way
    }
    if (model_.space && out.axis == (model_.space->revolved ? 1 : 2))
        out.missing = model_.space->revolved ? "nothing varies around the axis of a revolved model, so no heat passes a section there"
                                             : "nothing varies along z of a plane model, so no heat passes a section across it";
    if (model_.sector && model_.sector->along != out.axis) out.missing = "a section is not told where it would cross the planes of a sector";
    const bool reached = std::any_of(out.bodies.begin(), out.bodies.end(), [&](Index b) {
        const double lower = mesh_.bodies[b].box.lower()[out.axis], upper = mesh_.bodies[b].box.upper()[out.axis];
        const double rounding = 1e-9 * (std::abs(lower) + std::abs(upper));
        return out.at >= lower - rounding && out.at <= upper + rounding;
    });
    if (!reached) out.missing = "the plane of the section does not meet the part";
}

/// From the first of the joint's two to the second, or from part to part where the pair is named "a - b".
void NamedFigures::bind_joint(const std::string& name, Bound& out) const {
    for (const JointGroup& group : group_joints(model_, mesh_)) {
        const std::string &first = model_.parts[group.first_part].name, &second = model_.parts[group.second_part].name;
        double sign = 0.0;
        if (group.joint != no_index && display_name(model_.joints[group.joint]) == name) {
            const std::array<std::string, 2>& between = model_.joints[group.joint].between;
            const auto stand = [&](Index one, Index other) {
                return picks(between[0], mesh_.bodies[one].name, model_.parts[mesh_.bodies[one].part].name) &&
                       picks(between[1], mesh_.bodies[other].name, model_.parts[mesh_.bodies[other].part].name);
            };
            const ContactPair& pair = mesh_.pairs[group.pairs.front()];
            const bool turned = group.swapped.front() ? !stand(pair.second, pair.first) : !stand(pair.first, pair.second);
            sign = turned ? -1.0 : 1.0;
        } else if (name == first + " - " + second) {
            sign = 1.0;
        } else if (name == second + " - " + first) {
            sign = -1.0;
        }
        if (sign == 0.0) continue;
        for (std::size_t i = 0; i < group.pairs.size(); ++i) {
            out.pairs.emplace_back(group.pairs[i], group.swapped[i] ? -sign : sign);
            out.area += mesh_.pairs[group.pairs[i]].area;
        }
    }
    if (out.pairs.empty()) out.missing = fmt::format("nothing touches at joint {}", in_quotes(name));
}

std::size_t NamedFigures::index_of(const std::string& name) const { return static_cast<std::size_t>(forms_.find(name) - forms_.figures.data()); }

std::string NamedFigures::missing(std::size_t figure) const {
    for (const FigureForm::Operand& operand : forms_.figures[figure].operands) {
        std::string why = operand.term ? terms_[*operand.term].missing : operand.figure ? missing(*operand.figure) : std::string();
        if (operand.run_term) why = missing(forms_.run_terms[*operand.run_term]);
        if (!why.empty()) return why;
    }
    return {};
}

std::string NamedFigures::missing(const RunTerm& term) const {
    if (study_.kind == StudyKind::steady) return "it is told of a run in time, and the study is steady";
    if (term.figure) return missing(*term.figure);
    for (std::size_t t = 0; t < model_.thermostats.size(); ++t) {
        if (model_.thermostats[t].name == term.thermostat && !acting_in(model_, study_).thermostats[t])
            return fmt::format("thermostat {} is left out", in_quotes(term.thermostat));
    }
    return {};
}

std::string NamedFigures::remark(std::size_t figure) const {
    const FigureForm& form = forms_.figures[figure];
    const bool elsewhere = form.of_run && study_.kind == StudyKind::steady &&
                           std::any_of(model_.studies.begin(), model_.studies.end(), [](const Study& s) { return s.kind != StudyKind::steady; });
    return form.name.empty() || elsewhere ? std::string() : missing(figure);
}

bool NamedFigures::of_moments(std::size_t figure) const {
    const FigureForm& form = forms_.figures[figure];
    return !form.name.empty() && !form.of_run && missing(figure).empty();
}

Index NamedFigures::body_of(const Bound& term, const BodyTemperatures& bodies) const {
    const bool hottest = term.info->what == TermWhat::max;
    const std::vector<Spot>& spots = hottest ? bodies.hottest : bodies.coldest;
    return *std::max_element(term.bodies.begin(), term.bodies.end(), [&](Index a, Index b) {
        return hottest ? spots[a].temperature < spots[b].temperature : spots[a].temperature > spots[b].temperature;
    });
}

/// Temperature of a surface, or of what a cooling cools, K.
double NamedFigures::surface(const Bound& term, const MomentView& moment) const {
    std::vector<Index> of_coolings;
    for (const std::size_t c : term.entries) {
        const std::vector<Index>& patches = moment.network.cooling_coverage[c].patches;
        of_coolings.insert(of_coolings.end(), patches.begin(), patches.end());
    }
    const std::vector<Index>& patches = term.patches.empty() ? of_coolings : term.patches;
    if (patches.empty()) return none;
    const auto bounded = [&](double temperature) { return moment.bounded ? moment.bounded(temperature) : temperature; };
    const std::span<const double> found = moment.patch_temperature;
    const Defects* defects = moment.error == nullptr ? nullptr : &moment.error->defects();
    if (term.info->what == TermWhat::mean) {
        double sum = 0.0, area = 0.0;
        for (const Index p : patches) {
            sum += mesh_.patches.area[p] * (found[p] + (defects == nullptr ? 0.0 : defects->of_patch(p)));
            area += mesh_.patches.area[p];
        }
        return bounded(sum / area);
    }
    if (term.info->what == TermWhat::share) return share_of_surface_above(mesh_, patches, moment.nodes, found, defects, term.above);
    const bool hottest = term.info->what == TermWhat::max;
    const Index place =
        *std::max_element(patches.begin(), patches.end(), [&](Index a, Index b) { return hottest ? found[a] < found[b] : found[a] > found[b]; });
    if (moment.error == nullptr) return bounded(found[place]);
    const double told = bounded(found[place] + moment.error->of_extreme({Place::Kind::patch, place}, hottest));
    return told + (moment.doubted ? moment.error->doubt_in_extreme({Place::Kind::patch, place}, hottest) : 0.0);
}

std::vector<double> NamedFigures::read(const MomentView& moment) const {
    const auto needs = [&](TermOf of) {
        return std::any_of(terms_.begin(), terms_.end(), [of](const Bound& t) { return t.info->of == of && t.missing.empty(); });
    };
    const Defects* defects = moment.error == nullptr ? nullptr : &moment.error->defects();
    const PairReadings pairs = needs(TermOf::joint) ? read_pairs(mesh_, moment.network, moment.nodes, moment.contacts, defects) : PairReadings{};
    const ResistorReadings resistors = needs(TermOf::resistor) ? read_resistors(model_, mesh_, moment.network, moment.nodes, defects) : ResistorReadings{};
    const auto sum_of = [](const std::vector<std::size_t>& entries, const auto& value) {
        return std::accumulate(entries.begin(), entries.end(), 0.0, [&](double sum, std::size_t i) { return sum + value(i); });
    };
    std::vector<Vec3> flux;       // per cell, where it is asked for
    std::vector<double> leaving;  // through patches, likewise
    std::vector<double> out;
    for (const Bound& term : terms_) {
        out.push_back(none);
        if (!term.missing.empty()) continue;
        double& value = out.back();
        switch (term.info->of) {
            case TermOf::part:
            case TermOf::product:
                if (term.info->what == TermWhat::mass) {
                    value = term.constant;
                } else if (term.info->what == TermWhat::through) {
                    value =
                        term.constant * heat_through_section(mesh_, moment.network, moment.nodes, moment.contacts, term.bodies, term.axis, term.at, defects);
                } else if (term.info->what == TermWhat::flux) {
                    if (flux.empty()) flux = heat_flux(mesh_, moment.network, moment.nodes, moment.contacts);
                    value = highest_flux(mesh_, flux, term.bodies);
                } else if (term.info->what == TermWhat::share) {
                    value = share_above(mesh_, term.bodies, moment.nodes, defects, term.above);
                } else if (term.info->what == TermWhat::mean) {
                    double volume = 0.0;
                    value = 0.0;
                    for (const Index b : term.bodies) value += mesh_.bodies[b].volume * moment.bodies.mean[b], volume += mesh_.bodies[b].volume;
                    value /= volume;
                } else {
                    const Index b = body_of(term, moment.bodies);
                    value = (term.info->what == TermWhat::max ? moment.bodies.hottest : moment.bodies.coldest)[b].temperature;
                }
                break;
            case TermOf::sensor: {
                std::vector<double> readings;
                for (const std::size_t s : term.entries) readings.push_back(moment.sensors[s]);
                value = term.info->what == TermWhat::max   ? *std::max_element(readings.begin(), readings.end())
                        : term.info->what == TermWhat::min ? *std::min_element(readings.begin(), readings.end())
                                                           : std::accumulate(readings.begin(), readings.end(), 0.0) / static_cast<double>(readings.size());
                break;
            }
            case TermOf::surface:
                if (term.info->what == TermWhat::flow) {
                    if (leaving.empty()) leaving = heat_through_patches(mesh_, moment.network, moment.nodes, defects);
                    value = 0.0;
                    for (const Index p : term.patches) value += mesh_.multiplicity * leaving[p];
                } else {
                    value = surface(term, moment);
                }
                break;
            case TermOf::joint:
                value = 0.0;
                for (const auto& [pair, sign] : term.pairs)
                    value += sign * (term.info->what == TermWhat::flow ? mesh_.multiplicity * pairs.flow[pair] : pairs.drop[pair] / term.area);
                break;
            case TermOf::resistor:
                value = term.info->what == TermWhat::flow ? resistors.flow[term.entries.front()] : resistors.drop(term.entries.front());
                break;
            case TermOf::cooling:
                value = term.info->what == TermWhat::mean ? surface(term, moment) : sum_of(term.entries, [&](std::size_t c) {
                    return (term.info->what == TermWhat::radiation ? 0.0 : moment.flows.convection[c]) +
                           (term.info->what == TermWhat::convection ? 0.0 : moment.flows.radiation[c]);
                });
                break;
            case TermOf::hold:
                value = sum_of(term.entries, [&](std::size_t h) { return moment.flows.holds[h]; });
                break;
            case TermOf::power:
                value = sum_of(term.entries, [&](std::size_t p) { return moment.flows.loads[p]; });
                break;
        }
    }
    return out;
}

std::vector<double> NamedFigures::combine(std::span<const double> terms, std::span<const double> run) const {
    std::vector<double> out, operands;
    for (const FigureForm& figure : forms_.figures) {
        operands.clear();
        bool known = true;
        for (const FigureForm::Operand& operand : figure.operands) {
            operands.push_back(operand.number     ? *operand.number
                               : operand.term     ? terms[*operand.term]
                               : operand.run_term ? (run.empty() ? none : run[*operand.run_term])
                                                  : out[*operand.figure]);
            known = known && std::isfinite(operands.back());
        }
        out.push_back(known ? figure.formula(operands) : none);
        if (!std::isfinite(out.back())) out.back() = none;
        // What is left of a difference of equals is rounding.
        double largest = 0.0;
        for (std::size_t n = 0; n < operands.size(); ++n) {
            const FigureForm::Operand& operand = figure.operands[n];
            const QuantityKind* kind = operand.term       ? terms_[*operand.term].info->quantity
                                       : operand.run_term ? forms_.run_terms[*operand.run_term].quantity
                                       : operand.figure   ? forms_.figures[*operand.figure].quantity
                                                          : nullptr;
            if (kind != nullptr && kind->dimension == figure.quantity->dimension) largest = std::max(largest, std::abs(operands[n]));
        }
        constexpr double rounding = 1e-13;
        if (std::abs(out.back()) < rounding * largest) out.back() = 0.0;
    }
    return out;
}

}  // namespace firnfield
