#include <firnfield/mesh.hpp>

#include "model/bodies.hpp"

#include <algorithm>
#include <functional>

namespace firnfield {
namespace {

/// A rule evaluated on every patch, so that rules can refer to each other.
class Picker {
public:
    Picker(const Model& model, const Mesh& mesh) : model_(model), mesh_(mesh) {}

    std::vector<bool> pick(const Selection& rule) const {
        const std::size_t count = mesh_.patches.size();
        std::vector<bool> picked(count, rule.surfaces.empty());
        for (const std::string& name : rule.surfaces) {
            const std::vector<bool> named = pick(surface(name));
            std::transform(picked.begin(), picked.end(), named.begin(), picked.begin(), std::logical_or<>());
        }
        const std::vector<bool> bodies = named_bodies(rule);
        for (std::size_t p = 0; p < count; ++p) {
            if (picked[p]) picked[p] = bodies[mesh_.cells.body[mesh_.patches.cell[p]]] && matches(rule, p);
        }
        for (const std::string& name : rule.except) {
            const std::vector<bool> left_out = pick(surface(name));
            std::transform(picked.begin(), picked.end(), left_out.begin(), picked.begin(), [](bool in, bool out) { return in && !out; });
        }
        return picked;
    }

private:
    const Selection& surface(const std::string& name) const {
        return std::find_if(model_.surfaces.begin(), model_.surfaces.end(), [&](const Surface& s) { return s.name == name; })->pick;
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
        const auto has = [](const std::vector<Side>& sides, Side side) {
            return sides.empty() || std::find(sides.begin(), sides.end(), side) != sides.end();
        };
        if (!rule.sides.empty() && (patches.tag[patch] == FaceTag::inner || !has(rule.sides, static_cast<Side>(patches.tag[patch])))) return false;
        if (!has(rule.facing, patches.side[patch])) return false;
        return !rule.region || rule.region->contains(mesh_.foot(patch), 1e-9 * length(rule.region->size));
    }

    const Model& model_;
    const Mesh& mesh_;
};

}  // namespace

std::vector<Index> select_patches(const Model& model, const Mesh& mesh, const Selection& pick, const std::string& address) {
    const std::vector<bool> picked = Picker(model, mesh).pick(pick);
    std::vector<Index> patches;
    for (std::size_t p = 0; p < picked.size(); ++p) {
        if (picked[p]) patches.push_back(static_cast<Index>(p));
    }
    if (patches.empty()) {
        throw ModelError(address, "the rule picks no exposed surface; check part names, directions and region, and that the surface is not "
                                  "covered by another part");
    }
    return patches;
}

}  // namespace firnfield
