// A model as tables for a report.

#include "report/model_tables.hpp"

#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "report/phrases.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

namespace firnfield {
namespace {

const std::string left_out = ", left out";

/// A rule that picks surfaces, in words.
std::string words(const Selection& pick) {
    if (pick.rest) return "all that is exposed and not claimed otherwise";
    std::vector<std::string> pieces;
    if (!pick.surfaces.empty()) pieces.push_back(fmt::format("{}", fmt::join(pick.surfaces, ", ")));
    if (!pick.parts.empty()) pieces.push_back(fmt::format("of {}", fmt::join(pick.parts, ", ")));
    if (!pick.sides.empty()) pieces.push_back(fmt::format("sides {}", fmt::join(pick.sides, ", ")));
    const FacePick& faces = pick.faces;
    if (!faces.kind.empty()) pieces.push_back(fmt::format("{} faces", fmt::join(faces.kind, ", ")));
    const auto span = [&](const char* what, const std::vector<double>& ends, const QuantityKind& kind) {
        if (ends.empty()) return;
        const std::string low = show_quantity(ends.front(), kind);
        pieces.push_back(ends.front() == ends.back() ? fmt::format("{} {}", what, low)
                                                     : fmt::format("{} {} to {}", what, low, show_quantity(ends.back(), kind)));
    };
    span("diameter", faces.diameter, kinds::length);
    span("area", faces.area, kinds::area);
    if (faces.smooth_from) pieces.emplace_back("smoothly from a point");
    if (faces.inside) pieces.emplace_back(*faces.inside ? "inside" : "outside");
    return pieces.empty() ? "a rule" : fmt::format("{}", fmt::join(pieces, ", "));
}

FindingTable parts_table(const Model& model, const std::vector<PartFinding>& found) {
    FindingTable out{.title = "Parts", .columns = {{"part", false}, {"shape", false}, {"material", false}, {"copies", true}, {"mass", true}}};
    for (const Part& part : model.parts) {
        const auto row = std::find_if(found.begin(), found.end(), [&](const PartFinding& p) { return p.name == part.name; });
        out.rows.push_back({part.name, part.include ? std::string(name_of(part.shape)) : "left out", part.material,
                            row == found.end() ? "–" : std::to_string(row->copies),
                            row == found.end() || !row->mass ? "–" : show_quantity(*row->mass, kinds::mass)});
    }
    return out;
}

/// All materials that the model uses, in the order in which they are first named.
FindingTable materials_table(const Model& model) {
    std::vector<std::string> names;
    const auto use = [&](const std::string& name) {
        if (!name.empty() && std::find(names.begin(), names.end(), name) == names.end()) names.push_back(name);
    };
    for (const Part& part : model.parts) use(part.material);
    for (const Joint& joint : model.joints) use(joint.layer ? joint.layer->material : "");
    for (const Node& node : model.nodes) use(node.material);
    FindingTable out{.title = "Materials", .columns = {{"material", false}, {"W/(m K)", true}, {"kg/m³", true}, {"J/(kg K)", true}, {"source", false}}};
    const auto value = [](const std::optional<double>& v) { return v ? fmt::format("{:.4g}", *v) : std::string("–"); };
    for (const std::string& name : names) {
        const Material* m = find_material(model.materials, name);
        if (m == nullptr) continue;
        const auto& k = m->conductivity;
        out.rows.push_back({name, m->isotropic() ? fmt::format("{:.4g}", k[0]) : fmt::format("{:.4g} / {:.4g} / {:.4g}", k[0], k[1], k[2]), value(m->density),
                            value(m->specific_heat), m->note});
    }
    return out;
}

FindingTable joints_table(const Model& model, const Units& units) {
    FindingTable out{.title = "Joints", .columns = {{"joint", false}, {"between", false}, {"contact", false}}};
    for (const Joint& j : model.joints) {
        std::string contact = "perfect";
        if (const std::optional<double> given = given_resistance(j)) contact = show_quantity(*given, kinds::area_resistance);
        if (j.law) contact = fmt::format("{} in {}", j.law->law, j.law->fluid);
        if (!j.coefficient_curve.empty()) contact = "film by a curve";
        if (j.pressure) contact += " at " + show_quantity(*j.pressure, kinds::pressure);
        if (j.total) contact = show_quantity(*j.total, kinds::thermal_resistance, units) + ", of each pair";
        if (j.layer)
            contact = fmt::format("{} of {}", j.layer->thickness ? show_quantity(*j.layer->thickness, kinds::length, units) : "the gap", j.layer->material);
        if (j.insulated) contact = "insulated";
        if (j.exchange_factor) contact = fmt::format("radiation, factor {:.3g}", *j.exchange_factor);
        if (!j.resistance_factor.empty()) contact += ", varies with temperature";
        if (j.may_be_open) contact += ", may be open";
        if (!j.include) contact += left_out;
        out.rows.push_back({display_name(j), fmt::format("{} and {}", j.between[0], j.between[1]), contact});
    }
    return out;
}

FindingTable nodes_table(const Model& model, const Units& units) {
    FindingTable out{.title = "Lumped nodes", .columns = {{"node", false}, {"heat capacity", false}}};
    for (const Node& node : model.nodes) {
        out.rows.push_back({node.name, node.capacity ? show_quantity(*node.capacity, kinds::heat_capacity, units)
                                       : node.mass   ? fmt::format("that of {} of {}", show_quantity(*node.mass, kinds::mass), node.material)
                                                     : "next to none"});
    }
    return out;
}

FindingTable resistors_table(const Model& model, const Units& units) {
    FindingTable out{.title = "Resistors", .columns = {{"resistor", false}, {"between", false}, {"resistance", true}, {"", false}}};
    for (const Resistor& r : model.resistors) {
        std::string more = r.resistance_factor.empty() ? "" : "varies with temperature";
        if (r.ambient) more += fmt::format("{}to {}", more.empty() ? "" : ", ", show_temperature(*r.ambient, units));
        out.rows.push_back({display_name(r), fmt::format("{} and {}", r.between[0], r.between[1]),
                            r.total ? show_quantity(*r.total, kinds::thermal_resistance, units) : "", more});
    }
    return out;
}

FindingTable heat_table(const Model& model, const Units& units) {
    FindingTable out{.title = "Heat", .columns = {{"power", false}, {"where", false}, {"amount", false}, {"profile", false}}};
    for (const Power& p : model.powers) {
        std::string amount;
        if (p.total) amount = show_quantity(*p.total, kinds::power) + " in total";
        if (p.each) amount = show_quantity(*p.each, kinds::power) + " each";
        if (p.density) amount = show_quantity(*p.density, kinds::power_density, units);
        if (p.flux) amount = show_quantity(*p.flux, kinds::heat_flux, units);
        if (const auto course = heat_course(model, p))
            amount = fmt::format("{} on average, {} at most", show_quantity(course->mean, kinds::power), show_quantity(course->most, kinds::power));
        if (!p.temperature_factor.empty()) amount += ", varies with temperature";
        if (!p.include) amount += left_out;
        out.rows.push_back({display_name(p),
                            p.on        ? words(*p.on)
                            : p.between ? fmt::format("between {} and {}", (*p.between)[0], (*p.between)[1])
                                        : fmt::format("{}", fmt::join(p.into, ", ")),
                            amount, fmt::format("{}", fmt::join(p.profile, " × "))});
    }
    return out;
}

FindingTable cooling_table(const Model& model, const Units& units) {
    FindingTable out{.title = "Cooling and imposed temperatures", .columns = {{"rule", false}, {"on", false}, {"how", false}}};
    for (std::size_t c = 0; c < model.coolings.size(); ++c) {
        const Cooling& cooling = model.coolings[c];
        std::vector<std::string> how;
        if (cooling.convection) how.push_back(show_quantity(*cooling.convection, kinds::heat_transfer_coefficient));
        if (cooling.law) how.push_back("law " + cooling.law->law);
        if (!cooling.convection_curve.empty()) how.emplace_back("convection by a curve");
        if (cooling.emissivity) how.push_back(fmt::format("emissivity {:g}", *cooling.emissivity));
        if (cooling.material_emissivity) how.emplace_back("emissivity of the materials");
        if (!cooling.emissivity_curve.empty()) how.emplace_back("emissivity by a curve");
        how.push_back(cooling.ambient                    ? "to " + show_temperature(*cooling.ambient, units)
                      : !cooling.ambient_profile.empty() ? fmt::format("to the course {}", in_quotes(cooling.ambient_profile))
                                                         : "to the study's ambient");
        out.rows.push_back({display_name(cooling, c), words(cooling.on), fmt::format("{}{}", fmt::join(how, ", "), cooling.include ? "" : left_out)});
    }
    for (std::size_t h = 0; h < model.holds.size(); ++h) {
        const Hold& hold = model.holds[h];
        out.rows.push_back({display_name(hold, h), hold.in.empty() ? words(hold.on) : "all of " + quoted_list(hold.in),
                            "held at " + show_temperature(hold.temperature, units) + (hold.include ? "" : left_out)});
    }
    return out;
}

FindingTable thermostats_table(const Model& model, const Units& units) {
    FindingTable out{.title = "Thermostats", .columns = {{"thermostat", false}, {"reads", false}, {"switches", false}, {"on", false}, {"off", false}}};
    for (const Thermostat& t : model.thermostats) {
        out.rows.push_back({t.name + (t.include ? "" : left_out), t.sensor, fmt::format("{}", fmt::join(t.switches, ", ")),
                            t.cools ? "at " + show_temperature(t.upper, units) : "at " + show_temperature(t.lower, units),
                            t.cools ? "at " + show_temperature(t.lower, units) : "at " + show_temperature(t.upper, units)});
    }
    return out;
}

FindingTable studies_table(const Model& model, const Units& units) {
    FindingTable out{.title = "Studies", .columns = {{"study", false}, {"what it is", false}}};
    for (const Study& s : studies_of(model)) out.rows.push_back({s.name, describe(s, units)});
    return out;
}

}  // namespace

std::vector<FindingTable> model_tables(const Model& model, const std::vector<PartFinding>& parts, const Units& units) {
    std::vector<FindingTable> out{parts_table(model, parts),   materials_table(model),          joints_table(model, units),
                                  nodes_table(model, units),   resistors_table(model, units),   heat_table(model, units),
                                  cooling_table(model, units), thermostats_table(model, units), studies_table(model, units)};
    std::erase_if(out, [](const FindingTable& table) { return table.empty(); });
    return out;
}

}  // namespace firnfield
