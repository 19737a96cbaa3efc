// The reference of results: what stands in summary.json, in the answers of check and compare, by the descriptions of their fields.

#include <firnfield/keys.hpp>
#include <firnfield/version.hpp>

#include "findings/figures.hpp"
#include "findings/schema/inspection.hpp"
#include "io/json_rows.hpp"
#include "io/schema.hpp"

#include <fmt/format.h>

#include <map>
#include <typeindex>

namespace firnfield {
namespace {

/// Where each kind of row was told first, by its type: later ones refer to it.
struct Place {
    std::string key{}, table{};
};
using Told = std::map<std::type_index, Place>;

/// Visits the fields of a row and tells each, rows in it after their own field.
template <typename T>
class FieldTeller {
public:
    FieldTeller(std::vector<KeyRow>& out, Told& told, std::string prefix, std::string table)
        : out_(out), told_(told), prefix_(std::move(prefix)), table_(std::move(table)) {}
    [[nodiscard]] static bool all_kinds() { return true; }

    template <typename M>
    void text(M, const Field& field) {
        add(field, "text");
    }
    template <typename M>
    void text_or_null(M, const Field& field) {
        add(field, "text or null");
    }
    template <typename M>
    void texts(M, const Field& field) {
        add(field, "list of texts");
    }
    template <typename M>
    void flag(M, const Field& field) {
        add(field, "true or false");
    }
    template <typename M>
    void count(M, const Field& field) {
        add(field, "whole number");
    }
    template <typename M>
    void counts(M, const Field& field) {
        add(field, "list of whole numbers");
    }
    template <typename M>
    void copies(M member, const Field& field) {
        count(member, field);
    }
    template <typename M>
    void number(M, const Field& field) {
        add(field, "number");
    }
    template <typename M>
    void value(M, const QuantityKind& kind, const Field& field) {
        using Held = std::decay_t<std::invoke_result_t<M, const T&>>;
        add(field, std::string(kind.unit == "1" ? "number" : show_unit(kind)) + (is_optional<Held> ? " or null" : ""));
    }
    template <typename M>
    void measured(M, const QuantityKind&, const Field& field) {
        add(field, "number or null");
    }
    /// Of whatever kind the row says.
    template <typename M>
    void amount(M member, const QuantityKind&, const Field& field) {
        using Held = std::decay_t<std::invoke_result_t<M, const T&>>;
        static_cast<void>(member);
        add(field, std::string("number in the unit of `quantity`") + (is_optional<Held> ? ", or null" : ""));
    }
    template <typename M>
    void quantity(M, const Field& field) {
        add(field, "name of a kind of quantity");
    }
    template <typename M>
    void figure(M member, FigureKind kind, const Field& field, const QuantityKind* of = nullptr) {
        if (of != nullptr) return amount(member, *of, field);
        value(member, quantity_of(kind), field);
    }
    template <typename M>
    void figure_kind(M, const Field& field) {
        add(field, "word");
        add({.name = "unit"}, "text");
        add({.name = "better", .meaning = "1: larger is, −1: smaller is, 0: neither"}, "whole number");
    }
    template <typename M>
    void spot(M member, FigureKind, const Field& field, std::string_view = {}) {
        row(member, field);
    }
    template <typename M>
    void point(M, const Field& field) {
        add(field, is_optional<std::decay_t<std::invoke_result_t<M, const T&>>> ? "[x, y, z] in m, or null" : "[x, y, z] in m");
    }
    template <typename M, typename Flag>
    void place(M, Flag, const Field& field) {
        add(field, "[x, y, z] in m, or null");
    }
    template <typename M, std::size_t N>
    void word(M, const FieldWords<N>& words, const Field& field) {
        std::string takes;
        for (std::size_t i = 0; i < N; ++i) takes += fmt::format("{}\"{}\"", i == 0 ? "" : i + 1 == N ? " or " : ", ", words[i]);
        add(field, takes);
    }
    template <typename M>
    void factors(M, const Field& field) {
        add(field, "table of numbers");
    }
    template <typename M>
    void ends(M, M, const Field& field) {
        add({.name = "first"}, "text");
        add({.name = "second", .meaning = field.meaning}, "text");
    }
    template <typename M, typename... Tags>
    void row(M, const Field& field, Tags... tags) {
        using Held = std::decay_t<std::invoke_result_t<M, const T&>>;
        if constexpr (is_optional<Held>) {
            nested<typename Held::value_type>(field, "", ", or absent", tags...);
        } else {
            nested<Held>(field, "", "", tags...);
        }
    }
    template <typename M>
    void rows(M, const Field& field) {
        nested<typename std::decay_t<std::invoke_result_t<M, const T&>>::value_type>(field, "[]", "");
    }
    template <typename M, typename... Tags>
    void inside(M, Tags... tags) {
        using Inner = std::decay_t<std::invoke_result_t<M, const T&>>;
        FieldTeller<Inner> teller(out_, told_, prefix_, table_);
        fields(teller, Inner{}, tags...);
    }

private:
    void add(const Field& field, std::string takes) {
        out_.push_back({.name = prefix_ + std::string(field.name), .takes = std::move(takes), .meaning = std::string(field.meaning)});
    }
    template <typename Inner, typename... Tags>
    void nested(const Field& field, std::string_view brackets, std::string_view absent, Tags... tags) {
        const std::string name = prefix_ + std::string(field.name) + std::string(brackets), kind = brackets.empty() ? "table" : "list of tables";
        const auto [earlier, first] = told_.try_emplace(typeid(Inner), Place{name, table_});
        const std::string elsewhere = earlier->second.table == table_ ? "" : " of " + earlier->second.table;
        out_.push_back({.name = name,
                        .takes = kind + (first ? std::string() : fmt::format(" as `{}`{}", earlier->second.key, elsewhere)) + std::string(absent),
                        .meaning = std::string(field.meaning)});
        if (!first && sizeof...(Tags) == 0) return;
        FieldTeller<Inner> teller(out_, told_, name + ".", table_);
        fields(teller, Inner{}, tags...);
    }

