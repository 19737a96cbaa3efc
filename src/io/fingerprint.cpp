// A hash of the model and of the materials it uses.

#include <firnfield/model_file.hpp>
#include <firnfield/results.hpp>

#include <fmt/format.h>
#include <xxhash.h>

#include <set>

namespace firnfield {

std::string fingerprint(const Model& model) {
    // The written form is canonical; library materials are added by value, so that a corrected library counts as a change.
    Model complete = model;
    complete.units = {};  // they change no result, nor do colours
    for (Part& part : complete.parts) part.colour.clear();
    std::set<std::string> used;
    for (const Part& part : model.parts) used.insert(part.material);
    for (const Joint& joint : model.joints) {
        if (joint.layer) used.insert(joint.layer->material);
    }
    for (const Node& node : model.nodes) used.insert(node.material);
    for (const std::string& name : used) {
        if (const Material* material = find_material({}, name); material != nullptr) complete.materials.push_back(*material);
    }
    const std::string text = write_model(complete);
    const XXH128_hash_t hash = XXH3_128bits(text.data(), text.size());
    return fmt::format("{:016x}{:016x}", hash.high64, hash.low64);
}

}  // namespace firnfield
