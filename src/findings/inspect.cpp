// What `check` tells: the model as understood, before anything is solved.

#include <firnfield/findings.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/refine.hpp>

#include "base/memory.hpp"
#include "base/words.hpp"
#include "findings/grouping.hpp"
#include "findings/named_figures.hpp"
#include "findings/pieces.hpp"
#include "model/bodies.hpp"
#include "network/drive.hpp"
#include "network/traits.hpp"
#include "reduce/reducible.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace firnfield {
namespace {

/// As measured with bench/run: a linear solve, and what Newton's method takes of it in all where something depends on temperature.
double solve_seconds(const Network& network, double cells) {
    constexpr double each = 1.5e-6;
    return each * cells * (network.is_linear() ? 1.0 : 2.5);
}

/// Likewise a step in time: five stages, each about a quarter as dear as a steady solve.
double step_seconds(double cells) {
    constexpr double each = 1.2e-6;
    return each * cells;
}

/// About how many cells a study has: those of the mesh, or as many more or less as its coarsening makes boxes.
double cells_of(const Model& model, const Mesh& mesh, const Study& study) {
    const double cells = mesh.cells.size();
    if (same_cells(study, Study{})) return cells;
    return cells * static_cast<double>(plan_grid(meshed_for(model, study)).boxes()) / static_cast<double>(mesh.grid.boxes());
}

std::vector<PartInspection> inspect_parts(const Model& model, const Mesh& mesh) {
    std::vector<double> exposed(mesh.bodies.size(), 0.0);
    for (std::size_t p = 0; p < mesh.patches.size(); ++p) exposed[mesh.cells.body[mesh.patches.cell[p]]] += mesh.patches.area[p];
    std::vector<PartInspection> rows;
    for (const PartGroup& group : group_parts(mesh)) {
        PartInspection row;
        row.name = model.parts[group.part].name;
        row.material = model.parts[group.part].material;
        row.copies = static_cast<Index>(group.bodies.size());
        row.size = mesh.bodies[group.bodies.front()].box.size;
        if (mesh.bodies[group.bodies.front()].surface != no_index) {
            // Facets reach a little beyond round faces: their digits would only confuse.
            for (int axis = 0; axis < 3; ++axis) {
                const double size = row.size[axis], digit = std::pow(10.0, std::floor(std::log10(size)) - 1.0);
                const double two = digit * std::round(size / digit), three = 0.1 * digit * std::round(size / (0.1 * digit));
                row.size[axis] = std::abs(two - size) < 0.003 * size ? two : three;
            }
        }
        row.thinnest = no_index;
        for (const Index b : group.bodies) {
            row.volume += mesh.multiplicity * mesh.bodies[b].volume;
            row.cells += mesh.bodies[b].cells;
            row.exposed += mesh.multiplicity * exposed[b];
            row.thinnest = std::min(row.thinnest, cells_through(mesh, mesh.bodies[b]).cells);
        }
        const Material& material = material_named(model, row.material);
        if (material.density) row.mass = *material.density * row.volume;
        rows.push_back(std::move(row));
    }
    return rows;
}

/// Finds the part that the mesh resolves worst, and lays the grid again that would resolve it twice as well.
std::optional<Inspection::PoorestResolution> find_poorest(const Model& model, const Mesh& mesh) {
    const Body* poorest = nullptr;
    Thinnest fewest;
    double lowest = 0.0;  // conductivity, where several are equally coarse
    for (const Body& body : mesh.bodies) {
        const Thinnest through = cells_through(mesh, body);
        const auto& k = material_named(model, model.parts[body.part].material).conductivity;
        const double conductivity = std::min({k[0], k[1], k[2]});
        if (through.cells > fewest.cells || (through.cells == fewest.cells && conductivity >= lowest)) continue;
        poorest = &body;
        fewest = through;
        lowest = conductivity;
    }
    if (poorest == nullptr || fewest.cells == no_index) return std::nullopt;
    Inspection::PoorestResolution out{
        .part = poorest->name, .through = fewest.cells, .thickness = fewest.thickness, .cell = fewest.thickness / (2.0 * fewest.cells), .cells = std::nullopt};
    Model finer = model;
    finer.parts[poorest->part].cell = out.cell;
    try {
        const double boxes = static_cast<double>(plan_grid(finer).boxes()) / static_cast<double>(mesh.grid.boxes());
        out.cells = boxes * mesh.cells.size();
    } catch (const ModelError&) {
        // More cells than the model allows: told by the absence of a number.
    }
    return out;
}

/// The thinnest first cells, one for each part, axis and footprint.
std::vector<Inspection::ThinCells> find_thin_cells(const Mesh& mesh) {
    constexpr std::size_t most = 12;
    std::vector<Inspection::ThinCells> rows;
    for (const FirstCell& first : mesh.first_cells) {
        const std::vector<double>& lines = mesh.grid.lines[static_cast<std::size_t>(first.axis)];
        const auto next = std::min_element(lines.begin(), lines.end(), [&](double a, double b) { return std::abs(a - first.at) < std::abs(b - first.at); });
        const bool has_cell = first.upper ? next + 1 != lines.end() : next != lines.begin();
        if (!has_cell) continue;
        const double cell = first.upper ? *(next + 1) - *next : *next - *(next - 1);
        rows.push_back({.part = mesh.bodies[first.body].name,
                        .along = std::string(1, "xyz"[first.axis]),
                        .at = first.at,
                        .cell = cell,
                        .footprint = first.with,
                        .width = first.width > 0.0 ? std::optional(first.width) : std::nullopt,
                        .time = first.time > 0.0 ? std::optional(first.time) : std::nullopt});
    }
    std::stable_sort(rows.begin(), rows.end(), [](const auto& a, const auto& b) { return a.cell < b.cell; });
    std::vector<Inspection::ThinCells> out;
    for (Inspection::ThinCells& row : rows) {
        const bool told = std::any_of(
            out.begin(), out.end(), [&](const auto& other) { return other.part == row.part && other.along == row.along && other.footprint == row.footprint; });
        if (!told && out.size() < most) out.push_back(std::move(row));
    }
    return out;
}

/// What powers that follow profiles of watts give on average, less the most that their network has, W.
double less_on_average(const Model& model, const Study& study) {
    double sum = 0.0;
    const Acting acting = acting_in(model, study);
    for (std::size_t p = 0; p < model.powers.size() && study.kind != StudyKind::steady; ++p) {
        const std::optional<HeatCourse> course = heat_course(model, model.powers[p]);
        const auto scale = study.scale.find(display_name(model.powers[p]));
        if (course && acting.powers[p]) sum += (course->mean - course->most) * (scale == study.scale.end() ? 1.0 : scale->second);
    }
    return sum;
}

/// Figures that a study does not have what they are made of.
void tell_missing_figures(const Model& model, const Mesh& mesh, const Study& study, std::vector<Warning>& warnings) {
    std::vector<std::string> sensors;
    for (const Sensor& sensor : sensors_of(model)) {
        if (!picks_only_left_out(model, {&sensor.in, 1})) sensors.push_back(sensor.name);
    }
    const NamedFigures named(model, mesh, study, sensors);
    for (std::size_t f = 0; f < named.figures().size(); ++f) {
        if (const std::string why = named.remark(f); !why.empty())
            warnings.push_back(
                {"figure_not_told", fmt::format("figure {} is not told in study {}: {}", in_quotes(named.figures()[f].name), in_quotes(study.name), why)});
    }
}

/// What `include = false` leaves out, in words.
std::vector<std::string> left_out(const Model& model) {
    std::vector<std::string> names;
    const auto note = [&](bool include, std::string_view what, const std::string& name) {
        if (!include) names.push_back(fmt::format("{} {}", what, in_quotes(name)));
    };
    for (const Part& p : model.parts) note(p.include, "part", p.name);
    for (const Joint& j : model.joints) note(j.include, "joint", display_name(j));
    for (const Power& p : model.powers) note(p.include, "power", display_name(p));
    for (std::size_t c = 0; c < model.coolings.size(); ++c) note(model.coolings[c].include, "cooling", display_name(model.coolings[c], c));
    for (std::size_t h = 0; h < model.holds.size(); ++h) note(model.holds[h].include, "hold", display_name(model.holds[h], h));
    for (const Thermostat& t : model.thermostats) note(t.include, "thermostat", t.name);
    return names;
}

/// What changes with time in a study, a line each.
std::vector<std::string> what_changes(const Model& model, const Study& study) {
    std::vector<std::string> lines;
    if (study.kind == StudyKind::steady) return lines;
    const auto time = [](double seconds) { return show_quantity(seconds, kinds::time); };
    for (const Profile* profile : profiles_in(model, study)) {
        const auto value = [&](double v) {
            return profile->gives == CourseOf::temperature ? show_temperature(v, model.units)
                   : profile->gives == CourseOf::power     ? show_quantity(v, kinds::power)
                                                           : fmt::format("{:g}", v);
        };
        std::string line = fmt::format("profile {}: ", in_quotes(profile->name));
        if (profile->duty) {
            const Duty& d = *profile->duty;
            line += fmt::format("{} for {}, then {} for {} ({:.0f} % duty){}", value(d.high), time(d.on), value(d.low), time(d.off),
                                100.0 * d.on / (d.on + d.off), d.cycles > 0 ? fmt::format(", {} times", d.cycles) : "");
        } else if (profile->sine) {
            line += fmt::format("{} around {} over {}",
                                profile->gives == CourseOf::temperature ? show_quantity(profile->sine->amplitude, kinds::temperature_difference, model.units)
                                                                        : value(profile->sine->amplitude),
                                value(profile->sine->mean), time(profile->sine->period));
        } else {
            const auto [low, high] = std::minmax_element(profile->points.value.begin(), profile->points.value.end());
            line += fmt::format("{} points from {} to {}, {} to {}{}{}", profile->points.at.size(), time(profile->points.at.front()),
                                time(profile->points.at.back()), value(*low), value(*high), profile->stepped ? ", stepped" : "",
                                profile->repeat ? ", repeating" : "");
            if (profile->gives == CourseOf::power) line += fmt::format(", {} on average", value(mean_of(*profile)));
        }
        lines.push_back(line);
    }
    if (study.kind == StudyKind::cyclic) {
        lines.push_back(fmt::format("repeats after {}", time(study.period ? *study.period : period_of(model, study).value())));
        return lines;
    }
    const std::vector<bool> acting = acting_in(model, study).thermostats;
    for (std::size_t n = 0; n < acting.size(); ++n) {
        const Thermostat& t = model.thermostats[n];
        if (!acting[n]) continue;
        lines.push_back(fmt::format("thermostat {} switches {} {} between {} and {} of {}", in_quotes(t.name), quoted_list(t.switches),
                                    t.cools ? "for cooling" : "for heating", show_temperature(t.lower, model.units), show_temperature(t.upper, model.units),
                                    in_quotes(t.sensor)));
    }
    return lines;
}

}  // namespace

