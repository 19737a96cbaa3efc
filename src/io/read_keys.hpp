/// Reads the tables of a model file by the descriptions of their keys.
#pragma once

#include <firnfield/model.hpp>

#include "io/course_fields.hpp"
#include "io/shape_fields.hpp"
#include "io/toml_fields.hpp"
#include "model/keys/model.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <string>
#include <type_traits>
#include <utility>

namespace firnfield {

/// Visits the keys of one table and puts what they hold into `out`.
template <typename T>
class KeyReader;

/// What a table holds; keys that its description does not name are mistakes.
template <typename T>
[[nodiscard]] T read_keys(Fields& fields) {
    T out{};
    KeyReader<T> reader(fields, out);
    describe(reader, out);
    return out;
}

template <typename T>
class KeyReader {
public:
    KeyReader(Fields& fields, T& out) : fields_(fields), out_(out) {}

    template <typename First, typename Second>
    void either(std::string_view name, bool, const First& first, const Second& second) {
        fields_.node(name) != nullptr ? first() : second();
    }
    [[nodiscard]] static bool one_kind() { return true; }

    void text(std::string T::*member, const Key& key) {
        require(key);
        if (auto text = fields_.text(key.name, key.lines)) out_.*member = *std::move(text);
    }
    void texts(std::vector<std::string> T::*member, const Key& key) {
        require(key);
        out_.*member = fields_.texts(key.name);
    }
    void pair(std::array<std::string, 2> T::*member, const Key& key) {
        require(key);
        const std::vector<std::string> two = fields_.texts(key.name);
        if (two.size() == 2) {
            out_.*member = {two[0], two[1]};
        } else if (const toml::node* node = fields_.node(key.name)) {
            fields_.report(*node, fmt::format("{} takes two parts, as in {}; found {}", key.name, key.example, two.size()));
        }
    }
    void optional_pair(std::optional<std::array<std::string, 2>> T::*member, const Key& key) {
        const toml::node* node = fields_.node(key.name);
        if (node == nullptr) return;
        const std::vector<std::string> two = fields_.texts(key.name);
        if (two.size() == 2) {
            out_.*member = {two[0], two[1]};
        } else {
            fields_.report(*node, fmt::format("{} takes two parts, as in {}; found {}", key.name, key.example, two.size()));
        }
    }
    template <typename Flag>  // bool, or an optional one
    void flag(Flag T::*member, const Key& key) {
        if (const auto value = fields_.flag(key.name)) out_.*member = *value;
    }
    template <typename Whole>
    void integer(Whole T::*member, const Key& key) {
        require(key);
        const auto value = fields_.integer(key.name);
        if (!value) return;
        if constexpr (std::is_same_v<Whole, int>) {
            out_.*member = to_int(*value);
        } else {
            out_.*member = *value;
        }
    }
    template <typename Number>  // double, or an optional one
    void quantity(Number T::*member, const QuantityKind& kind, const Key& key) {
        require(key);
        if (const auto value = fields_.quantity(key.name, kind)) {
            out_.*member = *value;
        } else if (key.stand_in != 0.0) {
            out_.*member = key.stand_in;
        }
    }
    /// A temperature; of a figure a quantity of whatever kind it has.
    void threshold(std::optional<Threshold> T::*member, bool of_figure, const Key& key) {
        if (of_figure) {
            out_.*member = fields_.any_quantity(key.name);
        } else if (const auto value = fields_.quantity(key.name, kinds::temperature)) {
            out_.*member = *value;
        }
    }
    void quantities(std::vector<double> T::*member, const QuantityKind& kind, const Key& key) {
        out_.*member = fields_.quantities(key.name, kind);
        const toml::node* node = fields_.node(key.name);
        if (node != nullptr && node->is_array() && node->as_array()->empty())
            fields_.report(*node, fmt::format("{} is an empty list; leave the key out or give values", key.name));
    }
    void curve(Curve T::*member, const QuantityKind& at, const QuantityKind& value, const Key& key) {
        Curve curve = fields_.curve(key.name, at, value);
        if (fields_.has(key.name)) out_.*member = std::move(curve);
    }
    template <typename Point>  // Vec3, or an optional one
    void point(Point T::*member, const Key& key) {
        require(key);
        if (const auto at = fields_.point(key.name)) {
            out_.*member = *at;
        } else if (key.stand_in != 0.0) {
            out_.*member = Vec3{key.stand_in, key.stand_in, key.stand_in};
        }
    }
    /// Words stand for the values of an enumeration, for no and yes, or for axes.
    template <typename Choice, std::size_t N>
    void word(Choice T::*member, const Words<N>& words, const Key& key) {
        require(key);
        const auto index = fields_.word(key.name, words);
        if (!index) return;
        if constexpr (std::is_same_v<Choice, bool> || std::is_same_v<Choice, std::optional<bool>>) {
            out_.*member = *index == 1;
        } else if constexpr (std::is_same_v<Choice, std::optional<int>>) {
            out_.*member = static_cast<int>(*index);
        } else {
            out_.*member = static_cast<Choice>(*index);
        }
    }
    void direction(Vec3 T::*member, const Key& key) {
        require(key);
        if (const auto direction = read_direction(fields_, key.name)) out_.*member = *direction;
    }
    void direction(std::optional<Vec3> T::*member, const Key& key) { out_.*member = read_direction(fields_, key.name); }
    void directions(std::vector<Vec3> T::*member, const Key& key) { out_.*member = read_directions(fields_, key.name); }

