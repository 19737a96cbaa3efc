/// Solids, directions and planes from a model file.
#pragma once

#include <firnfield/model.hpp>

#include "io/toml_fields.hpp"

#include <optional>
#include <string_view>
#include <vector>

namespace firnfield {

[[nodiscard]] Box read_box(Fields& fields);
/// The keys of a solid: a part, a hole, an addition or a region.
[[nodiscard]] Shape read_shape(Fields& fields);
/// "x", "y" or "z"; z when the key is missing.
[[nodiscard]] int read_axis(Fields& fields, std::string_view key);
/// "+x", "-z", … or three numbers.
[[nodiscard]] std::optional<Vec3> read_direction(Fields& fields, std::string_view key);
/// One direction or a list of them.
[[nodiscard]] std::vector<Vec3> read_directions(Fields& fields, std::string_view key);
[[nodiscard]] Rotation read_rotation(Fields& fields);
[[nodiscard]] HalfSpace read_half_space(Fields& fields);

}  // namespace firnfield
