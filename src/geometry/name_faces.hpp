/// What faces are called that have no name.
#pragma once

#include <firnfield/geometry.hpp>

#include <vector>

namespace firnfield {

/// Names those that have none by their kind and their rank among those of that kind: the larger first, of equal ones the one with the lower coordinates.
void name_faces(std::vector<ExactFace>& faces);

}  // namespace firnfield
