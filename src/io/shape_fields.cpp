#include "io/shape_fields.hpp"

#include <firnfield/stl.hpp>

#include "base/words.hpp"

#include <fmt/format.h>

namespace firnfield {
namespace {

/// A radius from `radius`, or from `diameter`; both with an optional prefix as in "outer_diameter".
double read_radius(Fields& fields, const std::string& prefix, std::string_view example) {
    const std::string radius = prefix + "radius", diameter = prefix + "diameter";
    if (!fields.has(radius)) fields.require(diameter, example);
    const auto r = fields.quantity(radius, kinds::length), d = fields.quantity(diameter, kinds::length);
    if (r && d) fields.report(*fields.node(diameter), fmt::format("{} and {} say the same; give one", radius, diameter));
    return r ? *r : d ? 0.5 * *d : 1.0;
}

double read_length(Fields& fields) {
    fields.require("length", "30");
    return fields.quantity("length", kinds::length).value_or(1.0);
}

/// Corners as [x, y]; as { to = [x, y], through = [x, y] } where an arc leads there.
Outline read_outline(Fields& fields, const toml::node& node, const std::string& address) {
    Outline outline;
    const toml::array* list = node.as_array();
    const auto pair = [&](const toml::node* item) -> std::optional<std::array<double, 2>> {
        const toml::array* two = item != nullptr ? item->as_array() : nullptr;
        if (two == nullptr || two->size() != 2) {
            fields.report(item != nullptr ? *item : node, "a corner takes two lengths, as in [40, 25], or { to = [40, 25], through = [30, 30] } for an arc");
            return std::nullopt;
        }
        const auto x = fields.quantity_of(*two->get(0), kinds::length, address), y = fields.quantity_of(*two->get(1), kinds::length, address);
        if (!x || !y) return std::nullopt;
        return std::array{*x, *y};
    };
    if (list == nullptr) {
        fields.report(node, fmt::format("an outline takes a list of corners, as in [[0, 0], [40, 0], [40, 25]]; found {}", describe_type(node)));
        return outline;
    }
    for (const toml::node& item : *list) {
        OutlinePoint point;
        const toml::table* arc = item.as_table();
        if (arc != nullptr) {
            for (const auto& [key, value] : *arc) {
                if (key != "to" && key != "through") fields.report(value, fmt::format("unknown key \"{}\"; an arc has \"to\" and \"through\"", std::string_view(key)));
            }
        }
        const auto to = pair(arc != nullptr ? arc->get("to") : &item);
        if (!to) continue;
        point.x = (*to)[0];
        point.y = (*to)[1];
        if (arc != nullptr) {
            point.through = pair(arc->get("through"));
            if (!point.through) continue;
        }
        outline.push_back(point);
    }
    return outline;
}

Outline read_own_outline(Fields& fields, std::string_view example) {
    fields.require("outline", example);
    const toml::node* node = fields.node("outline");
    if (node == nullptr) return {};
    const std::string address = fields.address() + ".outline";
    Outline outline = read_outline(fields, *node, address);
    fields.reading().place(address, node->source());
    return outline;
}

std::optional<Vec3> direction_of(Fields& fields, const toml::node& node, std::string_view key) {
    if (const auto text = node.value<std::string>()) {
        std::vector<std::string> names;
        for (const Side side : all_sides) {
            names.emplace_back(name_of(side));
            if (names.back() != *text && names.back() != "+" + *text) continue;
            return outward(side);
        }
        fields.report(node, fmt::format("{} takes directions out of {}, or three numbers; found {}", key, quoted_list(names, 6), in_quotes(*text)));
        return std::nullopt;
    }
    const toml::array* list = node.as_array();
    Vec3 direction;
    if (list == nullptr || list->size() != 3) {
        fields.report(node, fmt::format("{} takes a direction such as \"+z\" or [1, 1, 0], found {}", key, describe_type(node)));
        return std::nullopt;
    }
    for (int axis = 0; axis < 3; ++axis) {
        const auto number = list->get(static_cast<std::size_t>(axis))->value<double>();
        if (!number) {
            fields.report(node, fmt::format("{} takes three bare numbers, as in [1, 1, 0]", key));
            return std::nullopt;
        }
        direction[axis] = *number;
    }
    return direction;
}

}  // namespace

Box read_box(Fields& fields) {
    Box box{.size = {1.0, 1.0, 1.0}, .at = {}};
    fields.require("size", "[80, 60, 4]");
    if (const auto size = fields.point("size")) box.size = *size;
    if (const auto at = fields.point("at")) box.at = *at;
    return box;
}

int read_axis(Fields& fields, std::string_view key) { return static_cast<int>(fields.word(key, {"x", "y", "z"}).value_or(2)); }

Shape read_shape(Fields& fields) {
    const std::size_t kind = fields.word("shape", {"box", "cylinder", "tube", "sphere", "cone", "prism", "revolution", "stl"}).value_or(0);
    if (fields.has("shape") && !fields.text("shape")) return Box{.size = {1.0, 1.0, 1.0}, .at = {}};
    const auto at = [&] { return fields.point("at").value_or(Vec3{}); };
    switch (kind) {
        case 1: {
            const double radius = read_radius(fields, "", "12");
            const double length = read_length(fields);
            return Cylinder{.radius = radius, .length = length, .at = at(), .along = read_axis(fields, "along")};
        }
        case 2: {
            const double outer = read_radius(fields, "outer_", "12");
            const double inner = fields.has("inner_radius") || fields.has("inner_diameter") ? read_radius(fields, "inner_", "10") : 0.0;
            const double length = read_length(fields);
            const double angle = fields.quantity("angle", kinds::number).value_or(360.0);
            return Tube{.outer_radius = outer, .inner_radius = inner, .length = length, .angle = angle, .at = at(), .along = read_axis(fields, "along")};
        }
        case 3: {
            const double radius = read_radius(fields, "", "12");
            return Sphere{.radius = radius, .at = at()};
        }
        case 4: {
            const double lower = read_radius(fields, "lower_", "12"), upper = read_radius(fields, "upper_", "6");
            const double length = read_length(fields);
            return Cone{.lower_radius = lower, .upper_radius = upper, .length = length, .at = at(), .along = read_axis(fields, "along")};
        }
        case 5: {
            Prism prism{.outline = read_own_outline(fields, "[[0, 0], [40, 0], [40, 25]]"), .holes = {}, .length = read_length(fields), .at = at(), .along = read_axis(fields, "along")};
            if (const toml::node* cutouts = fields.node("cutouts")) {
                if (const toml::array* list = cutouts->as_array()) {
                    for (const toml::node& item : *list) prism.holes.push_back(read_outline(fields, item, fields.address() + ".cutouts"));
                } else {
                    fields.report(*cutouts, fmt::format("cutouts takes a list of outlines, found {}", describe_type(*cutouts)));
                }
            }
            return prism;
        }
        case 6: {
            Outline outline = read_own_outline(fields, "[[0, 0], [12, 0], [12, 30], [0, 30]]");
            const double angle = fields.quantity("angle", kinds::number).value_or(360.0);
            return Revolution{.outline = std::move(outline), .angle = angle, .at = at(), .along = read_axis(fields, "along")};
        }
        case 7: {
            fields.require("file", "\"cover.stl\"");
            fields.require("unit", "\"mm\"");
            Solid solid;
            solid.at = at();
            solid.source = fields.text("file").value_or("");
            const auto unit = fields.word("unit", {"mm", "cm", "m", "in", "um"});
            constexpr std::array<double, 5> sizes{1e-3, 1e-2, 1.0, 0.0254, 1e-6};
            constexpr std::array<std::string_view, 5> units{"mm", "cm", "m", "in", "um"};
            solid.unit = units[unit.value_or(0)];
            const auto checksum = fields.text("checksum");
            if (!solid.source.empty() && unit) {
                try {
                    const StlImport import = read_stl(fields.reading().named_file(solid.source), sizes[*unit]);
                    if (checksum && *checksum != import.checksum) {
                        fields.report(*fields.node("checksum"), fmt::format("{} is not the file that this model was written with (it has {})", in_quotes(solid.source), import.checksum));
                    }
                    solid.surface = import.surface;
                } catch (const Error& error) {
                    fields.report(*fields.node("file"), error.what());
                }
            }
            if (!solid.surface) solid.surface = std::make_shared<const ClosedSurface>(triangulate(Box{.size = {1.0, 1.0, 1.0}, .at = {}}, 1.0));
            return solid;
        }
        default: return read_box(fields);
    }
}

std::optional<Vec3> read_direction(Fields& fields, std::string_view key) {
    const toml::node* node = fields.node(key);
    return node != nullptr ? direction_of(fields, *node, key) : std::nullopt;
}

std::vector<Vec3> read_directions(Fields& fields, std::string_view key) {
    std::vector<Vec3> directions;
    const toml::node* node = fields.node(key);
    if (node == nullptr) return directions;
    const toml::array* list = node->as_array();
    const bool several = list != nullptr && !list->empty() && !list->get(0)->is_number();
    if (!several) {
        if (const auto one = direction_of(fields, *node, key)) directions.push_back(*one);
        return directions;
    }
    for (const toml::node& item : *list) {
        if (const auto one = direction_of(fields, item, key)) directions.push_back(*one);
    }
    return directions;
}

Rotation read_rotation(Fields& fields) {
    Rotation rotation;
    fields.require("angle", "30");
    rotation.axis = read_direction(fields, "axis").value_or(rotation.axis);
    rotation.angle = fields.quantity("angle", kinds::number).value_or(0.0);
    rotation.about = fields.point("about");
    return rotation;
}

HalfSpace read_half_space(Fields& fields) {
    HalfSpace half;
    fields.require("normal", "\"+z\"");
    fields.require("through", "[0, 0, 12]");
    half.normal = read_direction(fields, "normal").value_or(half.normal);
    half.through = fields.point("through").value_or(half.through);
    return half;
}

}  // namespace firnfield
