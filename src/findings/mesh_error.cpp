// The discretisation error of a steady solution by defect correction.

#include "findings/mesh_error.hpp"

#include <firnfield/error.hpp>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

constexpr double tolerance = 1e-3;  // of the solve: the estimate is not as good

}  // namespace

MeshError::MeshError(const Model& model, const SteadySolution& solution, ProgressCallback progress)
    : solution_(solution),
      mesh_(*solution.mesh),
      progress_(std::move(progress)),
      balance_(assemble(*solution.network, solution.nodes())),
      solver_(*solution.network, balance_),
      defects_(model, mesh_, *solution.network, solution.nodes(), solution.patch_temperature, solution.contacts),
      change_(solution.network->nodes, 0.0) {}

void MeshError::correct() {
    if (rounds_++ > 0) defects_.find_anew();
    const auto watch = [&](int, double left) { announce(progress_, {.stage = "estimating errors", .residual = left, .target = tolerance}); };
    const LinearSummary summary = solver_.solve(defects_.driven_heat(), change_, tolerance, watch);
    const bool finite = std::all_of(change_.begin(), change_.end(), [](double t) { return std::isfinite(t); });
    if (!finite || (!summary.converged && !(summary.relative_residual <= 0.1))) throw ComputationError("the solve stopped: " + summary.text());
    defects_.correct(change_);
}

double MeshError::of_extreme(const Place& place, bool hottest) const {
    const Reading reading = reading_at(place);
    return is_cut(reading) ? 0.0 : extreme_in(reading.cell, reading.normal, hottest) + reading.change;
}

double MeshError::doubt_in_extreme(const Place& place, bool hottest) const {
    const Reading reading = reading_at(place);
    if (is_cut(reading)) return 2.0 * std::abs(reading.change) + std::abs(extreme_in(reading.cell, reading.normal, hottest));
    return on_rim(place) ? std::abs(of_extreme(place, hottest)) : 0.0;
}

/// Whether a place lies where one of two bodies in contact ends: the flux grows beyond all bounds towards such rims, and the estimate sees about half
/// of what the mesh misses there.
bool MeshError::on_rim(const Place& place) const {
    if (place.kind != Place::Kind::first_of_contact && place.kind != Place::Kind::second_of_contact) return false;
    const Contacts& contacts = mesh_.contacts;
    const auto ends = [&](Index cell, int axis, bool upward) {
        if (defects_.neighbour(cell, axis, upward) != no_index) return false;
        const Index at = mesh_.grid.place(mesh_.cells.box[cell])[static_cast<std::size_t>(axis)];
        const bool outermost = upward ? at + 1 == mesh_.grid.count(axis) : at == 0;
        return !outermost || mesh_.bodies[mesh_.cells.body[cell]].on_planes == 0;  // else the image by symmetry goes on there
    };
    for (int axis = 0; axis < 3; ++axis) {
        if (contacts.normal[place.index][axis] * contacts.normal[place.index][axis] > 0.5 || mesh_.grid.count(axis) == 1) continue;
        for (const Index cell : {contacts.first[place.index], contacts.second[place.index]}) {
            if (ends(cell, axis, false) || ends(cell, axis, true)) return true;
        }
    }
    return false;
}

void MeshError::add_sources(std::span<const double> at_nodes, double weight, std::array<std::vector<double>, 3>& layers) {
    constexpr double rough = 1e-2;  // of the solve: only the layers are compared
    std::vector<double> adjoint(at_nodes.size(), 0.0);
    const LinearSummary summary = solver_.solve(at_nodes, adjoint, rough, {}, true);
    if (!summary.converged && !(summary.relative_residual <= 0.1)) throw ComputationError("the adjoint solve stopped: " + summary.text());
    defects_.add_sources(adjoint, weight, layers);
}

