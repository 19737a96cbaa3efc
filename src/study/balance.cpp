// Residual and slopes of a network at given temperatures.

#include "study/balance.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

double norm(const std::vector<double>& v) {
    double sum = 0.0;
    for (const double x : v) sum += x * x;
    return std::sqrt(sum);
}

/// Flux form: what leaves one node enters the other, so heat is neither made nor lost by rounding. Temperatures are
/// rises above a reference, since differences of large conductances would feel the last digit of 300 K.
class Balancing {
public:
    Balancing(const Network& network, double reference, const std::vector<double>& rise) : network_(network), reference_(reference), rise_(rise) {
        balance_.residual.assign(network.nodes, 0.0);
        balance_.slope.assign(network.nodes, 0.0);
        if (network.varies_in_bodies()) {
            add_varying_links();
        } else {
            add_links();
        }
        add_radiation();
        add_sources();
        add_ties();
        add_walls();
        balance_.norm = norm(balance_.residual);
    }
    Balance take() { return std::move(balance_); }

private:
    double temperature(Index node) const { return reference_ + rise_[node]; }

    void flow(Index from, Index to, double watt) {
        balance_.residual[from] -= watt;
        balance_.residual[to] += watt;
    }

    void add_links() {
        const Links& links = network_.links;
        for (std::size_t l = 0; l < links.size(); ++l)
            flow(links.first[l], links.second[l], links.conductance[l] * (rise_[links.first[l]] - rise_[links.second[l]]));
    }

    void add_varying_links() {
        const Links& links = network_.links;
        balance_.links.resize(links.size());
        for (std::size_t l = 0; l < links.size(); ++l) {
            const Index a = links.first[l], b = links.second[l];
            const LinkState state = link_state(network_, l, temperature(a), temperature(b), rise_[a] - rise_[b]);
            flow(a, b, state.flow);
            balance_.links[l] = std::max(0.0, 0.5 * (state.slope_first + state.slope_second));
            add_skew(a, b, state.slope_first, state.slope_second);
        }
    }

    void add_radiation() {
        const RadiativeLinks& beams = network_.radiative_links;
        balance_.radiative.resize(beams.size());
        for (std::size_t l = 0; l < beams.size(); ++l) {
            const Index first = beams.first[l], second = beams.second[l];
            const double a = temperature(first), b = temperature(second), c = beams.coefficient[l];
            flow(first, second, c * (a * a + b * b) * (a + b) * (rise_[first] - rise_[second]));
            balance_.radiative[l] = 2.0 * c * (a * a * a + b * b * b);
            add_skew(first, second, 4.0 * c * a * a * a, 4.0 * c * b * b * b);
        }
    }

    void add_skew(Index a, Index b, double slope_first, double slope_second) {
        const double half = 0.5 * (slope_first - slope_second);
        if (half != 0.0) balance_.skew.push_back({a, b, half});
    }

    void add_sources() {
        const Sources& sources = network_.sources;
        for (std::size_t s = 0; s < sources.size(); ++s) {
            const Index node = sources.node[s];
            const double heat = source_heat(network_, s, temperature(node));
            balance_.residual[node] += heat;
            balance_.slope[node] -= source_slope(network_, s, temperature(node));
            balance_.throughput += std::max(0.0, heat);
        }
    }

    void add_ties() {
        const Ties& ties = network_.ties;
        for (std::size_t t = 0; t < ties.size(); ++t) {
            const LinkState state = tie_state(network_, t, temperature(ties.node[t]), rise_[ties.node[t]] - (ties.temperature[t] - reference_));
            balance_.residual[ties.node[t]] -= state.flow;
            balance_.slope[ties.node[t]] += state.slope_first;
            balance_.throughput += std::max(0.0, -state.flow);
        }
    }

    void add_walls() {
        const Walls& walls = network_.walls;
        for (std::size_t w = 0; w < walls.size(); ++w) {
            const WallState state = network_wall_state(network_, w, temperature(walls.node[w]));
            balance_.residual[walls.node[w]] -= state.heat;
            balance_.slope[walls.node[w]] += state.slope;
            for (const Exchange& exchange : walls.of(w)) balance_.throughput += std::max(0.0, -exchange.heat(state.temperature));
        }
    }

    const Network& network_;
    double reference_;
    const std::vector<double>& rise_;
    Balance balance_;
};

}  // namespace

Balance balance_heat(const Network& network, double reference, const std::vector<double>& rise) { return Balancing(network, reference, rise).take(); }

NetworkMatrix symmetric_part(const Network& network, const Balance& balance, std::span<const double> excess) {
    const std::vector<double>& conductance = balance.links.empty() ? network.links.conductance : balance.links;
    NetworkMatrix matrix{.nodes = network.nodes, .edges = {{network.links.first, network.links.second, conductance}}, .excess = excess, .order = network.order};
    if (network.radiative_links.size() > 0) matrix.edges.push_back({network.radiative_links.first, network.radiative_links.second, balance.radiative});
    return matrix;
}

}  // namespace firnfield
