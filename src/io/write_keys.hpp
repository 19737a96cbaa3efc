/// Writes the tables of a model file by the descriptions of their keys; what is at its default is left out.
#pragma once

#include <firnfield/model.hpp>

#include "io/toml_text.hpp"
#include "model/keys/model.hpp"

#include <string>
#include <type_traits>
#include <utility>
#include <vector>

namespace firnfield {

/// Visits the keys of one table and collects them with what they hold.
template <typename T>
class KeyWriter;

/// The keys of a thing and what they hold, in the order of its description.
template <typename T>
[[nodiscard]] Entries written_keys(const T& thing) {
    KeyWriter<T> writer(thing);
    describe(writer, thing);
    return writer.take();
}

/// The same as a table in place.
template <typename T>
[[nodiscard]] std::string inline_table(const T& thing) {
    return in_place(written_keys(thing));
}

template <typename T>
class KeyWriter {
public:
    explicit KeyWriter(const T& thing) : thing_(thing) {}
    [[nodiscard]] Entries take() { return std::move(out_); }

    template <typename First, typename Second>
    void either(std::string_view, bool is_given, const First& first, const Second& second) {
        is_given ? first() : second();
    }
    [[nodiscard]] static bool one_kind() { return true; }

    void text(std::string T::*member, const Key& key) {
        if (!(thing_.*member).empty() && (key.written || thing_.*member != usual_.*member)) add(key, toml_text(thing_.*member));
    }
    void texts(std::vector<std::string> T::*member, const Key& key) {
        if (!(thing_.*member).empty()) add(key, toml_list(thing_.*member));
    }
    void pair(std::array<std::string, 2> T::*member, const Key& key) { add(key, toml_list(thing_.*member)); }
    void optional_pair(std::optional<std::array<std::string, 2>> T::*member, const Key& key) {
        if (thing_.*member) add(key, toml_list(*(thing_.*member)));
    }
    void flag(bool T::*member, const Key& key) {
        if (thing_.*member != usual_.*member) add(key, thing_.*member ? "true" : "false");
    }
    void flag(std::optional<bool> T::*member, const Key& key) {
        if (thing_.*member) add(key, *(thing_.*member) ? "true" : "false");
    }
    template <typename Whole>
    void integer(Whole T::*member, const Key& key) {
        if (key.written || thing_.*member != usual_.*member) add(key, std::to_string(thing_.*member));
    }
    void quantity(double T::*member, const QuantityKind& kind, const Key& key) {
        if (key.written || thing_.*member != usual_.*member) add(key, toml_quantity(thing_.*member, kind));
    }
    void quantity(std::optional<double> T::*member, const QuantityKind& kind, const Key& key) {
        if (thing_.*member) add(key, toml_quantity(*(thing_.*member), kind));
    }
    void threshold(std::optional<Threshold> T::*member, bool of_figure, const Key& key) {
        if (!(thing_.*member)) return;
        add(key, of_figure ? toml_threshold(*(thing_.*member)) : toml_quantity((thing_.*member)->value, kinds::temperature));
    }
    void quantities(std::vector<double> T::*member, const QuantityKind& kind, const Key& key) {
        if (!(thing_.*member).empty()) add(key, toml_quantities(thing_.*member, kind));
    }
    void curve(Curve T::*member, const QuantityKind& at, const QuantityKind& value, const Key& key) {
        if (!(thing_.*member).empty()) add(key, toml_curve(thing_.*member, at, value));
    }
    void point(Vec3 T::*member, const Key& key) {
        if (key.written || !(thing_.*member == Vec3{})) add(key, toml_point(thing_.*member));
    }
    void point(std::optional<Vec3> T::*member, const Key& key) {
        if (thing_.*member) add(key, toml_point(*(thing_.*member)));
    }
    template <typename Choice, std::size_t N>
    void word(Choice T::*member, const Words<N>& words, const Key& key) {
        const Choice& choice = thing_.*member;
        if (!key.written && choice == usual_.*member) return;
        if constexpr (std::is_same_v<Choice, std::optional<bool>> || std::is_same_v<Choice, std::optional<int>>) {
            add(key, toml_text(words[static_cast<std::size_t>(*choice)]));
        } else {
            add(key, toml_text(words[static_cast<std::size_t>(choice)]));
        }
    }
    void direction(Vec3 T::*member, const Key& key) { add(key, toml_direction(thing_.*member)); }
    void direction(std::optional<Vec3> T::*member, const Key& key) {
        if (thing_.*member) add(key, toml_direction(*(thing_.*member)));
    }
    void directions(std::vector<Vec3> T::*member, const Key& key) {
        if (!(thing_.*member).empty()) add(key, "[" + joined(thing_.*member, [](Vec3 d) { return toml_direction(d); }) + "]");
    }

