/// A solid of the CAD kernel behind the exact solid of the core.
#pragma once

#include <firnfield/geometry.hpp>

#include <TopoDS_Shape.hxx>

#include <functional>
#include <memory>
#include <string>

namespace firnfield::step {

/// Metres in a millimetre, the length unit of the CAD kernel.
inline constexpr double millimetre = 1e-3;

/// The name that the file gives a face; empty for most.
using FaceNames = std::function<std::string(const TopoDS_Shape&)>;

/// A closed solid that is turned outward. Throws Error with the reason where its facets do not close.
[[nodiscard]] std::shared_ptr<const ExactSolid> make_body(const TopoDS_Shape& solid, const FaceNames& names);

/// The solid of the CAD kernel that a body was made of; null where it comes from elsewhere.
[[nodiscard]] TopoDS_Shape shape_of(const ExactSolid& solid);

/// Tells the CAD kernel to keep its messages to itself.
void be_quiet();

}  // namespace firnfield::step
