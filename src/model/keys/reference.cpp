// The reference of the model file, by the descriptions of its keys.

#include <firnfield/keys.hpp>

#include "model/figure_forms.hpp"
#include "model/keys/assembly.hpp"
#include "model/keys/model.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <type_traits>

namespace firnfield {
namespace {

template <std::size_t N>
std::string one_of(const Words<N>& words) {
    std::string out;
    for (std::size_t i = 0; i < N; ++i) out += fmt::format("{}\"{}\"", i == 0 ? "" : i + 1 == N ? " or " : ", ", words[i]);
    return out;
}

std::string quantity_name(const QuantityKind& kind) { return std::string(kind.name); }

std::string quantity_example(const QuantityKind& kind) { return kind.dimension == Dimension{} ? std::string() : fmt::format("\"{}\"", kind.example); }

/// Visits the keys of one table and makes a row of each.
template <typename T>
class RowMaker {
public:
    explicit RowMaker(std::vector<KeyRow>& rows, std::string prefix = {}) : rows_(rows), prefix_(std::move(prefix)) {}

    [[nodiscard]] static bool one_kind() { return false; }
    /// Both forms: the second is the usual one, and what only one of them requires is not required.
    template <typename First, typename Second>
    void either(std::string_view name, bool, const First& first, const Second& second) {
        const std::size_t begin = rows_.size();
        second();
        const std::vector<KeyRow> usual(rows_.begin() + static_cast<std::ptrdiff_t>(begin), rows_.end());
        rows_.resize(begin);
        first();
        std::vector<KeyRow> other(rows_.begin() + static_cast<std::ptrdiff_t>(begin), rows_.end());
        rows_.resize(begin);
        const auto has = [](const std::vector<KeyRow>& list, const std::string& row) {
            return std::any_of(list.begin(), list.end(), [&](const KeyRow& r) { return r.name == row; });
        };
        for (KeyRow row : usual) {
            if (row.required) row.usual = fmt::format("needed where no `{}` is given", name);
            row.required = false;
            rows_.push_back(std::move(row));
        }
        for (KeyRow& row : other) {
            if (has(usual, row.name)) continue;
            row.required = false;
            rows_.push_back(std::move(row));
        }
    }

