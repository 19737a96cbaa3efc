// Names by which reports call joints, powers, coolings and holds.

#include <firnfield/error.hpp>
#include <firnfield/model.hpp>
#include <firnfield/quantity.hpp>

#include "base/words.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

namespace firnfield {

Model meshed_for(Model model, const Study& study) {
    model.mesh.coarsening *= study.coarsening;
    if (study.through > 0) model.mesh.through = study.through;
    return model;
}

std::vector<Study> studies_of(const Model& model) {
    if (!model.studies.empty()) return model.studies;
    Study steady;
    steady.name = "steady";
    return {steady};
}

bool counts_in(const std::vector<std::string>& studies, const Study& study) {
    return studies.empty() || std::find(studies.begin(), studies.end(), study.name) != studies.end();
}

const Profile* find_profile(const Model& model, const std::string& name) {
    const auto found = std::find_if(model.profiles.begin(), model.profiles.end(), [&](const Profile& p) { return p.name == name; });
    return found == model.profiles.end() ? nullptr : &*found;
}

namespace {

/// Of a cooling or a resistor.
template <typename Rule>
double own_or_studys_ambient(const Model& model, const Rule& rule, const Study& study) {
    const std::string& profile = !rule.ambient_profile.empty() || rule.ambient ? rule.ambient_profile : study.ambient_profile;
    if (study.kind != StudyKind::steady && !profile.empty()) return value_at(*find_profile(model, profile), 0.0);
    return rule.ambient ? *rule.ambient : study.ambient.value();
}

}  // namespace

double ambient_of(const Model& model, const Cooling& cooling, const Study& study) { return own_or_studys_ambient(model, cooling, study); }
double ambient_of(const Model& model, const Resistor& resistor, const Study& study) { return own_or_studys_ambient(model, resistor, study); }

std::string display_name(const Joint& joint) { return joint.name.empty() ? joint.between[0] + " - " + joint.between[1] : joint.name; }

std::string display_name(const Resistor& resistor) { return resistor.name.empty() ? resistor.between[0] + " - " + resistor.between[1] : resistor.name; }

std::string display_name(const Power& power) {
    if (!power.name.empty()) return power.name;
    if (!power.into.empty()) return fmt::format("{}", fmt::join(power.into, ", "));
    if (power.between) return (*power.between)[0] + " - " + (*power.between)[1];
    if (power.on && !power.on->surfaces.empty()) return fmt::format("{}", fmt::join(power.on->surfaces, ", "));
    if (power.on && !power.on->parts.empty()) return fmt::format("onto {}", fmt::join(power.on->parts, ", "));
    return "power";
}

std::string display_name(const Milestone& milestone) {
    if (!milestone.name.empty()) return milestone.name;
    const bool rises = milestone.rises_above.has_value();
    const Threshold passed = milestone.rises_above.value_or(milestone.falls_below.value_or(Threshold()));
    return fmt::format("{}{} {} {}",
                       !milestone.part.empty()     ? milestone.part
                       : !milestone.sensor.empty() ? milestone.sensor
                                                   : milestone.figure,
                       !milestone.coldest.value_or(false) ? ""
                       : rises                            ? " throughout"
                                                          : " somewhere",
                       rises ? "above" : "below", show_quantity(passed.value, *passed.kind));
}

std::string display_name(const Cooling& cooling, std::size_t index) {
    if (!cooling.name.empty()) return cooling.name;
    if (cooling.on.rest && cooling.on.parts.empty()) return "exposed";
    if (!cooling.on.surfaces.empty()) return fmt::format("{}", fmt::join(cooling.on.surfaces, ", "));
    return fmt::format("cooling {}", index + 1);
}

std::string display_name(const Hold& hold, std::size_t index) {
    if (!hold.name.empty()) return hold.name;
    if (!hold.in.empty()) return fmt::format("{}", fmt::join(hold.in, ", "));
    if (!hold.on.surfaces.empty()) return fmt::format("{}", fmt::join(hold.on.surfaces, ", "));
    return fmt::format("hold {}", index + 1);
}

ConvectionLaw with_own_fluid(const Model& model, ConvectionLaw law) {
    const auto own = std::find_if(model.fluids.begin(), model.fluids.end(), [&](const Fluid& f) { return f.name == law.fluid; });
    if (own != model.fluids.end()) law.own_fluid = std::make_shared<const Fluid>(*own);
    return law;
}

std::vector<Picture> pictures_of(const Model& model) {
    if (!model.pictures.empty()) return model.pictures;
    Picture outside, bands;
    outside.name = "temperature";
    bands.name = "bands";
    bands.bands = true;
    bands.azimuth = 145.0;
    if (model.space) {
        // The plane itself: of a plane model x and y, of a revolved one radius and height.
        for (Picture* view : {&outside, &bands}) {
            view->azimuth = 0.0;
            view->elevation = model.space->revolved ? 0.0 : 90.0;
        }
        bands.isotherms = true;
    }
    return {outside, bands};
}

const Material& material_named(const Model& model, std::string_view name) {
    const Material* found = find_material(model.materials, name);
    if (found == nullptr) throw ModelError("materials", fmt::format("there is no material {}", in_quotes(name)));
    return *found;
}

std::optional<double> given_resistance(const Joint& joint) {
    if (joint.pressure && !joint.resistance_over_pressure.empty()) return joint.resistance_over_pressure(*joint.pressure);
    if (joint.coefficient) return 1.0 / *joint.coefficient;
    return joint.resistance;
}

Curve resistance_factor(const Model& model, const Joint& joint) {
    if (!joint.layer) return joint.resistance_factor;
    const Material* material = find_material(model.materials, joint.layer->material);
    if (material == nullptr || material->conductivity_factor.empty()) return joint.resistance_factor;
    // Its inverse is not straight between the points of the conductivity: more points follow it to a few parts in ten thousand.
    constexpr int pieces = 16;
    const Curve& conductivity = material->conductivity_factor;
    Curve factor;
    for (std::size_t i = 0; i + 1 < conductivity.at.size(); ++i) {
        for (int n = 0; n < pieces; ++n) factor.at.push_back(conductivity.at[i] + (conductivity.at[i + 1] - conductivity.at[i]) * n / pieces);
    }
    factor.at.push_back(conductivity.at.back());
    for (const double t : factor.at) factor.value.push_back(1.0 / conductivity(t));
    return factor;
}

}  // namespace firnfield
