/// Reading solids, their outlines and directions, which take more than one form.
#pragma once

#include <firnfield/model.hpp>

#include "io/toml_fields.hpp"
#include "model/keys/key.hpp"

#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace firnfield {

/// The keys of a solid: a part, a hole, an addition or a region.
[[nodiscard]] Shape read_shape(Fields& fields);
/// From `radius` or `diameter`, with a prefix as in "outer_diameter".
[[nodiscard]] std::optional<double> read_radius(Fields& fields, const std::string& prefix, const Key& key);
/// Corners as [x, y]; as { to = [x, y], through = [x, y] } where an arc leads there.
[[nodiscard]] Outline read_outline(Fields& fields, std::string_view key);
[[nodiscard]] std::vector<Outline> read_outlines(Fields& fields, std::string_view key);
/// A surface from a file, in its unit.
void read_surface_file(Fields& fields, Solid& solid);
/// A solid of a CAD file; without geometry where something is wrong.
void read_cad_file(Fields& fields, CadSolid& solid);
/// A table from text to text, in the order of the file.
[[nodiscard]] std::vector<std::pair<std::string, std::string>> read_text_table(Fields& fields, std::string_view key);
/// "+x", "-z", … or three numbers.
[[nodiscard]] std::optional<Vec3> read_direction(Fields& fields, std::string_view key);
/// One direction or a list of them.
[[nodiscard]] std::vector<Vec3> read_directions(Fields& fields, std::string_view key);

}  // namespace firnfield
