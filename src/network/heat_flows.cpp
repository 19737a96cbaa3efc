// Heat by the model's entries.

#include "network/reduce.hpp"

#include <algorithm>

namespace firnfield {

HeatFlows heat_flows(const Network& network, const NodeTemperatures& nodes) {
    HeatFlows out;
    out.loads.assign(network.load_coverage.size(), 0.0);
    out.convection.assign(network.cooling_coverage.size(), 0.0);
    out.radiation.assign(network.cooling_coverage.size(), 0.0);
    out.holds.assign(network.hold_coverage.size(), 0.0);
    out.resistors.assign(network.resistor_coverage.size(), 0.0);
    reduce_outside(network, nodes, [&](const Leg& leg) {
        switch (leg.channel) {
            case Channel::load:
                out.loads[leg.origin.index] -= leg.heat;
                break;
            case Channel::convection:
                out.convection[leg.origin.index] += leg.heat;
                break;
            case Channel::radiation:
                out.radiation[leg.origin.index] += leg.heat;
                break;
            case Channel::hold:
                out.holds[leg.origin.index] += leg.heat;
                break;
            case Channel::resistor:
                out.resistors[leg.origin.index] += leg.heat;
                break;
            case Channel::conduction:
            case Channel::contact:
                break;
        }
    });
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
    add_to(resistors, other.resistors);
}

double HeatFlows::net() const {
    double sum = 0.0;
    for (const double x : loads) sum += x;
    for (const std::vector<double>* list : {&convection, &radiation, &holds, &resistors}) {
        for (const double x : *list) sum -= x;
    }
    return sum;
}

double HeatFlows::throughput() const {
    double sum = 0.0;
    for (const double x : loads) sum += std::max(0.0, x);
    for (const std::vector<double>* list : {&convection, &radiation, &holds, &resistors}) {
        for (const double x : *list) sum += std::max(0.0, -x);
    }
    return sum;
}

}  // namespace firnfield
