// Copies of parts as bodies, and which of them a name picks.

#include "model/bodies.hpp"

#include "base/words.hpp"
#include "geometry/conforming.hpp"
#include "geometry/solids.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace firnfield {

namespace {

/// Turns, scale and mirror image of the part itself, before repeats.
Placement own_placement(const Part& part) {
    const Vec3 origin = origin_of(part.shape);
    Placement placement;
    if (part.scale != 1.0) placement = scaled(part.scale, origin);
    if (part.mirrored) placement = combine(mirrored(*part.mirrored, origin), placement);
    for (const Rotation& r : part.rotate) placement = combine(rotated(r.axis, r.angle, r.about.value_or(origin)), placement);
    return placement;
}

/// Where a part stands before repeats: once, or where its file has it.
std::vector<Placement> placements_in_file(const Part& part) {
    const Placement own = own_placement(part);
    const CadSolid* cad = std::get_if<CadSolid>(&part.shape);
    if (cad == nullptr || cad->copies.size() == 1) return {own};
    std::vector<Placement> out;
    // Seen from the origin of the file, which lies at the part's.
    for (const CadCopy& copy : cad->copies) out.push_back(combine(own, combine(moved(cad->at), combine(copy.place, moved(-1.0 * cad->at)))));
    return out;
}

/// Boxes that stay along the axes need no cutting.
void align(PlacedPart& copy, const Part& part) {
    const Box* shape = std::get_if<Box>(&part.shape);
    copy.aligned = shape != nullptr && part.also.empty();
    if (!copy.aligned) return;
    const auto box = place(*shape, copy.placement);
    copy.aligned = box.has_value();
    if (!box) return;
    copy.box = *box;
    for (const Shape& hole : part.holes) {
        const Box* cut = std::get_if<Box>(&hole);
        if (cut == nullptr) {
            copy.aligned = false;
            return;
        }
        copy.holes.push_back(*place(Box{.size = cut->size, .at = shape->at + cut->at}, copy.placement));
    }
}

std::size_t pieces_of(const Part& part) {
    const Solid* solid = std::get_if<Solid>(&part.shape);
    return solid == nullptr || solid->bodies.size() < 2 ? 1 : solid->bodies.size();
}

}  // namespace

Part part_of(const Model& model, const PlacedPart& copy) {
    Part part = model.parts[copy.part];
    Solid* solid = std::get_if<Solid>(&part.shape);
    if (solid == nullptr || solid->bodies.size() < 2) return part;
    solid->surface = solid->bodies.at(copy.piece);
    solid->bodies.clear();
    return part;
}

std::vector<PlacedPart> place_parts(const Model& model, bool with_left_out) {
    std::vector<PlacedPart> placed;
    for (std::size_t index = 0; index < model.parts.size(); ++index) {
        const Part& part = model.parts[index];
        if (!part.include && !with_left_out) continue;
        std::vector<Placement> placements = placements_in_file(part);
        for (const Repeat& repeat : part.repeat) {
            std::vector<Placement> more;
            more.reserve(placements.size() * static_cast<std::size_t>(std::max(repeat.count, 0)));
            for (int copy = 0; copy < repeat.count; ++copy) {
                Placement shift = moved(static_cast<double>(copy) * repeat.step);
                if (repeat.turn != 0.0) shift = combine(shift, rotated(repeat.axis, copy * repeat.turn, repeat.about));
                for (const Placement& placement : placements) more.push_back(combine(shift, placement));
            }
            placements = std::move(more);
        }
        for (std::size_t copy = 0; copy < placements.size(); ++copy) {
            PlacedPart body;
            const CadSolid* cad = std::get_if<CadSolid>(&part.shape);
            const int number = !part.repeat.empty() ? static_cast<int>(copy) + 1 : cad != nullptr ? cad->copies[copy].number : 0;
            body.name = number == 0 ? part.name : fmt::format("{} {}", part.name, number);
            body.part = static_cast<std::uint32_t>(index);
            body.placement = placements[copy];
            align(body, part);
            const std::size_t pieces = pieces_of(part);
            const std::string name = body.name;
            for (body.piece = 0; body.piece < pieces; ++body.piece) {
                if (pieces > 1) body.name = fmt::format("{} body {}", name, body.piece + 1);
                placed.push_back(body);
            }
        }
    }
    return placed;
}

Shape shifted(Shape shape, Vec3 step) {
    std::visit([&](auto& s) { s.at = s.at + step; }, shape);
    return shape;
}

namespace {

/// The shape of a part with everything added and all holes cut out, where it was described.
ClosedSurface composed(const Part& part, const auto& solid, const auto& hole) {
    const Vec3 origin = origin_of(part.shape);
    ClosedSurface surface = solid(part.shape);
    std::vector<ClosedSurface> more, holes;
    std::uint32_t number = 0;  // of a face, so that each stays one
    const auto add = [&](std::vector<ClosedSurface>& to, ClosedSurface from) {
        for (SurfaceFace& face : from.faces) face.number = ++number;
        to.push_back(std::move(from));
    };
    for (const Shape& shape : part.also) add(more, solid(shifted(shape, origin)));
    for (const Shape& shape : part.holes) add(holes, hole(shifted(shape, origin)));
    for (const ClosedSurface& group : together_where_apart(more)) surface = unite(surface, group).surface;
    for (const ClosedSurface& group : together_where_apart(holes)) surface = subtract(surface, group, "inner").surface;
    return surface;
}

}  // namespace

ClosedSurface surface_of(const Part& part, const PlacedPart& copy, double chord) {
    const auto make = [&](const Shape& shape) { return triangulate(shape, chord); };
    return place(composed(part, make, make), copy.placement);
}

namespace {

Part in_plane(Part part, const Space& space) {
    const auto flatten = [&](Shape& shape, double z) {
        std::visit(
            [&](auto& s) {
                s.at.z = z;
                if constexpr (requires { s.length; }) s.length = space.depth;
            },
            shape);
        if (Box* box = std::get_if<Box>(&shape)) box->size.z = space.depth;
    };
    flatten(part.shape, 0.0);
    for (Shape& more : part.also) flatten(more, 0.0);
    for (Shape& hole : part.holes) flatten(hole, 0.0);
    return part;
}

}  // namespace

Model as_deep_as_it_says(Model model) {
    if (!model.space || model.space->revolved) return model;
    for (Part& part : model.parts) part = in_plane(std::move(part), *model.space);
    return model;
}

ClosedSurface wedge_of_part(const Part& part, const PlacedPart& copy, double degrees, double chord) {
    // The planes of the wedge are its own, so the hole's must not become faces: a hole is cut a little wider.
    return place(composed(
                     part, [&](const Shape& shape) { return wedge_of(shape, degrees, chord); },
                     [&](const Shape& shape) { return wedge_of(shape, 1.5 * degrees, chord); }),
                 copy.placement);
}

ClosedSurface part_surface(const Model& described, const std::string& part, double chord) {
    const Model model = as_deep_as_it_says(described);
    for (const PlacedPart& copy : place_parts(model, true)) {
        // All bodies of a file together where the part is meant.
        if (copy.name == part) return conforming(surface_of(part_of(model, copy), copy, chord));
        if (model.parts[copy.part].name == part) return conforming(surface_of(model.parts[copy.part], copy, chord));
    }
    std::vector<std::string> names;
    for (const Part& p : model.parts) names.push_back(p.name);
    throw ModelError("part", fmt::format("no part matches {}{}", in_quotes(part), did_you_mean(part, names)));
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
