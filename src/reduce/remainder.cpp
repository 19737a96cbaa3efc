// Heat beyond the tangent.

#include "reduce/remainder.hpp"

#include "network/assemble.hpp"

#include <algorithm>

namespace firnfield {

namespace {

PartOfNetwork all_of(const Network& network, std::span<const BentElement> elements) {
    return part_of(network, elements, std::vector<double>(elements.size(), 1.0));
}

}  // namespace

Remainder::Remainder(const Model& model, const Study& study, const Network& network, const Network& tangent, double reference,
                     std::span<const BentElement> elements)
    : Remainder(model, study, reference, {}, all_of(network, elements), all_of(tangent, elements)) {
    node_ = bent_.part.node;
}

Remainder::Remainder(const Model& model, const Study& study, double reference, std::vector<Index> node, PartOfNetwork bent, PartOfNetwork tangent)
    : model_(model),
      study_(study),
      reference_(reference),
      node_(std::move(node)),
      bent_(model, study, std::move(bent), Drive::Changes::everything),
      tangent_(model, study, std::move(tangent), Drive::Changes::loads_and_temperatures) {}

std::unique_ptr<Remainder> Remainder::some(std::span<const std::size_t> which, std::span<const double> weight) const {
    std::vector<BentElement> elements;
    for (const std::size_t e : which) elements.push_back(bent_.part.element[e]);
    PartOfNetwork bent = part_of(bent_.part.network, elements, weight), tangent = part_of(tangent_.part.network, elements, weight);
    std::vector<Index> node;
    for (const Index n : bent.node) node.push_back(node_[n]);
    return std::unique_ptr<Remainder>(new Remainder(model_, study_, reference_, std::move(node), std::move(bent), std::move(tangent)));
}

void Remainder::set(const Drive::Values& values) {
    bent_.drive.set(values);
    tangent_.drive.set(values);
}

std::vector<double> Remainder::rises(const Basis& basis, std::span<const double> coordinates) const {
    std::vector<double> out(node_.size());
    const auto count = static_cast<std::ptrdiff_t>(out.size());
#pragma omp parallel for schedule(static) if (count > 2000)
    for (std::ptrdiff_t i = 0; i < count; ++i) out[static_cast<std::size_t>(i)] = basis.at(node_[static_cast<std::size_t>(i)], coordinates);
    return out;
}

std::vector<double> Remainder::heat(std::span<const double> rise, const Drive::Values& values) {
    set(values);
    std::vector<double> out = assemble(bent_.part.network, {reference_, rise}).residual;
    const std::vector<double> straight = assemble(tangent_.part.network, {reference_, rise}).residual;
    for (std::size_t i = 0; i < out.size(); ++i) out[i] -= straight[i];
    return out;
}

std::vector<double> Remainder::heat_by_element(std::span<const double> rise, const Drive::Values& values) {
    set(values);
    std::vector<double> out = heat_of_elements(bent_.part.network, {reference_, rise}, bent_.part.element);
    const std::vector<double> straight = heat_of_elements(tangent_.part.network, {reference_, rise}, tangent_.part.element);
    for (std::size_t i = 0; i < out.size(); ++i) out[i] -= straight[i];
    return out;
}

HeatFlows Remainder::flows(std::span<const double> rise, const Drive::Values& values) {
    set(values);
    HeatFlows out = heat_flows(bent_.part.network, {reference_, rise});
    out.add(-1.0, heat_flows(tangent_.part.network, {reference_, rise}));
    return out;
}

std::vector<double> Remainder::spread(std::span<const double> heat, std::size_t nodes) const {
    std::vector<double> out(nodes, 0.0);
    for (std::size_t i = 0; i < node_.size(); ++i) out[node_[i]] = heat[i];
    return out;
}

}  // namespace firnfield
