/// CSV (RFC 4180, one record a line): lines, and columns by name.
#pragma once

#include <firnfield/curve.hpp>

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

/// The cells of a line, quotes taken off; nothing where one is left open.
[[nodiscard]] std::optional<std::vector<std::string>> csv_cells(std::string_view line, char separator);

/// Two columns of a table with names in its first line, separated by commas, semicolons or tabs. An empty `x` or `y` takes the first or
/// second column. Throws FileError for what is no such table.
[[nodiscard]] Curve read_csv_columns(const std::filesystem::path& file, const std::string& x, const std::string& y);
/// The same from text; `file` is the name shown in messages.
[[nodiscard]] Curve read_csv_columns_text(std::string_view text, const std::string& file, const std::string& x, const std::string& y);

}  // namespace firnfield
