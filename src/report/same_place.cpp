// Solids that are as large as others and stand in the same places.

#include "report/same_place.hpp"

#include <array>
#include <cmath>
#include <vector>

namespace firnfield {
namespace {

/// One copy of a solid.
struct Stand {
    const StepSolid* solid = nullptr;
    double volume = 0.0, area = 0.0;
    Vec3 middle{};                 // of its faces, by area
    std::array<Vec3, 2> spread{};  // m², of the faces about it: along the axes, and across them
};

Stand stand_of(const StepSolid& solid, const StepCopy& copy) {
    Stand out{.solid = &solid, .volume = solid.geometry->volume()};
    for (const ExactFace& face : solid.geometry->faces()) {
        out.area += face.area;
        out.middle = out.middle + face.area * copy.place(face.at);
    }
    out.middle = (1.0 / out.area) * out.middle;
    // Two blades of a propeller have all that in common, but not where their faces lie.
    for (const ExactFace& face : solid.geometry->faces()) {
        const Vec3 from = copy.place(face.at) - out.middle;
        const double share = face.area / out.area;
        out.spread[0] = out.spread[0] + share * Vec3{from.x * from.x, from.y * from.y, from.z * from.z};
        out.spread[1] = out.spread[1] + share * Vec3{from.y * from.z, from.z * from.x, from.x * from.y};
    }
    return out;
}

bool alike(const Stand& a, const Stand& b) {
    constexpr double near = 1e-5;
    const double size = std::cbrt(a.volume);
    return std::abs(a.volume - b.volume) <= near * a.volume && std::abs(a.area - b.area) <= near * a.area && length(a.middle - b.middle) <= near * size &&
           length(a.spread[0] - b.spread[0]) <= near * size * size && length(a.spread[1] - b.spread[1]) <= near * size * size;
}

}  // namespace

std::map<std::string, std::string> in_same_place(const StepImport& import) {
    std::map<std::string, std::string> out;
    std::map<long long, std::vector<Stand>> by_volume;
    for (const StepSolid& solid : import.solids) {
        if (!solid.geometry || !(solid.geometry->volume() > 0.0)) continue;
        const auto level = static_cast<long long>(std::floor(1e3 * std::log(solid.geometry->volume())));
        for (const StepCopy& copy : solid.copies) {
            const Stand here = stand_of(solid, copy);
            for (long long near = level - 1; near <= level + 1 && !out.contains(solid.name); ++near) {
                const auto known = by_volume.find(near);
                if (known == by_volume.end()) continue;
                for (const Stand& other : known->second) {
                    if (other.solid != &solid && alike(here, other)) out.try_emplace(solid.name, other.solid->name);
                }
            }
            by_volume[level].push_back(here);
        }
    }
    return out;
}

}  // namespace firnfield
