// Reading TOML tables key by key, and where their mistakes stand.

#include "io/toml_fields.hpp"

#include "base/words.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

std::string located(const std::string& file, const toml::source_position& where) {
    const std::string_view name = file.empty() ? std::string_view("text") : std::string_view(file);
    if (where.line == 0) return std::string(name);  // put there from outside
    return fmt::format("{}:{}:{}", name, where.line, where.column);
}

}  // namespace

void Reading::report(const toml::source_region& where, std::string message) { problems_.push_back({where.begin, std::move(message)}); }

void Reading::mark_misread(const std::string& address, const toml::source_region& where) {
    misread_entries_.insert(entry_of(address));
    misread_places_.insert({where.begin.line, where.begin.column});
    // What is said of the table as a whole is moot, too.
    if (const auto table = places_.find(address); table != places_.end()) misread_places_.insert({table->second.line, table->second.column});
}

bool Reading::is_misread(const std::string& address) const {
    if (address == entry_of(address)) return misread_entries_.contains(address);  // a rule across several keys
    const toml::source_position place = find_place(address);
    return misread_places_.contains({place.line, place.column});
}

toml::source_position Reading::find_place(std::string address) const {
    // A single table in place of a list stands without a number.
    std::string single = address;
    for (std::size_t at = single.find("[0].", single.find('.')); at != std::string::npos; at = single.find("[0].", at)) single.erase(at, 3);
    if (const auto found = places_.find(single); found != places_.end() && !places_.contains(address)) return found->second;
    while (!address.empty()) {
        if (const auto found = places_.find(address); found != places_.end()) return found->second;
        const std::size_t cut = address.find_last_of(".[");
        address.erase(cut == std::string::npos ? 0 : cut);
    }
    return toml::source_position{1, 1};
}

void Reading::report_at_address(const Problem& problem) { problems_.push_back({find_place(problem.address), problem.message}); }

std::filesystem::path Reading::named_file(const std::string& name) const {
    if (file_.empty()) throw FileError(fmt::format("{} is not looked for: the model is a text without a file that others could lie beside", in_quotes(name)));
    return std::filesystem::path(file_).parent_path() / name;
}

void Reading::throw_if_any() const {
    if (problems_.empty()) return;
    std::vector<Located> ordered = problems_;
    std::stable_sort(ordered.begin(), ordered.end(), [](const Located& a, const Located& b) {
        return a.where.line != b.where.line ? a.where.line < b.where.line : a.where.column < b.where.column;
    });
    std::vector<Problem> problems;
    for (const Located& p : ordered) problems.push_back({.address = {}, .message = p.message, .location = located(file_, p.where)});
    throw ModelError(std::move(problems));
}

std::optional<double> Reading::evaluate(const toml::node& node, const std::string& expression, const QuantityKind& kind) {
    try {
        const Measured result = parameters.evaluate(expression);
        if (result.dimension == kind.dimension || result.value == 0.0) return result.value;
        report(node.source(),
               fmt::format("{} gives a {}; expected a {} such as \"{}\"", in_quotes(expression), name_of(result.dimension), kind.name, kind.example));
    } catch (const QuantityError& error) {
        report(node.source(), error.what());
    }
    return std::nullopt;
}

Fields::Fields(const toml::table& table, std::string address, std::string what, Reading& reading)
    : table_(table), address_(std::move(address)), what_(std::move(what)), reading_(reading) {
    if (!address_.empty()) reading_.place(address_, table.source());
}

void Fields::report(const toml::node& node, std::string message) {
    reading_.mark_misread(address_, node.source());
    reading_.report(node.source(), std::move(message));
}

void Fields::report_here(std::string message) {
    reading_.mark_misread(address_, table_.source());
    reading_.report(table_.source(), (what_.empty() ? "the file" : what_) + ": " + std::move(message));
}

bool Fields::has(std::string_view key) { return table_.contains(key); }

const toml::node* Fields::node(std::string_view key) {
    known_.emplace_back(key);
    const toml::node* found = table_.get(key);
    if (found != nullptr) reading_.place(address_.empty() ? std::string(key) : fmt::format("{}.{}", address_, key), found->source());
    return found;
}

void Fields::require(std::string_view key, std::string_view example) {
    if (!table_.contains(key)) report_here(fmt::format("\"{}\" is missing; write {} = {}", key, key, example));
}

