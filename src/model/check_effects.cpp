// What may be wrong with what acts on parts and surfaces, and with what is read of them.

#include "model/check_effects.hpp"

#include "model/name_checks.hpp"

namespace firnfield {
namespace {

class EffectChecks : NameChecks {
public:
    EffectChecks(const Model& model, const std::vector<PlacedPart>& placed) : NameChecks(model) { placed_ = placed; }

    std::vector<Problem> run() {
        check_joints();
        check_powers();
        check_coolings();
        check_holds();
        check_sensors();
        check_limits();
        check_milestones();
        return std::move(problems);
    }

private:
    void check_joints() {
        std::set<std::string> seen;
        for (std::size_t i = 0; i < model_.joints.size(); ++i) {
            const Joint& joint = model_.joints[i];
            const std::string at = item("joint", i);
            for (std::size_t side = 0; side < 2; ++side) check_part_pattern(fmt::format("{}.between[{}]", at, side), joint.between[side]);
            if (!joint.name.empty()) check_name("joint", i, joint.name, seen);
            const int given = int{joint.resistance.has_value()} + int{joint.coefficient.has_value()} + int{!joint.coefficient_curve.empty()} +
                              int{joint.law.has_value()} + int{!joint.resistance_over_pressure.empty()} + int{joint.total.has_value()} +
                              int{joint.layer.has_value()} + int{joint.insulated} + int{joint.exchange_factor.has_value()};
            if (given > 1) report(at, "give only one of resistance, coefficient, resistance_over_pressure, total, layer, insulated and exchange_factor");
            check_pressure(at, joint);
            check_film(at + ".coefficient", joint);
            if (!joint.resistance_factor.empty() && !joint.resistance && !joint.coefficient && joint.resistance_over_pressure.empty() && !joint.total &&
                !joint.layer) {
                report(at + ".resistance_factor", joint.has_varying_film() ? "a coefficient that varies has no factor: put it into the curve"
                                                                           : "a factor needs a resistance, coefficient, total or layer that it multiplies");
            }
            if (joint.layer) {
                check_material_name(at + ".layer.material", joint.layer->material);
                if (!joint.layer->thickness && !(joint.reach > 0.0))
                    report(at + ".layer.thickness", "a layer needs its thickness; only in a joint with reach can it fill the gap that is found");
                const Material* material = find_material(model_.materials, joint.layer->material);
                if (!joint.resistance_factor.empty() && material != nullptr && !material->conductivity_factor.empty()) {
                    report(at + ".resistance_factor",
                           fmt::format("the conductivity of {} depends on temperature already; leave the factor out", in_quotes(material->name)));
                }
            }
        }
    }

    void check_film(const std::string& at, const Joint& joint) {
        const auto none = [](double h) { return !(h > 0.0); };
        if ((joint.coefficient && none(*joint.coefficient)) ||
            (!joint.coefficient_curve.empty() && std::all_of(joint.coefficient_curve.value.begin(), joint.coefficient_curve.value.end(), none)))
            report(at, "a coefficient must be positive somewhere; where no heat crosses write insulated = true");
        if (joint.law) check_law(at, *joint.law);
    }

    void check_law(const std::string& at, const ConvectionLaw& law) {
        for (const std::string& problem : problems_of(with_own_fluid(model_, law))) report(at, problem);
        if (law.own_fluid) report(at, "add the fluid to the model's fluids and name it in the law");
    }

    void check_pressure(const std::string& at, const Joint& joint) {
        const Curve& curve = joint.resistance_over_pressure;
        if (curve.empty()) {
            if (joint.pressure) report(at + ".pressure", "a pressure needs resistance_over_pressure, the curve that says what it does");
        } else if (!joint.pressure) {
            report(at + ".pressure", "give the pressure at which resistance_over_pressure is read");
        } else if (*joint.pressure < curve.at.front() || *joint.pressure > curve.at.back()) {
            report(at + ".pressure", fmt::format("{} lies outside of the curve, which goes from {} to {}", write_quantity(*joint.pressure, kinds::pressure),
                                                 write_quantity(curve.at.front(), kinds::pressure), write_quantity(curve.at.back(), kinds::pressure)));
        }
    }

