// Errors of figures from those of temperatures and flows.

#include "findings/figure_errors.hpp"

#include <firnfield/error.hpp>
#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "findings/extremes.hpp"
#include "findings/figures.hpp"
#include "findings/grouping.hpp"
#include "model/lumped.hpp"
#include "network/probe.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <new>
#include <optional>
#include <unordered_map>

namespace firnfield {
namespace {

// What docs/how-sure.md promises; bench/errors.cpp holds it against finer meshes.
constexpr double safety = 2.0;
constexpr double least_share = 1e-3;  // of the rise, or of a flow itself
constexpr double coarse = 0.04;       // of the rise: an error that is worth a remark
constexpr double noticeable = 0.05;   // K: temperatures are told to a tenth
constexpr std::size_t told_at_most = 3;

/// Moves the rows of findings, which stand as findings() leaves them.
class Mover {
public:
    Mover(const Model& model, const SteadySolution& solution, Findings& rows, const MeshError& error)
        : model_(model),
          solution_(solution),
          mesh_(*solution.mesh),
          network_(*solution.network),
          rows_(rows),
          error_(error),
          bodies_(Extremes(mesh_).of(solution.nodes(), solution.patch_temperature, solution.contacts)) {
        for (Index b = 0; b < mesh_.bodies.size(); ++b) body_of_name_.emplace(mesh_.bodies[b].name, b);
    }

    void move() {
        sum_heat();
        move_sensors();
        move_means();
        move_spots([&](const Spot& spot, bool hottest) { return at(spot, hottest); });
        move_joints();
        move_rest();
    }

    /// Moves the hottest and coldest places by what is in doubt of them besides.
    void move_by_doubt() {
        move_spots([&](const Spot& spot, bool hottest) { return spot.lumped ? 0.0 : error_.doubt_in_extreme(place_of(spot, hottest), hottest); });
    }

private:
    void sum_heat() {
        flow_.assign(mesh_.pairs.size(), 0.0);
        resistor_.assign(model_.resistors.size(), 0.0);
        heat_.loads.resize(model_.powers.size());
        heat_.convection.resize(model_.coolings.size());
        heat_.radiation.resize(model_.coolings.size());
        heat_.holds.resize(model_.holds.size());
        const auto add = [&](const Leg& leg) {
            if (leg.channel == Channel::conduction || leg.channel == Channel::load) return;
            const double watt = error_.defects().of_heat(leg);
            switch (leg.origin.kind) {
                case OriginKind::joint:
                    flow_[leg.origin.index] += network_.owner[leg.from.index] == mesh_.pairs[leg.origin.index].first ? watt : -watt;
                    break;
                case OriginKind::resistor:
                    resistor_[leg.origin.index] += watt;
                    break;
                case OriginKind::cooling:
                    (leg.channel == Channel::radiation ? heat_.radiation : heat_.convection)[leg.origin.index] += watt;
                    break;
                case OriginKind::hold:
                    heat_.holds[leg.origin.index] += watt;
                    break;
                case OriginKind::part:
                case OriginKind::load:
                    break;
            }
        };
        reduce_inside(network_, solution_.nodes(), add);
        reduce_outside(network_, solution_.nodes(), add);
    }

    void move_sensors() {
        const ContactReader contacts(model_, mesh_);
        for (SensorFinding& row : rows_.sensors) {
            const std::string& in = row.lumped ? row.name : row.part;
            const Probe probe(model_, mesh_, network_, contacts, in, row.at, "sensor");
            const Index cell = row.lumped ? no_index : cell_at_point(model_, mesh_, in, row.at, "sensor");
            row.temperature += sensor_change_[row.name] = error_.of_reading(probe.readout(), cell, row.at);
        }
    }

    const Place& place_of(const Spot& spot, bool hottest) const {
        const Index body = body_of_name_.at(spot.body);
        return (hottest ? bodies_.hottest_place : bodies_.coldest_place)[body];
    }

    double at(const Spot& spot, bool hottest) const { return spot.lumped ? sensor_change_.at(spot.body) : error_.of_extreme(place_of(spot, hottest), hottest); }

    void move_means() {
        std::vector<double> mean(mesh_.bodies.size(), 0.0);
        for (Index cell = 0; cell < mesh_.cells.size(); ++cell) mean[mesh_.cells.body[cell]] += mesh_.cells.volume[cell] * error_.defects().of_node(cell);
        const std::vector<PartGroup> groups = group_parts(mesh_);
        for (std::size_t g = 0; g < groups.size(); ++g) {
            for (const Index body : groups[g].bodies) rows_.parts[g].mean += mean[body] * mesh_.multiplicity / rows_.parts[g].volume;
        }
        for (LimitFinding& row : rows_.limits) {
            if (row.of_sensor) move_limit(row, sensor_change_.at(row.subject));
        }
    }

    template <typename Change>
    void move_spots(const Change& change) {
        rows_.hottest.temperature += change(rows_.hottest, true);
        for (PartFinding& row : rows_.parts) {
            row.coldest.temperature += change(row.coldest, false);
            row.hottest.temperature += change(row.hottest, true);
        }
        for (LimitFinding& row : rows_.limits) {
            if (!row.of_sensor) move_limit(row, change(row.worst, row.upper));
        }
    }

