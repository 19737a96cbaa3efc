// Materials by name, from a model or the library.

#include <firnfield/material.hpp>

#include <algorithm>

namespace firnfield {

const Material* find_material(std::span<const Material> own, std::string_view name) {
    for (const std::span<const Material> materials : {own, builtin_materials()}) {
        const auto found = std::find_if(materials.begin(), materials.end(), [&](const Material& m) { return m.name == name; });
        if (found != materials.end()) return &*found;
    }
    return nullptr;
}

}  // namespace firnfield
