// Heat flux in every cell.

#include "findings/heat_flux.hpp"

#include "network/reduce.hpp"

#include <Eigen/Dense>

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

std::vector<double> heat_through_patches(const SteadySolution& solution) {
    const Network& network = *solution.network;
    // A patch that nothing claims lets nothing through.
    std::vector<double> leaving(solution.mesh->patches.size(), 0.0);
    const auto add = [&](const Leg& leg) {
        const Index patch = patch_of(network, leg);
        if (patch == no_index) return;
        // A resistor between nodes may lead towards the surface as well as away from it.
        const bool enters = leg.to.at == End::At::node && leg.to.index == solution.mesh->patches.cell[patch];
        leaving[patch] += enters ? -leg.heat : leg.heat;
    };
    reduce_inside(network, solution.nodes(), add);
    reduce_outside(network, solution.nodes(), add);
    return leaving;
}

std::vector<Vec3> heat_flux(const SteadySolution& solution) {
    const Mesh& mesh = *solution.mesh;
    const Network& network = *solution.network;
    std::vector<Fit> fits(mesh.cells.size());
    reduce_family(network, network.within_bodies(), solution.nodes(), [&](const Leg& leg) {
        const double area = mesh.faces.area[leg.element];
        Vec3 n;
        n[mesh.faces.axis[leg.element]] = 1.0;
        fits[leg.from.index].add(n, area, leg.heat / area);
        fits[leg.to.index].add(n, area, leg.heat / area);
    });
    for (std::size_t c = 0; c < mesh.contacts.size(); ++c) {
        const double flux = solution.contacts.flow[c] / mesh.contacts.area[c];
        fits[mesh.contacts.first[c]].add(mesh.contacts.normal[c], mesh.contacts.area[c], flux);
        fits[mesh.contacts.second[c]].add(mesh.contacts.normal[c], mesh.contacts.area[c], flux);
    }
    const std::vector<double> leaving = heat_through_patches(solution);
    for (std::size_t p = 0; p < mesh.patches.size(); ++p)
        fits[mesh.patches.cell[p]].add(mesh.patches.normal[p], mesh.patches.area[p], leaving[p] / mesh.patches.area[p]);
    std::vector<Vec3> flux;
    flux.reserve(fits.size());
    for (const Fit& fit : fits) flux.push_back(fit.solve());
    return flux;
}

}  // namespace firnfield
