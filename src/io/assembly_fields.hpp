/// `[[assembly]]`: a CAD file as parts of a model.
#pragma once

#include <firnfield/model.hpp>

#include "io/toml_fields.hpp"

namespace firnfield {

/// Reads every [[assembly]] of a file and adds the parts that it stands for behind those of the model.
void read_assemblies(Fields& file, Model& model);

}  // namespace firnfield
