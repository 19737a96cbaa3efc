/// How thick solids are.
#pragma once

#include "geometry/solids.hpp"

namespace firnfield {

/// Typical thinnest extent of a solid along the axes: of the straight ways through it, the one that only a quarter is
/// shorter than (the rims of round bodies are thin everywhere).
[[nodiscard]] Vec3 typical_thickness(const ClosedSurface& surface);

}  // namespace firnfield
