// Heat by the model's entries.

#include <firnfield/network.hpp>

#include <algorithm>

namespace firnfield {

HeatFlows heat_flows(const Network& network, double reference, std::span<const double> rise) {
    HeatFlows out;
    out.loads.assign(network.load_coverage.size(), 0.0);
    out.convection.assign(network.cooling_coverage.size(), 0.0);
    out.radiation.assign(network.cooling_coverage.size(), 0.0);
    out.holds.assign(network.hold_coverage.size(), 0.0);
    const Sources& sources = network.sources;
    for (std::size_t s = 0; s < sources.size(); ++s) {
        out.loads[network.origins[sources.origin[s]].index] += source_heat(network, s, reference + rise[sources.node[s]]);
    }
    const Ties& ties = network.ties;
    const bool plain = !network.varies_in_bodies();
    for (std::size_t t = 0; t < ties.size(); ++t) {
        const double difference = rise[ties.node[t]] - (ties.temperature[t] - reference);
        out.holds[network.origins[ties.origin[t]].index] +=
            plain ? ties.conductance[t] * difference : tie_state(network, t, reference + rise[ties.node[t]], difference).flow;
    }
    const Walls& walls = network.walls;
    for (std::size_t w = 0; w < walls.size(); ++w) {
        const double surface = network_wall_state(network, w, reference + rise[walls.node[w]]).temperature;
        for (const Exchange& exchange : walls.of(w)) {
            const Index index = network.origins[exchange.origin].index;
            const double heat = exchange.heat(surface);
            switch (exchange.kind) {
                case ExchangeKind::convection:
                case ExchangeKind::curve:
                case ExchangeKind::law:
                    out.convection[index] += heat;
                    break;
                case ExchangeKind::radiation:
                    out.radiation[index] += heat;
                    break;
                case ExchangeKind::flux:
                    out.loads[index] -= heat;
                    break;
            }
        }
    }
    return out;
}

void HeatFlows::add(double times, const HeatFlows& other) {
    const auto add_to = [times](std::vector<double>& sum, const std::vector<double>& more) {
        sum.resize(more.size(), 0.0);
        for (std::size_t i = 0; i < more.size(); ++i) sum[i] += times * more[i];
    };
    add_to(loads, other.loads);
    add_to(convection, other.convection);
    add_to(radiation, other.radiation);
    add_to(holds, other.holds);
}

double HeatFlows::net() const {
    double sum = 0.0;
    for (const double x : loads) sum += x;
    for (const std::vector<double>* list : {&convection, &radiation, &holds}) {
        for (const double x : *list) sum -= x;
    }
    return sum;
}

double HeatFlows::throughput() const {
    double sum = 0.0;
    for (const double x : loads) sum += std::max(0.0, x);
    for (const std::vector<double>* list : {&convection, &radiation, &holds}) {
        for (const double x : *list) sum += std::max(0.0, -x);
    }
    return sum;
}

}  // namespace firnfield
