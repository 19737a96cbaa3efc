/// Temperature at a point: linear from the cell centre towards the neighbour, surface or contact on the point's side.
#pragma once

#include "network/contact_temperatures.hpp"

#include <array>
#include <string>
#include <vector>

namespace firnfield {

/// Where a point lies, worked out once, so that reading it takes a handful of nodes.
class Probe {
public:
    /// Throws ModelError (at `address`) when the point is not in a body that `part` names. `contacts` and `mesh` have to outlive it.
    Probe(const Model& model, const Mesh& mesh, const Network& network, const ContactReader& contacts, const std::string& part, Vec3 point, const std::string& address);

    /// K.
    [[nodiscard]] double read(const Network& network, double reference, const RiseOf& rise) const;

private:
    enum class Towards : std::uint8_t { neighbour, wall, tie, first_of_contact, second_of_contact };
    /// The point lies `share` of the way to something; negative where the temperature is continued from the other side.
    struct Part {
        Towards towards = Towards::neighbour;
        Index index = 0;
        double share = 0.0;
    };
    class Finder;

    const ContactReader& contacts_;
    Index cell_ = 0;
    std::vector<Part> parts_;
};

}  // namespace firnfield