    void check_powers() {
        std::set<std::string> seen;
        for (std::size_t i = 0; i < model_.powers.size(); ++i) {
            const Power& power = model_.powers[i];
            const std::string at = item("power", i);
            if (!power.name.empty()) check_name("power", i, power.name, seen);
            if (int{!power.into.empty()} + int{power.on.has_value()} + int{power.between.has_value()} != 1)
                report(at, "a power goes \"into\" parts, \"on\" a surface, or \"between\" two parts that touch: give one of them");
            check_friction(at, power);
            check_into(at, power);
            if (power.on) {
                check_selection(at + ".on", *power.on);
                if (power.on->rest) report(at + ".on", "name the surface: only a cooling or a hold can take the rest");
            }
            const int given = int{power.total.has_value()} + int{power.each.has_value()} + int{power.density.has_value()} + int{power.flux.has_value()};
            const auto courses = std::count_if(power.profile.begin(), power.profile.end(), [&](const std::string& name) {
                const Profile* profile = find_profile(model_, name);
                return profile != nullptr && profile->gives == CourseOf::power;
            });
            if (courses > 1) {
                report(at + ".profile", "two profiles give powers, which cannot be multiplied: name one of them, and factors beside it");
            } else if (courses == 1 && given > 0) {
                report(at, "its profile gives the power already: leave out total, each, density and flux, or use a profile of factors");
            } else if (courses == 0 && given != 1) {
                report(at, "give exactly one of total, each, density and flux, or a profile of powers");
            }
            if (power.on && (power.each || power.density)) report(at, "heat on a surface is given as total or flux");
            if (!power.on && !power.between && power.flux) report(at + ".flux", "a flux acts on a surface; give \"on\" instead of \"into\"");
        }
    }

    /// Of heat on faces in contact.
    void check_friction(const std::string& at, const Power& power) {
        if (!power.between) {
            if (power.share || power.by_effusivities) report(at, "share and by_effusivities go with heat \"between\" two parts");
            return;
        }
        for (std::size_t side = 0; side < 2; ++side) check_part_pattern(fmt::format("{}.between[{}]", at, side), (*power.between)[side]);
        if (power.each || power.density) report(at, "heat between two parts is given as total or flux");
        if (power.share && power.by_effusivities) report(at, "give either a share or by_effusivities");
        if (power.share && *power.share > 1.0) report(at + ".share", fmt::format("a share is 0 to 1, found {:g}", *power.share));
        if (!power.by_effusivities) return;
        for (const Part& part : model_.parts) {
            const bool meant = std::any_of(power.between->begin(), power.between->end(), [&](const std::string& p) { return matches_wildcard(p, part.name); });
            const Material* material = find_material(model_.materials, part.material);
            if (meant && material != nullptr && !(material->density && material->specific_heat))
                report(at + ".by_effusivities",
                       fmt::format("{} of part {} has no density or no specific heat", in_quotes(material->name), in_quotes(part.name)));
        }
    }

    /// Heat goes into parts or into nodes: a total of both could not be shared.
    void check_into(const std::string& at, const Power& power) {
        std::size_t nodes = 0;
        for (std::size_t p = 0; p < power.into.size(); ++p) {
            if (find_node(model_, power.into[p])) {
                ++nodes;
            } else {
                check_part_pattern(fmt::format("{}.into[{}]", at, p), power.into[p]);
            }
        }
        if (nodes == 0) return;
        if (nodes < power.into.size()) report(at + ".into", "nodes and parts do not share a power: give each kind its own");
        if (power.density) report(at + ".density", "a node has no volume; give total or each");
    }

    void check_coolings() {
        std::set<std::string> seen;
        for (std::size_t i = 0; i < model_.coolings.size(); ++i) {
            const Cooling& cooling = model_.coolings[i];
            const std::string at = item("cooling", i);
            if (!cooling.name.empty()) check_name("cooling", i, cooling.name, seen);
            check_selection(at + ".on", cooling.on);
            if (!cooling.convection_curve.empty() && (cooling.convection || cooling.law))
                report(at + ".convection", "give one of a coefficient, a curve and a law");
            if (cooling.law) {
                check_law(at + ".convection", *cooling.law);
                if (cooling.convection) report(at + ".convection", "give either a coefficient or a law");
            }
            if (int{cooling.emissivity.has_value()} + int{cooling.material_emissivity} + int{!cooling.emissivity_curve.empty()} > 1)
                report(at + ".emissivity", "give one emissivity");
            if (!cooling.convects() && !cooling.radiates()) {
                report(at, "a cooling needs a convection coefficient or law, an emissivity, or both");
            }
            if (cooling.radiant && !cooling.radiates()) {
                report(at + ".radiant", "a radiant temperature has no effect without an emissivity");
            }
            if (!cooling.ambient) check_ambient_in_studies(at, !cooling.ambient_profile.empty(), i);
        }
    }

