/// Checks of names: those that things have, and those that rules pick parts, materials and surfaces by.
#pragma once

#include <firnfield/model.hpp>

#include "base/words.hpp"
#include "model/bodies.hpp"
#include "model/check_shape.hpp"
#include "model/checks.hpp"
#include "model/lumped.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

/// A message with what the library calls what is probably meant, by meaning before spelling.
inline std::string unknown_material(const std::string& name, std::span<const std::string> known) {
    const std::vector<std::string> meant = materials_meant_by(name);
    return fmt::format("unknown material {}{}", in_quotes(name),
                       meant.empty() ? did_you_mean(name, known) : fmt::format("; the library has {}", quoted_list(meant, 4)));
}

/// The base of checks that look names up in a model.
class NameChecks : protected Checks {
protected:
    explicit NameChecks(const Model& model) : model_(model) {
        for (const Material& m : builtin_materials()) material_names_.push_back(m.name);
        for (const Material& m : model.materials) material_names_.push_back(m.name);
        for (const Part& p : model.parts) part_names_.push_back(p.name);
        for (const Surface& s : model.surfaces) surface_names_.push_back(s.name);
    }

    static std::string item(std::string_view section, std::size_t index) { return fmt::format("{}[{}]", section, index); }

    void check_name(const std::string& section, std::size_t index, const std::string& name, std::set<std::string>& seen) {
        const std::string address = item(section, index) + ".name";
        if (name.empty()) {
            report(address, fmt::format("a {} needs a name", section));
        } else if (!seen.insert(name).second) {
            report(address, fmt::format("the name {} is used twice; give each {} its own", in_quotes(name), section));
        }
    }

    /// A pattern has to pick a part of the model (left-out ones count: they may come back).
    void check_part_pattern(const std::string& address, const std::string& pattern) {
        for (const Part& part : model_.parts) {
            if (matches_wildcard(pattern, part.name)) return;
        }
        // "fin 3" or "fin *" name copies of a repeated part.
        for (const PlacedPart& body : placed_) {
            if (matches_wildcard(pattern, body.name)) return;
        }
        report(address, find_node(model_, pattern)
                            ? fmt::format("{} is a node, and a part is meant here; a limit or a thermostat names nodes as its sensor", in_quotes(pattern))
                            : fmt::format("no part matches {}{}", in_quotes(pattern), did_you_mean(pattern, part_names_)));
    }

    void check_material_name(const std::string& address, const std::string& name) {
        if (name.empty()) {
            report(address, "a material is missing");
        } else if (find_material(model_.materials, name) == nullptr) {
            report(address, unknown_material(name, material_names_));
        }
    }

    void check_selection(const std::string& address, const Selection& pick) {
        for (std::size_t i = 0; i < pick.parts.size(); ++i) check_part_pattern(fmt::format("{}.parts[{}]", address, i), pick.parts[i]);
        if (pick.region) {
            check_shape(address + ".region", *pick.region);
            check_single(address + ".region", *pick.region);
        }
        check_facing(address, pick);
        check_faces(address, pick.faces);
        for (std::size_t i = 0; i < pick.touching.size(); ++i) check_part_pattern(fmt::format("{}.touching[{}]", address, i), pick.touching[i]);
        const auto check_reference = [&](const std::string& where, const std::string& name) {
            if (std::find(surface_names_.begin(), surface_names_.end(), name) == surface_names_.end()) {
                report(where, fmt::format("unknown surface {}{}", in_quotes(name), did_you_mean(name, surface_names_)));
            }
        };
        for (std::size_t i = 0; i < pick.surfaces.size(); ++i) check_reference(fmt::format("{}.surfaces[{}]", address, i), pick.surfaces[i]);
        for (std::size_t i = 0; i < pick.except.size(); ++i) check_reference(fmt::format("{}.except[{}]", address, i), pick.except[i]);
    }

    void check_shape(const std::string& address, const Shape& shape) { add(firnfield::check_shape(address, shape)); }

    /// Where a shape is no part of its own it stands in one place.
    void check_single(const std::string& address, const Shape& shape) {
        const CadSolid* cad = std::get_if<CadSolid>(&shape);
        if (cad != nullptr && cad->copies.size() > 1)
            report(address, fmt::format("the file has {} copies of {}; take one of them here, as by copies = [1]", cad->copies.size(), in_quotes(cad->solid)));
    }

    void check_faces(const std::string& address, const FacePick& pick) {
        std::vector<std::string> known;
        for (const FaceKind kind : face_kinds) known.emplace_back(name_of(kind));
        for (std::size_t i = 0; i < pick.kind.size(); ++i) {
            if (std::find(known.begin(), known.end(), pick.kind[i]) == known.end())
                report(fmt::format("{}.kind[{}]", address, i), fmt::format("no kind of face: {}{}; there are {}", in_quotes(pick.kind[i]),
                                                                           did_you_mean(pick.kind[i], known), quoted_list(known, known.size())));
        }
        const auto check_span = [&](const std::string& key, const std::vector<double>& ends) {
            if (ends.size() > 2) report(address + "." + key, fmt::format("give one value, or the smallest and the largest, found {} values", ends.size()));
            if (ends.size() == 2 && ends[0] > ends[1]) report(address + "." + key, "the smallest comes first, then the largest");
        };
        check_span("diameter", pick.diameter);
        check_span("area", pick.area);
    }

    void check_facing(const std::string& address, const Selection& pick) {
        if (!(pick.within > 0.0 && pick.within < 180.0)) {
            report(address + ".within", fmt::format("the angle must be above 0 and below 180 degrees, found {:g}", pick.within));
        }
        for (std::size_t i = 0; i < pick.sides.size(); ++i) check_side(fmt::format("{}.sides[{}]", address, i), pick.sides[i], pick.parts);
    }

    /// A side has to be a face of one of the parts that the rule speaks of.
    void check_side(const std::string& address, const std::string& side, const std::vector<std::string>& parts) {
        std::vector<std::string> known;
        for (const Part& part : model_.parts) {
            const bool meant = parts.empty() || std::any_of(parts.begin(), parts.end(), [&](const std::string& pattern) {
                                   return matches_wildcard(pattern, part.name) || pattern.find(part.name) != std::string::npos;
                               });
            if (!meant) continue;
            const auto take = [&](const Shape& shape) {
                if (!firnfield::check_shape("", shape).empty()) return;
                for (std::string& name : face_names(shape)) {
                    if (std::find(known.begin(), known.end(), name) == known.end()) known.push_back(std::move(name));
                }
            };
            take(part.shape);
            for (const Shape& more : part.also) take(more);
        }
        known.emplace_back("inner");
        if (std::any_of(known.begin(), known.end(), [&](const std::string& name) { return matches_wildcard(side, name); })) return;
        report(address, fmt::format("no such face: {}; there are {}", in_quotes(side), quoted_list(known, 16)));
    }

    const Model& model_;
    std::vector<PlacedPart> placed_{};  // copies of parts, once they are laid out

private:
    std::vector<std::string> material_names_{}, part_names_{}, surface_names_{};
};

}  // namespace firnfield
