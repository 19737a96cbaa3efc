// Finds a value of a model file by its address and puts another one in its place.

#include "io/addresses.hpp"

#include "base/words.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace firnfield {

std::vector<std::string> keys_of(const toml::table& table) {
    std::vector<std::string> keys;
    for (auto&& [key, node] : table) keys.emplace_back(key.str());
    return keys;
}

namespace {

/// By what an entry of a list of tables can be called.
std::string name_of_entry(const toml::table& entry, std::string_view list, std::size_t index) {
    for (const std::string_view key : {"name", "part", "sensor", "figure", "prefix"}) {
        if (const auto name = entry[key].value<std::string>()) return *name;
    }
    if (const toml::array* between = entry["between"].as_array(); between != nullptr && between->size() == 2) {
        return fmt::format("{} - {}", (*between)[0].value_or(std::string()), (*between)[1].value_or(std::string()));
    }
    for (const std::string_view key : {"into", "on"}) {
        if (list != "power") break;
        if (const auto one = entry[key].value<std::string>()) return *one;
        if (const toml::array* many = entry[key].as_array(); many != nullptr && many->size() == 1) return (*many)[0].value_or(std::string());
    }
    return fmt::format("{} {}", list, index + 1);
}

/// "12" for "12.below", and what follows.
std::pair<std::string, std::string> first_segment(const std::string& path) {
    const std::size_t dot = path.find('.');
    return dot == std::string::npos ? std::pair{path, std::string()} : std::pair{path.substr(0, dot), path.substr(dot + 1)};
}

bool is_number(const std::string& word) {
    return !word.empty() && word.size() < 6 && std::all_of(word.begin(), word.end(), [](char c) { return c >= '0' && c <= '9'; });
}

/// The entry of a list of tables that a path begins with, and the rest of the path.
std::pair<toml::table*, std::string> find_entry(toml::array& list, const std::string& what, const std::string& path) {
    std::vector<std::string> names;
    std::vector<std::size_t> found;
    std::size_t longest = 0;
    for (std::size_t i = 0; i < list.size(); ++i) {
        const toml::table* entry = list[i].as_table();
        if (entry == nullptr) continue;
        names.push_back(name_of_entry(*entry, what, i));
        const std::string& name = names.back();
        if (path != name && !path.starts_with(name + ".")) continue;
        if (name.size() > longest) found.clear();
        if (name.size() < longest) continue;
        longest = name.size();
        found.push_back(i);
    }
    if (found.size() > 1) {
        std::string numbers;
        for (const std::size_t i : found) numbers += fmt::format("{}{}.{}", numbers.empty() ? "" : ", ", what, i + 1);
        throw BadAddress(
            fmt::format("{} entries of [[{}]] are called {}; say which by its number: {}", found.size(), what, in_quotes(path.substr(0, longest)), numbers));
    }
    if (found.size() == 1) return {list[found.front()].as_table(), path.size() > longest ? path.substr(longest + 1) : std::string()};
    const auto [word, rest] = first_segment(path);
    if (is_number(word)) {
        const std::size_t number = std::stoul(word);
        if (number >= 1 && number <= list.size() && list[number - 1].is_table()) return {list[number - 1].as_table(), rest};
        throw BadAddress(fmt::format("[[{}]] has {} entries, not {}", what, list.size(), number));
    }
    throw BadAddress(fmt::format("no [[{}]] is called {}{}; there are {}", what, in_quotes(word), did_you_mean(word, names), quoted_list(names, 12)));
}

std::size_t place_in(const toml::array& list, const std::string& word) {
    if (list.size() == 3 && word.size() == 1 && std::string_view("xyz").find(word) != std::string_view::npos) return std::string_view("xyz").find(word);
    if (is_number(word) && std::stoul(word) >= 1 && std::stoul(word) <= list.size()) return std::stoul(word) - 1;
    throw BadAddress(fmt::format("a list of {} values has no {}; count from 1{}", list.size(), in_quotes(word), list.size() == 3 ? ", or say x, y or z" : ""));
}

/// Puts `value` where `path` leads from `table` on.
void put(toml::table& table, const std::string& path, toml::node&& value) {
    const auto [word, rest] = first_segment(path);
    if (word.empty()) throw BadAddress("the address ends before a key");
    if (rest.empty()) {
        table.insert_or_assign(word, std::move(value));
        return;
    }
    toml::node* next = table.get(word);
    if (next == nullptr) throw BadAddress(fmt::format("there is no key {}{}", in_quotes(word), did_you_mean(word, keys_of(table))));
    if (toml::table* inner = next->as_table()) {
        put(*inner, rest, std::move(value));
        return;
    }
    toml::array* list = next->as_array();
    if (list == nullptr) throw BadAddress(fmt::format("{} is a single value; nothing lies under it", in_quotes(word)));
    const auto [item, more] = first_segment(rest);
    const std::size_t place = place_in(*list, item);
    if (more.empty()) {
        list->replace(list->cbegin() + static_cast<std::ptrdiff_t>(place), std::move(value));
    } else if (toml::table* inner = (*list)[place].as_table()) {
        put(*inner, more, std::move(value));
    } else {
        throw BadAddress(fmt::format("number {} of {} is a single value; nothing lies under it", item, in_quotes(word)));
    }
}

/// Whether an entry of [[part]] is what a path begins with.
bool has_entry(toml::array* list, const std::string& path) {
    for (std::size_t i = 0; list != nullptr && i < list->size(); ++i) {
        const toml::table* entry = (*list)[i].as_table();
        if (entry == nullptr) continue;
        const std::string name = name_of_entry(*entry, "part", i);
        if (path == name || path.starts_with(name + ".")) return true;
    }
    return list != nullptr && is_number(first_segment(path).first);
}

/// A part of an assembly, "lid.material": stands among what differs for some of its parts, with the name and one key.
void put_in_assembly(toml::table& assembly, const std::string& path, toml::node&& value) {
    const std::size_t dot = path.rfind('.');
    if (dot == std::string::npos) throw BadAddress("the address ends at a part; name one of its keys");
    if (!assembly.contains("part")) assembly.insert("part", toml::array{});
    toml::array* changes = assembly["part"].as_array();
    if (changes == nullptr) throw BadAddress("what differs for parts of an assembly is [[assembly.part]]");
    // The last one that names a part counts, so this one does.
    changes->push_back(toml::table{{"name", path.substr(0, dot)}});
    changes->back().as_table()->insert(path.substr(dot + 1), std::move(value));
}

void put_parameter(toml::table& root, const std::string& name, toml::node&& value) {
    toml::table* parameters = root["parameters"].as_table();
    const std::vector<std::string> known = parameters == nullptr ? std::vector<std::string>() : keys_of(*parameters);
    if (parameters == nullptr || !parameters->contains(name)) {
        throw BadAddress(fmt::format("no parameter is called {}{}; other values have addresses such as \"joint.amplifier pad.layer.thickness\"",
                                     in_quotes(name), did_you_mean(name, known)));
    }
    // A parameter with a spread keeps it.
    if (toml::table* inner = parameters->get(name)->as_table(); inner != nullptr && !value.is_table()) {
        inner->insert_or_assign("value", std::move(value));
    } else {
        parameters->insert_or_assign(name, std::move(value));
    }
}

}  // namespace