    /// Every study has to find an ambient: a temperature, or in time a profile of it.
    void check_ambient_in_studies(const std::string& at, bool has_profile, std::optional<std::size_t> cooling = {}) {
        for (const Study& study : studies_of(model_)) {
            if (cooling && !acting_in(model_, study).coolings[*cooling]) continue;
            if (study.ambient || (study.kind != StudyKind::steady && (has_profile || !study.ambient_profile.empty()))) continue;
            report(at, fmt::format("no ambient: give one here, or in study {}", in_quotes(study.name)));
            return;
        }
    }

    void check_holds() {
        std::set<std::string> seen;
        for (std::size_t i = 0; i < model_.holds.size(); ++i) {
            if (!model_.holds[i].name.empty()) check_name("hold", i, model_.holds[i].name, seen);
            const Hold& hold = model_.holds[i];
            check_selection(item("hold", i) + ".on", hold.on);
            for (std::size_t p = 0; p < hold.in.size(); ++p) check_part_pattern(fmt::format("{}.in[{}]", item("hold", i), p), hold.in[p]);
            if (!hold.in.empty() && !(hold.on == Selection{})) report(item("hold", i), "a hold is either \"on\" a surface or \"in\" whole parts");
        }
    }

    void check_sensors() {
        std::set<std::string> seen;
        for (std::size_t i = 0; i < model_.sensors.size(); ++i) {
            const Sensor& sensor = model_.sensors[i];
            const std::string at = item("sensor", i);
            check_name("sensor", i, sensor.name, seen);
            check_part_pattern(at + ".in", sensor.in);
        }
    }

    /// Of a limit or a milestone: exactly one of a part, a sensor and a figure, which are there. Figures are checked elsewhere.
    void check_subject(const std::string& at, const std::string& what, const std::string& part, const std::string& sensor, const std::string& figure) {
        if (int{part.empty()} + int{sensor.empty()} + int{figure.empty()} != 2)
            report(at, fmt::format("a {} is on a \"part\", on a \"sensor\" or on a \"figure\"", what));
        if (!part.empty()) check_part_pattern(at + ".part", part);
        if (sensor.empty()) return;
        std::vector<std::string> sensors;
        for (const Sensor& s : sensors_of(model_)) sensors.push_back(s.name);
        if (std::none_of(sensors.begin(), sensors.end(), [&](const std::string& name) { return matches_wildcard(sensor, name); }))
            report(at + ".sensor", fmt::format("unknown sensor {}{}", in_quotes(sensor), did_you_mean(sensor, sensors)));
    }

    void check_milestones() {
        std::set<std::string> seen;
        for (std::size_t i = 0; i < model_.milestones.size(); ++i) {
            const Milestone& milestone = model_.milestones[i];
            const std::string at = item("milestone", i);
            if (!milestone.name.empty()) {
                check_name("milestone", i, milestone.name, seen);
            } else if (!seen.insert(display_name(milestone)).second) {
                report(at, fmt::format("{} is there twice", in_quotes(display_name(milestone))));
            }
            check_subject(at, "milestone", milestone.part, milestone.sensor, milestone.figure);
            if (milestone.rises_above.has_value() == milestone.falls_below.has_value()) report(at, "a milestone has either \"rises_above\" or \"falls_below\"");
            if (milestone.coldest && milestone.part.empty()) report(at + ".of", "only a part has a hottest and a coldest place");
        }
    }

    void check_limits() {
        for (std::size_t i = 0; i < model_.limits.size(); ++i) {
            const Limit& limit = model_.limits[i];
            const std::string at = item("limit", i);
            check_subject(at, "limit", limit.part, limit.sensor, limit.figure);
            if (!limit.below && !limit.above) report(at, "a limit needs \"below\", \"above\" or both");
            if (limit.below && limit.above && *limit.above >= *limit.below) {
                report(at, fmt::format("above {} and below {} cannot both hold", show_quantity(limit.above->value, *limit.above->kind),
                                       show_quantity(limit.below->value, *limit.below->kind)));
            }
        }
    }
};

}  // namespace

std::vector<Problem> check_effects(const Model& model, const std::vector<PlacedPart>& placed) { return EffectChecks(model, placed).run(); }

}  // namespace firnfield
