// The reference of the model file and of results, as text and as Markdown.

#include <firnfield/keys.hpp>

#include "report/table.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace firnfield {
namespace {

std::string usual_of(const KeyRow& row) { return row.required ? "required" : row.usual; }

std::string plain(std::string text) {
    std::erase(text, '`');
    return text;
}

}  // namespace

std::string key_tables_text() {
    Table text({"table", "in the file", "meaning"});
    for (const KeyTable& table : key_tables()) text.row({table.name, table.head, plain(table.meaning)});
    return text.text("  ", 90) + "\n\"firnfield keys TABLE\" lists the keys of one.\n";
}

std::string result_tables_text() {
    Table text({"table", "meaning"});
    for (const KeyTable& table : result_tables()) text.row({table.name, plain(table.meaning)});
    return text.text("  ", 90) + "\n\"firnfield keys --results TABLE\" lists the keys of one.\n";
}

std::string to_text(const KeyTable& table) {
    std::string out = fmt::format("{}{}{}\n", table.head.empty() ? table.name : table.head, table.meaning.empty() ? "" : ": ", plain(table.meaning));
    for (const KeyRow& row : table.rows) {
        out += fmt::format("\n  {}  {}{}\n", row.name, plain(row.takes), row.example.empty() ? "" : fmt::format(", as {}", row.example));
        if (const std::string usual = usual_of(row); !usual.empty())
            out += fmt::format("      {}{}\n", row.required || usual.starts_with("needed") ? "" : "default: ", usual);
        if (!row.meaning.empty()) out += fmt::format("      {}\n", wrapped(plain(row.meaning), 6));
    }
    return out;
}

std::string to_markdown(const KeyTable& table) {
    const bool results = std::all_of(table.rows.begin(), table.rows.end(), [](const KeyRow& row) { return usual_of(row).empty(); });
    std::string out = results ? "| key | holds | meaning |\n|---|---|---|\n" : "| key | takes | default | meaning |\n|---|---|---|---|\n";
    const auto cell = [](std::string_view text) {
        std::string safe;
        for (const char c : text) safe += c == '|' ? "\\|" : std::string(1, c);
        return safe;
    };
    for (const KeyRow& row : table.rows) {
        out += fmt::format("| `{}` | {}{} |{} {} |\n", row.name, cell(row.takes), row.example.empty() ? "" : fmt::format(", `{}`", cell(row.example)),
                           results ? std::string() : fmt::format(" {} |", cell(usual_of(row))), cell(row.meaning));
    }
    return out;
}

}  // namespace firnfield
