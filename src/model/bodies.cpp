#include "model/bodies.hpp"

#include "base/words.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace firnfield {

std::vector<PlacedPart> place_parts(const Model& model, bool with_left_out) {
    std::vector<PlacedPart> placed;
    for (std::size_t index = 0; index < model.parts.size(); ++index) {
        const Part& part = model.parts[index];
        if (!part.include && !with_left_out) continue;
        std::vector<Vec3> offsets{Vec3{}};
        for (const Repeat& repeat : part.repeat) {
            std::vector<Vec3> more;
            more.reserve(offsets.size() * static_cast<std::size_t>(std::max(repeat.count, 0)));
            for (int copy = 0; copy < repeat.count; ++copy) {
                for (const Vec3& offset : offsets) more.push_back(offset + static_cast<double>(copy) * repeat.step);
            }
            offsets = std::move(more);
        }
        const Box& shape = std::get<Box>(part.shape);
        for (std::size_t copy = 0; copy < offsets.size(); ++copy) {
            PlacedPart body;
            body.name = part.repeat.empty() ? part.name : fmt::format("{} {}", part.name, copy + 1);
            body.part = static_cast<std::uint32_t>(index);
            body.box = Box{.size = shape.size, .at = shape.at + offsets[copy]};
            for (const Box& hole : part.holes) body.holes.push_back({.size = hole.size, .at = body.box.at + hole.at});
            placed.push_back(std::move(body));
        }
    }
    return placed;
}

bool picks(std::string_view pattern, std::string_view copy_name, std::string_view part_name) {
    return matches_wildcard(pattern, copy_name) || matches_wildcard(pattern, part_name);
}

bool picks_only_left_out(const Model& model, std::span<const std::string> patterns) {
    if (std::all_of(model.parts.begin(), model.parts.end(), [](const Part& p) { return p.include; })) return false;
    bool left_out = false;
    for (const PlacedPart& body : place_parts(model, true)) {
        const Part& part = model.parts[body.part];
        const bool hit = std::any_of(patterns.begin(), patterns.end(), [&](const std::string& p) { return picks(p, body.name, part.name); });
        if (hit && part.include) return false;
        left_out = left_out || hit;
    }
    return left_out;
}

}  // namespace firnfield
