// Remarks on temperatures that were found.

#include "findings/remarks.hpp"

#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "findings/grouping.hpp"

#include <fmt/format.h>

#include <set>

namespace firnfield {
namespace {

/// Films of joints by laws that were not made for the temperatures found, by the mean of each pair.
void tell_films_out_of_range(const Model& model, const SteadySolution& solution, Findings& found) {
    const Mesh& mesh = *solution.mesh;
    const std::vector<JointFilm>& films = solution.network->joint_film;
    std::vector<double> area(films.size(), 0.0), first(films.size(), 0.0), second(films.size(), 0.0);  // m², K m²
    for (std::size_t c = 0; !films.empty() && c < mesh.contacts.size(); ++c) {
        const Index pair = mesh.contacts.pair[c];
        const bool turned = mesh.cells.body[mesh.contacts.first[c]] != mesh.pairs[pair].first;
        area[pair] += mesh.contacts.area[c];
        (turned ? second : first)[pair] += mesh.contacts.area[c] * solution.contacts.first[c];
        (turned ? first : second)[pair] += mesh.contacts.area[c] * solution.contacts.second[c];
    }
    std::set<Index> told;
    for (std::size_t p = 0; p < films.size(); ++p) {
        const ContactPair& pair = mesh.pairs[p];
        if (!films[p].film || !model.joints[pair.joint].law || !(area[p] > 0.0)) continue;
        const ConvectionLaw law = with_own_fluid(model, *model.joints[pair.joint].law);
        const double of_first = first[p] / area[p], of_second = second[p] / area[p];
        const bool fluid_first = films[p].fluid == pair.first;
        const ConvectionResult result = convection(law, fluid_first ? of_second : of_first, fluid_first ? of_first : of_second);
        if (result.in_range || !told.insert(pair.joint).second) continue;
        found.warnings.push_back(
            {"outside_correlation", fmt::format("joint {}: the law \"{}\" was not made for {} = {:.2g} or these temperatures",
                                                in_quotes(display_name(model.joints[pair.joint])), law.law, result.forced ? "Re" : "Ra", result.driving)});
    }
}

}  // namespace

void add_remarks(const Model& model, const SteadySolution& solution, Findings& found) {
    const Network& network = *solution.network;
    const auto warn = [&](std::string kind, std::string message) { found.warnings.push_back({std::move(kind), std::move(message)}); };
    if (solution.study.kind == StudyKind::steady) {
        for (const Thermostat& t : model.thermostats) {
            if (t.studies.empty() && t.include)
                warn("thermostat_rests", fmt::format("thermostat {} does not act in a steady study: what it switches ({}) is on all the time",
                                                     in_quotes(t.name), quoted_list(t.switches)));
        }
        // At a moment of a run in time the parts take up heat: the run has a ledger of its own.
        tell_open_ledger(found.warnings, found.ledger.relative_residual());
    }
    constexpr double implausible = 400.0 + zero_celsius;
    for (const PartFinding& part : found.parts) {
        const Material& material = material_named(model, part.material);
        if (material.service_limit && part.hottest.temperature > *material.service_limit) {
            warn("service_limit",
                 fmt::format("{} reaches {}, above the service limit {} of {}", in_quotes(part.name), show_temperature(part.hottest.temperature, model.units),
                             show_temperature(*material.service_limit, model.units, 0), material.name));
        }
        if (material.valid_to && part.hottest.temperature > *material.valid_to + 0.5 && !material.service_limit) {
            warn("outside_range",
                 fmt::format("{} reaches {}; the values of {} hold up to {}", in_quotes(part.name), show_temperature(part.hottest.temperature, model.units),
                             material.name, show_temperature(*material.valid_to, model.units, 0)));
        }
        if (material.valid_from && part.coldest.temperature < *material.valid_from - 0.5) {
            warn("outside_range",
                 fmt::format("{} gets as cold as {}; the values of {} hold down to {}", in_quotes(part.name),
                             show_temperature(part.coldest.temperature, model.units), material.name, show_temperature(*material.valid_from, model.units, 0)));
        }
    }
    if (found.hottest.temperature > implausible) {
        warn("implausible_temperature", fmt::format("{} in {} is implausible for most products; check powers, units and coolings",
                                                    show_temperature(found.hottest.temperature, model.units, 0), in_quotes(found.hottest.body)));
    }
    tell_films_out_of_range(model, solution, found);
    for (std::size_t c = 0; c < found.coolings.size(); ++c) {
        const CoolingFinding& row = found.coolings[c];
        if (const auto& law = model.coolings[c].law; law && !network.cooling_coverage[c].patches.empty()) {
            const ConvectionResult result = convection(with_own_fluid(model, *law), row.mean_surface, row.ambient);
            if (!result.in_range) {
                warn("outside_correlation", fmt::format("cooling {}: the law \"{}\" was not made for {} = {:.2g} or these temperatures", in_quotes(row.name),
                                                        law->law, result.forced ? "Re" : "Ra", result.driving));
            }
        }
        constexpr double gentle = 15.0, noticeable = 20.0;
        if (network.cooling_coverage[c].patches.empty()) continue;
        if (!row.radiates && row.mean_coefficient() <= gentle && row.mean_surface - row.ambient > noticeable) {
            warn("radiation_left_out", fmt::format("cooling {} has no emissivity; at {:.3g} W/(m² K) and surfaces {:.0f} K above ambient, radiation would "
                                                   "carry a similar amount of heat if the surface is not bare metal",
                                                   in_quotes(row.name), row.mean_coefficient(), row.mean_surface - row.ambient));
        }
    }
}

}  // namespace firnfield
