/// Reading TOML tables key by key, collecting every mistake with its place instead of stopping at the first.
#pragma once

#include <firnfield/curve.hpp>
#include <firnfield/error.hpp>
#include <firnfield/geometry.hpp>
#include <firnfield/model.hpp>
#include <firnfield/quantity.hpp>

#include "io/parameters.hpp"

#include <filesystem>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <span>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#define TOML_HEADER_ONLY 0
#include <toml++/toml.h>

namespace firnfield {

class CadFiles;

/// What is shared by all tables of one file: its name, units of bare numbers, mistakes so far, and where things stand.
class Reading {
public:
    /// `cad`: where CAD files that the tables name are kept; null where they cannot name any.
    explicit Reading(std::string file, std::shared_ptr<CadFiles> cad = nullptr) : file_(std::move(file)), cad_(std::move(cad)) {}

    std::string length_unit, temperature_unit;  ///< of bare numbers; empty: bare numbers are refused
    Parameters parameters{};

    void report(const toml::source_region& where, std::string message);
    /// Marks a place, and the entry of the model that `address` belongs to ("part[2]" for "part[2].size"), as misread.
    void mark_misread(const std::string& address, const toml::source_region& where);
    /// Whether what `address` names may be a placeholder for something misread, so that validating it is moot.
    [[nodiscard]] bool is_misread(const std::string& address) const;
    /// True on the first call: a missing [units] would else be told for every number of the file.
    [[nodiscard]] bool first_bare_number() { return std::exchange(first_bare_number_, false); }
    /// Remembers where an address of the model stands, for mistakes found later.
    void place(const std::string& address, const toml::source_region& where) { places_[address] = where.begin; }
    /// Reports a mistake by its address in the model; falls back to the nearest enclosing place that is known.
    void report_at_address(const Problem& problem);
    /// The value of an expression, of the dimension wanted; tells what is wrong otherwise.
    std::optional<double> evaluate(const toml::node& node, const std::string& expression, const QuantityKind& kind);
    /// A file that the model names. Throws FileError where the model is a text without a file: such a text opens nothing.
    [[nodiscard]] std::filesystem::path named_file(const std::string& name) const;
    [[nodiscard]] CadFiles& cad_files() { return *cad_; }
    /// Parts are missing because of what was reported: to validate the rest would tell of nothing else.
    void leave_unchecked() { unchecked_ = true; }
    [[nodiscard]] bool is_left_unchecked() const { return unchecked_; }
    [[nodiscard]] std::size_t mistakes() const { return problems_.size(); }
    /// All mistakes in the order of the file, as a ModelError; nothing when there is none.
    void throw_if_any() const;

private:
    static std::string entry_of(const std::string& address) { return address.substr(0, address.find('.')); }
    /// Where an address stands, or the nearest enclosing one that is known.
    [[nodiscard]] toml::source_position find_place(std::string address) const;

    struct Located {
        toml::source_position where;
        std::string message;
    };
    std::string file_;
    std::shared_ptr<CadFiles> cad_;
    std::vector<Located> problems_;
    std::map<std::string, toml::source_position> places_;
    std::set<std::string> misread_entries_;
    std::set<std::pair<toml::source_index, toml::source_index>> misread_places_;  // line, column
    bool first_bare_number_ = true, unchecked_ = false;
};

/// One table; keys that nobody asked for are mistakes.
class Fields {
public:
    /// `what` names the table in messages, for example "[[part]]".
    Fields(const toml::table& table, std::string address, std::string what, Reading& reading);

    [[nodiscard]] const std::string& address() const { return address_; }
    [[nodiscard]] const toml::source_region& where() const { return table_.source(); }
    [[nodiscard]] bool has(std::string_view key);

    /// The node of a key, or nullptr; the key counts as known from here on.
    const toml::node* node(std::string_view key);
    void require(std::string_view key, std::string_view example);

    /// A text; an empty one, or one of several lines, is a mistake unless it `may_be_empty`, as a title or a note.
    std::optional<std::string> text(std::string_view key, bool may_be_empty = false);
    std::optional<double> quantity(std::string_view key, const QuantityKind& kind);
    /// A quantity of any kind that has a name: a number without a unit is a plain number.
    std::optional<Threshold> any_quantity(std::string_view key);
    /// One quantity or a list of them.
    std::vector<double> quantities(std::string_view key, const QuantityKind& kind);
    std::optional<bool> flag(std::string_view key);
    std::optional<long long> integer(std::string_view key);
    /// A table { at = […], value = […] }; an empty curve when the key is missing or mistaken.
    Curve curve(std::string_view key, const QuantityKind& at, const QuantityKind& value);
    /// Three lengths.
    std::optional<Vec3> point(std::string_view key);
    /// One string or a list of them.
    std::vector<std::string> texts(std::string_view key);
    /// One of a few words; returns its place in the list.
    std::optional<std::size_t> word(std::string_view key, std::span<const std::string_view> words);
    /// Calls `read` for every table of `[[key]]`, or of an inline list of tables; a single inline table counts as one.
    void tables(std::string_view key, bool inline_single, const std::function<void(Fields&, std::size_t)>& read);
    /// Calls `read` when the key holds a table.
    void table(std::string_view key, const std::function<void(Fields&)>& read);

    /// A quantity from a node: a string with a unit, or a bare number where that is allowed.
    std::optional<double> quantity_of(const toml::node& node, const QuantityKind& kind, const std::string& address);
    std::optional<Vec3> point_of(const toml::node& node, const std::string& address);
    /// Whether a text is free of control characters, ends of `lines` and tabs apart where they may be; reports it otherwise.
    bool is_plain_text(const toml::node& node, const std::string& text, bool lines = false);
    void report(const toml::node& node, std::string message);
    void report_here(std::string message);

    /// Reports the keys that nobody asked for. Call once, at the end.
    void finish();

    Reading& reading() { return reading_; }

private:
    const toml::table& table_;
    std::string address_, what_;
    Reading& reading_;
    std::vector<std::string> known_;
};

/// "a string", "a whole number", … for messages.
[[nodiscard]] std::string_view describe_type(const toml::node& node);

/// Clamped to what an int holds: validation tells what is too large.
[[nodiscard]] int to_int(long long value);

/// Parses TOML text. Throws ModelError with the place of the first syntax mistake.
[[nodiscard]] toml::table parse_toml(std::string_view text, const std::string& file);

}  // namespace firnfield