    void text(std::string T::*member, const Key& key) { add(key, "text", {}, (usual_.*member).empty() ? "" : fmt::format("\"{}\"", usual_.*member)); }
    void texts(std::vector<std::string> T::*, const Key& key) { add(key, "one text or a list of them"); }
    void pair(std::array<std::string, 2> T::*, const Key& key) { add(key, "two texts"); }
    void optional_pair(std::optional<std::array<std::string, 2>> T::*, const Key& key) { add(key, "two texts"); }
    void flag(bool T::*member, const Key& key) { add(key, "true or false", {}, usual_.*member ? "true" : "false"); }
    void flag(std::optional<bool> T::*, const Key& key) { add(key, "true or false"); }
    template <typename Whole>
    void integer(Whole T::*member, const Key& key) {
        add(key, "whole number", {}, fmt::format("{}", usual_.*member));
    }
    void quantity(double T::*member, const QuantityKind& kind, const Key& key) {
        add(key, quantity_name(kind), quantity_example(kind), usual_.*member == 0.0 ? "0" : write_quantity(usual_.*member, kind));
    }
    void quantity(std::optional<double> T::*, const QuantityKind& kind, const Key& key) { add(key, quantity_name(kind), quantity_example(kind)); }
    void threshold(std::optional<Threshold> T::*, bool, const Key& key) {
        add(key, "temperature; of a figure whatever it is, with its unit", quantity_example(kinds::temperature));
    }
    void quantities(std::vector<double> T::*, const QuantityKind& kind, const Key& key) {
        add(key, quantity_name(kind) + ", or a list", quantity_example(kind));
    }
    void curve(Curve T::*, const QuantityKind& at, const QuantityKind& value, const Key& key) {
        add(key, fmt::format("curve of {} over {}", value.dimension == Dimension{} ? "factors" : value.name, at.name), curve_example(at, value));
    }
    template <typename Point>
    void point(Point T::*, const Key& key) {
        add(key, "three lengths", "[10, 20, 5]", std::is_same_v<Point, Vec3> ? "[0, 0, 0]" : "");
    }
    template <typename Choice, std::size_t N>
    void word(Choice T::*member, const Words<N>& words, const Key& key) {
        std::string usual;
        if constexpr (!std::is_same_v<Choice, std::optional<bool>> && !std::is_same_v<Choice, std::optional<int>>)
            usual = fmt::format("\"{}\"", words[static_cast<std::size_t>(usual_.*member)]);
        Key row = key;
        row.example = {};  // the words say it
        add(row, one_of(words), {}, usual);
    }
    void direction(Vec3 T::*, const Key& key) { add(key, "direction", "\"-z\" or [1, 1, 0]", "\"+z\""); }
    void direction(std::optional<Vec3> T::*, const Key& key) { add(key, "direction", "\"-z\" or [1, 1, 0]"); }
    void directions(std::vector<Vec3> T::*, const Key& key) { add(key, "one direction or a list of them", "\"-z\" or [1, 1, 0]"); }
    template <typename Inner>
    void table(std::optional<Inner> T::*, const Key& key) {
        add(key, "table");
        nested<Inner>(key);
    }
    template <typename Inner>
    void tables(std::vector<Inner> T::*, const Key& key) {
        add(key, "one table or a list of them");
        nested<Inner>(key);
    }
    template <typename Inner>
    void inside(Inner T::*) {
        RowMaker<held_type<Inner>> inner(rows_, prefix_);
        describe(inner, held_type<Inner>{});
    }
    void shape(Shape T::*, const Key& key) { add(key, "name of a shape", "\"cylinder\""); }
    void shapes(std::vector<Shape> T::*, const Key& key) { add(key, "one shape or a list of them"); }
    void region(std::optional<Shape> T::*, const Key& key) { add(key, "shape"); }
    void radius(double T::*, const std::string& prefix, const Key& key) {
        const std::string radius = prefix + "radius", diameter = prefix + "diameter";
        Key first = key;
        first.name = diameter;
        first.meaning = "its diameter";
        add(first, "length", quantity_example(kinds::length));
        Key second = key;
        second.name = radius;
        second.required = false;
        add(second, "length", quantity_example(kinds::length));
    }
    void outline(Outline T::*, const Key& key) { add(key, "list of corners"); }
    void outlines(std::vector<Outline> T::*, const Key& key) { add(key, "list of outlines"); }
    void surface_file(const Words<4>& keys) {
        add({.name = keys[0], .meaning = "path, relative to the model file", .example = "\"cover.stl\"", .required = true}, "text");
        add({.name = keys[1], .meaning = "unit of the lengths in the file", .required = true}, "\"mm\", \"cm\", \"m\", \"in\" or \"um\"");
        add({.name = keys[2],
             .meaning = "which of several bodies of the file, by number or by the name of its `solid`",
             .usual = "all: each is a copy of the part"},
            "whole number or text");
        add({.name = keys[3], .meaning = "checksum that the program writes; a file with another one is refused"}, "text");
    }
    void cad_file(const Words<4>& keys) {
        add({.name = keys[0], .meaning = "path, relative to the model file", .example = "\"case.step\"", .required = true}, "text");
        add({.name = keys[1], .meaning = "name of the solid in the file, as `firnfield surface` lists them", .example = "\"lid\"", .required = true}, "text");
        add({.name = keys[2], .meaning = "which of the copies that the file has of it, by number", .usual = "all: each is a copy of the part"},
            "list of whole numbers");
        add({.name = keys[3], .meaning = "checksum that the program writes; a file with another one is refused"}, "text");
    }
    void text_table(std::vector<std::pair<std::string, std::string>> T::*, const Key& key) { add(key, "table from text to text"); }
    void planes(std::array<std::vector<double>, 3> T::*, const Key& key) { add(key, "table of lists of lengths"); }
    template <typename Rule>
    void on(Rule T::*, const Key& key) {
        add(key, "`\"exposed\"`, names of surfaces, or a rule");
    }
    void value_or_curve(std::optional<double> T::*, Curve T::*, const QuantityKind& kind, std::string_view, std::string_view, const Key& key) {
        add(key, quantity_name(kind) + ", or a curve", quantity_example(kind));
    }
    void conductivity(const Key& key) { add(key, "thermal conductivity, three of them, or a curve"); }
    void property(Curve T::*, const QuantityKind& kind, const Key& key) { add(key, quantity_name(kind) + ", or a curve", quantity_example(kind)); }
    void film(std::optional<double> T::*, Curve T::*, std::optional<ConvectionLaw> T::*, const Key& key) {
        add(key, "heat transfer coefficient, a curve, or a law", quantity_example(kinds::heat_transfer_coefficient));
    }
    void emissivity(const Key& key) { add(key, "number, a curve, or `\"material\"`"); }
    void range(std::optional<double> T::*, std::optional<double> T::*, const Key& key) { add(key, "two temperatures"); }
    void ends(std::optional<std::array<double, 2>> T::*, const QuantityKind& kind, const Key& key) {
        add(key, kind.absolute_temperature ? "two temperatures" : fmt::format("two values of {}", quantity_name(kind)));
    }
    template <std::size_t N>
    void course(const std::array<Key, N>& keys) {
        for (const Key& key : keys) {
            const bool time = key.name == "on" || key.name == "off" || key.name == "delay" || key.name == "ramp",
                       table = key.name == "csv" || key.name == "sine";
            const bool list = key.name == "points" || key.name == "temperatures";
            add(key,
                time                   ? "time"
                : table                ? "table"
                : list                 ? "list of pairs"
                : key.name == "cycles" ? "whole number"
                                       : "number or temperature",
                time ? "\"60 s\"" : "");
        }
    }
    void factors(std::map<std::string, double> T::*, const Key& key) { add(key, "table of numbers"); }
    void start(const Key& key) { add(key, "temperature, or a table"); }

private:
    static std::string curve_example(const QuantityKind& at, const QuantityKind& value) {
        const auto quoted = [](const QuantityKind& kind) { return kind.dimension == Dimension{} ? std::string("1") : fmt::format("\"{}\"", kind.example); };
        return fmt::format("{{ at = [{}, …], value = [{}, …] }}", quoted(at), quoted(value));
    }
    template <typename Inner>
    void nested(const Key& key) {
        RowMaker<Inner> inner(rows_, prefix_ + std::string(key.name) + ".");
        describe(inner, Inner{});
    }
    void add(const Key& key, std::string takes, std::string example = {}, std::string usual = {}) {
        rows_.push_back({.name = prefix_ + std::string(key.name),
                         .takes = std::move(takes),
                         .example = key.example.empty() ? std::move(example) : std::string(key.example),
                         .usual = !key.usual.empty() ? std::string(key.usual)
                                  : key.required     ? std::string()
                                                     : std::move(usual),
                         .required = key.required && key.usual.empty(),
                         .meaning = std::string(key.meaning)});
    }

