/// The reference of the model file and of results for machines: every table, and what its keys take and mean.
#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

struct KeyRow {
    std::string name{};     ///< "count"; of a table in place "repeat.count"
    std::string takes{};    ///< "length", "text", "\"x\", \"y\" or \"z\"", …
    std::string example{};  ///< a value as it stands in a file; empty where `takes` says it all
    std::string usual{};    ///< what holds where the key is left out; empty: nothing
    bool required = false;
    std::string meaning{};
};

struct KeyTable {
    std::string name{};  ///< "part"
    std::string head{};  ///< as it stands in a file: "[[part]]"; empty for what stands in place
    std::string meaning{};
    std::vector<KeyRow> rows{};
};

/// All tables in the order of the file, then shapes and what else stands in place of a value.
[[nodiscard]] const std::vector<KeyTable>& key_tables();

/// What results for machines hold: summary.json, what is told of a study, `check --json`, comparisons.
[[nodiscard]] const std::vector<KeyTable>& result_tables();

/// The list of tables, and one of them, as text.
[[nodiscard]] std::string key_tables_text();
[[nodiscard]] std::string result_tables_text();
[[nodiscard]] std::string to_text(const KeyTable& table);
/// The rows as a table of Markdown.
[[nodiscard]] std::string to_markdown(const KeyTable& table);

}  // namespace firnfield
