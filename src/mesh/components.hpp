/// Splits cut boxes in which a body lies in several separate pieces, such as two fins on either side of a narrow slot.
///
/// Without that they would share one temperature and a slot narrower than a box would conduct. Which pieces of a box hang
/// together is found on a lattice of sample points inside it; areas of patches stay exact, volumes and open areas are
/// shared out by samples so that their sums stay exact.
#pragma once

#include "mesh/cut.hpp"

namespace firnfield {

/// Adds a further CutBox for every further piece, chained by CutBox::next_piece, and the open areas between pieces of split boxes.
void split_components(const Grid& grid, const CutSurface& surface, CutBody& body);

}  // namespace firnfield