std::optional<std::string> Fields::text(std::string_view key, bool may_be_empty) {
    const toml::node* found = node(key);
    if (found == nullptr) return std::nullopt;
    if (const auto value = found->value_exact<std::string>()) {
        if (is_plain_text(*found, *value, may_be_empty) && (may_be_empty || !value->empty())) return value;
        if (value->empty()) report(*found, fmt::format("{} is empty; write something or leave the key out", key));
        return std::nullopt;
    }
    report(*found, fmt::format("{} takes a text in quotes, found {}", key, describe_type(*found)));
    return std::nullopt;
}

bool Fields::is_plain_text(const toml::node& node, const std::string& text, bool lines) {
    // Names reach terminals, files and pages: nothing in them may command any of these.
    const auto bad = std::find_if(text.begin(), text.end(),
                                  [lines](char c) { return (static_cast<unsigned char>(c) < 0x20 && !(lines && (c == '\n' || c == '\t'))) || c == 0x7F; });
    if (bad == text.end()) return true;
    report(node, fmt::format("{} holds the control character \\x{:02x}; leave it out", in_quotes(text), static_cast<unsigned char>(*bad)));
    return false;
}

std::optional<double> Fields::quantity_of(const toml::node& node, const QuantityKind& kind, const std::string& address) {
    reading_.place(address, node.source());
    const auto refuse = [&](std::string message) -> std::optional<double> {
        report(node, std::move(message));
        return std::nullopt;
    };
    if (const auto text = node.value_exact<std::string>()) {
        if (is_expression(*text)) {
            const auto value = reading_.evaluate(node, *text, kind);
            if (!value) reading_.mark_misread(address_, node.source());
            return value;
        }
        try {
            return parse_quantity(*text, kind);
        } catch (const QuantityError& error) {
            return refuse(error.what());
        }
    }
    const auto number = node.is_number() ? node.value<double>() : std::nullopt;
    if (!number) return refuse(fmt::format("expected a {} such as \"{}\", found {}", kind.name, kind.example, describe_type(node)));
    if (!std::isfinite(*number)) return refuse(fmt::format("expected a {} such as \"{}\", found a number that is not finite", kind.name, kind.example));
    if (kind.dimension == Dimension{}) return number;
    const std::string& unit = kind.absolute_temperature ? reading_.temperature_unit : reading_.length_unit;
    const bool may_be_bare = kind.absolute_temperature || kind.name == kinds::length.name;
    if (!may_be_bare) return refuse(fmt::format("the number {} needs a unit: a {} such as \"{}\"", *number, kind.name, kind.example));
    if (unit.empty()) {
        if (!reading_.first_bare_number()) {  // told once for the whole file
            reading_.mark_misread(address_, node.source());
            return std::nullopt;
        }
        return refuse(fmt::format("the number {} needs a unit: write \"{}\", or name the units of all bare numbers under [units]", *number, kind.example));
    }
    return parse_quantity(fmt::format("{} {}", *number, unit), kind);
}

std::optional<double> Fields::quantity(std::string_view key, const QuantityKind& kind) {
    const toml::node* found = node(key);
    if (found == nullptr) return std::nullopt;
    return quantity_of(*found, kind, fmt::format("{}.{}", address_, key));
}

std::optional<Threshold> Fields::any_quantity(std::string_view key) {
    const toml::node* found = node(key);
    if (found == nullptr) return std::nullopt;
    reading_.place(fmt::format("{}.{}", address_, key), found->source());
    try {
        Measured read;
        if (const auto text = found->value_exact<std::string>()) {
            read = is_expression(*text) ? reading_.parameters.evaluate(*text) : parse_measured(*text);
        } else if (found->is_number() && std::isfinite(*found->value<double>())) {
            read.value = *found->value<double>();
        } else {
            report(*found, fmt::format("{} takes a quantity such as \"5 K\" or \"80 degC\", found {}", key, describe_type(*found)));
            return std::nullopt;
        }
        if (const QuantityKind* kind = quantity_with(read.dimension, read.on_a_scale)) return Threshold(read.value, *kind);
        report(*found, fmt::format("{} takes a quantity that figures can have, found {}", key, name_of(read.dimension)));
    } catch (const QuantityError& error) {
        report(*found, error.what());
    }
    return std::nullopt;
}

std::optional<bool> Fields::flag(std::string_view key) {
    const toml::node* found = node(key);
    if (found == nullptr) return std::nullopt;
    if (const auto value = found->value_exact<bool>()) return value;
    report(*found, fmt::format("{} takes true or false, found {}", key, describe_type(*found)));
    return std::nullopt;
}