    /// A table in place, or one of the file.
    template <typename Inner>
    void table(Inner T::*member, const Key& key) {
        fields_.table(key.name, [&](Fields& fields) { out_.*member = read_keys<held_type<Inner>>(fields); });
    }
    template <typename Inner>
    void tables(std::vector<Inner> T::*member, const Key& key) {
        fields_.tables(key.name, !fields_.address().empty(), [&](Fields& fields, std::size_t) { (out_.*member).push_back(read_keys<Inner>(fields)); });
    }
    /// Keys of something else that stand among this table's own.
    template <typename Inner>
    void inside(Inner T::*member) {
        out_.*member = read_keys<held_type<Inner>>(fields_);
    }

    void shape(Shape T::*member, const Key&) { out_.*member = read_shape(fields_); }
    void shapes(std::vector<Shape> T::*member, const Key& key) {
        fields_.tables(key.name, true, [&](Fields& fields, std::size_t) { (out_.*member).push_back(read_shape(fields)); });
    }
    void region(std::optional<Shape> T::*member, const Key& key) {
        fields_.table(key.name, [&](Fields& fields) { out_.*member = read_shape(fields); });
    }
    void radius(double T::*member, const std::string& prefix, const Key& key) { out_.*member = read_radius(fields_, prefix, key).value_or(key.stand_in); }
    void outline(Outline T::*member, const Key& key) {
        require(key);
        out_.*member = read_outline(fields_, key.name);
    }
    void outlines(std::vector<Outline> T::*member, const Key& key) { out_.*member = read_outlines(fields_, key.name); }
    void surface_file(const Words<4>&) { read_surface_file(fields_, out_); }
    void cad_file(const Words<4>&) { read_cad_file(fields_, out_); }
    void text_table(std::vector<std::pair<std::string, std::string>> T::*member, const Key& key) { out_.*member = read_text_table(fields_, key.name); }
    void planes(std::array<std::vector<double>, 3> T::*member, const Key& key) {
        fields_.table(key.name, [&](Fields& fields) {
            for (const std::size_t axis : {0U, 1U, 2U}) (out_.*member)[axis] = fields.quantities(axis_words[axis], kinds::length);
        });
    }

    /// `on = "exposed"`, `on = "a surface"`, `on = ["several", "surfaces"]`, or a rule in place.
    template <typename Rule>
    void on(Rule T::*member, const Key& key) {
        require(key);
        if (!fields_.has(key.name)) {
            fields_.node(key.name);
            return;
        }
        Selection pick;
        if (fields_.node(key.name)->is_table()) {
            fields_.table(key.name, [&](Fields& rule) {
                pick = read_keys<Selection>(rule);
                pick.rest = rule.flag("rest").value_or(false);
            });
        } else {
            pick.surfaces = fields_.texts(key.name);
            if (std::find(pick.surfaces.begin(), pick.surfaces.end(), "exposed") != pick.surfaces.end()) {
                if (pick.surfaces.size() > 1) fields_.report(*fields_.node(key.name), "\"exposed\" is everything that no other rule claims; it stands alone");
                pick.surfaces.clear();
                pick.rest = true;
            }
        }
        out_.*member = std::move(pick);
    }