    template <typename Inner>
    void table(std::optional<Inner> T::*member, const Key& key) {
        if (thing_.*member) add(key, inline_table(*(thing_.*member)));
    }
    template <typename Inner>
    void tables(std::vector<Inner> T::*member, const Key& key) {
        add_list(key, thing_.*member, [](const Inner& inner) { return inline_table(inner); });
    }
    template <typename Inner>
    void inside(Inner T::*member) {
        append(written_keys(thing_.*member));
    }
    template <typename Inner>
    void inside(std::optional<Inner> T::*member) {
        append(written_keys(*(thing_.*member)));
    }

    void shape(Shape T::*member, const Key& key) {
        add(key, toml_text(name_of(thing_.*member)));
        std::visit([&](const auto& shape) { append(written_keys(shape)); }, thing_.*member);
    }
    void shapes(std::vector<Shape> T::*member, const Key& key) {
        add_list(key, thing_.*member, [](const Shape& shape) { return inline_shape(shape); });
    }
    void region(std::optional<Shape> T::*member, const Key& key) {
        if (thing_.*member) add(key, inline_shape(*(thing_.*member)));
    }
    void radius(double T::*member, const std::string& prefix, const Key& key) {
        if (key.required || thing_.*member != 0.0) out_.emplace_back(prefix + "radius", toml_quantity(thing_.*member, kinds::length));
    }
    void outline(Outline T::*member, const Key& key) { add(key, toml_outline(thing_.*member)); }
    void outlines(std::vector<Outline> T::*member, const Key& key) {
        if (!(thing_.*member).empty()) add(key, "[" + joined(thing_.*member, toml_outline) + "]");
    }
    void surface_file(const Words<4>& keys) {
        out_.emplace_back(keys[0], toml_text(thing_.source));
        out_.emplace_back(keys[1], toml_text(thing_.unit.empty() ? "mm" : thing_.unit));
        if (!thing_.body.empty()) out_.emplace_back(keys[2], toml_text(thing_.body));
        if (thing_.surface) out_.emplace_back(keys[3], toml_text(surface_checksum(*thing_.surface)));
    }
    void cad_file(const Words<4>& keys) {
        out_.emplace_back(keys[0], toml_text(thing_.source));
        out_.emplace_back(keys[1], toml_text(thing_.solid));
        const bool several = std::any_of(thing_.copies.begin(), thing_.copies.end(), [](const CadCopy& copy) { return copy.number != 0; });
        if (several) out_.emplace_back(keys[2], "[" + joined(thing_.copies, [](const CadCopy& copy) { return fmt::format("{}", copy.number); }) + "]");
        if (!thing_.checksum.empty()) out_.emplace_back(keys[3], toml_text(thing_.checksum));
    }
    void planes(std::array<std::vector<double>, 3> T::*member, const Key& key) {
        Entries axes;
        bool any = false;
        for (std::size_t axis = 0; axis < 3; ++axis) {
            axes.emplace_back(axis_words[axis], toml_quantities((thing_.*member)[axis], kinds::length));
            any = any || !(thing_.*member)[axis].empty();
        }
        if (any) add(key, in_place(axes));
    }

