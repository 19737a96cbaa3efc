// The temperature of a wall that balances its exchanges.

#include <firnfield/network.hpp>
#include <firnfield/quantity.hpp>

#include "network/surface_bounds.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {

double Exchange::heat(double wall) const {
    switch (kind) {
        case ExchangeKind::convection:
            return coefficient * (wall - temperature);
        case ExchangeKind::law:
            return coefficient * (wall - temperature) *
                   firnfield::convection(*law, wall, temperature, fluid_state(*law, 0.5 * (wall + temperature))).coefficient;
        case ExchangeKind::curve:
            return coefficient * (*curve)(std::abs(wall - temperature)) * (wall - temperature);
        case ExchangeKind::radiation:
            // Factored so that equal temperatures give exactly zero.
            return coefficient * (wall * wall + temperature * temperature) * (wall + temperature) * (wall - temperature);
        case ExchangeKind::flux:
            return curve == nullptr ? -coefficient : -coefficient * (*curve)(wall);
    }
    return 0.0;
}

double Exchange::slope(double wall) const {
    switch (kind) {
        case ExchangeKind::convection:
            return coefficient;
        case ExchangeKind::law: {
            constexpr double step = 0.01;  // K; correlations are smooth on that scale, and properties have no derivative at hand
            return std::max(0.0, (heat(wall + step) - heat(wall - step)) / (2.0 * step));
        }
        case ExchangeKind::curve: {
            const double difference = std::abs(wall - temperature);
            return std::max(0.0, coefficient * ((*curve)(difference) + difference * curve->slope(difference)));
        }
        case ExchangeKind::radiation:
            return 4.0 * coefficient * wall * wall * wall;
        case ExchangeKind::flux:
            return curve == nullptr ? 0.0 : -coefficient * curve->slope(wall);
    }
    return 0.0;
}

WallState wall_state(double resistance, std::span<const Exchange> exchanges, double node_temperature) {
    const auto outward = [&](double wall, double& heat, double& slope) {
        heat = slope = 0.0;
        for (const Exchange& exchange : exchanges) {
            heat += exchange.heat(wall);
            slope += exchange.slope(wall);
        }
    };
    // f(T_w) = T_w + R · exchanges(T_w) − T rises monotonically: where R is negative it is small enough (see conduction.hpp).
    constexpr double least_slope = 1e-7;
    double wall = node_temperature, heat = 0.0, slope = 0.0;
    for (int step = 0; step < 50; ++step) {
        outward(wall, heat, slope);
        const double change = (node_temperature - wall - resistance * heat) / std::max(1.0 + resistance * slope, least_slope);
        wall = std::max(wall + change, 0.0);
        if (std::abs(change) <= 1e-13 * wall) break;
    }
    outward(wall, heat, slope);
    return {.temperature = wall, .heat = heat, .slope = slope / std::max(1.0 + resistance * slope, least_slope)};
}

std::vector<double> patch_temperatures(const Mesh& mesh, const Network& network, double reference, std::span<const double> rise) {
    std::vector<double> surface(mesh.patches.size());
    for (std::size_t p = 0; p < surface.size(); ++p) surface[p] = reference + rise[mesh.patches.cell[p]];
    for (std::size_t i = 0; i < network.ties.size(); ++i) surface[network.ties.patch[i]] = network.ties.temperature[i];
    const RiseOf of = [rise](Index node) { return rise[node]; };
    for (std::size_t w = 0; w < network.walls.size(); ++w) surface[network.walls.patch[w]] = wall_temperature(network, w, reference, of).temperature;
    return surface;
}

}  // namespace firnfield
