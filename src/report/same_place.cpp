// Solids that are as large as others and stand in the same places.

#include "report/same_place.hpp"

#include <cmath>
#include <vector>

namespace firnfield {
namespace {

/// One copy of a solid.
struct Stand {
    const StepSolid* solid = nullptr;
    double volume = 0.0, area = 0.0;
    Vec3 middle{};  // of its faces, by area
};

Stand stand_of(const StepSolid& solid, const StepCopy& copy) {
    Stand out{.solid = &solid, .volume = solid.geometry->volume()};
    Vec3 sum;
    for (const ExactFace& face : solid.geometry->faces()) {
        out.area += face.area;
        sum = sum + face.area * face.at;
    }
    out.middle = copy.place((1.0 / out.area) * sum);
    return out;
}

bool alike(const Stand& a, const Stand& b) {
    constexpr double near = 1e-5;
    const double size = std::cbrt(a.volume);
    return std::abs(a.volume - b.volume) <= near * a.volume && std::abs(a.area - b.area) <= near * a.area && length(a.middle - b.middle) <= near * size;
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
