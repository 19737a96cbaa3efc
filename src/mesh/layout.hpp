/// The bodies of a model as the grid sees them: cut by mirrors, and the grid that passes through all their faces.
#pragma once

#include <firnfield/mesh.hpp>

#include "model/bodies.hpp"

#include <vector>

namespace firnfield {

/// Bodies after mirrors cut them, with their holes; index for index the same.
struct Layout {
    std::vector<Body> bodies;
    std::vector<std::vector<Box>> holes;
    /// Sides of the whole domain that are mirror planes: no surface there.
    std::array<bool, 6> mirror_side{};
    /// Length below which two planes are one, m.
    double tolerance = 0.0;
};

/// Lays out the parts. Throws ModelError when a mirror leaves nothing.
[[nodiscard]] Layout lay_out(const Model& model);

/// The grid for a layout. Throws ModelError when it would need more cells than allowed.
[[nodiscard]] Grid make_grid(const Model& model, const Layout& layout);

/// Range of boxes [first, last) between two planes of the grid.
struct Range {
    Index first = 0, last = 0;
};
[[nodiscard]] Range box_range(const Grid& grid, int axis, double from, double to);

}  // namespace firnfield
