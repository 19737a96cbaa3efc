// Error bars from three meshes.

#include <firnfield/error_bars.hpp>

#include "findings/figure_errors.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

// Observed orders scatter, on cut cells most. These were set so that 19 of 20 true errors of the reference cases lie within.
constexpr double safety = 1.25;
constexpr double highest_order = 1.4;  // counted at most
constexpr double lucky_order = 2.3;    // beyond, a difference was small by chance
constexpr double least_share = 3e-5;   // of the rise, or of a flow itself: no three meshes tell more
constexpr double lowest_order = 0.7;   // less means that the meshes are too coarse to tell

bool is_temperature(const Figure& figure) { return quantity_of(figure).absolute_temperature; }

/// The study on the mesh of these cell sizes, those of the study among them, and on coarser ones.
BarredSolution solve_once(const Model& model, const Study& study, const ErrorBarOptions& options) {
    BarredSolution out;
    ErrorBars bars;
    bars.ratio = options.ratio;
    std::vector<std::vector<Figure>> coarse;  // of the coarser meshes
    Model coarser = model;
    for (int mesh = 0; mesh < options.meshes; ++mesh) {
        SteadySolution solution = solve_steady(coarser, std::make_shared<const Mesh>(build_mesh(coarser)), study, options.steady);
        solution.solver.reset();  // the meshes tell the errors
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
        if (!figure.bar->exact) figure.bar->error += least_share * scale_of(figure, out.solution.network->lowest_known);
        if (is_temperature(figure)) bars.largest_temperature_error = std::max(bars.largest_temperature_error, figure.bar->error);
    }
    out.findings.error_bars = std::move(bars);
    tell_uncertain(out.findings, out.solution.network->lowest_known, model.units);
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
    return model;
}

BarredSolution solve_with_error_bars(const Model& model, const Study& study, const ErrorBarOptions& options) {
    const Model meshed = meshed_for(model, study);
    Model finest = meshed;
    if (Model finer = meshed; can_be_meshed(finer, 1.0 / options.ratio)) finest = std::move(finer);
    BarredSolution out = solve_once(finest, study, options);
    out.findings.error_bars->scale = finest.mesh.coarsening / meshed.mesh.coarsening;
    out.findings.layers = finest.mesh.layers;
    return out;
}

}  // namespace firnfield