    std::vector<KeyRow>& out_;
    Told& told_;
    std::string prefix_, table_;
};

template <typename T>
std::vector<KeyRow> rows_of(Told& told, const std::string& table, const std::string& prefix = {}) {
    std::vector<KeyRow> out;
    FieldTeller<T> teller(out, told, prefix, table);
    fields(teller, T{});
    return out;
}

std::vector<KeyTable> make_tables() {
    std::vector<KeyTable> out;
    Told told;
    KeyTable summary{.name = "summary", .meaning = "`summary.json` of `solve`, and what its `--json` prints", .rows = rows_of<Summary>(told, "summary")};
    summary.rows.insert(summary.rows.begin(), {.name = "format", .takes = "whole number", .meaning = "of this file"});
    summary.rows.push_back({.name = "studies[]", .takes = "list of tables", .meaning = "of steady studies and of those in time, as below"});
    out.push_back(std::move(summary));
    out.push_back({.name = "steady", .meaning = "a steady study of `studies[]`", .rows = rows_of<Findings>(told, "steady")});
    out.push_back({.name = "time", .meaning = "a transient or cyclic study of `studies[]`", .rows = rows_of<TimeFindings>(told, "time")});
    KeyTable figures{.name = "figures", .meaning = "kinds of figures"};
    for (std::size_t k = 0; k < figure_kinds; ++k) {
        const FigureInfo& kind = info(static_cast<FigureKind>(k));
        figures.rows.push_back(
            {.name = std::string(kind.word), .takes = kind.quantity->unit == "1" ? "number" : show_unit(*kind.quantity), .meaning = std::string(kind.meaning)});
    }
    out.push_back(std::move(figures));
    out.push_back({.name = "check", .meaning = "what `check --json` prints", .rows = rows_of<Inspection>(told, "check")});
    KeyTable comparison{.name = "comparison", .meaning = "`summary.json` of `compare`, and what its `--json` prints"};
    comparison.rows = {{.name = "firnfield", .takes = "text", .meaning = "version of the program"},
                       {.name = "format", .takes = "whole number", .meaning = "of this file"},
                       {.name = "title", .takes = "text"},
                       {.name = "base", .takes = "text", .meaning = "name of the design that others are compared with"},
                       {.name = "designs[]", .takes = "list of tables"}};
    for (KeyRow& row : rows_of<Outcome>(told, "comparison", "designs[].")) comparison.rows.push_back(std::move(row));
    comparison.rows.push_back({.name = "figures[]", .takes = "list of tables"});
    for (KeyRow& row : rows_of<ComparedFigure>(told, "comparison", "figures[].")) comparison.rows.push_back(std::move(row));
    comparison.rows.push_back({.name = "figures[].values", .takes = "list of numbers or nulls", .meaning = "of the designs, in their order"});
    comparison.rows.push_back(
        {.name = "figures[].errors", .takes = "list of numbers", .meaning = "how far the mesh lets each be off; 0 where that was not worked out"});
    comparison.rows.push_back({.name = "figures[].corrections", .takes = "list of numbers or nulls", .meaning = "what was added to what each mesh gives"});
    comparison.rows.push_back({.name = "figures[].differences", .takes = "list of numbers or nulls", .meaning = "to the base"});
    comparison.rows.push_back(
        {.name = "figures[].uncertain", .takes = "list of true or false", .meaning = "the difference is smaller than what the mesh leaves open of it"});
    comparison.rows.push_back({.name = "figures[].best", .takes = "text or null", .meaning = "design with the best value"});
    out.push_back(std::move(comparison));
    return out;
}

}  // namespace

const std::vector<KeyTable>& result_tables() {
    static const std::vector<KeyTable> tables = make_tables();
    return tables;
}

}  // namespace firnfield
