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
    const auto above = std::upper_bound(lines.begin() + 1, lines.end() - 1, at);
    const auto layer = static_cast<Index>(above - lines.begin() - 1);  // of boxes that the plane runs through
    std::vector<bool> meant(mesh.bodies.size(), false);
    for (const Index b : bodies) meant[b] = true;
    struct Plane {
        double heat = 0.0;
        bool there = false;
    } lower, upper;
    reduce_family(network, network.within_bodies(), nodes, [&](const Leg& leg) {
        if (mesh.faces.axis[leg.element] != axis || !meant[mesh.cells.body[leg.from.index]]) return;
        const Index below = mesh.grid.place(mesh.cells.box[leg.from.index])[a];
        Plane* plane = below + 1 == layer ? &lower : below == layer ? &upper : nullptr;
        if (plane == nullptr) return;
        plane->heat += leg.heat + (defects == nullptr ? 0.0 : defects->of_heat(leg));
        plane->there = true;
    });
    // Nothing passes a plane of symmetry.
    for (const SymmetryPlane& plane : mesh.planes) {
        if (std::abs(plane.outward[axis]) != 1.0) continue;
        (plane.outward[axis] < 0.0 ? lower.there : upper.there) |= layer == (plane.outward[axis] < 0.0 ? 0 : lines.size() - 2);
    }
    // Where the bodies end, what enters or leaves there.
    const auto ends = [&](Index cell, double outward) -> Plane* {
        if (std::abs(outward) < 0.5 || !meant[mesh.cells.body[cell]] || mesh.grid.place(mesh.cells.box[cell])[a] != layer) return nullptr;
        Plane& plane = outward < 0.0 ? lower : upper;
        return plane.there ? nullptr : &plane;
    };
    if (!lower.there || !upper.there) {
        const std::vector<double> leaving = heat_through_patches(mesh, network, nodes, defects);
        for (std::size_t p = 0; p < leaving.size(); ++p) {
            const double outward = mesh.patches.normal[p][axis];
            if (Plane* plane = ends(mesh.patches.cell[p], outward)) plane->heat += outward < 0.0 ? -leaving[p] : leaving[p];
        }
        for (std::size_t c = 0; c < mesh.contacts.size(); ++c) {
            const double along = mesh.contacts.normal[c][axis];  // from the first to the second
            const double heat = along < 0.0 ? -contacts.flow[c] : contacts.flow[c];
            if (Plane* plane = ends(mesh.contacts.first[c], along)) plane->heat += heat;
            if (Plane* plane = ends(mesh.contacts.second[c], -along)) plane->heat += heat;
        }
    }
    const double share = std::clamp((at - lines[layer]) / (lines[layer + 1] - lines[layer]), 0.0, 1.0);
    return (1.0 - share) * lower.heat + share * upper.heat;
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
