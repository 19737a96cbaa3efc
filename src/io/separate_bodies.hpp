/// The bodies that a file of triangles holds.
#pragma once

#include "geometry/triangle_tree.hpp"

#include <cstdint>
#include <span>
#include <vector>

namespace firnfield {

/// Per triangle the body that it is of, counted from 0 in the order of the file: closed surfaces that hang together by edges, with the cavities in them.
/// Where more than two triangles share an edge, as where bodies touch, those that stand next to each other in the file belong together, as bodies are
/// written one after the other. All of them are one body where some surface is not closed, for what belongs to it cannot be told then.
/// `named`: per triangle the number of its `solid`, where the file names several; those are the bodies then, if each of them is closed.
[[nodiscard]] std::vector<std::uint32_t> separate_bodies(std::span<const Triangle> triangles, std::span<const std::uint32_t> named = {});

}  // namespace firnfield
