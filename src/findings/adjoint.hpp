/// The adjoint of a temperature that is read off a solution: how much each watt, anywhere, moves it.
#pragma once

#include <firnfield/progress.hpp>
#include <firnfield/steady.hpp>

#include "network/assemble.hpp"
#include "network/contact_temperatures.hpp"
#include "network/readout.hpp"

#include <array>
#include <map>
#include <vector>

namespace firnfield {

/// Temperatures that a watt at the place would cause, K/W. Walls and the surfaces of contacts are no nodes: theirs follow from their
/// nodes', and where the place lies on one, the watt enters there.
struct Adjoint {
    std::vector<double> node, wall;
    std::map<Index, std::array<double, 2>> contacts;  // weights of the first and second surface of contacts in the readout
    std::map<Index, double> between;                  // likewise of the surfaces of resistors

    [[nodiscard]] double at(const End& end) const { return end.at == End::At::node ? node[end.index] : end.at == End::At::wall ? wall[end.index] : 0.0; }
};

/// Adjoints of one readout, in the network linearised by tangents or by secants. What it is made of has to outlive it.
class Adjoints {
public:
    Adjoints(const Mesh& mesh, const Network& network, const ContactReader& contacts, const SteadySolution& solution, const Readout& readout)
        : mesh_(mesh), network_(network), contacts_(contacts), solution_(solution), readout_(readout) {}

    /// Throws ComputationError where the solve stops short of 1e-8, and Cancelled.
    [[nodiscard]] Adjoint of(Slopes slopes, double tolerance, const ProgressCallback& progress) const;
    /// Adjoint of the two surfaces of a contact.
    [[nodiscard]] std::array<double, 2> at_surfaces(const Adjoint& adjoint, Index contact) const;
    /// d T_surface / d T of the two ends that the surface of a resistor lies between.
    [[nodiscard]] std::array<double, 2> follows(Index between, Slopes slopes) const;

private:
    [[nodiscard]] double wall_follows_node(Index wall, double films, Slopes slopes) const;
    [[nodiscard]] std::array<double, 2> surface_follows_nodes(Index contact, std::size_t side, Slopes slopes) const;
    [[nodiscard]] double temperature(Index node) const { return solution_.nodes().at(node); }

    const Mesh& mesh_;
    const Network& network_;
    const ContactReader& contacts_;
    const SteadySolution& solution_;
    const Readout& readout_;
};

}  // namespace firnfield
