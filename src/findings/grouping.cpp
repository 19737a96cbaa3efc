// Bodies of one part, and pairs of parts, taken together for reports.

#include "findings/grouping.hpp"

#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "mesh/layout.hpp"
#include "model/bodies.hpp"
#include "model/lumped.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <string>
#include <tuple>

namespace firnfield {

std::vector<PartGroup> group_parts(const Mesh& mesh) {
    std::map<Index, PartGroup> groups;
    for (std::size_t b = 0; b < mesh.bodies.size(); ++b) {
        PartGroup& group = groups[mesh.bodies[b].part];
        group.part = mesh.bodies[b].part;
        group.bodies.push_back(static_cast<Index>(b));
    }
    std::vector<PartGroup> list;
    for (auto& [part, group] : groups) list.push_back(std::move(group));
    return list;
}

std::vector<JointGroup> group_joints(const Model& model, const Mesh& mesh) {
    std::map<std::tuple<Index, Index, Index>, JointGroup> groups;
    for (std::size_t p = 0; p < mesh.pairs.size(); ++p) {
        const ContactPair& pair = mesh.pairs[p];
        Index first = mesh.bodies[pair.first].part, second = mesh.bodies[pair.second].part;
        bool swap = first > second;
        if (pair.joint != no_index) {
            const std::string& lead = model.joints[pair.joint].between[0];
            const bool leads = picks(lead, mesh.bodies[pair.first].name, model.parts[first].name);
            const bool follows = picks(lead, mesh.bodies[pair.second].name, model.parts[second].name);
            if (leads != follows) swap = follows;
        }
        if (swap) std::swap(first, second);
        JointGroup& group = groups[{pair.joint, first, second}];
        group.joint = pair.joint;
        group.first_part = first;
        group.second_part = second;
        group.pairs.push_back(static_cast<Index>(p));
        group.swapped.push_back(swap);
    }
    std::vector<JointGroup> list;
    for (auto& [key, group] : groups) list.push_back(std::move(group));
    return list;
}

ResistorInspection describe_resistor(const Model& model, const Resistor& resistor) {
    const std::array<ResistorEnd, 2> ends = ends_of(model, resistor);
    return {.name = display_name(resistor),
            .first = ends[0].name,
            .second = ends[1].name,
            .to_ambient = ends[1].kind == ResistorEnd::Kind::ambient,
            .resistance = *resistor.total};
}

JointInspection name_joint(const Model& model, const JointGroup& group) {
    JointInspection row;
    row.first = model.parts[group.first_part].name;
    row.second = model.parts[group.second_part].name;
    row.name = row.first + " - " + row.second;
    row.specified = group.joint != no_index;
    if (row.specified && !model.joints[group.joint].name.empty()) row.name = model.joints[group.joint].name;
    return row;
}

namespace {

/// Of the pairs of a group, as their conductances add up; those through which nothing flows, and which have none therefore, left out.
double mean_resistance(const Mesh& mesh, const std::vector<double>& resistances, const JointGroup& group) {
    const double first = resistances[group.pairs.front()];
    if (std::all_of(group.pairs.begin(), group.pairs.end(), [&](Index p) { return resistances[p] == first; })) return first;
    double area = 0.0, conductance = 0.0;  // m², W/K
    for (const Index p : group.pairs) {
        if (std::isnan(resistances[p])) continue;
        area += mesh.pairs[p].area;
        conductance += mesh.pairs[p].area / resistances[p];
    }
    return conductance > 0.0 ? area / conductance : std::numeric_limits<double>::quiet_NaN();
}

}  // namespace

JointInspection describe_joint(const Model& model, const Mesh& mesh, const std::vector<double>& resistances, const JointGroup& group) {
    JointInspection row = name_joint(model, group);
    double pairs = 0.0;  // of the whole product: what reaches through a plane of symmetry is one pair with its image
    for (const Index p : group.pairs) {
        const ContactPair& pair = mesh.pairs[p];
        pairs += mesh.multiplicity / mesh.images(mesh.bodies[pair.first].on_planes & mesh.bodies[pair.second].on_planes);
    }
    row.pairs = static_cast<Index>(std::lround(pairs));
    row.resistance = mean_resistance(mesh, resistances, group);
    row.contact = "perfect, not specified";
    if (row.specified) {
        const Joint& joint = model.joints[group.joint];
        row.contact = "perfect";
        if (const std::optional<double> given = given_resistance(joint)) row.contact = show_quantity(*given, kinds::area_resistance);
        if (joint.total)
            row.contact = show_quantity(*joint.total, kinds::thermal_resistance, model.units) + (row.pairs > 1 ? fmt::format(", each of {}", row.pairs) : "");
        if (joint.layer)
            row.contact = (joint.layer->thickness ? show_quantity(*joint.layer->thickness, kinds::length, model.units, 2) : std::string("the gap of")) + " " +
                          joint.layer->material;
        if (!resistance_factor(model, joint).empty()) row.contact = show_quantity(*row.resistance, kinds::area_resistance) + ", varies";
        if (joint.law) row.contact = fmt::format("{} in {}", joint.law->law, joint.law->fluid);
        if (!joint.coefficient_curve.empty()) row.contact = "film by a curve";
        if (joint.has_varying_film()) {
            // Before anything is solved, and where nothing flows, it has none.
            if (std::isnan(*row.resistance))
                row.resistance.reset();
            else
                row.contact += ", " + show_quantity(1.0 / *row.resistance, kinds::heat_transfer_coefficient);
        }
        if (joint.insulated) {
            row.contact = "insulated";
            row.resistance.reset();
        }
        if (joint.exchange_factor) {
            row.contact = fmt::format("radiation, factor {:.3g}", *joint.exchange_factor);
            row.resistance.reset();
        }
    }
    double gap = 0.0;
    for (const Index p : group.pairs) {
        row.area += mesh.pairs[p].area;
        row.nominal_area += mesh.pairs[p].nominal_area;
        gap += mesh.pairs[p].area * mesh.pairs[p].mean_gap;
        row.largest_gap = std::max(row.largest_gap, mesh.pairs[p].largest_gap);
        const bool cut = mesh.bodies[mesh.pairs[p].first].surface != no_index || mesh.bodies[mesh.pairs[p].second].surface != no_index;
        if (row.found.empty() || cut) row.found = cut ? "facing each other" : "in common planes";
    }
    constexpr double rounding = 1e-9;  // m
    row.mean_gap = gap > rounding * row.area ? gap / row.area : 0.0;
    if (row.largest_gap <= rounding) row.largest_gap = 0.0;
    row.area *= mesh.multiplicity;
    row.nominal_area *= mesh.multiplicity;
    return row;
}

void tell_open_ledger(std::vector<Warning>& warnings, double relative_residual) {
    constexpr double promised = 1e-9;
    if (!(std::abs(relative_residual) > promised)) return;
    warnings.push_back({"ledger_open", fmt::format("the heat balance closes to {:.1e} of the throughput only: conductances in this model lie so far apart that "
                                                   "the last digits of temperatures across the "
                                                   "strongest of them carry that much heat",
                                                   std::abs(relative_residual))});
}

Thinnest cells_through(const Mesh& mesh, const Body& body) {
    Thinnest fewest;
    for (int axis = 0; axis < 3; ++axis) {
        if (mesh.grid.count(axis) == 1 && mesh.grid.boxes() > 1) continue;  // a two-dimensional model
        const Range range = box_range(mesh.grid, axis, body.box.lower()[axis], body.box.upper()[axis]);
        Index cells = range.last - range.first;
        double thickness = body.box.size[axis];
        if (body.surface != no_index) {
            // How often the boxes in the middle of the body fit into its typical thickness.
            const double mean = thickness / std::max<double>(1.0, cells);
            thickness = body.thickness[axis];
            cells = static_cast<Index>(std::max(1.0, std::round(thickness / mean)));
        }
        if (cells < fewest.cells) fewest = {cells, thickness};
    }
    return fewest;
}

namespace {

/// What the bodies of a part touch, where its file has several.
std::vector<std::string> parts_in_bodies(const Model& model, const Mesh& mesh) {
    std::vector<std::string> out;
    for (const PartGroup& group : group_parts(mesh)) {
        const Part& part = model.parts[group.part];
        const Solid* solid = std::get_if<Solid>(&part.shape);
        if (solid == nullptr || solid->bodies.size() < 2) continue;
        constexpr std::size_t most = 6;
        std::string text;
        for (std::size_t i = 0; i < std::min(group.bodies.size(), most); ++i) {
            std::vector<std::string> touched;
            for (const ContactPair& pair : mesh.pairs) {
                const bool first = pair.first == group.bodies[i];
                if (first || pair.second == group.bodies[i]) touched.push_back(mesh.bodies[first ? pair.second : pair.first].name);
            }
            text += fmt::format("{}{} touches {}", i == 0 ? "" : "; ", in_quotes(mesh.bodies[group.bodies[i]].name),
                                touched.empty() ? "nothing" : quoted_list(touched));
        }
        if (group.bodies.size() > most) text += fmt::format("; and {} more", group.bodies.size() - most);
        out.push_back(fmt::format("the file of {} holds {} bodies, which conduct where they touch: {}", in_quotes(part.name), solid->bodies.size(), text));
    }
    return out;
}

}  // namespace

std::vector<Warning> model_warnings(const Model& model, const Mesh& mesh, const Network& network) {
    std::vector<Warning> warnings;
    std::set<std::string> closed;
    for (const ContactPair& pair : mesh.pairs) {
        constexpr double none = 1e-9;  // m
        if (pair.joint == no_index || pair.largest_gap > none) continue;
        const Joint& joint = model.joints[pair.joint];
        if (joint.layer && !joint.layer->thickness) closed.insert(display_name(joint));
    }
    if (!closed.empty())
        warnings.push_back({"no_gap", fmt::format("where {} lies no gap was found for its layer to fill: the faces touch, and conduct perfectly",
                                                  quoted_list(std::vector<std::string>(closed.begin(), closed.end())))});
    for (std::string& told : parts_in_bodies(model, mesh)) warnings.push_back({"bodies_of_a_file", std::move(told)});
    for (std::size_t p = 0; p < model.powers.size(); ++p) {
        const Power& power = model.powers[p];
        const auto heats = [&](const ContactLoad& load) { return load.power == p; };
        const std::vector<std::string> ends =
            power.between ? std::vector<std::string>(power.between->begin(), power.between->end()) : std::vector<std::string>();
        if (!power.between || !power.include || picks_only_left_out(model, ends)) continue;
        const bool is_open = std::any_of(mesh.open_joints.begin(), mesh.open_joints.end(), [&](const OpenJoint& open) {
            const std::array<std::string, 2>& between = model.joints[open.joint].between;
            return between == *power.between || (between[0] == ends[1] && between[1] == ends[0]);
        });
        if (is_open && std::none_of(network.contact_loads.begin(), network.contact_loads.end(), heats))
            warnings.push_back({"power_left_out", fmt::format("power {} rests: the contact that it heats is open", in_quotes(display_name(power)))});
    }
    std::set<std::string> without_film;
    for (std::size_t p = 0; p < mesh.pairs.size(); ++p) {
        if (network.pair_resistance[p] > 0.0) continue;
        for (const auto& [stirred, other] : {std::pair(mesh.pairs[p].first, mesh.pairs[p].second), std::pair(mesh.pairs[p].second, mesh.pairs[p].first)}) {
            if (model.parts[mesh.bodies[stirred].part].stirred)
                without_film.insert(fmt::format("{} on {}", model.parts[mesh.bodies[stirred].part].name, model.parts[mesh.bodies[other].part].name));
        }
    }
    if (!without_film.empty())
        warnings.push_back(
            {"stirred_without_film",
             fmt::format("{}: what is stirred exchanges heat with these as if its film were perfect; a joint between them with a coefficient tells how it is",
                         quoted_list(std::vector<std::string>(without_film.begin(), without_film.end())))});
    for (const OpenJoint& open : mesh.open_joints)
        warnings.push_back(
            {"joint_open", fmt::format("joint {} is open, no heat crosses it: {}", in_quotes(display_name(model.joints[open.joint])), open.why)});
    double exposed = 0.0, unclaimed = 0.0;
    for (const double area : mesh.patches.area) exposed += area;
    std::map<std::string, double> by_part;
    for (const Index p : network.unclaimed) {
        unclaimed += mesh.patches.area[p];
        by_part[model.parts[mesh.bodies[mesh.cells.body[mesh.patches.cell[p]]].part].name] += mesh.patches.area[p];
    }
    if (unclaimed > 0.0) {
        std::vector<std::string> names;
        for (const auto& [name, area] : by_part) names.push_back(name);
        std::sort(names.begin(), names.end(), [&](const std::string& a, const std::string& b) { return by_part[a] > by_part[b]; });
        warnings.push_back({"unclaimed_surface", fmt::format("{} of exposed surface ({:.0f} %) are claimed by no cooling or hold and count as insulated: on {}",
                                                             show_quantity(unclaimed * mesh.multiplicity, kinds::area, model.units),
                                                             100.0 * unclaimed / exposed, quoted_list(names))});
    }
    std::vector<std::string> unspecified;
    for (const JointGroup& group : group_joints(model, mesh)) {
        if (group.joint == no_index) unspecified.push_back(model.parts[group.first_part].name + " - " + model.parts[group.second_part].name);
    }
    if (!unspecified.empty()) {
        warnings.push_back({"joint_not_specified", fmt::format("{} touch and no joint says how; they count as perfect contact", quoted_list(unspecified))});
    }
    for (std::size_t b = 0; b < mesh.bodies.size(); ++b) {
        if (mesh.bodies[b].surface == no_index) continue;
        const SurfaceQuality& quality = mesh.quality[mesh.bodies[b].surface];
        constexpr double noticeable = 1e-4;  // less is what facets and rounding leave
        if (quality.leak < noticeable && quality.volume_spread < noticeable) continue;
        warnings.push_back(
            {"surface_not_closed",
             fmt::format("the surface of {} does not close everywhere: cells were closed by themselves, the volume differs by {:.1g} from the surface's own",
                         in_quotes(mesh.bodies[b].name), std::abs(mesh.bodies[b].volume / quality.surface_volume - 1.0))});
    }
    std::vector<std::string> resting;
    for (const Power& power : model.powers) {
        if (power.include && picks_only_left_out(model, power.on ? power.on->parts : power.into)) resting.push_back(display_name(power));
    }
    if (!resting.empty())
        warnings.push_back({"power_left_out", fmt::format("power {} goes into parts that are left out, and counts nowhere", quoted_list(resting))});
    std::vector<std::string> thin;
    for (const PartGroup& group : group_parts(mesh)) {
        const bool single = std::any_of(group.bodies.begin(), group.bodies.end(), [&](Index b) { return cells_through(mesh, mesh.bodies[b]).cells == 1; });
        if (single) thin.push_back(model.parts[group.part].name);
    }
    if (!thin.empty()) {
        warnings.push_back(
            {"one_cell_through", fmt::format("only one cell through {}: the temperature drop across is coarse; raise mesh.through", quoted_list(thin))});
    }
    return warnings;
}

}  // namespace firnfield
