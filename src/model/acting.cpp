// What of a model acts in a study, and with how much heat.

#include <firnfield/model.hpp>

#include "base/words.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {

Acting acting_in(const Model& model, const Study& study) {
    const auto acts = [&](bool include, const std::string& name) {
        return include && std::none_of(study.without.begin(), study.without.end(), [&](const std::string& w) { return matches_wildcard(w, name); });
    };
    Acting out;
    for (const Power& power : model.powers) out.powers.push_back(acts(power.include, display_name(power)));
    for (std::size_t c = 0; c < model.coolings.size(); ++c) out.coolings.push_back(acts(model.coolings[c].include, display_name(model.coolings[c], c)));
    for (std::size_t h = 0; h < model.holds.size(); ++h) out.holds.push_back(acts(model.holds[h].include, display_name(model.holds[h], h)));
    for (const Thermostat& thermostat : model.thermostats)
        out.thermostats.push_back(study.kind == StudyKind::transient && counts_in(thermostat.studies, study) && acts(thermostat.include, thermostat.name));
    return out;
}

std::optional<HeatCourse> heat_course(const Model& model, const Power& power) {
    if (power.total || power.each || power.density || power.flux) return std::nullopt;
    for (const std::string& name : power.profile) {
        const Profile* profile = find_profile(model, name);
        if (profile == nullptr || profile->gives != CourseOf::power) continue;
        HeatCourse out{.mean = mean_of(*profile)};
        for (const double watt : profile->points.value) {
            if (std::abs(watt) > std::abs(out.most)) out.most = watt;
        }
        return out;
    }
    return std::nullopt;
}

}  // namespace firnfield
