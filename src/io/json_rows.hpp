/// Rows of findings as JSON and back, by the descriptions of their fields (findings/schema).
#pragma once

#include "findings/schema/field.hpp"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>
#include <optional>
#include <stdexcept>
#include <string>
#include <type_traits>
#include <utility>
#include <vector>

namespace firnfield {

using OrderedJson = nlohmann::ordered_json;

/// A value in a file of results that is not what firnfield writes there.
class NotAResult : public std::runtime_error {
public:
    using std::runtime_error::runtime_error;
};

template <typename T>
inline constexpr bool is_optional = false;
template <typename T>
inline constexpr bool is_optional<std::optional<T>> = true;

/// Visits the fields of a row and writes them. Numbers are in the units of their kinds (QuantityKind::unit).
template <typename T>
class JsonWriter {
public:
    JsonWriter(const T& row, OrderedJson& out) : row_(row), out_(out) {}
    [[nodiscard]] static bool all_kinds() { return false; }

    template <typename M>
    void text(M member, const Field& field) {
        at(field) = std::string(std::invoke(member, row_));
    }
    template <typename M>
    void text_or_null(M member, const Field& field) {
        const std::string& text = std::invoke(member, row_);
        at(field) = text.empty() ? OrderedJson(nullptr) : OrderedJson(text);
    }
    template <typename M>
    void texts(M member, const Field& field) {
        at(field) = std::invoke(member, row_);
    }
    template <typename M>
    void flag(M member, const Field& field) {
        at(field) = std::invoke(member, row_);
    }
    template <typename M>
    void count(M member, const Field& field) {
        at(field) = std::invoke(member, row_);
    }
    template <typename M>
    void counts(M member, const Field& field) {
        at(field) = std::invoke(member, row_);
    }
    template <typename M>
    void copies(M member, const Field& field) {
        count(member, field);
    }
    template <typename M>
    void number(M member, const Field& field) {
        at(field) = std::invoke(member, row_);
    }
    template <typename M>
    void value(M member, const QuantityKind& kind, const Field& field) {
        const std::optional<double> value = std::invoke(member, row_);
        at(field) = value ? OrderedJson(kind.out(*value)) : OrderedJson(nullptr);
    }
    template <typename M>
    void measured(M member, const QuantityKind& kind, const Field& field) {
        value(member, kind, field);
    }
    template <typename M>
    void amount(M member, const QuantityKind& kind, const Field& field) {
        value(member, kind, field);
    }
    /// Left out where there is none.
    template <typename M>
    void quantity(M member, const Field& field) {
        if (const QuantityKind* kind = std::invoke(member, row_)) at(field) = std::string(kind->name);
    }
    template <typename M>
    void figure(M member, FigureKind kind, const Field& field, const QuantityKind* of = nullptr) {
        value(member, quantity_of(kind, of), field);
    }
    void figure_kind(FigureKind T::*member, const Field& field) {
        const FigureInfo& kind = info(row_.*member);
        at(field) = std::string(kind.word);
        out_["unit"] = std::string(quantity_of(row_).unit);
        out_["better"] = kind.better;
    }
    template <typename M>
    void spot(M member, FigureKind, const Field& field, std::string_view = {}) {
        row(member, field);
    }
    template <typename M>
    void point(M member, const Field& field) {
        const std::optional<Vec3> point = std::invoke(member, row_);
        at(field) = point ? OrderedJson::array({point->x, point->y, point->z}) : OrderedJson(nullptr);
    }
    void place(Vec3 T::*member, bool T::*lumped, const Field& field) {
        const Vec3 p = row_.*member;
        at(field) = row_.*lumped ? OrderedJson(nullptr) : OrderedJson::array({p.x, p.y, p.z});
    }
    template <typename M, std::size_t N>
    void word(M member, const FieldWords<N>& words, const Field& field) {
        at(field) = std::string(words.at(static_cast<std::size_t>(std::invoke(member, row_))));
    }
    template <typename M>
    void factors(M member, const Field& field) {
        at(field) = std::invoke(member, row_);
    }
    template <typename M>
    void ends(M first, M second, const Field&) {
        out_["first"] = std::invoke(first, row_);
        out_["second"] = std::invoke(second, row_);
    }
    template <typename M, typename... Tags>
    void row(M member, const Field& field, Tags... tags) {
        const auto& inner = std::invoke(member, row_);
        if constexpr (is_optional<std::decay_t<decltype(inner)>>) {
            if (inner) at(field) = json_of_row(*inner, tags...);
        } else {
            at(field) = json_of_row(inner, tags...);
        }
    }
    template <typename M>
    void rows(M member, const Field& field) {
        OrderedJson list = OrderedJson::array();
        for (const auto& inner : std::invoke(member, row_)) list.push_back(json_of_row(inner));
        at(field) = std::move(list);
    }
    template <typename M, typename... Tags>
    void inside(M member, Tags... tags) {
        const auto& inner = std::invoke(member, row_);
        JsonWriter<std::decay_t<decltype(inner)>> writer(inner, out_);
        fields(writer, inner, tags...);
    }

