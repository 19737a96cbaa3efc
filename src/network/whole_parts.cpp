// Parts with one temperature throughout.

#include "network/whole_parts.hpp"

#include <firnfield/error.hpp>

#include "base/words.hpp"
#include "model/bodies.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <string>
#include <utility>

namespace firnfield {

std::vector<std::shared_ptr<const Material>> materials_of(const Model& model, const Mesh& mesh, const Acting& acting) {
    const std::vector<Index> holds = holds_of_bodies(model, mesh, acting);
    std::map<std::pair<std::string, bool>, std::shared_ptr<const Material>> made;
    std::vector<std::shared_ptr<const Material>> out;
    for (std::size_t b = 0; b < mesh.bodies.size(); ++b) {
        const Part& part = model.parts[mesh.bodies[b].part];
        const bool perfect = part.stirred || holds[b] != no_index;
        std::shared_ptr<const Material>& material = made[{part.material, perfect}];
        if (!material) {
            Material own = material_named(model, part.material);
            if (perfect) {
                own.conductivity = isotropic(next_to_perfect);
                own.conductivity_factor = {};
            }
            material = std::make_shared<const Material>(std::move(own));
        }
        out.push_back(material);
    }
    return out;
}

std::vector<Index> holds_of_bodies(const Model& model, const Mesh& mesh, const Acting& acting) {
    std::vector<Index> out(mesh.bodies.size(), no_index);
    for (std::size_t h = 0; h < model.holds.size(); ++h) {
        if (!acting.holds[h]) continue;
        for (const std::string& pattern : model.holds[h].in) {
            const auto is_it = [&](const Body& body) { return picks(pattern, body.name, model.parts[body.part].name); };
            if (std::none_of(mesh.bodies.begin(), mesh.bodies.end(), is_it) && !picks_only_left_out(model, {&pattern, 1}))
                throw ModelError(fmt::format("hold[{}].in", h), "no such part is in the assembly: it lies beyond a mirror plane");
        }
        for (std::size_t b = 0; b < mesh.bodies.size(); ++b) {
            const Body& body = mesh.bodies[b];
            const auto names_it = [&](const std::string& pattern) { return picks(pattern, body.name, model.parts[body.part].name); };
            if (std::none_of(model.holds[h].in.begin(), model.holds[h].in.end(), names_it)) continue;
            if (out[b] != no_index)
                throw ModelError(fmt::format("hold[{}].in", h),
                                 fmt::format("part {} is held by {} already", in_quotes(body.name), in_quotes(display_name(model.holds[out[b]], out[b]))));
            out[b] = static_cast<Index>(h);
        }
    }
    return out;
}

void start_held(const Network& network, double reference, std::vector<double>& rise) {
    for (const Family& family : network.families) {
        if (family.channel != Channel::hold || !family.patch.empty()) continue;
        for (const Index cell : family.first) rise[cell] = network.knowns[family.known].temperature - reference;
    }
}

}  // namespace firnfield
