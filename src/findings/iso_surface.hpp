/// Where bodies have exactly one temperature inside, as a surface.
#pragma once

#include <firnfield/steady.hpp>

#include "findings/extremes.hpp"
#include "findings/surface_field.hpp"

#include <optional>
#include <span>
#include <vector>

namespace firnfield {

/// Adds to `field` the surfaces at which bodies that are not hidden have the temperature `level` (K), facing what is colder; of them what `section` keeps.
/// `gradient`: K/m, per cell. Between corners of boxes, whose temperatures are means over the cells around them, along straight lines: each box in six
/// tetrahedra (A. Doi, A. Koide, "An efficient method of triangulating equi-valued surfaces by using tetrahedral cells", 1991), so that neighbours fit.
void add_iso_surface(SurfaceField& field, const SteadySolution& solution, std::span<const Vec3> gradient, const BodyTemperatures& bodies,
                     const std::vector<bool>& hidden, double level, const std::optional<HalfSpace>& section);

}  // namespace firnfield