    const T usual_{};
    std::vector<KeyRow>& rows_;
    std::string prefix_;
};

template <typename T>
std::vector<KeyRow> rows_of() {
    std::vector<KeyRow> rows;
    RowMaker<T> maker(rows);
    describe(maker, T{});
    return rows;
}

/// Visits the tables of a model.
class TableLister {
public:
    explicit TableLister(std::vector<KeyTable>& tables) : tables_(tables) {}
    void text(std::string Model::*, const Key& key) {
        tables_.push_back({"file",
                           "",
                           "at the top of the file",
                           {{.name = "firnfield", .takes = "1", .required = true, .meaning = "version of the format"},
                            {.name = std::string(key.name), .takes = "text", .meaning = std::string(key.meaning)}}});
    }
    void units() {
        tables_.push_back({"units",
                           "[units]",
                           "units of bare numbers, and those that answers are told in",
                           {{.name = "length", .takes = "unit", .example = "\"mm\"", .meaning = "unit of bare numbers for lengths"},
                            {.name = "temperature", .takes = "unit", .example = "\"degC\"", .meaning = "unit of bare numbers for temperatures"},
                            {.name = "answers",
                             .takes = "units",
                             .example = "\"in, degF\"",
                             .meaning = "units that text, pictures, pages and CSV files are told in, where they are not those of bare numbers"}}});
    }
    template <typename Inner>
    void table(Inner Model::*, const Key& key) {
        add<Inner>(key, fmt::format("[{}]", key.name));
    }
    template <typename Inner>
    void table(std::optional<Inner> Model::*, const Key& key) {
        add<Inner>(key, fmt::format("[{}]", key.name));
    }
    template <typename Inner>
    void tables(std::vector<Inner> Model::*, const Key& key) {
        add<Inner>(key, fmt::format("[[{}]]", key.name));
    }

private:
    template <typename Inner>
    void add(const Key& key, std::string head) {
        tables_.push_back({std::string(key.name), std::move(head), std::string(key.meaning), rows_of<Inner>()});
    }
    std::vector<KeyTable>& tables_;
};

std::vector<KeyTable> make_tables() {
    std::vector<KeyTable> tables;
    TableLister lister(tables);
    describe(lister, Model{});
    // Read where designs are made, by hand: their values are any of those above.
    const auto by_hand = [&](std::string name, std::string head, std::string meaning, std::vector<KeyRow> rows) {
        tables.push_back({std::move(name), std::move(head), std::move(meaning), std::move(rows)});
    };
    by_hand(
        "parameters", "[parameters]", "named quantities that values of the file are written in",
        {{.name = "NAME", .takes = "quantity, number or expression, or a table", .example = "\"0.5 mm\"", .meaning = "its value"},
         {.name = "NAME.value", .takes = "quantity, number or expression", .required = true, .meaning = "in a table: the nominal value, beside its tolerance"},
         {.name = "NAME.uniform", .takes = "of the kind of the value", .meaning = "half width of a uniform distribution"},
         {.name = "NAME.normal", .takes = "of the kind of the value", .meaning = "standard deviation of a normal distribution"}});
    by_hand("assembly", "[[assembly]]", "parts from a STEP file", rows_of<Assembly>());
    by_hand("variant", "[[variant]]", "a design made from this file by changes",
            {{.name = "name", .takes = "text", .required = true, .meaning = "by which `--variant` and `compare` refer to it"},
             {.name = "from", .takes = "text", .usual = "the file as it stands", .meaning = "an earlier variant that it builds on"},
             {.name = "note", .takes = "text", .meaning = "a remark"},
             {.name = "change", .takes = "table from address to value", .required = true, .meaning = "keys that differ, and their values"}});
    by_hand("sweep", "[[sweep]]", "designs over a range of values",
            {{.name = "name", .takes = "text", .required = true, .meaning = "first part of the names of its points"},
             {.name = "from", .takes = "text", .usual = "the file as it stands", .meaning = "a variant that it builds on"},
             {.name = "note", .takes = "text", .meaning = "a remark"},
             {.name = "over",
              .takes = "table of one or two addresses, each with a list of values or `{ from, to, count, spacing }`",
              .required = true,
              .meaning = "values that are swept; `spacing` is `\"even\"` or `\"log\"`"}});
    const auto in_place = [&](std::string name, std::string meaning, std::vector<KeyRow> rows) {
        tables.push_back({std::move(name), "", std::move(meaning), std::move(rows)});
    };
    std::vector<KeyRow> addresses;
    for (const TermInfo& term : figure_terms()) {
        const std::string name =
            term.of == TermOf::product ? std::string(term.word) : fmt::format("{}.NAME{}{}", word_of(term.of), term.word.empty() ? "" : ".", term.word);
        addresses.push_back({.name = name,
                             .takes = std::string(term.quantity->name),
                             .meaning = std::string(term.meaning) + (term.wildcard ? "; NAME may be a wildcard" : "")});
    }
    for (const RunInfo& info : run_figures())
        addresses.push_back({.name = std::string(info.form),
                             .takes = info.quantity == nullptr ? "as ADDRESS" : std::string(info.quantity->name),
                             .meaning = std::string(info.meaning)});
    in_place("address", "what a figure can be made of; from `highest of` on of a run as a whole", std::move(addresses));
    in_place("rule", "a rule in place, `on = { … }`", rows_of<Selection>());
    tables.back().rows.push_back({.name = "rest", .takes = "true or false", .usual = "false", .meaning = "only surfaces that no other cooling or hold claims"});
    in_place("law", "a correlation, `convection = { law = … }`, in joints `coefficient = { law = … }`", rows_of<ConvectionLaw>());
    in_place("box", "shape", rows_of<Box>());
    in_place("cylinder", "shape", rows_of<Cylinder>());
    in_place("tube", "shape", rows_of<Tube>());
    in_place("sphere", "shape", rows_of<Sphere>());
    in_place("cone", "shape", rows_of<Cone>());
    in_place("prism", "shape", rows_of<Prism>());
    in_place("revolution", "shape", rows_of<Revolution>());
    in_place("stl", "shape", rows_of<Solid>());
    in_place("step", "shape", rows_of<CadSolid>());
    return tables;
}

}  // namespace

const std::vector<KeyTable>& key_tables() {
    static const std::vector<KeyTable> tables = make_tables();
    return tables;
}

}  // namespace firnfield
