/// Aligned text tables.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

/// Columns with a heading; cells are aligned left or right by column.
class Table {
public:
    /// A heading that starts with '>' aligns its column right.
    explicit Table(std::vector<std::string> headings);
    void row(std::vector<std::string> cells);
    [[nodiscard]] bool empty() const { return rows_.empty(); }
    /// The table, every line indented; longer cells than `widest` are shortened.
    [[nodiscard]] std::string text(std::string_view indent = "  ", std::size_t widest = 44) const;

private:
    std::vector<std::string> headings_;
    std::vector<bool> right_;
    std::vector<std::vector<std::string>> rows_;
};

/// Breaks prose at blanks so that no line is wider than `width`; lines after the first get `indent` blanks.
[[nodiscard]] std::string wrapped(std::string_view prose, std::size_t indent, std::size_t width = 104);

}  // namespace firnfield
