#include "mesh/layout.hpp"

#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "mesh/grid_lines.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {
namespace {

/// The part of `box` inside `bounds`; no positive size along some axis when they do not meet.
Box intersection(const Box& box, const Box& bounds) {
    Box common;
    for (int axis = 0; axis < 3; ++axis) {
        common.at[axis] = std::max(box.lower()[axis], bounds.lower()[axis]);
        // A side that is not cut keeps its exact size, so that equal input gives equal faces.
        const bool whole = common.at[axis] == box.lower()[axis] && box.upper()[axis] <= bounds.upper()[axis];
        common.size[axis] = whole ? box.size[axis] : std::min(box.upper()[axis], bounds.upper()[axis]) - common.at[axis];
    }
    return common;
}

bool has_volume(const Box& box, double tolerance) {
    return box.size.x > tolerance && box.size.y > tolerance && box.size.z > tolerance;
}

/// Regions of surface rules, whose faces the grid follows so that they cut surfaces exactly.
std::vector<Box> rule_regions(const Model& model) {
    std::vector<Box> regions;
    const auto collect = [&](const Selection& pick) {
        if (pick.region) regions.push_back(*pick.region);
    };
    for (const Surface& surface : model.surfaces) collect(surface.pick);
    for (const Cooling& cooling : model.coolings) collect(cooling.on);
    for (const Hold& hold : model.holds) collect(hold.on);
    for (const Power& power : model.powers) {
        if (power.on) collect(*power.on);
    }
    return regions;
}

/// What decides the resolution: the stretch with the finest demand along each axis, for the message about the cap.
std::string finest_demand(const Model& model, const Layout& layout) {
    double finest = std::numeric_limits<double>::max();
    std::string text;
    for (const Body& body : layout.bodies) {
        for (int axis = 0; axis < 3; ++axis) {
            if (body.box.size[axis] / model.mesh.through >= finest) continue;
            finest = body.box.size[axis] / model.mesh.through;
            text = fmt::format("the thinnest part is {}, {} along {} in {} cells", in_quotes(body.name),
                               show_quantity(body.box.size[axis], kinds::length), "xyz"[axis], model.mesh.through);
        }
    }
    return text;
}

}  // namespace

Layout lay_out(const Model& model) {
    Layout layout;
    const std::vector<PlacedPart> placed = place_parts(model);
    constexpr double far = 1e30;
    Vec3 low{far, far, far}, high{-far, -far, -far};
    for (const PlacedPart& part : placed) {
        for (int axis = 0; axis < 3; ++axis) {
            low[axis] = std::min(low[axis], part.box.lower()[axis]);
            high[axis] = std::max(high[axis], part.box.upper()[axis]);
        }
    }
    double extent = 0.0, reach = 0.0;
    for (int axis = 0; axis < 3; ++axis) {
        extent = std::max(extent, high[axis] - low[axis]);
        reach = std::max({reach, std::abs(low[axis]), std::abs(high[axis])});
    }
    // Rounding of coordinates grows with their distance from the origin, so the tolerance does, too.
    layout.tolerance = std::max(1e-9 * extent, 1e-13 * reach);

    for (const Mirror& mirror : model.mirrors) {
        (mirror.keep_plus ? low : high)[mirror.axis] = mirror.at;
        layout.mirror_side[static_cast<std::size_t>(make_side(mirror.axis, !mirror.keep_plus))] = true;
    }
    const Box kept{.size = high - low, .at = low};
    for (const PlacedPart& part : placed) {
        Body body;
        body.name = part.name;
        body.part = part.part;
        body.box = intersection(part.box, kept);
        if (!has_volume(body.box, layout.tolerance)) continue;
        for (const Mirror& mirror : model.mirrors) {
            const double face = mirror.keep_plus ? body.box.lower()[mirror.axis] : body.box.upper()[mirror.axis];
            body.on_mirror[static_cast<std::size_t>(mirror.axis)] = std::abs(face - mirror.at) <= layout.tolerance;
        }
        std::vector<Box> holes;
        for (const Box& hole : part.holes) {
            const Box inside = intersection(hole, body.box);
            if (has_volume(inside, layout.tolerance)) holes.push_back(inside);
        }
        layout.bodies.push_back(std::move(body));
        layout.holes.push_back(std::move(holes));
    }
    if (layout.bodies.empty()) throw ModelError("mirror", "the mirror planes leave nothing of the assembly");
    return layout;
}

