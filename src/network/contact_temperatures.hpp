/// Temperatures on the two sides of contacts.
#pragma once

#include "network/surface_bounds.hpp"

#include <array>
#include <vector>

namespace firnfield {

struct ContactState {
    double flow = 0.0;                                  ///< W from the first to the second cell; nothing where the joint is insulated
    double first = 0.0;                                 ///< K, surface of the first cell
    double second = 0.0;                                ///< K, surface of the second cell
    std::array<std::optional<Anchor>, 2> cut_off_at{};  ///< of the two surfaces, where the flux would lead beyond everything around
};

/// The state of single contacts of the mesh. What it is made of has to outlive it.
class ContactReader {
public:
    ContactReader(const Model& model, const Mesh& mesh);
    /// `network` may be another one of the same mesh each time: loads and surroundings change with time.
    [[nodiscard]] ContactState state(const Network& network, std::size_t contact, const NodeReading& nodes) const;
    /// The element of Network::between_bodies() that a contact is; no_index where it is insulated.
    [[nodiscard]] Index element(std::size_t contact) const { return element_[contact]; }
    /// The contact that such an element is.
    [[nodiscard]] Index contact(Index element) const { return contact_[element]; }
    /// K/W from node to node of a contact that is not insulated, as it is at these temperatures.
    [[nodiscard]] double resistance(const Network& network, std::size_t contact, const NodeReading& nodes) const;
    /// K by which heat set free on the faces of a contact lifts the two of them, besides what it does to the nodes.
    [[nodiscard]] std::array<double, 2> lift(const Network& network, std::size_t contact, const NodeReading& nodes) const;
    /// Where the two surfaces lie on the way from the first to the second node, as shares of that resistance.
    [[nodiscard]] std::array<double, 2> shares(const Network& network, std::size_t contact, const NodeReading& nodes) const;

private:
    [[nodiscard]] double conductivity(const Network& network, Index cell, Vec3 normal, double temperature) const;
    /// K m²/W of the joint alone, between nodes of these temperatures.
    [[nodiscard]] double joint(const Network& network, std::size_t contact, double first, double second) const;

    const Mesh& mesh_;
    std::vector<Index> element_;  // per contact; no_index where insulated
    std::vector<Index> contact_;  // per element
};

[[nodiscard]] ContactTemperatures contact_temperatures(const ContactReader& reader, const Mesh& mesh, const Network& network, const NodeTemperatures& nodes);

}  // namespace firnfield