    static void move_limit(LimitFinding& row, double change) {
        row.worst.temperature += change;
        row.margin -= row.upper ? change : -change;
    }

    void move_joints() {
        std::vector<double> drop(mesh_.pairs.size(), 0.0);  // times area
        for (std::size_t c = 0; c < mesh_.contacts.size(); ++c) {
            const Index pair = mesh_.contacts.pair[c];
            const double sign = mesh_.cells.body[mesh_.contacts.first[c]] == mesh_.pairs[pair].first ? 1.0 : -1.0;
            const std::array<double, 2> change = error_.defects().of_contact(static_cast<Index>(c));
            drop[pair] += sign * mesh_.contacts.area[c] * (change[0] - change[1]);
        }
        for (std::size_t g = 0; g < mesh_.gaps.size(); ++g) {
            const Index pair = mesh_.gaps.pair[g];
            const double sign = mesh_.cells.body[mesh_.gaps.first[g]] == mesh_.pairs[pair].first ? 1.0 : -1.0;
            drop[pair] += sign * mesh_.gaps.area[g] * (error_.defects().of_node(mesh_.gaps.first[g]) - error_.defects().of_node(mesh_.gaps.second[g]));
        }
        const std::vector<JointGroup> groups = group_joints(model_, mesh_);
        for (std::size_t g = 0; g < groups.size(); ++g) {
            double change = 0.0, area = 0.0;
            for (std::size_t i = 0; i < groups[g].pairs.size(); ++i) {
                const Index pair = groups[g].pairs[i];
                const double sign = groups[g].swapped[i] ? -1.0 : 1.0;
                rows_.joints[g].flow += sign * mesh_.multiplicity * flow_[pair];
                change += sign * drop[pair];
                area += mesh_.pairs[pair].area;
            }
            rows_.joints[g].drop += change / area;
        }
    }

    double mean_surface(const Coverage& coverage) const {
        double sum = 0.0;
        for (const Index patch : coverage.patches) sum += mesh_.patches.area[patch] * error_.defects().of_patch(patch);
        return coverage.patches.empty() ? 0.0 : sum / coverage.area;
    }

    void move_rest() {
        const double times = mesh_.multiplicity;
        const std::vector<std::size_t> middles = resistors_with_middle(model_);
        for (std::size_t r = 0; r < rows_.resistors.size(); ++r) {
            // Heat that passes a middle is met twice.
            const double flow = times * resistor_[r] * (std::find(middles.begin(), middles.end(), r) == middles.end() ? 1.0 : 0.5);
            rows_.resistors[r].flow += flow;
            rows_.resistors[r].drop += flow * rows_.resistors[r].resistance;
        }
        for (std::size_t c = 0; c < rows_.coolings.size(); ++c) {
            rows_.coolings[c].convection += times * heat_.convection[c];
            rows_.coolings[c].radiation += times * heat_.radiation[c];
            rows_.coolings[c].mean_surface += mean_surface(network_.cooling_coverage[c]);
        }
        for (std::size_t h = 0; h < rows_.holds.size(); ++h) rows_.holds[h].flow += times * heat_.holds[h];
        for (std::size_t p = 0; p < rows_.loads.size(); ++p) {
            LoadFinding& row = rows_.loads[p];
            const Coverage& coverage = network_.load_coverage[p];
            if (row.mean_surface) *row.mean_surface += mean_surface(coverage);
            if (!row.hottest_surface) continue;
            const auto hottest = std::max_element(coverage.patches.begin(), coverage.patches.end(),
                                                  [&](Index a, Index b) { return solution_.patch_temperature[a] < solution_.patch_temperature[b]; });
            *row.hottest_surface += error_.of_extreme({Place::Kind::patch, *hottest}, true);
        }
    }