std::optional<long long> Fields::integer(std::string_view key) {
    const toml::node* found = node(key);
    if (found == nullptr) return std::nullopt;
    if (const auto value = found->value_exact<std::int64_t>()) return *value;
    if (const auto text = found->value_exact<std::string>(); text && is_expression(*text)) {
        const auto value = reading_.evaluate(*found, *text, kinds::number);
        if (value && std::abs(*value - std::round(*value)) < 1e-9 * std::max(1.0, std::abs(*value))) return std::llround(*value);
        if (value) {
            report(*found, fmt::format("{} takes a whole number; {} gives {:.6g} (rint() rounds)", key, in_quotes(*text), *value));
        } else {
            reading_.mark_misread(address_, found->source());
        }
        return std::nullopt;
    }
    report(*found, fmt::format("{} takes a whole number, found {}", key, describe_type(*found)));
    return std::nullopt;
}

std::optional<Vec3> Fields::point_of(const toml::node& node, const std::string& address) {
    reading_.place(address, node.source());
    const toml::array* list = node.as_array();
    if (list == nullptr || list->size() != 3) {
        report(node, fmt::format("expected three lengths along x, y, z such as [10, 20, 5], found {}",
                                 list == nullptr ? std::string(describe_type(node)) : fmt::format("{} values", list->size())));
        return std::nullopt;
    }
    Vec3 point;
    bool complete = true;
    for (int axis = 0; axis < 3; ++axis) {
        const auto value = quantity_of((*list)[static_cast<std::size_t>(axis)], kinds::length, fmt::format("{}[{}]", address, axis));
        complete = complete && value.has_value();
        point[axis] = value.value_or(0.0);
    }
    if (!complete) return std::nullopt;
    return point;
}

Curve Fields::curve(std::string_view key, const QuantityKind& at, const QuantityKind& value) {
    Curve curve;
    const toml::node* place = node(key);
    if (place == nullptr) return curve;
    const std::size_t before = reading_.mistakes();
    table(key, [&](Fields& points) {
        points.require("at", fmt::format("[\"{}\", …]", at.example));
        points.require("value", fmt::format("[\"{}\", …]", value.example));
        curve = {points.quantities("at", at), points.quantities("value", value)};
    });
    if (reading_.mistakes() > before) return {};  // told already
    if (const std::string problem = problem_of(curve); !problem.empty()) {
        report(*place, problem);
        return {};
    }
    return curve;
}

std::optional<Vec3> Fields::point(std::string_view key) {
    const toml::node* found = node(key);
    if (found == nullptr) return std::nullopt;
    return point_of(*found, fmt::format("{}.{}", address_, key));
}

std::vector<std::string> Fields::texts(std::string_view key) {
    std::vector<std::string> list;
    const toml::node* found = node(key);
    if (found == nullptr) return list;
    if (found->is_string()) {
        if (const auto single = text(key)) list.push_back(*single);
        return list;
    }
    const toml::array* array = found->as_array();
    if (array == nullptr) {
        report(*found, fmt::format("{} takes a text or a list of texts, found {}", key, describe_type(*found)));
        return list;
    }
    if (array->empty()) report(*found, fmt::format("{} is an empty list; leave the key out or name something", key));
    for (const toml::node& item : *array) {
        if (const auto value = item.value_exact<std::string>()) {
            if (!is_plain_text(item, *value)) continue;
            if (value->empty()) report(item, fmt::format("{} names nothing here; write something or leave it out", key));
            reading_.place(fmt::format("{}.{}[{}]", address_, key, list.size()), item.source());
            list.push_back(*value);
        } else {
            report(item, fmt::format("{} takes texts in quotes, found {}", key, describe_type(item)));
        }
    }
    return list;
}

std::vector<double> Fields::quantities(std::string_view key, const QuantityKind& kind) {
    std::vector<double> values;
    const toml::node* found = node(key);
    if (found == nullptr) return values;
    const std::string address = address_ + "." + std::string(key);
    const toml::array* list = found->as_array();
    if (list == nullptr) {
        if (const auto value = quantity_of(*found, kind, address)) values.push_back(*value);
        return values;
    }
    for (std::size_t i = 0; i < list->size(); ++i) {
        if (const auto value = quantity_of((*list)[i], kind, fmt::format("{}[{}]", address, i))) values.push_back(*value);
    }
    return values;
}