Inspection inspect(const Model& model, const Mesh& mesh) {
    Inspection out;
    out.title = model.title;
    out.parts = inspect_parts(model, mesh);
    out.cells = mesh.cells.size();
    out.poorest = find_poorest(model, mesh);
    out.thin_cells = find_thin_cells(mesh);
    out.error_target = model.mesh.error_target;
    const std::vector<Study> all = studies_of(model);
    const bool steady = std::any_of(all.begin(), all.end(), [](const Study& s) { return s.kind == StudyKind::steady; });
    if (model.mesh.refine && !model.parts.empty()) {
        out.refined_up_to = static_cast<double>(model.mesh.max_cells);
        if (!out.error_target) out.refined_up_to = std::min(*out.refined_up_to, steady ? RefineOptions{}.most_cells : most_cells_in_time);
    }
    const bool cut = std::any_of(mesh.bodies.begin(), mesh.bodies.end(), [](const Body& b) { return b.surface != no_index; });
    for (const Study& study : studies_of(model))
        out.memory = std::max(out.memory, memory_to_solve(cells_of(model, mesh, study), cut, study.kind != StudyKind::steady));
    out.multiplicity = mesh.multiplicity;
    for (int axis = 0; axis < 3; ++axis) out.grid[static_cast<std::size_t>(axis)] = mesh.grid.count(axis);
    // Copies of a part displace the same part many times over; each pair of parts is told once.
    std::map<std::pair<Index, Index>, double> overlaps;
    for (const Overlap& overlap : mesh.overlaps) {
        overlaps[{mesh.bodies[overlap.by].part, mesh.bodies[overlap.displaced].part}] += mesh.multiplicity * overlap.volume;
    }
    for (const auto& [parts, volume] : overlaps) {
        out.overlaps.push_back({model.parts[parts.second].name, model.parts[parts.first].name, volume});
    }
    for (const Mirror& mirror : model.mirrors) {
        if (mirror.keep) {
            const Vec3 n = mirror.keep->normal, p = mirror.keep->through;
            out.mirrors.push_back(fmt::format("plane through ({}, {}, {}) across [{:g}, {:g}, {:g}], keeping the side it points to",
                                              show_quantity(p.x, kinds::length, model.units), show_quantity(p.y, kinds::length, model.units),
                                              show_quantity(p.z, kinds::length, model.units), n.x, n.y, n.z));
            continue;
        }
        out.mirrors.push_back(fmt::format("plane {} = {}, keeping the {} side", "xyz"[mirror.axis], show_quantity(mirror.at, kinds::length, model.units),
                                          mirror.keep_plus ? "+" : "-"));
    }
    if (model.sector) {
        out.mirrors.push_back(
            fmt::format("one of {} sectors around {}, from {:g} degrees", model.sector->pieces, "xyz"[model.sector->along], model.sector->from));
    }
    for (const double area : mesh.patches.area) out.exposed_area += mesh.multiplicity * area;

    out.warnings = tell_pieces(model, mesh);
    // Copies that miss each other are told once for each pair of parts, and not where the parts touch over most of that area.
    std::map<std::pair<Index, Index>, double> touching;
    for (const ContactPair& pair : mesh.pairs) touching[std::minmax(mesh.bodies[pair.first].part, mesh.bodies[pair.second].part)] += pair.area;
    std::map<std::pair<Index, Index>, Inspection::NearMissInspection> misses;
    for (const NearMiss& miss : mesh.near_misses) {
        const auto parts = std::minmax(mesh.bodies[miss.first].part, mesh.bodies[miss.second].part);
        auto& row = misses.try_emplace(parts, Inspection::NearMissInspection{model.parts[parts.first].name, model.parts[parts.second].name, miss.gap, 0.0})
                        .first->second;
        row.gap = std::min(row.gap, miss.gap);
        row.area += mesh.multiplicity * miss.area;
    }
    for (auto& [parts, row] : misses) {
        if (row.area > 0.25 * mesh.multiplicity * touching[parts]) out.near_misses.push_back(std::move(row));
    }

    const std::vector<Study> studies = studies_of(model);
    for (const Study& study : studies) {
        Network network = build_network(model, mesh, study);
        const double cells = cells_of(model, mesh, study);
        out.studies.push_back({study, mesh.multiplicity * given_heat(network) + less_on_average(model, study), !network.is_linear(),
                               study.kind == StudyKind::steady ? solve_seconds(network, cells) : step_seconds(cells), what_changes(model, study)});
        if (study.method == TimeMethod::reduced) {
            const Drive drive(model, study, network);
            require_reducible(model, study, network);
            out.memory =
                std::max(out.memory, memory_to_solve(cells, cut, false) + cells / static_cast<double>(network.nodes) * memory_of_modes(network, drive));
        }
        tell_missing_figures(model, mesh, study, out.warnings);
        if (&study != &studies.front()) continue;
        // Joints and surfaces are the same for all studies.
        const std::vector<double> level(network.nodes, 0.0);
        const std::vector<double> resistances = joint_resistances(mesh, network, {network.lowest_known, level});
        for (const JointGroup& group : group_joints(model, mesh)) out.joints.push_back(describe_joint(model, mesh, resistances, group));
        const auto add_rule = [&](std::string name, std::string role, const Coverage& coverage) {
            out.rules.push_back({std::move(name), std::move(role), mesh.multiplicity * coverage.area, coverage.patches.size()});
        };
        const Acting acting = acting_in(model, study);
        for (std::size_t h = 0; h < model.holds.size(); ++h)
            if (acting.holds[h] && model.holds[h].in.empty()) add_rule(display_name(model.holds[h], h), "hold", network.hold_coverage[h]);
        for (std::size_t c = 0; c < model.coolings.size(); ++c)
            if (acting.coolings[c]) add_rule(display_name(model.coolings[c], c), "cooling", network.cooling_coverage[c]);
        for (std::size_t r = 0; r < model.resistors.size(); ++r) {
            for (const Coverage& coverage : network.resistor_coverage[r]) {
                if (!coverage.patches.empty()) add_rule(display_name(model.resistors[r]), "resistor", coverage);
            }
        }
        for (std::size_t p = 0; p < model.powers.size(); ++p) {
            if (model.powers[p].on && acting.powers[p]) add_rule(display_name(model.powers[p]), "power", network.load_coverage[p]);
        }
        for (const Index p : network.unclaimed) out.unclaimed_area += mesh.multiplicity * mesh.patches.area[p];
        const std::vector<Warning> more = model_warnings(model, mesh, network);
        out.warnings.insert(out.warnings.end(), more.begin(), more.end());
        if (const std::vector<std::string> names = left_out(model); !names.empty())
            out.warnings.push_back({"left_out", fmt::format("left out by include = false: {}", fmt::join(names, ", "))});
    }
    const FigureForms forms = forms_of_figures(model);
    for (const FigureForm& form : forms.figures) {
        if (form.name.empty()) continue;
        const auto given = std::find_if(model.figures.begin(), model.figures.end(), [&](const NamedFigure& f) { return f.name == form.name; });
        out.figures.push_back({form.name, given == model.figures.end() ? form.name : given->value, form.quantity});
    }
    for (const Node& node : model.nodes) {
        std::optional<double> capacity = node.capacity;
        if (node.mass) capacity = *node.mass * material_named(model, node.material).specific_heat.value_or(0.0);
        out.nodes.push_back({node.name, node.material, capacity});
    }
    for (const Resistor& resistor : model.resistors) out.resistors.push_back(describe_resistor(model, resistor));
    for (std::size_t s = 0; s < model.surfaces.size(); ++s) {
        const std::vector<Index> patches = select_patches(model, mesh, model.surfaces[s].pick, fmt::format("surface[{}]", s));
        RuleInspection rule{model.surfaces[s].name, "surface", 0.0, patches.size()};
        for (const Index patch : patches) rule.area += mesh.multiplicity * mesh.patches.area[patch];
        out.rules.push_back(std::move(rule));
    }
    return out;
}

}  // namespace firnfield
