/// Walls out of the films that lie on patches, grouped by what they exchange heat by.
#pragma once

#include <firnfield/network.hpp>

#include <span>
#include <vector>

namespace firnfield {

class WallsBuilder {
public:
    /// `to_surface` in K/W per patch of the mesh. Both have to outlive it.
    WallsBuilder(const Mesh& mesh, const std::vector<double>& to_surface) : mesh_(mesh), to_surface_(to_surface) {}

    /// Lays a film on patches, with a coefficient for each. `family` has no elements yet.
    void add(Family family, std::span<const Index> patches, std::span<const double> coefficient);
    /// A wall for every patch that a film lies on; walls with the same films stand in one group.
    [[nodiscard]] Walls build();

private:
    struct Layer {
        Index patch = 0, film = 0;
        double coefficient = 0.0;
    };
    const Mesh& mesh_;
    const std::vector<double>& to_surface_;
    std::vector<Family> films_;
    std::vector<Layer> layers_;
};

}  // namespace firnfield
