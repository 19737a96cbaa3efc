// Whether a study can be reduced, and what says no.

#include "reduce/reducible.hpp"

#include <firnfield/error.hpp>

#include "base/words.hpp"
#include "network/bent_part.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace firnfield {
void require_reducible(const Model& model, const Study& study, const Network& network) {
    if (network.heat_content.empty()) return;
    const auto here = std::find_if(model.studies.begin(), model.studies.end(), [&](const Study& s) { return s.name == study.name; });
    throw ModelError(
        here == model.studies.end() ? "study" : fmt::format("study[{}].method", here - model.studies.begin()),
        fmt::format("study {} cannot be reduced: a specific heat depends on temperature, or something melts; write method = \"full\"", in_quotes(study.name)));
}

double memory_of_modes(const Network& network, const Drive& drive) {
    constexpr double of_an_input = 15.0, others = 2.0, bent_inputs = 6.0;  // modes; with one to eight decades of rates it is 8 to 20
    std::vector<Drive::Course> courses;
    const auto add = [&](const Drive::Course& course) {
        if (std::find(courses.begin(), courses.end(), course) == courses.end()) courses.push_back(course);
    };
    for (std::size_t l = 0; l < network.load_coverage.size(); ++l) add(drive.course_of_load(l));
    for (std::size_t k = 0; k < network.knowns.size(); ++k) add(drive.course_of_known(k));
    const bool bends = !bent_elements(network, [&](Index cooling, Channel channel) { return drive.varies(cooling, channel); }).empty();
    return sizeof(double) * static_cast<double>(network.nodes) * (of_an_input * (static_cast<double>(courses.size()) + (bends ? bent_inputs : 0.0)) + others);
}

}  // namespace firnfield
