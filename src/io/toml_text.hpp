/// Values as they stand in a model file.
#pragma once

#include <firnfield/model.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/stl.hpp>

#include <map>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

namespace firnfield {

/// Keys with what they hold, as it stands in a file.
using Entries = std::vector<std::pair<std::string, std::string>>;

/// In quotes, with what cannot stand there escaped.
[[nodiscard]] std::string toml_text(std::string_view text);
/// Lengths in mm and temperatures in °C stand bare, in the units that the file names; everything else in quotes.
[[nodiscard]] std::string toml_quantity(double value, const QuantityKind& kind);
/// What a figure is held against: always with its unit, so that it is read back as what it is.
[[nodiscard]] std::string toml_threshold(const Threshold& held);
[[nodiscard]] std::string toml_quantities(const std::vector<double>& values, const QuantityKind& kind);
[[nodiscard]] std::string toml_curve(const Curve& curve, const QuantityKind& at, const QuantityKind& value);
[[nodiscard]] std::string toml_point(Vec3 p);
/// A direction of the axes by its name.
[[nodiscard]] std::string toml_direction(Vec3 d);
[[nodiscard]] std::string toml_outline(const Outline& outline);
[[nodiscard]] std::string toml_factors(const std::map<std::string, double>& values, const QuantityKind& kind);
/// Where a study begins; empty where nothing is given.
[[nodiscard]] std::string toml_start(const Start& start);
/// The keys of a profile's course, in the form that it has.
[[nodiscard]] Entries course_keys(const Profile& profile);
/// `{ a = 1, b = 2 }`.
[[nodiscard]] std::string in_place(const Entries& entries);

/// Texts of all items, with commas between.
template <typename List, typename Text>
[[nodiscard]] std::string joined(const List& list, const Text& text) {
    std::string out;
    for (const auto& item : list) {
        if (!out.empty()) out += ", ";
        out += text(item);
    }
    return out;
}

template <typename List>
[[nodiscard]] std::string toml_list(const List& texts) {
    return "[" + joined(texts, toml_text) + "]";
}

}  // namespace firnfield
