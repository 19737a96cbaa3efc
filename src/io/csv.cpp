// Reading CSV: cells of a line, columns by name.

#include "io/csv.hpp"

#include <firnfield/results.hpp>

#include "base/words.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <sstream>

namespace firnfield {
namespace {

std::vector<std::string> trimmed_cells(std::string_view line, char separator, const std::string& file, int row) {
    if (line.ends_with('\r')) line.remove_suffix(1);
    auto cells = csv_cells(line, separator);
    if (!cells) throw FileError(fmt::format("{}:{}: a quote is left open; texts end on the line where they begin", file, row));
    for (std::string& cell : *cells) {
        cell.erase(0, std::min(cell.find_first_not_of(" \t"), cell.size()));
        cell.erase(cell.find_last_not_of(" \t") + 1);
    }
    return *std::move(cells);
}

char separator_of(const std::string& header) {
    for (const char c : {';', '\t'}) {
        if (header.find(c) != std::string::npos) return c;
    }
    return ',';
}

}  // namespace

std::optional<std::vector<std::string>> csv_cells(std::string_view line, char separator) {
    std::vector<std::string> cells(1);
    bool quoted = false;
    for (std::size_t i = 0; i < line.size(); ++i) {
        if (quoted && line.substr(i, 2) == "\"\"") {
            cells.back() += line[i++];  // a doubled quote is one
        } else if (line[i] == '"') {
            quoted = !quoted;
        } else if (line[i] == separator && !quoted) {
            cells.emplace_back();
        } else {
            cells.back() += line[i];
        }
    }
    if (quoted) return std::nullopt;
    return cells;
}

Curve read_csv_columns(const std::filesystem::path& file, const std::string& x, const std::string& y) {
    constexpr std::uintmax_t largest = std::uintmax_t{512} << 20U;
    return read_csv_columns_text(read_file(file, largest), file.string(), x, y);
}

Curve read_csv_columns_text(std::string_view text, const std::string& file, const std::string& x, const std::string& y) {
    std::istringstream stream{std::string(text)};
    std::string line;
    if (!std::getline(stream, line)) throw FileError(fmt::format("{} is empty", in_quotes(file)));
    if (line.starts_with("\xEF\xBB\xBF")) line.erase(0, 3);
    const char separator = separator_of(line);
    const std::vector<std::string> header = trimmed_cells(line, separator, file, 1);
    const auto column = [&](const std::string& name, std::size_t otherwise) {
        if (name.empty()) return otherwise;
        const auto found = std::find(header.begin(), header.end(), name);
        if (found == header.end()) throw FileError(fmt::format("{} has no column {}{}", in_quotes(file), in_quotes(name), did_you_mean(name, header)));
        return static_cast<std::size_t>(found - header.begin());
    };
    const std::size_t at = column(x, 0), value = column(y, 1);
    Curve curve;
    for (int row = 2; std::getline(stream, line); ++row) {
        if (line.find_first_not_of(" \t\r") == std::string::npos || line.front() == '#') continue;
        const std::vector<std::string> cells = trimmed_cells(line, separator, file, row);
        const auto number = [&](std::size_t n) {
            double parsed = 0.0;
            const std::string cell = n < cells.size() ? cells[n] : std::string();
            const auto end = std::from_chars(cell.data(), cell.data() + cell.size(), parsed);
            if (cell.empty() || end.ec != std::errc() || end.ptr != cell.data() + cell.size()) {
                throw FileError(fmt::format("{}:{}: expected a number in column {}, found {}", file, row, n + 1, in_quotes(cell)));
            }
            return parsed;
        };
        curve.at.push_back(number(at));
        curve.value.push_back(number(value));
    }
    return curve;
}

}  // namespace firnfield
