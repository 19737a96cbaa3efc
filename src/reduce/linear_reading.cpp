// Sums of what modes and inputs add.

#include "reduce/linear_reading.hpp"

#include <algorithm>
#include <utility>

namespace firnfield {

std::vector<double> LinearReading::added(const Amplitudes& state, std::span<const double> factors) const {
    std::vector<double> out(nothing.size(), 0.0);
    const auto add = [&](double times, const std::vector<double>& of) {
        if (times == 0.0) return;
        for (std::size_t i = 0; i < out.size(); ++i) out[i] += times * of[i];
    };
    for (std::size_t k = 0; k < state.size(); ++k) add(state[k], mode[k]);
    for (std::size_t i = 0; i < factors.size(); ++i) add(factors[i], input[i]);
    return out;
}

std::vector<double> LinearReading::at(const Amplitudes& state, std::span<const double> factors) const {
    std::vector<double> out = added(state, factors);
    for (std::size_t i = 0; i < out.size(); ++i) out[i] += nothing[i];
    return out;
}

std::vector<double> in_a_row(const HeatFlows& flows) {
    std::vector<double> row;
    for (const std::vector<double>* list : {&flows.loads, &flows.convection, &flows.radiation, &flows.holds, &flows.resistors})
        row.insert(row.end(), list->begin(), list->end());
    return row;
}

HeatFlows from_row(std::span<const double> row, const Network& network) {
    HeatFlows like;
    like.loads.resize(network.load_coverage.size());
    like.convection.resize(network.cooling_coverage.size());
    like.radiation.resize(network.cooling_coverage.size());
    like.holds.resize(network.hold_coverage.size());
    like.resistors.resize(network.resistor_coverage.size());
    return from_row(row, std::move(like));
}

HeatFlows from_row(std::span<const double> row, HeatFlows like) {
    for (std::vector<double>* list : {&like.loads, &like.convection, &like.radiation, &like.holds, &like.resistors}) {
        std::copy_n(row.begin(), list->size(), list->begin());
        row = row.subspan(list->size());
    }
    return like;
}

}  // namespace firnfield
