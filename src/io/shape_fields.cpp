// Reading solids, outlines and directions.

#include "io/shape_fields.hpp"

#include <firnfield/stl.hpp>

#include "base/words.hpp"
#include "io/cad_files.hpp"
#include "io/read_keys.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace firnfield {
namespace {

/// Corners as [x, y]; as { to = [x, y], through = [x, y] } where an arc leads there.
Outline outline_of(Fields& fields, const toml::node& node, const std::string& address) {
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
                if (key != "to" && key != "through")
                    fields.report(value, fmt::format("unknown key \"{}\"; an arc has \"to\" and \"through\"", std::string_view(key)));
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

Shape read_shape(Fields& fields) {
    const std::size_t kind = fields.word("shape", Words<9>{"box", "cylinder", "tube", "sphere", "cone", "prism", "revolution", "stl", "step"}).value_or(0);
    if (fields.has("shape") && !fields.text("shape")) return Box{.size = {1.0, 1.0, 1.0}, .at = {}};
    switch (kind) {
        case 1:
            return read_keys<Cylinder>(fields);
        case 2:
            return read_keys<Tube>(fields);
        case 3:
            return read_keys<Sphere>(fields);
        case 4:
            return read_keys<Cone>(fields);
        case 5:
            return read_keys<Prism>(fields);
        case 6:
            return read_keys<Revolution>(fields);
        case 7:
            return read_keys<Solid>(fields);
        case 8: {
            const CadSolid solid = read_keys<CadSolid>(fields);
            if (solid.geometry) return solid;
            return Box{.size = {1.0, 1.0, 1.0}, .at = {}};
        }
        default:
            return read_keys<Box>(fields);
    }
}

std::optional<double> read_radius(Fields& fields, const std::string& prefix, const Key& key) {
    const std::string radius = prefix + "radius", diameter = prefix + "diameter";
    if (key.required && !fields.has(radius)) fields.require(diameter, key.example);
    const auto r = fields.quantity(radius, kinds::length), d = fields.quantity(diameter, kinds::length);
    if (r && d) fields.report(*fields.node(diameter), fmt::format("{} and {} say the same; give one", radius, diameter));
    return r ? r : d ? std::optional(0.5 * *d) : std::nullopt;
}

Outline read_outline(Fields& fields, std::string_view key) {
    const toml::node* node = fields.node(key);
    if (node == nullptr) return {};
    const std::string address = fmt::format("{}.{}", fields.address(), key);
    Outline outline = outline_of(fields, *node, address);
    fields.reading().place(address, node->source());
    return outline;
}

std::vector<Outline> read_outlines(Fields& fields, std::string_view key) {
    std::vector<Outline> out;
    const toml::node* node = fields.node(key);
    if (node == nullptr) return out;
    if (const toml::array* list = node->as_array()) {
        for (const toml::node& item : *list) out.push_back(outline_of(fields, item, fmt::format("{}.{}", fields.address(), key)));
    } else {
        fields.report(*node, fmt::format("{} takes a list of outlines, found {}", key, describe_type(*node)));
    }
    return out;
}

void read_surface_file(Fields& fields, Solid& solid) {
    fields.require("file", "\"cover.stl\"");
    fields.require("unit", "\"mm\"");
    solid.source = fields.text("file").value_or("");
    constexpr Words<5> units{"mm", "cm", "m", "in", "um"};
    constexpr std::array<double, 5> sizes{1e-3, 1e-2, 1.0, 0.0254, 1e-6};
    const auto unit = fields.word("unit", units);
    solid.unit = units[unit.value_or(0)];
    if (const toml::node* body = fields.node("body"))
        solid.body = body->is_integer() ? fmt::format("{}", fields.integer("body").value_or(0)) : fields.text("body").value_or("");
    const auto checksum = fields.text("checksum");
    if (!solid.source.empty() && unit) {
        try {
            const StlImport import = read_stl(fields.reading().named_file(solid.source), sizes[*unit]);
            solid.surface = solid.body.empty() ? import.surface : body_of(import, solid.body).surface;
            if (solid.body.empty() && import.bodies.size() > 1) {
                for (const StlImport::Body& body : import.bodies) solid.bodies.push_back(body.surface);
            }
            if (const std::string found = surface_checksum(*solid.surface); checksum && *checksum != found) {
                fields.report(*fields.node("checksum"),
                              fmt::format("{} is not the file that this model was written with (it has {})", in_quotes(solid.source), found));
            }
        } catch (const Error& error) {
            fields.report(*fields.node("file"), error.what());
        }
    }
    if (!solid.surface) solid.surface = std::make_shared<const ClosedSurface>(triangulate(Box{.size = {1.0, 1.0, 1.0}, .at = {}}, 1.0));
}

void read_cad_file(Fields& fields, CadSolid& solid) {
    fields.require("file", "\"case.step\"");
    fields.require("solid", "\"lid\"");
    const auto file = fields.text("file"), name = fields.text("solid"), checksum = fields.text("checksum");
    std::vector<int> copies;
    if (const toml::node* list = fields.node("copies")) {
        const toml::array* numbers = list->as_array();
        const bool whole =
            numbers != nullptr && !numbers->empty() && std::all_of(numbers->begin(), numbers->end(), [](const auto& n) { return n.is_integer(); });
        if (!whole) return fields.report(*list, fmt::format("copies takes a list of whole numbers, as in [1, 3]; found {}", describe_type(*list)));
        for (const toml::node& number : *numbers) copies.push_back(to_int(number.value<std::int64_t>().value_or(0)));
    }
    if (!file || !name) return;
    try {
        const std::shared_ptr<const StepImport> import = fields.reading().cad_files().read(fields.reading().named_file(*file));
        if (checksum && *checksum != import->checksum) {
            fields.report(*fields.node("checksum"),
                          fmt::format("{} is not the file that this model was written with (it has {})", in_quotes(*file), import->checksum));
            return;
        }
        solid = cad_solid(*import, *file, *name, copies);
    } catch (const FileError& error) {
        fields.report(*fields.node("file"), error.what());
    } catch (const Error& error) {
        fields.report(*fields.node(copies.empty() ? "solid" : "copies"), error.what());
    }
}

std::vector<std::pair<std::string, std::string>> read_text_table(Fields& fields, std::string_view key) {
    std::vector<std::pair<std::string, std::string>> out;
    const toml::node* node = fields.node(key);
    if (node == nullptr) return out;
    const toml::table* table = node->as_table();
    if (table == nullptr) {
        fields.report(*node, fmt::format("{} takes a table, as in {{ \"screw *\" = \"steel C45\" }}; found {}", key, describe_type(*node)));
        return out;
    }
    // Keys keep their place in the file when a variant changes their values; a table sorts them.
    std::vector<std::pair<toml::source_position, std::pair<std::string, std::string>>> rows;
    for (const auto& [name, value] : *table) {
        const auto text = value.value_exact<std::string>();
        if (!text) {
            fields.report(value, fmt::format("{} takes a text for each name, found {}", key, describe_type(value)));
        } else if (fields.is_plain_text(value, *text)) {
            rows.push_back({name.source().begin, {std::string(name.str()), *text}});
        }
    }
    std::stable_sort(rows.begin(), rows.end(),
                     [](const auto& a, const auto& b) { return a.first.line != b.first.line ? a.first.line < b.first.line : a.first.column < b.first.column; });
    for (auto& row : rows) out.push_back(std::move(row.second));
    return out;
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

}  // namespace firnfield
