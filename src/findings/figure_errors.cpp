// Errors of figures from those of temperatures and flows.

#include "findings/figure_errors.hpp"

#include <firnfield/error.hpp>
#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "findings/figures.hpp"
#include "findings/grouping.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <new>
#include <optional>

namespace firnfield {
namespace {

// What docs/how-sure.md promises; bench/errors.cpp holds it against finer meshes.
constexpr double safety = 2.0;
constexpr double left_over = 0.5;     // of a correction: what it may leave
constexpr double least_share = 1e-3;  // of the rise, or of a flow itself
constexpr double coarse = 0.02;       // of the rise: an error that is worth a remark
constexpr double noticeable = 0.05;   // K: temperatures are told to a tenth
constexpr std::size_t told_at_most = 3;

/// The temperature that a figure is of, or its margin; absent for the others.
std::optional<double> temperature_of(const Figure& figure) {
    const bool on_scale = figure.of == nullptr || figure.of->absolute_temperature;
    if (figure.kind == FigureKind::margin && on_scale) return *figure.limit + (figure.upper ? -*figure.value : *figure.value);
    return quantity_of(figure).absolute_temperature ? figure.value : std::nullopt;
}

/// How much higher a figure is among others than it is here; 0 where it is not among them. `likely` is where it probably stands.
double change_in(const std::vector<Figure>& others, std::size_t likely, const Figure& figure) {
    const auto is_same = [&](const Figure& other) { return same(other, figure); };
    const auto here = others.begin() + static_cast<std::ptrdiff_t>(std::min(likely, others.size()));
    const auto found = here != others.end() && is_same(*here) ? here : std::find_if(others.begin(), others.end(), is_same);
    return found == others.end() ? 0.0 : *found->value - *figure.value;
}

/// Findings after two rounds of the correction, with what those leave open.
Findings corrected(const Model& model, const SteadySolution& solution, const std::vector<Figure>& solved, MeshError& error) {
    error.correct();
    const std::vector<Figure> first = evaluate(model, solution, &error.reader()).figures;
    error.correct();
    Findings out = evaluate(model, solution, &error.reader());
    const std::vector<Figure> doubted = evaluate(model, solution, &error.reader(), true).figures;
    const std::vector<std::string> thin = parts_too_thin(model, *solution.mesh);
    for (std::size_t i = 0; i < out.figures.size(); ++i) {
        Figure& figure = out.figures[i];
        if (quantity_of(figure).name == kinds::mass.name) continue;       // of the geometry
        if (quantity_of(figure).name == kinds::heat_flux.name) continue;  // not corrected
        const double added = -change_in(solved, i, figure), unsettled = change_in(first, i, figure);
        figure.solved = *figure.value - added;
        figure.bar = DiscretisationError{
            .error = left_open(unsettled, added) + std::abs(change_in(doubted, i, figure)) + least_open(figure, solution.network->lowest_known),
            .trusted = std::find(thin.begin(), thin.end(), figure.name) == thin.end(),
            .correction = added,
        };
    }
    return out;
}

}  // namespace

std::vector<std::string> parts_too_thin(const Model& model, const Mesh& mesh) {
    std::vector<std::string> names;
    for (const PartGroup& group : group_parts(mesh)) {
        const bool thin = std::any_of(group.bodies.begin(), group.bodies.end(), [&](Index b) { return cells_through(mesh, mesh.bodies[b]).cells < 2; });
        if (thin) names.push_back(model.parts[group.part].name);
    }
    return names;
}

double left_open(double unsettled, double added) { return safety * (std::abs(unsettled) + left_over * std::abs(added)); }

double least_open(const Figure& figure, double coldest) { return least_share * scale_of(figure, coldest) + 1e-9 * std::max(1.0, std::abs(*figure.value)); }

double scale_of(const Figure& figure, double coldest) {
    const std::optional<double> temperature = temperature_of(figure);
    if (figure.kind == FigureKind::margin && !temperature) return std::abs(*figure.limit + (figure.upper ? -*figure.value : *figure.value));
    return std::abs(temperature ? *temperature - coldest : *figure.value);
}

Findings with_errors(const Model& model, const SteadySolution& solution, Findings solved, const ProgressCallback& progress,
                     const std::function<void(MeshError&, const Findings&)>& then) {
    if (solved.figures.empty()) return solved;
    std::string reason;
    try {
        MeshError error(model, solution, progress, solution.solver);
        Findings out = corrected(model, solution, solved.figures, error);
        out.fluxes = std::move(solved.fluxes);
        if (then) then(error, out);
        return out;
    } catch (const ComputationError& failure) {
        reason = failure.what();
    } catch (const std::bad_alloc&) {
        reason = "not enough memory";
    }
    tell_no_errors(solved.warnings, reason);
    return solved;
}

void tell_no_errors(std::vector<Warning>& warnings, const std::string& reason) {
    warnings.push_back({"no_errors", fmt::format("how far the mesh lets figures be off could not be worked out, nothing is corrected for it: {}", reason)});
}

namespace {

template <typename StudyFound>
void tell_uncertain_of(StudyFound& findings, double coldest, const Units& units) {
    const UnitOf degree = unit_of(kinds::temperature_difference, units);
    const auto kelvin = [&](double k) { return fmt::format("{:.2g} {}", std::abs(degree.out(k)), degree.shown); };
    for (const auto& limit : findings.limits) {
        const Figure* figure = margin_of(findings.figures, limit);
        if (figure == nullptr) continue;
        const QuantityKind& kind = quantity_of(*figure);
        if ((is_kelvin(kind) && figure->error() < noticeable) || std::abs(limit.margin) >= figure->error()) continue;
        const auto amount = [&](double value) { return is_kelvin(kind) ? kelvin(value) : show_quantity(std::abs(value), kind, units, 2); };
        findings.warnings.push_back(
            {"too_close_to_call", fmt::format("the limit on {} is {} by {}, but the mesh leaves ±{} open: too close to call", in_quotes(limit.subject),
                                              limit.kept() ? "kept" : "missed", amount(limit.margin), amount(figure->error()))});
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
        // At the corner of a small source the hottest spot goes on rising with ever finer cells; the mean does not.
        const Figure* mean = figure.kind == FigureKind::max ? find_figure(findings.figures, FigureKind::mean, figure.name) : nullptr;
        if (mean != nullptr && mean->bar && mean->error() < 0.5 * figure.error())
            message += fmt::format(" (its mean of {} to ±{})", show_temperature(*mean->value, units), kelvin(std::max(mean->error(), noticeable)));
    }
    if (unsure.size() > told_at_most) message += fmt::format(" and {} more", unsure.size() - told_at_most);
    findings.warnings.push_back(
        {"mesh_too_coarse",
         message + "; set mesh.error_target to have it refined for every part, or give those parts and what they touch smaller cells (cell)"});
}

}  // namespace

void tell_uncertain(Findings& findings, double coldest, const Units& units) { tell_uncertain_of(findings, coldest, units); }
void tell_uncertain(TimeFindings& findings, double coldest, const Units& units) { tell_uncertain_of(findings, coldest, units); }

}  // namespace firnfield
