// `firnfield keys`: the reference of the model file.

#include "commands.hpp"

#include <firnfield/keys.hpp>

#include <algorithm>

namespace firnfield::command {

int keys(const KeysOptions& options) {
    if (options.table.empty()) {
        say("{}", key_tables_text());
        return done;
    }
    const std::vector<KeyTable>& tables = key_tables();
    // As it is called, or as it stands in a file.
    const auto found =
        std::find_if(tables.begin(), tables.end(), [&](const KeyTable& t) { return t.name == options.table || (!t.head.empty() && t.head == options.table); });
    if (found == tables.end()) {
        std::string known;
        for (const KeyTable& table : tables) known += (known.empty() ? "" : ", ") + table.name;
        throw Error(fmt::format("a model file has no table \"{}\"; there are {}", options.table, known));
    }
    say("{}", options.markdown ? to_markdown(*found) : to_text(*found));
    return done;
}

}  // namespace firnfield::command
