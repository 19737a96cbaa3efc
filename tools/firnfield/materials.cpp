// `firnfield materials`: the library with its sources.

#include "commands.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>

namespace firnfield::command {
namespace {

bool contains_word(const std::string& text, const std::string& word) {
    return std::search(text.begin(), text.end(), word.begin(), word.end(),
                       [](unsigned char a, unsigned char b) { return std::tolower(a) == std::tolower(b); }) != text.end();
}

}  // namespace

int materials(const MaterialsOptions& options) {
    constexpr std::size_t most_in_full = 4;
    const Units units = options.units.empty() ? Units{} : parse_units(options.units);
    std::vector<Material> found;
    const std::vector<std::string> meant = materials_meant_by(options.word);
    for (const Material& material : builtin_materials()) {
        const bool is_meant = std::find(meant.begin(), meant.end(), material.name) != meant.end();
        if (is_meant || contains_word(material.name, options.word) || contains_word(material.group, options.word)) found.push_back(material);
    }
    if (found.empty())
        throw Error(fmt::format("no material has \"{}\" in its name or group, or is commonly called so; 'firnfield materials' lists all", options.word));
    if (found.size() > most_in_full) {
        say("{}\n{} materials. 'firnfield materials WORD' shows all properties and sources of those with that word in their name, or called so.\n",
            to_table(found, units), found.size());
        return done;
    }
    for (const Material& material : found) say("{}{}", &material == &found.front() ? "" : "\n", to_text(material, units));
    return done;
}

}  // namespace firnfield::command
