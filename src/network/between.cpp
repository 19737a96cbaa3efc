// The surfaces of resistors.

#include "network/between.hpp"

#include "network/law.hpp"

#include <algorithm>

namespace firnfield {
namespace {

BetweenState state_at(const Network& network, const Between& between, double reference, double here, double there) {
    const Family& family = network.families[between.family];
    const bool forward = family.first[between.element] == between.node;
    const double node = reference + here, other = reference + there, difference = forward ? here - there : there - here;
    const Element element{family, between.element, forward ? node : other, forward ? other : node, difference};
    double before = between.before;
    if (!network.conductivity_factor.empty()) {
        if (const Curve* factor = network.conductivity_factor[network.owner[between.node]].get()) before /= (*factor)(node);
    }
    BetweenState out;
    out.resistance = 1.0 / linearised(family, Slopes::secant, element.heat(), difference, element.slopes().by_first);
    out.share = std::clamp(before / out.resistance, 0.0, 1.0);
    out.temperature = node + out.share * (there - here);
    return out;
}

double rise_of(const Network& network, const End& end, const NodeReading& nodes) {
    return end.at == End::At::node ? nodes.rise(end.index) : network.knowns[end.index].temperature - nodes.reference;
}

}  // namespace

BetweenState between_state(const Network& network, const Between& between, const NodeReading& nodes) {
    return state_at(network, between, nodes.reference, nodes.rise(between.node), rise_of(network, between.other, nodes));
}

std::array<double, 2> slopes_of_between(const Network& network, const Between& between, const NodeReading& nodes) {
    constexpr double step = 0.01;  // K
    const double here = nodes.rise(between.node), there = rise_of(network, between.other, nodes);
    const auto at = [&](double a, double b) { return state_at(network, between, nodes.reference, here + a, there + b).temperature; };
    return {(at(step, 0.0) - at(-step, 0.0)) / (2.0 * step), (at(0.0, step) - at(0.0, -step)) / (2.0 * step)};
}

}  // namespace firnfield
