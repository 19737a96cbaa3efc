#include <firnfield/model.hpp>

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace firnfield {

std::vector<Study> studies_of(const Model& model) {
    if (!model.studies.empty()) return model.studies;
    return {Study{.name = "steady", .ambient = {}, .scale = {}}};
}

std::string display_name(const Joint& joint) {
    return joint.name.empty() ? joint.between[0] + " - " + joint.between[1] : joint.name;
}

std::string display_name(const Power& power) {
    if (!power.name.empty()) return power.name;
    if (!power.into.empty()) return fmt::format("{}", fmt::join(power.into, ", "));
    if (power.on && !power.on->surfaces.empty()) return fmt::format("{}", fmt::join(power.on->surfaces, ", "));
    if (power.on && !power.on->parts.empty()) return fmt::format("onto {}", fmt::join(power.on->parts, ", "));
    return "power";
}

std::string display_name(const Cooling& cooling, std::size_t index) {
    if (!cooling.name.empty()) return cooling.name;
    if (cooling.on.rest && cooling.on.parts.empty()) return "exposed";
    if (!cooling.on.surfaces.empty()) return fmt::format("{}", fmt::join(cooling.on.surfaces, ", "));
    return fmt::format("cooling {}", index + 1);
}

std::string display_name(const Hold& hold, std::size_t index) {
    if (!hold.name.empty()) return hold.name;
    if (!hold.on.surfaces.empty()) return fmt::format("{}", fmt::join(hold.on.surfaces, ", "));
    return fmt::format("hold {}", index + 1);
}

}  // namespace firnfield
