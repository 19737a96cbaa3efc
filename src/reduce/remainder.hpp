/// What a network does beyond its tangent: of all elements that bend, or of a few of them.
#pragma once

#include "network/bent_part.hpp"
#include "network/drive.hpp"
#include "reduce/basis.hpp"
#include "reduce/modal.hpp"

#include <memory>
#include <span>
#include <vector>

namespace firnfield {

/// Not for several threads at once: it sets the elements to what drives them.
class Remainder {
public:
    /// Of all elements that bend. `tangent`: the network with tangents in their place.
    Remainder(const Model& model, const Study& study, const Network& network, const Network& tangent, double reference, std::span<const BentElement> elements);
    Remainder(const Remainder&) = delete;
    Remainder& operator=(const Remainder&) = delete;
    /// A few of its elements, by their numbers, each as many times as its weight says.
    [[nodiscard]] std::unique_ptr<Remainder> some(std::span<const std::size_t> which, std::span<const double> weight) const;

    /// Nodes that its elements touch.
    [[nodiscard]] const std::vector<Index>& nodes() const { return node_; }
    /// Numbered by these nodes.
    [[nodiscard]] const std::vector<BentElement>& elements() const { return bent_.part.element; }

    [[nodiscard]] std::vector<Origin> origins() const { return origins_of(bent_.part.network, elements()); }

    /// K above the reference of these nodes.
    [[nodiscard]] std::vector<double> rises(const Basis& basis, std::span<const double> coordinates) const;
    /// W that enters each of these nodes beyond what the tangent says.
    [[nodiscard]] std::vector<double> heat(std::span<const double> rise, const Drive::Values& values);
    /// W that each element takes from its first node beyond that.
    [[nodiscard]] std::vector<double> heat_by_element(std::span<const double> rise, const Drive::Values& values);
    /// Heat flows by the model's entries beyond those of the tangent.
    [[nodiscard]] HeatFlows flows(std::span<const double> rise, const Drive::Values& values);
    /// The same heat in all nodes of the network.
    [[nodiscard]] std::vector<double> spread(std::span<const double> heat, std::size_t nodes) const;

private:
    /// One of the two, driven.
    struct Side {
        Side(const Model& model, const Study& study, PartOfNetwork of, Drive::Changes changes)
            : part(std::move(of)), drive(model, study, part.network, changes) {}
        PartOfNetwork part;
        Drive drive;
    };
    Remainder(const Model& model, const Study& study, double reference, std::vector<Index> node, PartOfNetwork bent, PartOfNetwork tangent);
    void set(const Drive::Values& values);

    const Model& model_;
    const Study& study_;
    double reference_;
    std::vector<Index> node_;
    Side bent_, tangent_;
};

}  // namespace firnfield
