// Heat flux in every cell.

#include "findings/heat_flux.hpp"

#include "network/reduce.hpp"

#include <Eigen/Dense>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

/// The flux that fits best, by area, what passes through the faces of a cell: least squares over all its faces.
/// With two faces on every axis it is their mean.
struct Fit {
    Eigen::Matrix3d normal = Eigen::Matrix3d::Zero();
    Eigen::Vector3d right = Eigen::Vector3d::Zero();

    void add(Vec3 n, double area, double flux) {
        const Eigen::Vector3d direction(n.x, n.y, n.z);
        normal += area * direction * direction.transpose();
        right += area * flux * direction;
    }
    [[nodiscard]] Vec3 solve() const {
        if (normal(0, 1) == 0.0 && normal(0, 2) == 0.0 && normal(1, 2) == 0.0) {  // a whole box: each axis by itself
            Vec3 flux;
            for (int i = 0; i < 3; ++i) flux[i] = normal(i, i) > 0.0 ? right[i] / normal(i, i) : 0.0;
            return flux;
        }
        // A direction that no face looks in keeps no flux.
        const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> parts(normal);
        const double least = 1e-9 * parts.eigenvalues()[2];
        Eigen::Vector3d flux = Eigen::Vector3d::Zero();
        for (int i = 0; i < 3; ++i) {
            const Eigen::Vector3d direction = parts.eigenvectors().col(i);
            if (parts.eigenvalues()[i] > least) flux += direction * (direction.dot(right) / parts.eigenvalues()[i]);
        }
        return {flux[0], flux[1], flux[2]};
    }
};

}  // namespace

std::vector<double> heat_through_patches(const Mesh& mesh, const Network& network, const NodeTemperatures& nodes, const Defects* defects) {
    // A patch that nothing claims lets nothing through.
    std::vector<double> leaving(mesh.patches.size(), 0.0);
    const auto add = [&](const Leg& leg) {
        const Index patch = patch_of(network, leg);
        if (patch == no_index) return;
        // A resistor between nodes may lead towards the surface as well as away from it.
        const bool enters = leg.to.at == End::At::node && leg.to.index == mesh.patches.cell[patch];
        const double heat = leg.heat + (defects == nullptr ? 0.0 : defects->of_heat(leg));
        leaving[patch] += enters ? -heat : heat;
    };
    reduce_inside(network, nodes, add);
    reduce_outside(network, nodes, add);
    return leaving;
}

double heat_through_section(const Mesh& mesh, const Network& network, const NodeTemperatures& nodes, const ContactTemperatures& contacts,
                            std::span<const Index> bodies, int axis, double at, const Defects* defects) {
    const auto a = static_cast<std::size_t>(axis);
    const std::vector<double>& lines = mesh.grid.lines[a];
    std::vector<bool> meant(mesh.bodies.size(), false);
    for (const Index b : bodies) meant[b] = true;
    const auto has_cells = [&](Index layer) {
        for (Index cell = 0; cell < mesh.cells.size(); ++cell) {
            if (meant[mesh.cells.body[cell]] && mesh.grid.place(mesh.cells.box[cell])[a] == layer) return true;
        }
        return false;
    };
    // The layer of boxes that the plane runs through; of a plane of the grid the one below, where the bodies are there at all.
    const double near = 1e-9 * (lines.back() - lines.front());
    auto layer = static_cast<Index>(std::upper_bound(lines.begin() + 1, lines.end() - 1, at + near) - lines.begin() - 1);
    if (at <= lines[layer] + near && layer > 0 && has_cells(layer - 1)) --layer;
    // What enters the layer from below and leaves it above: through faces between cells, and where the bodies begin or end in a plane of the grid.
    double lower = 0.0, upper = 0.0;
    reduce_family(network, network.within_bodies(), nodes, [&](const Leg& leg) {
        if (mesh.faces.axis[leg.element] != axis || !meant[mesh.cells.body[leg.from.index]]) return;
        const Index below = mesh.grid.place(mesh.cells.box[leg.from.index])[a];
        if (below + 1 != layer && below != layer) return;
        (below == layer ? upper : lower) += leg.heat + (defects == nullptr ? 0.0 : defects->of_heat(leg));
    });
    // Through surfaces at an angle heat is lost on the way, as through those along the axis.
    constexpr double straight = 0.999;
    const auto add_end = [&](Index cell, double outward, double leaving) {
        if (std::abs(outward) < straight || !meant[mesh.cells.body[cell]] || mesh.grid.place(mesh.cells.box[cell])[a] != layer) return;
        outward < 0.0 ? lower -= leaving : upper += leaving;
    };
    const std::vector<double> leaving = heat_through_patches(mesh, network, nodes, defects);
    for (std::size_t p = 0; p < leaving.size(); ++p) add_end(mesh.patches.cell[p], mesh.patches.normal[p][axis], leaving[p]);
    for (std::size_t c = 0; c < mesh.contacts.size(); ++c) {
        const double along = mesh.contacts.normal[c][axis];  // from the first to the second
        const Index first = mesh.contacts.first[c], second = mesh.contacts.second[c];
        add_end(first, along, contacts.flow[c]);
        add_end(second, -along, -contacts.flow[c]);
    }
    const double share = std::clamp((at - lines[layer]) / (lines[layer + 1] - lines[layer]), 0.0, 1.0);
    return (1.0 - share) * lower + share * upper;
}

