/// Parts that are in several pieces: through `also`, or because others cut them apart.
#pragma once

#include <firnfield/findings.hpp>

#include <vector>

namespace firnfield {

/// A remark for every part of which a body is in pieces that do not touch each other, with what each of them touches.
[[nodiscard]] std::vector<Warning> tell_pieces(const Model& model, const Mesh& mesh);

}  // namespace firnfield
