/// A model from the tables of its file.
#pragma once

#include <firnfield/model.hpp>

#include "io/toml_fields.hpp"

#include <vector>

namespace firnfield {

/// Reads and validates; what is wrong goes into `reading`.
[[nodiscard]] Model read_checked(const toml::table& table, Reading& reading);

/// What [parameters] holds; those that cannot be read are left out and told.
[[nodiscard]] std::vector<ParameterInfo> read_parameters(const toml::table& table, Reading& reading);

}  // namespace firnfield
