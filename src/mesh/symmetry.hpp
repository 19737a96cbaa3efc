/// Planes of symmetry, and what lies beyond them.
#pragma once

#include <firnfield/mesh.hpp>

#include "geometry/solids.hpp"

#include <algorithm>
#include <cstddef>
#include <vector>

namespace firnfield {

/// Grows with every box it takes in.
struct Extent {
    static constexpr double far = 1e30;
    Vec3 low{far, far, far}, high{-far, -far, -far};

    void take(const Box& box) {
        for (int axis = 0; axis < 3; ++axis) {
            low[axis] = std::min(low[axis], box.lower()[axis]);
            high[axis] = std::max(high[axis], box.upper()[axis]);
        }
    }
    [[nodiscard]] double along(int axis) const { return high[axis] - low[axis]; }
    [[nodiscard]] double longest() const { return std::max({along(0), along(1), along(2)}); }
};

/// Of mirrors and sectors, facing outward.
[[nodiscard]] std::vector<SymmetryPlane> symmetry_planes(const Model& model);

/// The axis that a plane stands across, or −1.
[[nodiscard]] int axis_across(const SymmetryPlane& plane);

/// Everything beyond a plane, as far as matters: a block that stands on it. Its faces are tagged as `index`-th plane.
[[nodiscard]] ClosedSurface beyond(const SymmetryPlane& plane, const Extent& extent, std::size_t index);

}  // namespace firnfield