    /// A value, or a curve: then its first value, and factors on it.
    template <typename Number>
    void value_or_curve(Number T::*member, Curve T::*factor, const QuantityKind& kind, std::string_view what, std::string_view factor_name, const Key& key) {
        require(key);
        const toml::node* node = fields_.node(key.name);
        if (node == nullptr || !node->is_table()) {
            if (const auto value = fields_.quantity(key.name, kind)) out_.*member = *value;
            return;
        }
        if (auto [first, factors] = read_as_factors(*node, kind, what, factor_name, key); !factors.empty()) {
            out_.*member = first;
            out_.*factor = std::move(factors);
        }
    }
    /// Of a material: a value or a curve, or three values.
    void conductivity(const Key& key) {
        require(key);
        const toml::node* node = fields_.node(key.name);
        if (node == nullptr) return;
        if (node->is_table()) {
            if (auto [first, factors] = read_as_factors(*node, kinds::conductivity, "a conductivity", "conductivity_factor", key); !factors.empty()) {
                out_.conductivity = isotropic(first);
                out_.conductivity_factor = std::move(factors);
            }
            return;
        }
        const std::string address = fmt::format("{}.{}", fields_.address(), key.name);
        const toml::array* list = node->as_array();
        if (list == nullptr) {
            if (const auto k = fields_.quantity_of(*node, kinds::conductivity, address)) out_.conductivity = isotropic(*k);
        } else if (list->size() != 3) {
            fields_.report(*node, fmt::format("a conductivity is one value, or three along x, y, z; found {}", list->size()));
        } else {
            for (std::size_t axis = 0; axis < 3; ++axis) {
                if (const auto k = fields_.quantity_of((*list)[axis], kinds::conductivity, address)) out_.conductivity[axis] = *k;
            }
        }
    }
    /// A value or a curve over temperature, kept as a curve.
    void property(Curve T::*member, const QuantityKind& kind, const Key& key) {
        fields_.require(key.name, fmt::format("\"{}\"", kind.example));
        const toml::node* node = fields_.node(key.name);
        if (node != nullptr && node->is_table()) {
            out_.*member = fields_.curve(key.name, kinds::temperature, kind);
        } else if (const auto value = fields_.quantity(key.name, kind)) {
            out_.*member = {{zero_celsius}, {*value}};
        }
    }
    /// A coefficient of heat transfer: a value, a curve over the difference, or a law.
    void film(std::optional<double> T::*constant, Curve T::*curve, std::optional<ConvectionLaw> T::*law, const Key& key) {
        const toml::node* node = fields_.node(key.name);
        if (node == nullptr) return;
        if (!node->is_table()) {
            out_.*constant = fields_.quantity(key.name, kinds::heat_transfer_coefficient);
        } else if (node->as_table()->contains("at")) {
            out_.*curve = fields_.curve(key.name, kinds::temperature_difference, kinds::heat_transfer_coefficient);
        } else {
            table(law, key);
            // Around a product there is air; what is stirred in it can be anything.
            if (std::is_same_v<T, Joint> && !node->as_table()->contains("fluid"))
                fields_.report(*node, "the law of a joint needs a fluid, the one that is stirred: fluid = \"water\"");
        }
    }
    void emissivity(const Key& key) {
        const toml::node* node = fields_.node(key.name);
        if (node != nullptr && node->is_table()) {
            out_.emissivity_curve = fields_.curve(key.name, kinds::temperature, kinds::number);
        } else if (node != nullptr && node->is_string() && !is_expression(*node->value<std::string>())) {
            out_.material_emissivity = fields_.word(key.name, Words<1>{"material"}).has_value();
        } else {
            out_.emissivity = fields_.quantity(key.name, kinds::number);
        }
    }
    /// Two temperatures, the lower one first.
    void range(std::optional<double> T::*from, std::optional<double> T::*to, const Key& key) {
        const toml::node* node = fields_.node(key.name);
        if (node == nullptr) return;
        const toml::array* ends = node->as_array();
        if (ends == nullptr || ends->size() != 2) return fields_.report(*node, fmt::format("{} takes two temperatures, as in {}", key.name, key.example));
        const std::string address = fmt::format("{}.{}", fields_.address(), key.name);
        out_.*from = fields_.quantity_of((*ends)[0], kinds::temperature, address);
        out_.*to = fields_.quantity_of((*ends)[1], kinds::temperature, address);
        if (out_.*from && out_.*to && !(*(out_.*from) < *(out_.*to))) fields_.report(*node, "the lower end of a validity range comes first");
    }
    void ends(std::optional<std::array<double, 2>> T::*member, const QuantityKind& kind, const Key& key) {
        const toml::node* node = fields_.node(key.name);
        if (node == nullptr) return;
        const std::vector<double> two = fields_.quantities(key.name, kind);
        if (two.size() == 2 && two[0] < two[1]) {
            out_.*member = {two[0], two[1]};
        } else {
            fields_.report(*node, fmt::format("{} takes the lowest and the highest {} of the colour scale, as in {}", key.name, kind.name, key.example));
        }
    }
    template <std::size_t N>
    void course(const std::array<Key, N>&) {
        read_course(fields_, out_);
    }
    void factors(std::map<std::string, double> T::*member, const Key& key) { out_.*member = read_factors(fields_, key.name); }
    void start(const Key& key) { out_.start = read_start(fields_, key.name); }
    void units() {}

private:
    void require(const Key& key) {
        if (key.required) fields_.require(key.name, key.example);
    }

    /// A curve as its first value and factors on it; no factors where it is mistaken.
    std::pair<double, Curve> read_as_factors(const toml::node& node, const QuantityKind& kind, std::string_view what, std::string_view factor_name,
                                             const Key& key) {
        Curve curve = fields_.curve(key.name, kinds::temperature, kind);
        if (fields_.has(factor_name)) fields_.report(node, fmt::format("give {} as a curve, or one value and {}, not both", what, factor_name));
        if (curve.empty()) return {};
        const double first = curve.value.front();
        if (!(first > 0.0)) {
            fields_.report(node, fmt::format("{} must be positive, found {} at the first point of its curve", what, write_quantity(first, kind)));
            return {};
        }
        for (double& value : curve.value) value /= first;
        return {first, std::move(curve)};
    }

    Fields& fields_;
    T& out_;
};

}  // namespace firnfield