/// As if the place were read at its cell; what is off between the cell and the place comes from the cell itself.
void MeshError::add_sources(const Place& place, double weight, std::array<std::vector<double>, 3>& layers) {
    const Reading reading = reading_at(place);
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

MeshError::Reading MeshError::reading_at(const Place& place) const {
    const Contacts& contacts = mesh_.contacts;
    switch (place.kind) {
        case Place::Kind::cell:
            break;
        case Place::Kind::patch: {
            const bool insulated = solution_.network->surface[place.index].at == End::At::node;
            return {mesh_.patches.cell[place.index], insulated ? Vec3{} : mesh_.patches.normal[place.index], defects_.of_patch(place.index)};
        }
        case Place::Kind::first_of_contact:
            return {contacts.first[place.index], contacts.normal[place.index], defects_.of_contact(place.index)[0]};
        case Place::Kind::second_of_contact:
            return {contacts.second[place.index], contacts.normal[place.index], defects_.of_contact(place.index)[1]};
    }
    return {place.index, {}, defects_.of_node(place.index)};
}

/// In a box that the part does not fill, or on a surface at an angle to the grid.
bool MeshError::is_cut(const Reading& reading) const {
    const double box = defects_.width(reading.cell, 0) * defects_.width(reading.cell, 1) * defects_.width(reading.cell, 2);
    if (mesh_.cells.volume[reading.cell] < 0.99 * box) return true;
    const Vec3 n = reading.normal;
    return length(n) > 0.0 && std::max({n.x * n.x, n.y * n.y, n.z * n.z}) < 1.0 - 1e-9;
}

/// From the mean over a cell, or over its surface of this normal, to the highest or lowest point of the parabolas in it.
double MeshError::extreme_in(Index cell, Vec3 normal, bool hottest) const {
    const double sign = hottest ? 1.0 : -1.0;
    double sum = 0.0;
    for (int axis = 0; axis < 3; ++axis) {
        if (normal[axis] * normal[axis] > 0.5) continue;
        const double h = defects_.width(cell, axis), bent = defects_.bend(cell, axis), end = 0.5 * h;
        const Index below = defects_.neighbour(cell, axis, false), above = defects_.neighbour(cell, axis, true);
        const auto towards = [&](Index next) { return (solution_.rise[next] - solution_.rise[cell]) / (0.5 * (h + defects_.width(next, axis))); };
        double slope = 0.0;  // at the centre; nothing passes through a side without a neighbour
        if (below != no_index && above != no_index) {
            const double down = 0.5 * (h + defects_.width(below, axis)), up = 0.5 * (h + defects_.width(above, axis));
            slope = (towards(above) * down - towards(below) * up) / (down + up);
        } else if (above != no_index) {
            slope = towards(above) - 0.5 * bent * h;
        } else if (below != no_index) {
            slope = -towards(below) + 0.5 * bent * h;
        }
        const auto at = [&](double x) { return sign * (slope * x + 0.5 * bent * x * x - bent * h * h / 24.0); };
        double best = std::max(at(end), at(-end));
        if (bent != 0.0 && std::abs(slope / bent) < end) best = std::max(best, at(-slope / bent));
        sum += sign * best;
    }
    return sum;
}

double MeshError::of_reading(const Readout& readout, Index cell, Vec3 point) const {
    double sum = cell < mesh_.cells.size() ? bend_in_reading(cell, point) : 0.0;
    for (const Readout::Term& term : readout.terms) sum += term.weight * defects_.of_term(term);
    return sum;
}

/// What a straight line from the mean over a cell towards its neighbour or surface misses at a point.
double MeshError::bend_in_reading(Index cell, Vec3 point) const {
    const Vec3 offset = point - mesh_.centre(cell);
    double sum = 0.0;
    for (int axis = 0; axis < 3; ++axis) {
        const double h = defects_.width(cell, axis), bent = defects_.bend(cell, axis), x = std::abs(offset[axis]);
        const double own = bent * (0.5 * x * x - h * h / 24.0);
        const bool upward = offset[axis] > 0.0;
        if (x == 0.0) {
            sum += own;
            continue;
        }
        if (const Index next = defects_.neighbour(cell, axis, upward); next != no_index) {
            const double other = defects_.width(next, axis), apart = 0.5 * (h + other), bent_there = defects_.bend(next, axis);
            sum += own - x / apart * (0.25 * (bent + bent_there) * apart * apart + (bent_there * other * other - bent * h * h) / 24.0);
            continue;
        }
        // A surface or a contact, or an insulated side towards which the reading stays what it is at the centre.
        double depth = 0.5 * h;
        bool exchanges = true;
        const auto [begin, end] = std::equal_range(mesh_.patches.cell.begin(), mesh_.patches.cell.end(), cell);
        for (auto it = begin; it != end; ++it) {
            const auto patch = static_cast<std::size_t>(it - mesh_.patches.cell.begin());
            if (!(mesh_.patches.normal[patch][axis] * (upward ? 1.0 : -1.0) > 0.99) || !(mesh_.patches.depth[patch] > 0.0)) continue;
            depth = mesh_.patches.depth[patch];
            exchanges = solution_.network->surface[patch].at != End::At::node;
            break;
        }
        sum += exchanges ? own - x / depth * bent * (0.5 * depth * depth - h * h / 24.0) : bent * (0.5 * x * x - x * depth - h * h / 24.0);
    }
    return sum;
}

}  // namespace firnfield
