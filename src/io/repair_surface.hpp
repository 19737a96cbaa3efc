/// Closed surfaces out of loose triangles.
#pragma once

#include <firnfield/stl.hpp>

#include "geometry/triangle_tree.hpp"

#include <array>
#include <cstdint>
#include <string>
#include <vector>

namespace firnfield {

/// Welds corners, leaves out what is degenerate or doubled, turns triangles the same way and outward, closes small holes, and tells what it did. `unit`: of
/// the triangles' lengths, m. Throws FileError in which `name` stands for the file.
[[nodiscard]] StlImport repaired(std::vector<Triangle> triangles, double unit, const std::string& name);

/// Pairs of triangles without a common corner of which one's edge runs through the other; at most a thousand are counted.
[[nodiscard]] std::size_t crossings_of(const std::vector<Vec3>& corners, const std::vector<std::array<std::uint32_t, 3>>& triangles);

/// Throws that FileError.
[[noreturn]] void refuse_stl(const std::string& name, const std::string& why);

}  // namespace firnfield
