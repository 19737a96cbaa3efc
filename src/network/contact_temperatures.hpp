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
    [[nodiscard]] ContactState state(const Network& network, std::size_t contact, double reference, const RiseOf& rise) const;
    /// The link of a contact; no_index where it is insulated.
    [[nodiscard]] Index link(std::size_t contact) const { return link_[contact]; }
    /// The contact of a link between bodies.
    [[nodiscard]] Index contact(Index link) const { return contact_[link - first_link_]; }
    /// Where the two surfaces lie on the way from the first to the second node, as shares of the resistance, for a network without laws.
    [[nodiscard]] std::array<double, 2> shares(const Network& network, std::size_t contact, double reference, const RiseOf& rise) const;

private:
    [[nodiscard]] double conductivity(Index cell, Vec3 normal, double temperature) const;

    const Mesh& mesh_;
    std::vector<const Material*> materials_;  // per body
    std::vector<Index> link_;                 // per contact; no_index where insulated
    Index first_link_ = 0;                    // between bodies
    std::vector<Index> contact_;              // per link between bodies
};

[[nodiscard]] ContactTemperatures contact_temperatures(const ContactReader& reader, const Mesh& mesh, const Network& network, double reference,
                                                       std::span<const double> rise);

}  // namespace firnfield
