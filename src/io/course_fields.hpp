/// Reading what goes with time and takes more than one form: courses, starts, factors by name.
#pragma once

#include <firnfield/model.hpp>

#include "io/toml_fields.hpp"

#include <map>
#include <string>
#include <string_view>

namespace firnfield {

/// The course of a profile, in whichever of its forms it is given.
void read_course(Fields& fields, Profile& profile);
/// Where a study in time begins.
[[nodiscard]] Start read_start(Fields& fields, std::string_view key);
/// A table from name to number.
[[nodiscard]] std::map<std::string, double> read_factors(Fields& fields, std::string_view key);

}  // namespace firnfield