void put_at(toml::table& root, const std::string& address, toml::node&& value) {
    const auto [word, rest] = first_segment(address);
    if (rest.empty()) return put_parameter(root, word, std::move(value));
    if (word == "parameters") return put_parameter(root, rest, std::move(value));
    if (toml::array* assemblies = root["assembly"].as_array(); assemblies != nullptr && word == "part" && !has_entry(root["part"].as_array(), rest)) {
        if (assemblies->size() != 1 || !(*assemblies)[0].is_table())
            throw BadAddress(fmt::format("no [[part]] is called so; of a part of an assembly say which, as in \"assembly.2.part.{}\"", rest));
        return put_in_assembly(*(*assemblies)[0].as_table(), rest, std::move(value));
    }
    // Every model is meshed, whether its file says how or not.
    if (word == "mesh" && !root.contains(word)) root.insert(word, toml::table{});
    toml::node* next = root.get(word);
    if (next == nullptr) throw BadAddress(fmt::format("the file has no {}{}", in_quotes(word), did_you_mean(word, keys_of(root))));
    if (toml::array* list = next->as_array()) {
        const auto [entry, path] = find_entry(*list, word, rest);
        if (path.empty()) throw BadAddress("the address ends at an entry; name one of its keys");
        if (word == "assembly" && path.starts_with("part.")) return put_in_assembly(*entry, path.substr(std::string_view("part.").size()), std::move(value));
        return put(*entry, path, std::move(value));
    }
    if (toml::table* inner = next->as_table()) return put(*inner, rest, std::move(value));
    throw BadAddress(fmt::format("{} is a single value; nothing lies under it", in_quotes(word)));
}

toml::table value_of(const std::string& text) {
    try {
        return toml::parse("value = " + text);
    } catch (const toml::parse_error&) {
        toml::table table;
        table.insert("value", text);
        return table;
    }
}

}  // namespace firnfield
