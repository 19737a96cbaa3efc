// Error bars from three meshes.

#include <firnfield/error_bars.hpp>
#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "findings/refinement.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

// Observed orders scatter, on cut cells most. These were set so that 19 of 20 true errors of the reference cases lie within.
constexpr double safety = 1.25;
constexpr double highest_order = 1.4;  // counted at most
constexpr double lucky_order = 2.3;    // beyond, a difference was small by chance
constexpr double lowest_order = 0.7;   // less means that the meshes are too coarse to tell

/// The quantities of one solution that get a bar, by name, so that they are found again on other meshes.
std::vector<ErrorBar> quantities_of(const Findings& f) {
    std::vector<ErrorBar> list;
    const auto add = [&](const char* kind, const std::string& name, double value) { list.push_back({.kind = kind, .name = name, .value = value}); };
    for (const PartFinding& p : f.parts) {
        add("max", p.name, p.hottest.temperature);
        add("mean", p.name, p.mean);
        add("min", p.name, p.coldest.temperature);
    }
    for (const SensorFinding& s : f.sensors) add("sensor", s.name, s.temperature);
    for (const JointFinding& j : f.joints) {
        // One joint of the model may rule many pairs of parts.
        const std::string parts = j.first + " - " + j.second;
        add("joint flow", j.name == parts ? parts : fmt::format("{} ({})", parts, j.name), j.flow);
    }
    for (const ResistorFinding& r : f.resistors) add("resistor flow", r.name, r.flow);
    for (const CoolingFinding& c : f.coolings) {
        add("cooling", c.name, c.convection + c.radiation);
        if (c.radiates && c.convection != 0.0) {
            add("convection", c.name, c.convection);
            add("radiation", c.name, c.radiation);
        }
        if (c.convection != 0.0) add("coefficient", c.name, c.mean_coefficient());
    }
    for (const LoadFinding& l : f.loads) {
        if (l.mean_surface) add("surface mean", l.name, *l.mean_surface);
        if (l.hottest_surface) add("surface max", l.name, *l.hottest_surface);
    }
    for (const HoldFinding& h : f.holds) add("hold", h.name, h.flow);
    return list;
}

const ErrorBar* find(const std::vector<ErrorBar>& list, const ErrorBar& wanted) {
    const auto found = std::find_if(list.begin(), list.end(), [&](const ErrorBar& b) { return b.kind == wanted.kind && b.name == wanted.name; });
    return found == list.end() ? nullptr : &*found;
}

/// One round: the study on the mesh of these cell sizes and on coarser ones.
BarredSolution solve_once(const Model& model, const Study& study, const ErrorBarOptions& options) {
    BarredSolution out;
    ErrorBars bars;
    bars.ratio = options.ratio;
    std::vector<std::vector<ErrorBar>> values;
    Model coarser = model;
    for (int mesh = 0; mesh < options.meshes; ++mesh) {
        SteadySolution solution = solve_steady(coarser, study, options.steady);
        Findings found = findings(coarser, solution);
        bars.cells.push_back(found.cells);
        values.push_back(quantities_of(found));
        if (mesh == 0) {
            out.solution = std::move(solution);
            out.findings = std::move(found);
        }
        coarser.mesh.coarsening *= options.ratio;
    }
    for (const ErrorBar& finest : values.front()) {
        ErrorBar bar = finest;
        std::vector<double> same;
        for (const std::vector<ErrorBar>& list : values) {
            if (const ErrorBar* other = find(list, bar)) same.push_back(other->value);
        }
        if (same.size() < 2) continue;  // a contact that only the finest mesh has
        const DiscretisationError estimate = discretisation_error(same, options.ratio);
        bar.error = estimate.error;
        bar.order = estimate.order;
        bar.exact = estimate.exact;
        bar.trusted = estimate.trusted;
        if (bar.is_temperature()) bars.largest_temperature_error = std::max(bars.largest_temperature_error, bar.error);
        bars.bars.push_back(std::move(bar));
    }
    out.findings.error_bars = std::move(bars);
    return out;
}

/// Scales all cell sizes; whether the model's limits and the machine allow it.
bool can_be_meshed(Model& model, double factor) {
    model.mesh.coarsening *= factor;
    try {
        static_cast<void>(plan_grid(model));
        return true;
    } catch (const ModelError&) {
        return false;
    }
}

