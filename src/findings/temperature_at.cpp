// Temperature at a point of a steady solution.

#include <firnfield/findings.hpp>

#include "network/probe.hpp"

namespace firnfield {

double temperature_at(const Model& model, const SteadySolution& solution, const std::string& part, Vec3 point, const std::string& address) {
    const ContactReader contacts(model, *solution.mesh);
    const Probe probe(model, *solution.mesh, *solution.network, contacts, part, point, address);
    return probe.read(*solution.network, solution.nodes());
}

}  // namespace firnfield