double highest_flux(const Mesh& mesh, std::span<const Vec3> flux, std::span<const Index> bodies) {
    std::vector<bool> meant(mesh.bodies.size(), false);
    for (const Index b : bodies) meant[b] = true;
    double most = 0.0;
    for (std::size_t cell = 0; cell < flux.size(); ++cell) {
        if (meant[mesh.cells.body[cell]]) most = std::max(most, length(flux[cell]));
    }
    return most;
}

std::vector<Vec3> heat_flux(const SteadySolution& solution) { return heat_flux(*solution.mesh, *solution.network, solution.nodes(), solution.contacts); }

std::vector<Vec3> heat_flux(const Mesh& mesh, const Network& network, const NodeTemperatures& nodes, const ContactTemperatures& contacts) {
    std::vector<Fit> fits(mesh.cells.size());
    reduce_family(network, network.within_bodies(), nodes, [&](const Leg& leg) {
        const double area = mesh.faces.area[leg.element];
        Vec3 n;
        n[mesh.faces.axis[leg.element]] = 1.0;
        fits[leg.from.index].add(n, area, leg.heat / area);
        fits[leg.to.index].add(n, area, leg.heat / area);
    });
    for (std::size_t c = 0; c < mesh.contacts.size(); ++c) {
        const double flux = contacts.flow[c] / mesh.contacts.area[c];
        fits[mesh.contacts.first[c]].add(mesh.contacts.normal[c], mesh.contacts.area[c], flux);
        fits[mesh.contacts.second[c]].add(mesh.contacts.normal[c], mesh.contacts.area[c], flux);
    }
    const std::vector<double> leaving = heat_through_patches(mesh, network, nodes);
    for (std::size_t p = 0; p < mesh.patches.size(); ++p)
        fits[mesh.patches.cell[p]].add(mesh.patches.normal[p], mesh.patches.area[p], leaving[p] / mesh.patches.area[p]);
    std::vector<Vec3> flux;
    flux.reserve(fits.size());
    for (const Fit& fit : fits) flux.push_back(fit.solve());
    return flux;
}

std::vector<FluxFinding> highest_fluxes(const Model& model, const Mesh& mesh, std::span<const Vec3> flux) {
    std::vector<double> most(mesh.bodies.size(), -1.0);
    std::vector<Index> where(mesh.bodies.size(), no_index);
    for (Index cell = 0; cell < flux.size(); ++cell) {
        const double size = dot(flux[cell], flux[cell]);
        const Index body = mesh.cells.body[cell];
        if (size > most[body]) most[body] = size, where[body] = cell;
    }
    // Of copies the one with the most.
    std::vector<FluxFinding> out;
    for (Index body = 0; body < most.size(); ++body) {
        if (where[body] == no_index) continue;
        const std::string& part = model.parts[mesh.bodies[body].part].name;
        const FluxFinding found{.part = part, .flux = std::sqrt(most[body]), .body = mesh.bodies[body].name, .at = mesh.centre(where[body])};
        const auto known = std::find_if(out.begin(), out.end(), [&](const FluxFinding& row) { return row.part == part; });
        if (known == out.end()) {
            out.push_back(found);
        } else if (found.flux > known->flux) {
            *known = found;
        }
    }
    std::stable_sort(out.begin(), out.end(), [](const FluxFinding& a, const FluxFinding& b) { return a.flux > b.flux; });
    return out;
}

}  // namespace firnfield
