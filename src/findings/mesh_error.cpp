// The discretisation error of a steady solution by defect correction.

#include "findings/mesh_error.hpp"

#include <firnfield/error.hpp>

#include <algorithm>
#include <cmath>
#include <new>

namespace firnfield {
namespace {

constexpr double tolerance = 1e-3;  // of the solve: the estimate is not as good

}  // namespace

MeshError::MeshError(const Model& model, const SteadySolution& solution, ProgressCallback progress, std::shared_ptr<LinearisedSolver> solver)
    : solution_(solution),
      mesh_(*solution.mesh),
      progress_(std::move(progress)),
      solver_(solver ? std::move(solver) : std::make_shared<LinearisedSolver>(*solution.network, assemble(*solution.network, solution.nodes()))),
      defects_(model, mesh_, *solution.network, solution.nodes(), solution.patch_temperature, solution.contacts),
      reader_(mesh_, *solution.network, solution.rise, defects_),
      change_(solution.network->nodes, 0.0) {}

void MeshError::correct() {
    if (rounds_++ > 0) defects_.find_anew();
    const auto watch = [&](int, double left) { announce(progress_, {.stage = "estimating errors", .residual = left, .target = tolerance}); };
    const LinearSummary summary = solver_->solve(defects_.driven_heat(), change_, tolerance, watch);
    const bool finite = std::all_of(change_.begin(), change_.end(), [](double t) { return std::isfinite(t); });
    if (!finite || (!summary.converged && !(summary.relative_residual <= 0.1))) throw ComputationError("the solve stopped: " + summary.text());
    defects_.correct(change_);
}

void MeshError::add_sources(std::span<const double> at_nodes, double weight, std::array<std::vector<double>, 3>& layers) {
    constexpr double rough = 1e-2;  // of the solve: only the layers are compared
    std::vector<double> adjoint(at_nodes.size(), 0.0);
    const LinearSummary summary = solver_->solve(at_nodes, adjoint, rough, {}, true);
    if (!summary.converged && !(summary.relative_residual <= 0.1)) throw ComputationError("the adjoint solve stopped: " + summary.text());
    defects_.add_sources(adjoint, weight, layers);
}

/// As if the place were read at its cell; what is off between the cell and the place comes from the cell itself.
void MeshError::add_sources(const Place& place, double weight, std::array<std::vector<double>, 3>& layers) {
    const ErrorReader::Reading reading = reader_.reading_at(place);
    std::vector<double> at_nodes(change_.size(), 0.0);
    at_nodes[reading.cell] = 1.0;
    add_sources(at_nodes, weight, layers);
    defects_.add_source(reading.cell, reading.normal, weight * (reading.change - defects_.of_node(reading.cell)), layers);
    for (int axis = 0; axis < 3; ++axis) {
        Vec3 along{};
        along[axis] = 1.0;
        const double h = defects_.width(reading.cell, axis);
        if (reading.normal[axis] * reading.normal[axis] < 0.5)
            defects_.add_source(reading.cell, along, weight * defects_.bend(reading.cell, axis) * h * h / 8.0, layers);
    }
}

void MeshError::add_sources(const Readout& readout, double weight, std::array<std::vector<double>, 3>& layers) {
    std::vector<double> at_nodes(change_.size(), 0.0);
    const auto reads = [&](Index node, double share) { at_nodes[node] += share; };
    for (const Readout::Term& term : readout.terms) {
        switch (term.source) {
            case Readout::Source::node:
                reads(term.index, term.weight);
                break;
            case Readout::Source::wall:
                reads(solution_.network->walls.node[term.index], term.weight);
                break;
            case Readout::Source::between:
                reads(solution_.network->between[term.index].node, term.weight);
                break;
            case Readout::Source::first_of_contact:
                reads(mesh_.contacts.first[term.index], term.weight);
                break;
            case Readout::Source::second_of_contact:
                reads(mesh_.contacts.second[term.index], term.weight);
                break;
            case Readout::Source::known:
                break;
        }
    }
    if (std::any_of(at_nodes.begin(), at_nodes.end(), [](double w) { return w != 0.0; })) add_sources(at_nodes, weight, layers);
}

NodeErrors node_errors(const Model& model, const SteadySolution& solution, const ProgressCallback& progress) {
    NodeErrors out;
    if (solution.mesh->cells.size() == 0) return out;
    try {
        MeshError error(model, solution, progress);
        for (std::vector<double>& round : out) {
            error.correct();
            round = error.of_nodes();
        }
        return out;
    } catch (const ComputationError&) {
        return {};
    } catch (const std::bad_alloc&) {
        return {};
    }
}

NodeErrors start_errors(const Model& model, const std::shared_ptr<const Mesh>& mesh, const Study& study, std::vector<double> temperature,
                        const ProgressCallback& progress) {
    if (temperature.empty()) return {};
    const double reference = temperature.front();
    for (double& t : temperature) t -= reference;
    return node_errors(model, Moments(model, mesh, study).at(0.0, reference, std::move(temperature)), progress);
}

}  // namespace firnfield