    void on(Selection T::*member, const Key& key) { add(key, toml_rule(thing_.*member)); }
    void on(std::optional<Selection> T::*member, const Key& key) {
        if (thing_.*member) add(key, toml_rule(*(thing_.*member)));
    }
    void value_or_curve(std::optional<double> T::*member, Curve T::*, const QuantityKind& kind, std::string_view, std::string_view, const Key& key) {
        quantity(member, kind, key);
    }
    void conductivity(const Key& key) {
        const std::array<double, 3>& k = thing_.conductivity;
        add(key, thing_.isotropic() ? toml_quantity(k[0], kinds::conductivity) : toml_quantities({k.begin(), k.end()}, kinds::conductivity));
    }
    void property(Curve T::*member, const QuantityKind& kind, const Key& key) {
        const Curve& curve = thing_.*member;
        if (!curve.empty()) add(key, curve.at.size() == 1 ? toml_quantity(curve.value.front(), kind) : toml_curve(curve, kinds::temperature, kind));
    }
    void film(std::optional<double> T::*constant, Curve T::*over_difference, std::optional<ConvectionLaw> T::*law, const Key& key) {
        quantity(constant, kinds::heat_transfer_coefficient, key);
        curve(over_difference, kinds::temperature_difference, kinds::heat_transfer_coefficient, key);
        table(law, key);
    }
    void emissivity(const Key& key) {
        quantity(&T::emissivity, kinds::number, key);
        if (thing_.material_emissivity) add(key, toml_text("material"));
        curve(&T::emissivity_curve, kinds::temperature, kinds::number, key);
    }
    void range(std::optional<double> T::*from, std::optional<double> T::*to, const Key& key) {
        if (thing_.*from && thing_.*to) add(key, toml_quantities({*(thing_.*from), *(thing_.*to)}, kinds::temperature));
    }
    void ends(std::optional<std::array<double, 2>> T::*member, const QuantityKind& kind, const Key& key) {
        if (thing_.*member) add(key, toml_quantities({(*(thing_.*member))[0], (*(thing_.*member))[1]}, kind));
    }
    template <std::size_t N>
    void course(const std::array<Key, N>&) {
        append(course_keys(thing_));
    }
    void factors(std::map<std::string, double> T::*member, const Key& key) {
        if (!(thing_.*member).empty()) add(key, toml_factors(thing_.*member, kinds::number));
    }
    void start(const Key& key) {
        if (std::string text = toml_start(thing_.start); !text.empty()) add(key, std::move(text));
    }

private:
    void add(const Key& key, std::string value) { out_.emplace_back(key.name, std::move(value)); }
    void append(Entries entries) { out_.insert(out_.end(), std::make_move_iterator(entries.begin()), std::make_move_iterator(entries.end())); }
    /// A list of tables in place; one alone stands without brackets.
    template <typename List, typename Text>
    void add_list(const Key& key, const List& list, const Text& text) {
        if (list.size() == 1) add(key, text(list.front()));
        if (list.size() > 1) add(key, "[" + joined(list, text) + "]");
    }
    /// A solid in place; a box goes without saying.
    static std::string inline_shape(const Shape& shape) {
        Entries keys;
        if (!std::holds_alternative<Box>(shape)) keys.emplace_back("shape", toml_text(name_of(shape)));
        std::visit(
            [&](const auto& solid) {
                for (auto& entry : written_keys(solid)) keys.push_back(std::move(entry));
            },
            shape);
        return in_place(keys);
    }
    static std::string toml_rule(const Selection& pick) {
        Entries keys = written_keys(pick);
        if (pick.rest) keys.emplace_back("rest", "true");
        if (keys.size() == 1 && pick.rest) return "\"exposed\"";
        if (keys.size() == 1 && !pick.surfaces.empty() && pick.surfaces.front() != "exposed") return toml_list(pick.surfaces);
        return in_place(keys);
    }

    const T& thing_;
    const T usual_{};
    Entries out_;
};

}  // namespace firnfield
