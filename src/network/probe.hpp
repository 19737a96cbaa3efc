/// Temperature at a point: linear from the cell centre towards the neighbour, surface or contact on the point's side.
#pragma once

#include "network/readout.hpp"

#include <string>
#include <vector>

namespace firnfield {

/// Where a point lies, worked out once, so that reading it takes a handful of nodes.
class Probe {
public:
    /// `part` may be a lumped node: then the point does not matter. Throws ModelError (at `address`) when the point is not in a body that `part` names.
    /// `contacts` and `mesh` have to outlive it.
    Probe(const Model& model, const Mesh& mesh, const Network& network, const ContactReader& contacts, const std::string& part, Vec3 point,
          const std::string& address);

    /// K.
    [[nodiscard]] double read(const Network& network, const NodeReading& nodes) const { return firnfield::read(readout_, network, contacts_, nodes); }
    /// What it is read from.
    [[nodiscard]] const Readout& readout() const { return readout_; }

private:
    class Finder;

    const ContactReader& contacts_;
    Readout readout_;
};

}  // namespace firnfield
