// Text tables aligned by characters, and wrapped prose.

#include "report/table.hpp"

#include "base/words.hpp"

#include <algorithm>

namespace firnfield {
namespace {

std::string shortened(std::string_view text, std::size_t widest) {
    if (display_width(text) <= widest) return std::string(text);
    std::size_t bytes = 0, width = 0;
    while (bytes < text.size() && width + 1 < widest) {
        ++bytes;
        while (bytes < text.size() && (static_cast<unsigned char>(text[bytes]) & 0xC0U) == 0x80U) ++bytes;
        ++width;
    }
    return std::string(text.substr(0, bytes)) + "…";
}

}  // namespace

Table::Table(std::vector<std::string> headings) : headings_(std::move(headings)) {
    for (std::string& heading : headings_) {
        right_.push_back(heading.starts_with('>'));
        if (right_.back()) heading.erase(0, 1);
    }
}

void Table::row(std::vector<std::string> cells) { rows_.push_back(std::move(cells)); }

std::string Table::text(std::string_view indent, std::size_t widest) const {
    std::vector<std::size_t> width;
    for (const std::string& heading : headings_) width.push_back(display_width(heading));
    for (const auto& row : rows_) {
        for (std::size_t c = 0; c < row.size(); ++c) width[c] = std::max(width[c], std::min(widest, display_width(row[c])));
    }
    const auto line = [&](const std::vector<std::string>& cells) {
        std::string out(indent);
        for (std::size_t c = 0; c < cells.size(); ++c) {
            const std::string cell = shortened(cells[c], widest);
            const std::string space(width[c] - std::min(width[c], display_width(cell)), ' ');
            if (c > 0) out += "  ";
            out += right_[c] ? space + cell : cell + space;
        }
        out.erase(out.find_last_not_of(' ') + 1);
        return out + "\n";
    };
    std::string out = line(headings_);
    for (const auto& row : rows_) out += line(row);
    return out;
}

std::string wrapped(std::string_view prose, std::size_t indent, std::size_t width) {
    std::string out;
    std::size_t column = indent;
    while (!prose.empty()) {
        const std::size_t end = std::min(prose.find(' '), prose.size());
        const std::string_view word = prose.substr(0, end);
        prose.remove_prefix(std::min(end + 1, prose.size()));
        if (column > indent && column + 1 + display_width(word) > width) {
            out += "\n" + std::string(indent, ' ');
            column = indent;
        }
        if (column > indent) {
            out += ' ';
            ++column;
        }
        out += word;
        column += display_width(word);
    }
    return out;
}

}  // namespace firnfield
