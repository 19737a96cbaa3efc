// A network driven in time: profiles, ambients and thermostats set what varies.

#include "network/drive.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {

Drive::Drive(const Model& model, const Study& study, Network& network, Changes changes) : network_(network), changes_(changes) {
    const bool in_time = study.kind != StudyKind::steady;
    if (in_time) used_ = profiles_in(model, study);
    const Acting acting = acting_in(model, study);
    const auto factors = [&](const std::vector<std::string>& profiles, const std::string& name) {
        Factors out;
        for (const std::string& profile : profiles) {
            if (in_time) out.course.profiles.push_back(find_profile(model, profile));
        }
        for (std::size_t t = 0; t < model.thermostats.size(); ++t) {
            const Thermostat& thermostat = model.thermostats[t];
            if (!acting.thermostats[t]) continue;
            if (std::find(thermostat.switches.begin(), thermostat.switches.end(), name) != thermostat.switches.end()) out.course.thermostats.push_back(t);
        }
        return out;
    };
    for (const Power& power : model.powers) {
        loads_.push_back(factors(power.profile, display_name(power)));
        // The network has the most that a profile of watts gives.
        if (const std::optional<HeatCourse> course = heat_course(model, power); course && course->most != 0.0) loads_.back().of = course->most;
    }
    for (std::size_t c = 0; c < model.coolings.size(); ++c) {
        const Cooling& cooling = model.coolings[c];
        coolings_.push_back(factors(cooling.profile, display_name(cooling, c)));
        // Thermostats switch convection; radiation where there is no other half.
        radiations_.push_back(factors(cooling.radiation_profile, cooling.convects() ? std::string() : display_name(cooling, c)));
    }
    const auto profile_of = [&](const std::string& profile) { return profile.empty() || !in_time ? nullptr : find_profile(model, profile); };
    // Of a cooling or a resistor, which may leave it to the study.
    const auto ambient_profile = [&](const auto& rule) {
        return profile_of(!rule.ambient_profile.empty() || rule.ambient ? rule.ambient_profile : study.ambient_profile);
    };
    for (const Known& known : network.knowns) {
        constant_.known.push_back(known.temperature);
        const Profile* profile = nullptr;
        if (known.origin.kind == OriginKind::hold) profile = profile_of(model.holds[known.origin.index].profile);
        if (known.origin.kind == OriginKind::resistor) profile = ambient_profile(model.resistors[known.origin.index]);
        if (known.origin.kind == OriginKind::cooling) {
            const Cooling& cooling = model.coolings[known.origin.index];
            if (known.channel != Channel::radiation || !cooling.radiant) profile = ambient_profile(cooling);
        }
        knowns_.push_back(profile);
    }
    constant_.load.assign(model.powers.size(), 1.0);
    constant_.convection.assign(model.coolings.size(), 1.0);
    constant_.radiation.assign(model.coolings.size(), 1.0);
    now_ = constant_;
    apply(now_);  // the network may be a copy of one that was driven
}

double Drive::Factors::value(double time, const std::vector<bool>& on) const {
    double product = 1.0 / of;
    for (const Profile* profile : course.profiles) product *= value_at(*profile, time);
    for (const std::size_t t : course.thermostats) product *= on[t] ? 1.0 : 0.0;
    return product;
}

Drive::Course Drive::course_of_known(std::size_t known) const {
    return knowns_[known] == nullptr ? Course{} : Course{.profiles = {knowns_[known]}, .thermostats = {}};
}

bool Drive::varies(Index cooling, Channel channel) const { return !(channel == Channel::radiation ? radiations_ : coolings_)[cooling].course.constant(); }

Drive::Values Drive::values(double time, const std::vector<bool>& on) const {
    Values v = constant_;
    for (std::size_t p = 0; p < loads_.size(); ++p) v.load[p] = loads_[p].value(time, on);
    for (std::size_t c = 0; c < coolings_.size(); ++c) v.convection[c] = coolings_[c].value(time, on);
    for (std::size_t c = 0; c < radiations_.size(); ++c) v.radiation[c] = radiations_[c].value(time, on);
    for (std::size_t k = 0; k < knowns_.size(); ++k) {
        if (knowns_[k] != nullptr) v.known[k] = value_at(*knowns_[k], time);
    }
    return v;
}

void Drive::set(double time, const std::vector<bool>& on) { set(values(time, on)); }

void Drive::set(const Values& next) {
    if (next == now_) return;
    if (next.convection != now_.convection || next.radiation != now_.radiation) ++coefficient_changes_;
    apply(next);
    now_ = next;
}

void Drive::apply(const Values& v) {
    each_family(network_, [&](Family& family) {
        if (family.channel == Channel::load) family.scale = v.load[family.origin_of(0).index];
        if (changes_ != Changes::everything) return;
        if (family.channel == Channel::radiation && family.origin == OriginKind::cooling) family.scale = v.radiation[family.origin_of(0).index];
        if (family.channel == Channel::convection) family.scale = v.convection[family.origin_of(0).index];
    });
    for (std::size_t k = 0; k < v.known.size(); ++k) network_.knowns[k].temperature = v.known[k];
}

double Drive::next_edge(double time) const {
    double next = std::numeric_limits<double>::infinity();
    for (const Profile* profile : used_) next = std::min(next, firnfield::next_edge(*profile, time));
    return next;
}

double Drive::longest_step() const {
    double longest = std::numeric_limits<double>::infinity();
    for (const Profile* profile : used_) {
        if (profile->sine) longest = std::min(longest, profile->sine->period / 8.0);
    }
    return longest;
}

bool Drive::changes_after(double time) const {
    return std::any_of(used_.begin(), used_.end(), [&](const Profile* p) { return p->sine.has_value() || !std::isinf(firnfield::next_edge(*p, time)); });
}

}  // namespace firnfield
