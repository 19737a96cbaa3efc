/// Closed surfaces out of loose triangles.
#pragma once

#include <firnfield/stl.hpp>

#include "geometry/triangle_tree.hpp"

#include <string>
#include <vector>

namespace firnfield {

/// Welds corners, leaves out what is degenerate or doubled, turns triangles the same way and outward, closes small holes, and tells what it did. `unit`: of
/// the triangles' lengths, m. Throws FileError in which `name` stands for the file.
[[nodiscard]] StlImport repaired(std::vector<Triangle> triangles, double unit, const std::string& name);

/// Throws that FileError.
[[noreturn]] void refuse_stl(const std::string& name, const std::string& why);

}  // namespace firnfield
