/// Who acts on which exposed surface.
#pragma once

#include <firnfield/network.hpp>

#include <vector>

namespace firnfield {

/// Patches per cooling, hold and resistor of the model, and those nobody claims.
struct Claims {
    std::vector<Coverage> coolings, holds;
    std::vector<std::array<Coverage, 2>> resistors;  // by end
    std::vector<Index> unclaimed;
};

/// Evaluates every rule. Throws ModelError for rules that pick nothing and for surfaces claimed twice,
/// unless the later cooling acts `beside` the first. What does not act claims nothing.
[[nodiscard]] Claims settle_claims(const Model& model, const Mesh& mesh, const Acting& acting);

}  // namespace firnfield
