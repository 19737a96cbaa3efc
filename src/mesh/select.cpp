// Surfaces that a rule picks.

#include <firnfield/mesh.hpp>

#include "base/words.hpp"
#include "mesh/face_rules.hpp"
#include "model/bodies.hpp"

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <numbers>

namespace firnfield {
namespace {

/// A rule evaluated on every patch, so that rules can refer to each other.
class Picker {
public:
    Picker(const Model& model, const Mesh& mesh) : model_(model), mesh_(mesh), regions_(rule_regions(model)), face_rules_(face_rules(model)) {}

    std::vector<bool> pick(const Selection& rule) const {
        const std::size_t count = mesh_.patches.size();
        std::vector<bool> picked(count, rule.surfaces.empty());
        for (const std::string& name : rule.surfaces) {
            const std::vector<bool>& named = pick_surface(name);
            std::transform(picked.begin(), picked.end(), named.begin(), picked.begin(), std::logical_or<>());
        }
        const std::vector<bool> bodies = named_bodies(rule);
        const std::vector<bool> touching = touching_bodies(rule);
        for (std::size_t p = 0; p < count; ++p) {
            if (picked[p]) picked[p] = touching[mesh_.cells.body[mesh_.patches.cell[p]]] && bodies[mesh_.cells.body[mesh_.patches.cell[p]]] && matches(rule, p);
        }
        for (const std::string& name : rule.except) {
            const std::vector<bool>& left_out = pick_surface(name);
            std::transform(picked.begin(), picked.end(), left_out.begin(), picked.begin(), [](bool in, bool out) { return in && !out; });
        }
        return picked;
    }

private:
    /// What a named surface picks: worked out once, however many rules refer to it.
    const std::vector<bool>& pick_surface(const std::string& name) const {
        if (const auto known = picked_.find(name); known != picked_.end()) return known->second;
        const Selection& rule = std::find_if(model_.surfaces.begin(), model_.surfaces.end(), [&](const Surface& s) { return s.name == name; })->pick;
        return picked_[name] = pick(rule);
    }

    std::vector<bool> named_bodies(const Selection& rule) const {
        std::vector<bool> named(mesh_.bodies.size(), rule.parts.empty());
        for (std::size_t b = 0; b < named.size(); ++b) {
            const Body& body = mesh_.bodies[b];
            for (const std::string& pattern : rule.parts) {
                if (picks(pattern, body.name, model_.parts[body.part].name)) named[b] = true;
            }
        }
        return named;
    }

    bool matches(const Selection& rule, std::size_t patch) const {
        const Patches& patches = mesh_.patches;
        if (!rule.sides.empty()) {
            const std::string& tag = mesh_.tags[patches.tag[patch]];
            if (std::none_of(rule.sides.begin(), rule.sides.end(), [&](const std::string& side) { return matches_wildcard(side, tag); })) return false;
        }
        if (!rule.facing.empty()) {
            const double least = std::cos(rule.within * std::numbers::pi / 180.0) - 1e-9;
            if (std::none_of(rule.facing.begin(), rule.facing.end(), [&](Vec3 d) { return dot(normalized(d), patches.normal[patch]) >= least; })) return false;
        }
        if (rule.region && !in_region(*rule.region, patch)) return false;
        if (!rule.faces.empty() && !lies_in_zone(patch, *mark_of(face_rules_, regions_.size(), rule))) return false;
        return std::all_of(rule.beyond.begin(), rule.beyond.end(), [&](const HalfSpace& h) { return dot(h.normal, mesh_.foot(patch) - h.through) >= 0.0; });
    }

    bool in_region(const Shape& region, std::size_t patch) const {
        const Index body = mesh_.cells.body[mesh_.patches.cell[patch]];
        if (mesh_.bodies[body].surface == no_index) {
            // The grid follows regions that are boxes; other regions have such a body cut by its surface.
            const Box* box = std::get_if<Box>(&region);
            return box != nullptr && box->contains(mesh_.foot(patch), 1e-9 * length(box->size));
        }
        return lies_in_zone(patch, static_cast<Index>(std::find(regions_.begin(), regions_.end(), region) - regions_.begin()));
    }

    bool lies_in_zone(std::size_t patch, Index mark) const {
        const std::vector<Index>& zone = mesh_.zones[mesh_.patches.zone[patch]];
        return std::find(zone.begin(), zone.end(), mark) != zone.end();
    }

    /// Bodies that touch one of the named parts.
    std::vector<bool> touching_bodies(const Selection& rule) const {
        std::vector<bool> touching(mesh_.bodies.size(), rule.touching.empty());
        const auto named = [&](Index b) {
            const Body& body = mesh_.bodies[b];
            return std::any_of(rule.touching.begin(), rule.touching.end(),
                               [&](const std::string& p) { return picks(p, body.name, model_.parts[body.part].name); });
        };
        for (const ContactPair& pair : mesh_.pairs) {
            if (named(pair.first)) touching[pair.second] = true;
            if (named(pair.second)) touching[pair.first] = true;
        }
        return touching;
    }

    const Model& model_;
    const Mesh& mesh_;
    std::vector<Shape> regions_;
    std::vector<FaceRule> face_rules_;
    mutable std::map<std::string, std::vector<bool>> picked_;
};

}  // namespace

std::vector<Index> select_patches(const Model& model, const Mesh& mesh, const Selection& pick, const std::string& address) {
    if (!pick.faces.empty() && !mark_of(face_rules(model), 0, pick))
        throw ModelError(address, "a rule that picks faces by what they are like has to be one of the model that the mesh was made of");
    const std::vector<bool> picked = Picker(model, mesh).pick(pick);
    std::vector<Index> patches;
    for (std::size_t p = 0; p < picked.size(); ++p) {
        if (picked[p]) patches.push_back(static_cast<Index>(p));
    }
    if (patches.empty()) {
        throw ModelError(address,
                         "the rule picks no exposed surface; check part names, directions and region, and that the surface is not "
                         "covered by another part");
    }
    return patches;
}

}  // namespace firnfield