    template <typename Inner, typename... Tags>
    [[nodiscard]] static OrderedJson json_of_row(const Inner& inner, Tags... tags) {
        OrderedJson out = OrderedJson::object();
        JsonWriter<Inner> writer(inner, out);
        fields(writer, inner, tags...);
        return out;
    }

private:
    OrderedJson& at(const Field& field) { return out_[std::string(field.name)]; }

    const T& row_;
    OrderedJson& out_;
};

/// A row as JSON.
template <typename T>
[[nodiscard]] OrderedJson json_of(const T& row) {
    return JsonWriter<T>::json_of_row(row);
}

/// Visits the fields of a row and reads them. What follows from others is not read but worked out again.
template <typename T>
class JsonReader {
public:
    JsonReader(T& row, const OrderedJson& in) : row_(row), in_(in) {}
    [[nodiscard]] static bool all_kinds() { return false; }

    template <typename M>
    void text(M member, const Field& field) {
        if constexpr (std::is_member_object_pointer_v<M>) row_.*member = at(field).template get<std::string>();
    }
    template <typename M>
    void text_or_null(M member, const Field& field) {
        row_.*member = at(field).is_null() ? std::string() : at(field).template get<std::string>();
    }
    template <typename M>
    void texts(M member, const Field& field) {
        row_.*member = at(field).template get<std::vector<std::string>>();
    }
    template <typename M>
    void flag(M member, const Field& field) {
        if constexpr (std::is_member_object_pointer_v<M>) row_.*member = at(field).template get<bool>();
    }
    template <typename M>
    void count(M member, const Field& field) {
        if constexpr (std::is_member_object_pointer_v<M>) row_.*member = whole<std::decay_t<decltype(row_.*member)>>(at(field), field);
    }
    template <typename M>
    void counts(M member, const Field& field) {
        using List = std::decay_t<decltype(row_.*member)>;
        List& list = row_.*member;
        if constexpr (requires { list.clear(); }) list.assign(at(field).size(), {});
        if (list.size() != at(field).size()) throw NotAResult(std::string(field.name));
        for (std::size_t i = 0; i < list.size(); ++i) list[i] = whole<typename List::value_type>(at(field).at(i), field);
    }
    template <typename M>
    void copies(M member, const Field& field) {
        count(member, field);
    }
    template <typename M>
    void number(M member, const Field& field) {
        row_.*member = finite(at(field), field);
    }
    template <typename M>
    void value(M member, const QuantityKind& kind, const Field& field) {
        if constexpr (std::is_member_object_pointer_v<M>) {
            if constexpr (is_optional<std::decay_t<decltype(row_.*member)>>) {
                row_.*member = at(field).is_null() ? std::nullopt : std::optional(kind.in(finite(at(field), field)));
            } else {
                row_.*member = kind.in(finite(at(field), field));
            }
        }
    }
    template <typename M>
    void measured(M member, const QuantityKind& kind, const Field& field) {
        value(member, kind, field);
    }
    template <typename M>
    void amount(M member, const QuantityKind& kind, const Field& field) {
        value(member, kind, field);
    }
    template <typename M>
    void quantity(M member, const Field& field) {
        if (!in_.contains(std::string(field.name))) return;
        row_.*member = quantity_named(at(field).template get<std::string>());
        if (row_.*member == nullptr) throw NotAResult(std::string(field.name));
    }
    template <typename M>
    void figure(M member, FigureKind kind, const Field& field, const QuantityKind* of = nullptr) {
        value(member, quantity_of(kind, of), field);
    }
    template <typename M>
    void figure_kind(M member, const Field& field) {
        const std::optional<FigureKind> kind = figure_kind_of(at(field).template get<std::string>());
        if (!kind) throw NotAResult(std::string(field.name));
        row_.*member = *kind;
    }
    template <typename M>
    void spot(M member, FigureKind, const Field& field, std::string_view = {}) {
        row(member, field);
    }
    template <typename M>
    void point(M member, const Field& field) {
        using Held = std::decay_t<decltype(row_.*member)>;
        if (is_optional<Held> && at(field).is_null()) {
            row_.*member = Held{};
        } else {
            row_.*member = vector(at(field), field);
        }
    }
    void place(Vec3 T::*member, bool T::*lumped, const Field& field) {
        row_.*lumped = at(field).is_null();
        if (!(row_.*lumped)) row_.*member = vector(at(field), field);
    }
    template <typename M, std::size_t N>
    void word(M member, const FieldWords<N>& words, const Field& field) {
        if constexpr (std::is_member_object_pointer_v<M>) {
            const auto word = at(field).template get<std::string>();
            const auto found = std::find(words.begin(), words.end(), word);
            if (found == words.end()) throw NotAResult(std::string(field.name));
            row_.*member = static_cast<std::decay_t<decltype(row_.*member)>>(found - words.begin());
        }
    }
    template <typename M>
    void factors(M member, const Field& field) {
        row_.*member = at(field).template get<std::decay_t<decltype(row_.*member)>>();
    }
    template <typename M>
    void ends(M first, M second, const Field&) {
        row_.*first = in_.at("first").template get<std::string>();
        row_.*second = in_.at("second").template get<std::string>();
    }
    template <typename M, typename... Tags>
    void row(M member, const Field& field, Tags... tags) {
        auto& inner = row_.*member;
        if constexpr (is_optional<std::decay_t<decltype(inner)>>) {
            if (!in_.contains(field.name)) return;
            inner = typename std::decay_t<decltype(inner)>::value_type{};
            read_row(*inner, at(field), tags...);
        } else {
            read_row(inner, at(field), tags...);
        }
    }
    template <typename M>
    void rows(M member, const Field& field) {
        auto& list = row_.*member;
        if (!at(field).is_array()) throw NotAResult(std::string(field.name));
        for (const OrderedJson& inner : at(field)) read_row(list.emplace_back(), inner);
    }
    template <typename M, typename... Tags>
    void inside(M member, Tags... tags) {
        auto& inner = row_.*member;
        read_row(inner, in_, tags...);
    }

