// The adjoint of a temperature: one solve with the transposed network, and what follows from it at walls and surfaces.

#include "findings/adjoint.hpp"

#include <firnfield/error.hpp>

#include "network/between.hpp"
#include "network/walls.hpp"
#include "study/linearised.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {

/// The temperatures that the readout's adjoint causes in the network linearised by tangents or by secants.
Adjoint Adjoints::of(Slopes slopes, double tolerance, const ProgressCallback& progress) const {
    Balance balance = assemble(network_, solution_.nodes(), slopes);
    const std::vector<double> films = film_conductances(network_, solution_.nodes(), slopes);
    const Walls& walls = network_.walls;
    std::vector<double> weights(network_.nodes, 0.0), on_walls(walls.size(), 0.0);
    Adjoint out;
    for (const Readout::Term& term : readout_.terms) {
        switch (term.source) {
            case Readout::Source::node:
                weights[term.index] += term.weight;
                break;
            case Readout::Source::known:
                break;
            case Readout::Source::between: {
                const Between& between = network_.between[term.index];
                out.between[term.index] += term.weight;
                const auto [by_node, by_other] = follows(term.index, slopes);
                weights[between.node] += term.weight * by_node;
                if (between.other.at == End::At::node) weights[between.other.index] += term.weight * by_other;
                break;
            }
            case Readout::Source::wall: {
                on_walls[term.index] += term.weight;
                weights[walls.node[term.index]] += term.weight * wall_follows_node(term.index, films[term.index], slopes);
                break;
            }
            case Readout::Source::first_of_contact:
            case Readout::Source::second_of_contact: {
                const std::size_t side = term.source == Readout::Source::first_of_contact ? 0 : 1;
                out.contacts[term.index][side] += term.weight;
                const auto [by_first, by_second] = surface_follows_nodes(term.index, side, slopes);
                weights[mesh_.contacts.first[term.index]] += term.weight * by_first;
                weights[mesh_.contacts.second[term.index]] += term.weight * by_second;
                break;
            }
        }
    }
    out.node.assign(network_.nodes, 0.0);
    // A known temperature depends on nothing.
    if (std::any_of(weights.begin(), weights.end(), [](double w) { return w != 0.0; })) {
        const auto watch = [&](int, double left) { announce(progress, {.stage = "explaining", .residual = left, .target = tolerance}); };
        const LinearSummary summary = solve_linearised(network_, std::move(balance), weights, out.node, tolerance, watch, slopes == Slopes::tangent);
        if (!summary.converged && !(summary.relative_residual <= 1e-8)) throw ComputationError("the adjoint solve stopped: " + summary.text());
    }
    for (Index w = 0; w < walls.size(); ++w) {
        const double resistance = wall_resistance(network_, w, temperature(walls.node[w]));
        out.wall.push_back((out.node[walls.node[w]] + resistance * on_walls[w]) / (1.0 + resistance * films[w]));
    }
    return out;
}

/// d T_surface / d T of the two ends that the surface of a resistor lies between.
std::array<double, 2> Adjoints::follows(Index between, Slopes slopes) const {
    const Between& b = network_.between[between];
    if (slopes == Slopes::tangent) return slopes_of_between(network_, b, solution_.nodes());
    const double share = between_state(network_, b, solution_.nodes()).share;
    return {1.0 - share, share};
}

/// d T_wall / d T_node.
double Adjoints::wall_follows_node(Index wall, double films, Slopes slopes) const {
    const double node = temperature(network_.walls.node[wall]), resistance = wall_resistance(network_, wall, node);
    double numerator = 1.0;
    if (slopes == Slopes::tangent && !network_.conductivity_factor.empty()) {
        if (const Curve* factor = network_.conductivity_factor[network_.owner[network_.walls.node[wall]]].get())
            numerator += wall_state(network_, wall, node).heat * resistance * factor->slope(node) / (*factor)(node);
    }
    return numerator / (1.0 + resistance * films);
}

/// d T_surface / d T of the two nodes of a contact.
std::array<double, 2> Adjoints::surface_follows_nodes(Index contact, std::size_t side, Slopes slopes) const {
    const Index a = mesh_.contacts.first[contact], b = mesh_.contacts.second[contact];
    if (contacts_.element(contact) == no_index) return side == 0 ? std::array{1.0, 0.0} : std::array{0.0, 1.0};
    if (slopes == Slopes::secant || network_.conductivity_factor.empty()) {
        const double share = contacts_.shares(network_, contact, solution_.nodes())[side];
        return {1.0 - share, share};
    }
    const auto slope = [&](Index node) {
        constexpr double step = 0.01;  // K
        const auto moved = [&](double by) {
            const ContactState state =
                contacts_.state(network_, contact, {solution_.reference, [&](Index i) { return solution_.rise[i] + (i == node ? by : 0.0); }});
            return side == 0 ? state.first : state.second;
        };
        return (moved(step) - moved(-step)) / (2.0 * step);
    };
    return {slope(a), slope(b)};
}

/// Adjoint of the two surfaces of a contact.
std::array<double, 2> Adjoints::at_surfaces(const Adjoint& adjoint, Index contact) const {
    const double a = adjoint.node[mesh_.contacts.first[contact]], b = adjoint.node[mesh_.contacts.second[contact]];
    const std::array<double, 2> share = contacts_.shares(network_, contact, solution_.nodes());
    std::array<double, 2> out{a + share[0] * (b - a), a + share[1] * (b - a)};
    if (const auto found = adjoint.contacts.find(contact); found != adjoint.contacts.end()) {
        // A watt that enters at a share s of the way raises the share t of the way by R · min(s, t) · (1 − max(s, t)).
        const double resistance = contacts_.resistance(network_, contact, solution_.nodes());
        for (std::size_t i = 0; i < 2; ++i) {
            for (std::size_t j = 0; j < 2; ++j) out[i] += found->second[j] * resistance * std::min(share[i], share[j]) * (1.0 - std::max(share[i], share[j]));
        }
    }
    return out;
}

}  // namespace firnfield
