// Residual and slopes of a network at given temperatures.

#include "network/assemble.hpp"

#include "network/walls.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

using Values = std::array<double, block_size>;

double norm(const std::vector<double>& v) {
    double sum = 0.0;
    for (const double x : v) sum += x * x;
    return std::sqrt(sum);
}

/// Flux form: what leaves one node enters the other, so heat is neither made nor lost by rounding. Temperatures are
/// rises above a reference, since differences of large conductances would feel the last digit of 300 K.
class Assembling {
public:
    Assembling(const Network& network, const NodeTemperatures& nodes, Slopes slopes) : network_(network), nodes_(nodes), slopes_(slopes) {
        balance_.residual.assign(network.nodes, 0.0);
        balance_.slope.assign(network.nodes, 0.0);
        balance_.conductance.resize(network.families.size());
        for (std::size_t f = 0; f < network.families.size(); ++f) {
            const Family& family = network.families[f];
            if (!family.between_nodes()) {
                add_outward(family);
            } else if (!family.law && family.scale == 1.0) {
                add_constant(family);
            } else {
                add_between(family, balance_.conductance[f]);
            }
        }
        add_walls();
        balance_.norm = norm(balance_.residual);
    }
    Balance take() { return std::move(balance_); }

private:
    void flow(Index from, Index to, double watt) {
        balance_.residual[from] -= watt;
        balance_.residual[to] += watt;
    }

    /// The coefficients are the conductances: nothing to evaluate, and most of all elements.
    void add_constant(const Family& family) {
        for (std::size_t i = 0; i < family.size(); ++i)
            flow(family.first[i], family.second[i], family.coefficient[i] * (nodes_.rise[family.first[i]] - nodes_.rise[family.second[i]]));
    }

    void add_between(const Family& family, std::vector<double>& conductance) {
        conductance.resize(family.size());
        in_blocks(network_, family, nodes_, [&](const Elements& e) {
            Values heat, by_first, by_second;
            const std::size_t n = e.size();
            heat_of(family, e, std::span(heat).first(n));
            slopes_of(family, e, std::span(by_first).first(n), std::span(by_second).first(n));
            for (std::size_t i = 0; i < n; ++i) {
                const Index a = family.first[e.begin + i], b = family.second[e.begin + i];
                flow(a, b, heat[i]);
                const double mean = std::max(0.0, 0.5 * (by_first[i] + by_second[i])), half = 0.5 * (by_first[i] - by_second[i]);
                conductance[e.begin + i] = linearised(family, slopes_, heat[i], e.difference[i], mean);
                if (slopes_ == Slopes::tangent && half != 0.0) balance_.skew.push_back({a, b, half});
            }
        });
    }

    /// From nodes to a known temperature or, as of loads, to and from outside.
    void add_outward(const Family& family) {
        in_blocks(network_, family, nodes_, [&](const Elements& e) {
            Values heat, slope;
            const std::size_t n = e.size();
            heat_of(family, e, std::span(heat).first(n));
            slopes_of(family, e, std::span(slope).first(n), {});
            for (std::size_t i = 0; i < n; ++i) {
                const Index node = family.first[e.begin + i];
                balance_.residual[node] -= heat[i];
                balance_.slope[node] += linearised(family, slopes_, heat[i], e.difference[i], slope[i]);
                balance_.throughput += std::max(0.0, -heat[i]);
            }
        });
    }

    void add_walls() {
        const Walls& walls = network_.walls;
        std::vector<double> films;
        if (slopes_ == Slopes::secant) films = film_conductances(network_, nodes_, slopes_);
        each_wall_block(network_, nodes_, [&](const WallBlock& block) {
            for (std::size_t i = 0; i < block.states.size(); ++i) {
                const std::size_t w = block.begin + i;
                const Index node = walls.node[w];
                balance_.residual[node] -= block.states[i].heat;
                balance_.slope[node] +=
                    films.empty() ? block.states[i].slope : films[w] / (1.0 + wall_resistance(network_, static_cast<Index>(w), nodes_.at(node)) * films[w]);
            }
            for (const double heat : block.film_heat) balance_.throughput += std::max(0.0, -heat);
        });
    }

    const Network& network_;
    NodeTemperatures nodes_;
    Slopes slopes_;
    Balance balance_;
};

}  // namespace

Balance assemble(const Network& network, const NodeTemperatures& nodes, Slopes slopes) { return Assembling(network, nodes, slopes).take(); }

std::vector<double> film_conductances(const Network& network, const NodeTemperatures& nodes, Slopes slopes) {
    std::vector<double> out(network.walls.size(), 0.0);
    each_wall_block(network, nodes, [&](const WallBlock& block) {
        for (std::size_t f = 0; f < block.group.films.size(); ++f) {
            const Family& film = block.group.films[f];
            const double known = film.known == no_index ? 0.0 : network.knowns[film.known].temperature;
            for (std::size_t i = 0; i < block.states.size(); ++i) {
                const double wall = block.states[i].temperature;
                const Element element{film, block.begin - block.group.begin + i, wall, known, wall - known};
                out[block.begin + i] += linearised(film, slopes, block.heat_of(f)[i], element.difference, element.slopes().by_first);
            }
        }
    });
    return out;
}

std::vector<Edges> edges_of(const Network& network, const std::vector<std::vector<double>>& conductance) {
    std::vector<Edges> out;
    for (std::size_t f = 0; f < network.families.size(); ++f) {
        const Family& family = network.families[f];
        if (!family.between_nodes()) continue;
        out.push_back({family.first, family.second, f < conductance.size() && !conductance[f].empty() ? conductance[f] : family.coefficient});
    }
    return out;
}

}  // namespace firnfield