std::optional<std::size_t> Fields::word(std::string_view key, std::span<const std::string_view> words) {
    const toml::node* found = node(key);
    if (found == nullptr) return std::nullopt;
    const std::vector<std::string> known(words.begin(), words.end());
    const auto value = found->value_exact<std::string>();
    if (value) {
        const auto at = std::find(known.begin(), known.end(), *value);
        if (at != known.end()) return static_cast<std::size_t>(at - known.begin());
    }
    report(*found, fmt::format("{} takes one of {}, found {}{}", key, quoted_list(known, known.size()),
                               value ? in_quotes(*value) : std::string(describe_type(*found)), value ? did_you_mean(*value, known) : ""));
    return std::nullopt;
}

void Fields::tables(std::string_view key, bool inline_single, const std::function<void(Fields&, std::size_t)>& read) {
    const toml::node* found = node(key);
    if (found == nullptr) return;
    const std::string base = address_.empty() ? std::string(key) : fmt::format("{}.{}", address_, key);
    const auto what = [&] { return inline_single ? std::string(key) : fmt::format("[[{}]]", key); };
    if (const toml::table* single = found->as_table(); single != nullptr && inline_single) {
        Fields fields(*single, base, what(), reading_);
        read(fields, 0);
        fields.finish();
        return;
    }
    const toml::array* list = found->as_array();
    if (list == nullptr) {
        report(*found, inline_single ? fmt::format("{} takes a table or a list of tables, found {}", key, describe_type(*found))
                                     : fmt::format("\"{}\" is a list: write [[{}]] with double brackets", key, key));
        return;
    }
    for (std::size_t i = 0; i < list->size(); ++i) {
        const toml::table* item = (*list)[i].as_table();
        if (item == nullptr) {
            report((*list)[i], fmt::format("{} takes tables, found {}", key, describe_type((*list)[i])));
            continue;
        }
        Fields fields(*item, fmt::format("{}[{}]", base, i), what(), reading_);
        read(fields, i);
        fields.finish();
    }
}

void Fields::table(std::string_view key, const std::function<void(Fields&)>& read) {
    const toml::node* found = node(key);
    if (found == nullptr) return;
    const toml::table* inner = found->as_table();
    if (inner == nullptr) {
        report(*found, fmt::format("{} takes a table, found {}", key, describe_type(*found)));
        return;
    }
    Fields fields(*inner, address_.empty() ? std::string(key) : fmt::format("{}.{}", address_, key),
                  address_.empty() ? fmt::format("[{}]", key) : std::string(key), reading_);
    read(fields);
    fields.finish();
}

void Fields::finish() {
    for (auto&& [key, value] : table_) {
        const std::string name(key.str());
        if (std::find(known_.begin(), known_.end(), name) != known_.end()) continue;
        std::vector<std::string> known = known_;
        std::sort(known.begin(), known.end());
        known.erase(std::unique(known.begin(), known.end()), known.end());
        std::string hint = did_you_mean(name, known);
        if (hint.empty()) {
            hint = "; known here:";
            for (const std::string& k : known) hint += ' ' + k;
        }
        const toml::source_region& where = key.source().begin.line > 0 ? key.source() : value.source();  // put there by a variant
        reading_.mark_misread(address_, where);
        reading_.report(where, fmt::format("unknown key {} in {}{}", in_quotes(name), what_.empty() ? "the file" : what_, hint));
    }
}

std::string_view describe_type(const toml::node& node) {
    switch (node.type()) {
        case toml::node_type::none:
            return "nothing";
        case toml::node_type::table:
            return "a table";
        case toml::node_type::array:
            return "a list";
        case toml::node_type::string:
            return "a text";
        case toml::node_type::integer:
            return "a whole number";
        case toml::node_type::floating_point:
            return "a number";
        case toml::node_type::boolean:
            return "true or false";
        case toml::node_type::date:
        case toml::node_type::time:
        case toml::node_type::date_time:
            return "a date or time";
    }
    return "something else";
}

int to_int(long long value) { return static_cast<int>(std::clamp<long long>(value, std::numeric_limits<int>::min(), std::numeric_limits<int>::max())); }

toml::table parse_toml(std::string_view text, const std::string& file) {
    try {
        return toml::parse(text, file);
    } catch (const toml::parse_error& error) {
        throw ModelError(std::vector<Problem>{
            {.address = {}, .message = fmt::format("not readable as TOML: {}", error.description()), .location = located(file, error.source().begin)}});
    }
}

}  // namespace firnfield
