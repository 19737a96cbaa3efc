// Error bars from three meshes.

#include <firnfield/error_bars.hpp>
#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "findings/figure_errors.hpp"
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

bool is_temperature(const Figure& figure) { return info(figure.kind).quantity->absolute_temperature; }

/// One round: the study on the mesh of these cell sizes and on coarser ones.
BarredSolution solve_once(const Model& model, const Study& study, const ErrorBarOptions& options) {
    BarredSolution out;
    ErrorBars bars;
    bars.ratio = options.ratio;
    std::vector<std::vector<Figure>> coarse;  // of the coarser meshes
    Model coarser = model;
    for (int mesh = 0; mesh < options.meshes; ++mesh) {
        SteadySolution solution = solve_steady(coarser, study, options.steady);
        Findings found = findings(coarser, solution, {.errors = false});
        bars.cells.push_back(found.cells);
        if (mesh == 0) {
            out.solution = std::move(solution);
            out.findings = std::move(found);
        } else {
            coarse.push_back(std::move(found.figures));
        }
        coarser.mesh.coarsening *= options.ratio;
    }
    for (Figure& figure : out.findings.figures) {
        std::vector<double> values{*figure.value};
        for (const std::vector<Figure>& list : coarse) {
            const auto found = std::find_if(list.begin(), list.end(), [&](const Figure& other) { return same(figure, other); });
            if (found != list.end()) values.push_back(*found->value);
        }
        if (values.size() < 2) continue;  // a contact that only the finest mesh has
        figure.bar = discretisation_error(values, options.ratio);
        if (is_temperature(figure)) bars.largest_temperature_error = std::max(bars.largest_temperature_error, figure.bar->error);
    }
    out.findings.error_bars = std::move(bars);
    tell_uncertain(out.findings, out.solution.network->lowest_known);
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
double coarsening_for(const std::vector<Figure>& figures, double target) {
    double smallest = 1.0;
    for (const Figure& figure : figures) {
        if (!is_temperature(figure) || figure.error() <= target) continue;
        const double order = std::clamp(figure.bar->order.value_or(0.0), 1.0, highest_order);
        smallest = std::min(smallest, std::pow(0.8 * target / figure.error(), 1.0 / order));
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
            const double all = coarsening_for(out.findings.figures, *bars.target), factor = std::max(0.4, all);
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
