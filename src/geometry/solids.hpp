/// Set operations on solids given by their surfaces.
///
/// The result is a triangle soup: it encloses the right volume with the right faces, but neighbouring triangles need not
/// share corners. Cutting closes every cell by itself, so that is enough.
#pragma once

#include <firnfield/geometry.hpp>

#include <string>
#include <vector>

namespace firnfield {

/// What came out of an operation.
struct SolidResult {
    ClosedSurface surface{};
    bool changed = false;        ///< false: the two do not meet, and the surface is the first one as it was
    double common_volume = 0.0;  ///< m³ that both enclose
    double common_depth = 0.0;   ///< m, mean thickness of what both enclose: small where curved faces merely touch
    double defect = 0.0;         ///< how far the result is from closed, relative
};

/// The first without the second. Faces that the second leaves behind keep their names, or all get the name `one_name` when that is not
/// empty; its cylinders become bores. The faces of the first keep their numbers, here and below.
[[nodiscard]] SolidResult subtract(const ClosedSurface& first, const ClosedSurface& second, const std::string& one_name);

/// What is in the first or in the second, with the faces of both.
[[nodiscard]] SolidResult unite(const ClosedSurface& first, const ClosedSurface& second);

/// The solids in as few surfaces as may be: those whose extents are apart go into one, so that many holes are cut in a few operations.
[[nodiscard]] std::vector<ClosedSurface> together_where_apart(const std::vector<ClosedSurface>& solids);

/// Splits the triangles that cross the surface of `region` and marks which lie inside it; `origin` tells for every
/// triangle which one it is a piece of.
[[nodiscard]] ClosedSurface imprint(const ClosedSurface& surface, const ClosedSurface& region, std::vector<bool>& inside, std::vector<std::uint32_t>& origin);

/// How far a surface is from closed: |ΣA|/S and the spread of the volumes computed along the three axes, relative.
[[nodiscard]] double closure_defect(const ClosedSurface& surface);

}  // namespace firnfield
