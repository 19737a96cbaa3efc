/// The keys of a [[material]] table; the built-in library and model files share them.
#pragma once

#include <firnfield/material.hpp>

#include "io/toml_fields.hpp"

namespace firnfield {

/// Reads one material. Mistakes go to the fields' reading.
[[nodiscard]] Material read_material(Fields& fields);

}  // namespace firnfield