Grid make_grid(const Model& model, const Layout& layout) {
    double longest = 0.0;
    Grid grid;
    std::array<std::vector<double>, 3> planes;
    for (std::size_t axis = 0; axis < 3; ++axis) {
        const int a = static_cast<int>(axis);
        for (std::size_t b = 0; b < layout.bodies.size(); ++b) {
            planes[axis].push_back(layout.bodies[b].box.lower()[a]);
            planes[axis].push_back(layout.bodies[b].box.upper()[a]);
            for (const Box& hole : layout.holes[b]) {
                planes[axis].push_back(hole.lower()[a]);
                planes[axis].push_back(hole.upper()[a]);
            }
        }
        const auto [low, high] = std::minmax_element(planes[axis].begin(), planes[axis].end());
        const double from = *low, to = *high;
        longest = std::max(longest, to - from);
        for (const Box& region : rule_regions(model)) {
            for (const double plane : {region.lower()[a], region.upper()[a]}) {
                if (plane > from && plane < to) planes[axis].push_back(plane);
            }
        }
    }

    const double target = model.mesh.cell.value_or(longest / 40.0);
    double solid = 0.0, all = 1.0;
    for (std::size_t axis = 0; axis < 3; ++axis) {
        const int a = static_cast<int>(axis);
        std::vector<SizeDemand> demands;
        for (std::size_t b = 0; b < layout.bodies.size(); ++b) {
            const Body& body = layout.bodies[b];
            const double size = model.parts[body.part].cell.value_or(target);
            // Walls left beside holes count as thin parts of their own.
            std::vector<double> faces{body.box.lower()[a], body.box.upper()[a]};
            for (const Box& hole : layout.holes[b]) faces.insert(faces.end(), {hole.lower()[a], hole.upper()[a]});
            std::sort(faces.begin(), faces.end());
            for (std::size_t i = 0; i + 1 < faces.size(); ++i) {
                const double thickness = faces[i + 1] - faces[i];
                if (thickness <= layout.tolerance) continue;
                demands.push_back({faces[i], faces[i + 1], std::min(size, thickness / model.mesh.through)});
            }
        }
        constexpr std::size_t most_lines = 2'000'000;
        grid.lines[axis] = grid_lines(std::move(planes[axis]), demands, model.mesh.growth, layout.tolerance, most_lines);
        all *= grid.lines[axis].empty() ? 1e10 : static_cast<double>(grid.count(a));
    }
    if (all < 1e10) {
        for (const Body& body : layout.bodies) {
            double cells = 1.0;
            for (int axis = 0; axis < 3; ++axis) {
                const Range range = box_range(grid, axis, body.box.lower()[axis], body.box.upper()[axis]);
                cells *= static_cast<double>(range.last - range.first);
            }
            solid += cells;
        }
    }
    // Empty boxes cost a few bytes each, cells about two hundred.
    const auto cap = static_cast<double>(model.mesh.max_cells);
    const bool too_many = all >= 1e10 || solid > cap || all > std::min(30.0 * cap, 4e9);
    if (too_many) {
        const double excess = std::max(solid / cap, all / std::min(30.0 * cap, 4e9));
        throw ModelError("mesh", fmt::format("the mesh would have about {} cells in {} grid boxes, more than mesh.max_cells = {} allows; raise "
                                             "mesh.cell from {} to about {}, lower mesh.through, or raise the cap ({})",
                                             all >= 1e10 ? "too many" : grouped(static_cast<unsigned long long>(solid)),
                                             all >= 1e10 ? "over 10 000 000 000" : grouped(static_cast<unsigned long long>(all)),
                                             grouped(static_cast<unsigned long long>(model.mesh.max_cells)), show_quantity(target, kinds::length),
                                             show_quantity(target * std::cbrt(std::max(1.0, excess)) * 1.1, kinds::length, 2), finest_demand(model, layout)));
    }
    return grid;
}

Range box_range(const Grid& grid, int axis, double from, double to) {
    const std::vector<double>& lines = grid.lines[static_cast<std::size_t>(axis)];
    // The nearest line: planes within the tolerance of each other have become one.
    const auto nearest = [&](double x) {
        auto at = std::lower_bound(lines.begin(), lines.end(), x);
        if (at == lines.end() || (at != lines.begin() && x - *(at - 1) < *at - x)) --at;
        return static_cast<Index>(at - lines.begin());
    };
    return {nearest(from), nearest(to)};
}

}  // namespace firnfield
