// The temperatures of walls that balance what their films exchange.

#include "network/walls.hpp"

#include <algorithm>
#include <cmath>
#include <vector>

namespace firnfield {
namespace {

/// As many walls as are balanced at once: those that have settled wait for the others.
constexpr std::size_t walls_at_once = 64;

/// A few walls of a group on the way to their balance.
class Balancing {
public:
    Balancing(const Network& network, const WallGroup& group) : network_(network), group_(group) {
        linear_ = std::all_of(group.films.begin(), group.films.end(), [](const Family& f) { return is_linear(f); });
    }

    /// Balances `out.size()` walls from `begin` on, whose nodes have these temperatures. `film_heat` may be null.
    void run(Index begin, std::span<const double> node, std::span<WallState> out, double* film_heat) {
        const std::size_t count = out.size();
        for (std::size_t i = 0; i < count; ++i) {
            wall_[i] = node[i];
            resistance_[i] = wall_resistance(network_, begin + static_cast<Index>(i), node[i]);
            settled_[i] = false;
        }
        // f(T_w) = T_w + R · films(T_w) − T rises monotonically: where R is negative it is small enough (see conduction.hpp).
        bool moving = true;
        for (int step = 0; step < 50 && moving; ++step) {
            outward(begin, count, nullptr);
            moving = false;
            for (std::size_t i = 0; i < count; ++i) {
                if (settled_[i]) continue;
                const double full = (node[i] - wall_[i] - resistance_[i] * heat_[i]) / std::max(1.0 + resistance_[i] * slope_[i], least_slope);
                // Far from the answer, where a negative resistance turns the slope, no step leads out of all numbers.
                const double change = linear_ ? full : std::clamp(full, -wall_[i], std::max(wall_[i], longest_step));
                wall_[i] = std::max(wall_[i] + change, 0.0);
                settled_[i] = linear_ || std::abs(change) <= 1e-13 * wall_[i];
                moving = moving || !settled_[i];
            }
        }
        outward(begin, count, film_heat);
        for (std::size_t i = 0; i < count; ++i) {
            out[i] = {.temperature = wall_[i], .heat = heat_[i], .slope = slope_[i] / std::max(1.0 + resistance_[i] * slope_[i], least_slope)};
            add_own_conductivity(begin + static_cast<Index>(i), node[i], resistance_[i], out[i]);
        }
    }

private:
    static constexpr double least_slope = 1e-7;
    static constexpr double longest_step = 300.0;  // K

    /// What leaves the walls at their temperatures.
    void outward(Index begin, std::size_t count, double* film_heat) {
        std::fill_n(heat_.begin(), count, 0.0);
        std::fill_n(slope_.begin(), count, 0.0);
        for (const Family& film : group_.films) {
            const double known = film.known == no_index ? 0.0 : network_.knowns[film.known].temperature;
            std::fill_n(known_.begin(), count, known);
            for (std::size_t i = 0; i < count; ++i) difference_[i] = wall_[i] - known;
            const Elements elements{.begin = begin - group_.begin,
                                    .coefficient = std::span(film.coefficient).subspan(begin - group_.begin, count),
                                    .scale = film.scale,
                                    .first = std::span(wall_).first(count),
                                    .second = std::span(known_).first(count),
                                    .difference = std::span(difference_).first(count)};
            heat_of(film, elements, std::span(by_film_).first(count));
            for (std::size_t i = 0; i < count; ++i) heat_[i] += by_film_[i];
            if (film_heat != nullptr) film_heat = std::copy_n(by_film_.begin(), count, film_heat);
            slopes_of(film, elements, std::span(by_film_).first(count), {});
            for (std::size_t i = 0; i < count; ++i) slope_[i] += by_film_[i];
        }
    }

    /// The resistance itself moves with the temperature.
    void add_own_conductivity(Index wall, double node, double resistance, WallState& state) const {
        if (network_.conductivity_factor.empty()) return;
        const Curve* factor = network_.conductivity_factor[network_.owner[network_.walls.node[wall]]].get();
        if (factor != nullptr) state.slope *= 1.0 + state.heat * resistance / (*factor)(node)*factor->slope(node);
    }

    using Values = std::array<double, walls_at_once>;
    const Network& network_;
    const WallGroup& group_;
    bool linear_ = false;
    Values wall_, resistance_, heat_, slope_, known_, difference_, by_film_;
    std::array<bool, walls_at_once> settled_;
};

}  // namespace

const WallGroup& Walls::group_of(Index wall) const {
    return *std::prev(std::upper_bound(groups.begin(), groups.end(), wall, [](Index w, const WallGroup& g) { return w < g.begin; }));
}

double wall_resistance(const Network& network, Index wall, double node_temperature) {
    const double resistance = network.walls.resistance[wall];
    if (network.conductivity_factor.empty()) return resistance;
    const Curve* factor = network.conductivity_factor[network.owner[network.walls.node[wall]]].get();
    return factor == nullptr ? resistance : resistance / (*factor)(node_temperature);
}

WallState wall_state(const Network& network, Index wall, double node_temperature) {
    WallState state;
    Balancing(network, network.walls.group_of(wall)).run(wall, {&node_temperature, 1}, {&state, 1}, nullptr);
    return state;
}

void each_wall_block(const Network& network, const NodeTemperatures& nodes, const std::function<void(const WallBlock&)>& use) {
    std::array<double, walls_at_once> node;
    std::array<WallState, walls_at_once> states;
    std::vector<double> film_heat;
    for (const WallGroup& group : network.walls.groups) {
        Balancing balancing(network, group);
        film_heat.resize(group.films.size() * walls_at_once);
        for (Index begin = group.begin; begin < group.end; begin += walls_at_once) {
            const std::size_t count = std::min<std::size_t>(walls_at_once, group.end - begin);
            for (std::size_t i = 0; i < count; ++i) node[i] = nodes.at(network.walls.node[begin + i]);
            balancing.run(begin, std::span(node).first(count), std::span(states).first(count), film_heat.data());
            use({.group = group,
                 .begin = begin,
                 .states = std::span(states).first(count),
                 .film_heat = std::span(film_heat).first(group.films.size() * count)});
        }
    }
}

}  // namespace firnfield