/// What a smaller target would need: every temperature within it at the order of the worst one.
double coarsening_for(const ErrorBars& bars, double target) {
    double smallest = 1.0;
    for (const ErrorBar& bar : bars.bars) {
        if (!bar.is_temperature() || bar.error <= target) continue;
        const double order = std::clamp(bar.order.value_or(0.0), 1.0, highest_order);
        smallest = std::min(smallest, std::pow(0.8 * target / bar.error, 1.0 / order));
    }
    return smallest;
}

}  // namespace

DiscretisationError discretisation_error(std::span<const double> values, double ratio) {
    DiscretisationError out;
    const double first = values[0] - values[1], rounding = 1e-8 * std::max(1.0, std::abs(values[0]));
    if (values.size() < 3) {
        out.error = 3.0 * std::abs(first) / (ratio - 1.0) + rounding;
        return out;
    }
    const double second = values[1] - values[2];
    if (std::abs(first) <= rounding && std::abs(second) <= rounding) return {.error = rounding, .order = {}, .exact = true, .trusted = true};
    const double order = first * second > 0.0 ? std::log(second / first) / std::log(ratio) : 0.0;
    if (order > 0.0) out.order = order;
    out.trusted = order >= lowest_order && order <= lucky_order;
    if (out.trusted) {
        out.error = safety * std::abs(first) / (std::pow(ratio, std::min(order, highest_order)) - 1.0) + rounding;
    } else {
        // No common order. The error is what either difference implies at first order: one of them may be small by chance.
        out.error = safety * std::max(std::abs(first), std::abs(second) / ratio) / (ratio - 1.0) + rounding;
    }
    return out;
}

Model meshed_finest(Model model, const ErrorBars& bars) {
    model.mesh.coarsening *= bars.scale;
    model.mesh.layers = bars.layers;
    return model;
}

BarredSolution solve_with_error_bars(const Model& model, const Study& study, const ErrorBarOptions& options) {
    constexpr int most_rounds = 8;
    Model current = model;
    if (Model finer = model; can_be_meshed(finer, 1.0 / options.ratio)) current = std::move(finer);
    for (int round = 1;; ++round) {
        BarredSolution out = solve_once(current, study, options);
        ErrorBars& bars = *out.findings.error_bars;
        bars.scale = current.mesh.coarsening / model.mesh.coarsening;
        bars.layers = current.mesh.layers;
        bars.target = model.mesh.error_target;
        if (!bars.target) return out;
        const std::string asked = show_quantity(*bars.target, kinds::temperature_difference);
        if (bars.largest_temperature_error <= *bars.target) {
            bars.outlook = fmt::format("every temperature is known to {}, as asked", asked);
            return out;
        }
        double next = bars.cells.front(), wanted = 0.0;  // cells of the next mesh, and of one that would do
        if (options.everywhere) {
            const double all = coarsening_for(bars, *bars.target), factor = std::max(0.4, all);
            current.mesh.coarsening *= factor;
            next /= std::pow(factor, 3.0);
            wanted = next * std::pow(factor / all, 3.0);
        } else {
            // Small steps: where errors come from shows better on the next mesh.
            const double all = 0.8 * *bars.target / bars.largest_temperature_error, share = std::max(0.3, all);
            Refinement refined = refine_layers(current.mesh, out.solution.mesh->grid, layer_errors(current, out.solution), share);
            current.mesh.layers = std::move(refined.layers);
            next *= refined.cells;
            wanted = next * std::pow(share / all, 1.5);  // errors fall with the square of the sizes
        }
        bars.outlook =
            fmt::format("temperatures are known to {}; {} would take about {} cells",
                        show_quantity(bars.largest_temperature_error, kinds::temperature_difference), asked, grouped(static_cast<unsigned long long>(wanted)));
        if (next > 0.9 * static_cast<double>(model.mesh.max_cells) || !can_be_meshed(current, 1.0)) {
            bars.outlook += ", more than mesh.max_cells or the memory allows";
            return out;
        }
        if (round == most_rounds) {
            bars.outlook += "; refinement was stopped after " + std::to_string(most_rounds) + " rounds";
            return out;
        }
    }
}

}  // namespace firnfield