    template <typename Inner, typename... Tags>
    static void read_row(Inner& inner, const OrderedJson& in, Tags... tags) {
        JsonReader<Inner> reader(inner, in);
        fields(reader, std::as_const(inner), tags...);
    }

private:
    const OrderedJson& at(const Field& field) const { return in_.at(std::string(field.name)); }

    static double finite(const OrderedJson& value, const Field& field) {
        if (!value.is_number()) throw NotAResult(std::string(field.name));
        return value.get<double>();
    }
    template <typename Whole>
    static Whole whole(const OrderedJson& value, const Field& field) {
        const double number = finite(value, field);
        if (!(number >= 0.0) || number > static_cast<double>(std::numeric_limits<Whole>::max()) || number != std::floor(number))
            throw NotAResult(std::string(field.name));
        return static_cast<Whole>(number);
    }
    static Vec3 vector(const OrderedJson& value, const Field& field) {
        if (value.size() != 3) throw NotAResult(std::string(field.name));
        return {finite(value.at(0), field), finite(value.at(1), field), finite(value.at(2), field)};
    }

    T& row_;
    const OrderedJson& in_;
};

/// Reads a row. Throws NotAResult, or what the JSON library throws.
template <typename T>
[[nodiscard]] T row_of(const OrderedJson& in) {
    T out;
    JsonReader<T>::read_row(out, in);
    return out;
}

}  // namespace firnfield