    const Model& model_;
    const SteadySolution& solution_;
    const Mesh& mesh_;
    const Network& network_;
    Findings& rows_;
    const MeshError& error_;
    BodyTemperatures bodies_;
    std::unordered_map<std::string, Index> body_of_name_;
    std::unordered_map<std::string, double> sensor_change_;
    std::vector<double> flow_, resistor_;  // W: per pair from its first body, and per resistor
    HeatFlows heat_{};
};

/// The temperature that a figure is of, or its margin; absent for the others.
std::optional<double> temperature_of(const Figure& figure) {
    if (figure.kind == FigureKind::margin) return *figure.limit + (figure.upper ? -*figure.value : *figure.value);
    return info(figure.kind).quantity->absolute_temperature ? figure.value : std::nullopt;
}

/// What an error is seen next to: of a temperature its rise above the coldest surroundings, of the rest the value itself.
double scale_of(const Figure& figure, double coldest) {
    const std::optional<double> temperature = temperature_of(figure);
    return std::abs(temperature ? *temperature - coldest : *figure.value);
}

/// Parts with one cell through somewhere: how the temperature bends there does not show.
std::vector<std::string> parts_too_thin(const Model& model, const Mesh& mesh) {
    std::vector<std::string> names;
    for (const PartGroup& group : group_parts(mesh)) {
        const bool thin = std::any_of(group.bodies.begin(), group.bodies.end(), [&](Index b) { return cells_through(mesh, mesh.bodies[b]).cells < 2; });
        if (thin) names.push_back(model.parts[group.part].name);
    }
    return names;
}

/// What is in doubt of the figures besides.
std::vector<Figure> doubted(const Model& model, const SteadySolution& solution, Findings findings, const MeshError& error) {
    Mover(model, solution, findings, error).move_by_doubt();
    return figures_of(findings);
}

}  // namespace

Findings moved(const Model& model, const SteadySolution& solution, Findings findings, const MeshError& error) {
    Mover(model, solution, findings, error).move();
    findings.figures = figures_of(findings);
    return findings;
}

void estimate_errors(const Model& model, const SteadySolution& solution, Findings& findings, const ProgressCallback& progress) {
    if (findings.figures.empty()) return;
    std::vector<Figure> once, twice, doubt;
    try {
        MeshError error(model, solution, progress);
        error.correct();
        once = moved(model, solution, findings, error).figures;
        error.correct();
        twice = moved(model, solution, findings, error).figures;
        doubt = doubted(model, solution, findings, error);
    } catch (const ComputationError& failure) {
        findings.warnings.push_back({"no_errors", fmt::format("how far the mesh lets figures be off could not be worked out: {}", failure.what())});
        return;
    } catch (const std::bad_alloc&) {
        findings.warnings.push_back({"no_errors", "how far the mesh lets figures be off could not be worked out: not enough memory"});
        return;
    }
    const auto change_in = [](const std::vector<Figure>& all, std::size_t likely, const Figure& figure) {
        const auto here = all.begin() + static_cast<std::ptrdiff_t>(std::min(likely, all.size()));
        const auto is_same = [&](const Figure& other) { return same(other, figure); };
        const auto found = here != all.end() && is_same(*here) ? here : std::find_if(all.begin(), all.end(), is_same);
        return found == all.end() ? 0.0 : *found->value - *figure.value;
    };
    const std::vector<std::string> thin = parts_too_thin(model, *solution.mesh);
    for (std::size_t i = 0; i < findings.figures.size(); ++i) {
        Figure& figure = findings.figures[i];
        const double first = change_in(once, i, figure), second = change_in(twice, i, figure);
        const double off = std::max(std::abs(first), std::abs(second)) + std::abs(second - first);
        const double rounding = 1e-9 * std::max(1.0, std::abs(*figure.value)), least = least_share * scale_of(figure, solution.network->lowest_known);
        figure.bar = DiscretisationError{
            .error = safety * off + std::abs(change_in(doubt, i, figure)) + least + rounding,
            .trusted = std::find(thin.begin(), thin.end(), figure.name) == thin.end(),
            .correction = second,
        };
    }
}

void tell_uncertain(Findings& findings, double coldest) {
    const auto kelvin = [](double k) { return fmt::format("{:.2g} K", std::abs(k)); };
    for (const LimitFinding& limit : findings.limits) {
        const Figure* figure = margin_of(findings.figures, limit);
        if (figure == nullptr || figure->error() < noticeable || std::abs(limit.margin) >= figure->error()) continue;
        std::string message = fmt::format("the limit on {} is {} by {}, but the mesh leaves ±{} open: too close to call", in_quotes(limit.subject),
                                          limit.kept() ? "kept" : "missed", kelvin(limit.margin), kelvin(figure->error()));
        if (figure->bar->correction) message += fmt::format("; its estimate of the margin is {:+.2g} K", limit.margin + *figure->bar->correction);
        findings.warnings.push_back({"too_close_to_call", std::move(message)});
    }
    std::vector<const Figure*> unsure;
    for (const Figure& figure : findings.figures) {
        if (figure.kind != FigureKind::max && figure.kind != FigureKind::sensor) continue;
        if (figure.error() > std::max(noticeable, coarse * scale_of(figure, coldest))) unsure.push_back(&figure);
    }
    if (unsure.empty()) return;
    std::stable_sort(unsure.begin(), unsure.end(), [](const Figure* a, const Figure* b) { return a->error() > b->error(); });
    std::string message = "the mesh is coarse for ";
    for (std::size_t i = 0; i < std::min(unsure.size(), told_at_most); ++i) {
        const Figure& figure = *unsure[i];
        message += fmt::format("{}{}: ±{}", i == 0 ? "" : ", ", in_quotes(figure.name), kelvin(figure.error()));
        if (figure.bar->correction)
            message += fmt::format(" (probably {} too {})", kelvin(*figure.bar->correction), *figure.bar->correction < 0.0 ? "hot" : "cold");
    }
    if (unsure.size() > told_at_most) message += fmt::format(" and {} more", unsure.size() - told_at_most);
    findings.warnings.push_back({"mesh_too_coarse", message + "; give those parts and what they touch smaller cells (cell), or set mesh.error_target"});
}

}  // namespace firnfield
