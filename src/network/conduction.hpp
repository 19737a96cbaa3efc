/// Conductances between cells, and from cells to their surfaces.
///
/// A cell's temperature stands for the centre of its grid box, also where that lies outside of the part: distances to
/// surfaces are signed, and only the total resistance of a link has to be positive. Where even that fails, because a part
/// is thinner than a box or a held surface passes by the centre, the cell is *carried*: it takes the temperature of what is on
/// the other side of that link, and its faces to neighbours are measured from there.
#pragma once

#include <firnfield/network.hpp>

#include <vector>

namespace firnfield {

/// What a patch exchanges with, as far as it decides about links.
struct PatchRole {
    bool held = false;
    bool exchanges = false;    ///< heat leaves or enters here
    bool linear = true;        ///< constant convection only
    double coefficient = 0.0;  ///< W/(m² K): convection, and an estimate for laws and radiation
    double temperature = 0.0;  ///< K, of a held patch
};

struct Conduction {
    std::vector<double> faces{};       ///< W/K, as Mesh::faces
    std::vector<double> contacts{};    ///< W/K, as Mesh::contacts; 0 where insulated
    std::vector<double> to_surface{};  ///< K/W from the cell to each patch, signed
    std::vector<Index> carried_by{};   ///< as Network::carried_by
};

/// Conductivity of a material along a unit direction, W/(m K).
[[nodiscard]] inline double conductivity_along(const Material& material, Vec3 direction) {
    return material.conductivity[0] * direction.x * direction.x + material.conductivity[1] * direction.y * direction.y +
           material.conductivity[2] * direction.z * direction.z;
}

/// `materials` per body, `contact_resistance` (K m²/W) per contact, `films` per contact pair: whether that is a film whose
/// resistance varies (empty: none does), `roles` per patch.
[[nodiscard]] Conduction conduct(const Mesh& mesh, const std::vector<std::shared_ptr<const Material>>& materials, const std::vector<double>& contact_resistance,
                                 const std::vector<bool>& films, const std::vector<PatchRole>& roles);

}  // namespace firnfield
