/// Triangles that share whole edges.
#pragma once

#include <firnfield/geometry.hpp>

namespace firnfield {

/// The same surface with every edge shared by exactly two triangles where it encloses a solid: corners that coincide become one, and triangles are divided
/// where corners of others lie on their edges. Set operations leave such corners behind.
[[nodiscard]] ClosedSurface conforming(ClosedSurface surface);

}  // namespace firnfield
