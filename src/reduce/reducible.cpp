// Whether a study can be reduced, and what says no.

#include "reduce/reducible.hpp"

#include <firnfield/error.hpp>

#include "base/words.hpp"
#include "network/traits.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace firnfield {
namespace {

/// What depends on temperature, in words.
std::string name_of(const Bend& bend, const Model& model, const Mesh& mesh) {
    const Index n = bend.origin.index;
    switch (bend.origin.kind) {
        case OriginKind::part:
            return fmt::format("the conductivity of {} depends on temperature", in_quotes(mesh.bodies[n].name));
        case OriginKind::joint:
            return bend.channel == Channel::radiation ? "a joint radiates" : "the resistance of a joint, or what conducts in it, depends on temperature";
        case OriginKind::resistor:
            return fmt::format("the resistance of {} depends on temperature", in_quotes(display_name(model.resistors[n])));
        case OriginKind::cooling:
            return fmt::format("{} {}", in_quotes(display_name(model.coolings[n], n)),
                               bend.channel == Channel::radiation ? "radiates" : "has a coefficient that depends on temperature");
        case OriginKind::hold:
            return fmt::format("{} depends on temperature", in_quotes(display_name(model.holds[n], n)));
        case OriginKind::load:
            return fmt::format("the heat of {} depends on temperature", in_quotes(display_name(model.powers[n])));
    }
    return {};
}

}  // namespace

void require_reducible(const Model& model, const Mesh& mesh, const Study& study, const Network& network, const Drive& drive) {
    const auto refuse = [&](const std::string& why) {
        const auto here = std::find_if(model.studies.begin(), model.studies.end(), [&](const Study& s) { return s.name == study.name; });
        throw ModelError(here == model.studies.end() ? "study" : fmt::format("study[{}].method", here - model.studies.begin()),
                         fmt::format("study {} cannot be reduced: {}; write method = \"full\"", in_quotes(study.name), why));
    };
    if (const std::optional<Bend> bend = any_bend(network)) refuse(name_of(*bend, model, mesh));
    if (!network.heat_content.empty()) refuse("a specific heat depends on temperature, or something melts");
    if (const auto cooling = drive.varying_cooling())
        refuse(fmt::format("the coefficient of {} varies in time", in_quotes(display_name(model.coolings[*cooling], *cooling))));
}

double memory_of_modes(const Network& network, const Drive& drive) {
    constexpr double of_an_input = 15.0, others = 2.0;  // modes; with one to eight decades of rates it is 8 to 20
    std::vector<Drive::Course> courses;
    const auto add = [&](const Drive::Course& course) {
        if (std::find(courses.begin(), courses.end(), course) == courses.end()) courses.push_back(course);
    };
    for (std::size_t l = 0; l < network.load_coverage.size(); ++l) add(drive.course_of_load(l));
    for (std::size_t k = 0; k < network.knowns.size(); ++k) add(drive.course_of_known(k));
    return sizeof(double) * static_cast<double>(network.nodes) * (of_an_input * static_cast<double>(courses.size()) + others);
}

}  // namespace firnfield
