/// Reading what goes with time: profiles, thermostats and studies.
#pragma once

#include "io/toml_fields.hpp"

#include <firnfield/model.hpp>

namespace firnfield {

[[nodiscard]] Profile read_profile(Fields& fields);
[[nodiscard]] Thermostat read_thermostat(Fields& fields);
[[nodiscard]] Study read_study(Fields& fields);

/// Two columns of a table with names in its first line, separated by commas, semicolons or tabs. An empty `x` or `y` takes the first or
/// second column. Throws FileError, or QuantityError for a cell that is not a number.
[[nodiscard]] Curve read_csv_columns(const std::filesystem::path& file, const std::string& x, const std::string& y);
/// The same from text; `file` is the name shown in messages.
[[nodiscard]] Curve read_csv_columns_text(std::string_view text, const std::string& file, const std::string& x, const std::string& y);

}  // namespace firnfield
