/// A solid of the CAD kernel behind the exact solid of the core.
#pragma once

#include <firnfield/geometry.hpp>

#include <TopoDS_Shape.hxx>

#include <memory>
#include <string>
#include <vector>

namespace firnfield::step {

/// Metres in a millimetre, the length unit of the CAD kernel.
inline constexpr double millimetre = 1e-3;

/// The faces of a solid in their order.
[[nodiscard]] std::vector<TopoDS_Shape> faces_of(const TopoDS_Shape& solid);

/// Whether no two of the sets of shapes have an edge in common: then they can be worked on at the same time.
[[nodiscard]] bool share_nothing(const std::vector<std::vector<TopoDS_Shape>>& sets);

/// A solid that is turned outward. `name`: for messages of ExactSolid::facets(), which throws Error where facets do not close. `names`: of its faces, in their
/// order, as the file gives them; empty for most. It keeps its facets in the shape, so no two of them may have edges in common.
[[nodiscard]] std::shared_ptr<const ExactSolid> make_body(const TopoDS_Shape& solid, const std::string& name, const std::vector<std::string>& names);

/// The solid of the CAD kernel that a body was made of; null where it comes from elsewhere.
[[nodiscard]] TopoDS_Shape shape_of(const ExactSolid& solid);

/// Tells the CAD kernel to keep its messages to itself.
void be_quiet();

}  // namespace firnfield::step
