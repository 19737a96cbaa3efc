/// Heat that is set free on faces in contact, as by friction.
///
/// Between the centres of two cells lie, one after the other, the way to the first face, the joint, and the way to the second face. Of heat that enters
/// at one of the faces each cell gets the share of the resistance on the other side; that is what the network has as loads. Around the faces
/// themselves the heat is not yet shared: temperatures there, and the heat that passes the joint, follow from both.
#pragma once

#include <firnfield/network.hpp>

#include <functional>

namespace firnfield {

/// Adds the powers between two parts. `amount`: a power of the model with what it has in the study. The network has its materials and the resistances of its
/// contacts. Throws ModelError for parts that touch nowhere.
void add_contact_loads(const Model& model, const Mesh& mesh, const Acting& acting, const std::function<Power(std::size_t)>& amount, Network& network);

struct ContactHeat {
    double first = 0.0, second = 0.0;  ///< W into the two cells
    double crossing = 0.0;             ///< W of it that pass the joint from the first face to the second, on their way
};

[[nodiscard]] ContactHeat heat_of(const Network& network, const ContactLoad& load, const NodeReading& nodes);

/// Of all loads on a contact.
[[nodiscard]] ContactHeat heat_at_contact(const Network& network, Index contact, const NodeReading& nodes);

}  // namespace firnfield
