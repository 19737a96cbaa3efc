// `firnfield keys`: the reference of the model file and of results.

#include "commands.hpp"

#include <firnfield/keys.hpp>

#include <algorithm>

namespace firnfield::command {

int keys(const KeysOptions& options) {
    const std::vector<KeyTable>& tables = options.results ? result_tables() : key_tables();
    if (options.table.empty() && !options.markdown) {
        say("{}", options.results ? result_tables_text() : key_tables_text());
        return done;
    }
    if (options.table.empty()) {
        for (const KeyTable& table : tables) say("## {}\n\n{}\n", table.head.empty() ? table.name : "`" + table.head + "`", to_markdown(table));
        return done;
    }
    // As it is called, or as it stands in a file.
    const auto found =
        std::find_if(tables.begin(), tables.end(), [&](const KeyTable& t) { return t.name == options.table || (!t.head.empty() && t.head == options.table); });
    if (found == tables.end()) {
        std::string known;
        for (const KeyTable& table : tables) known += (known.empty() ? "" : ", ") + table.name;
        throw Error(fmt::format("{} have no table \"{}\"; there are {}", options.results ? "results" : "model files", options.table, known));
    }
    say("{}", options.markdown ? to_markdown(*found) : to_text(*found));
    return done;
}

}  // namespace firnfield::command
