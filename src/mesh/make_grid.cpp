// The grid of a model: planes and demands of its bodies, regions and layers.

#include <firnfield/quantity.hpp>

#include "base/memory.hpp"
#include "base/words.hpp"
#include "mesh/grid_lines.hpp"
#include "mesh/layout.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

namespace firnfield {
namespace {

/// What decides the resolution: the stretch with the finest demand along each axis, for the message about the cap.
std::string finest_demand(const Model& model, const Layout& layout) {
    double finest = std::numeric_limits<double>::max();
    std::string text;
    for (const Body& body : layout.bodies) {
        for (int axis = 0; axis < 3; ++axis) {
            if (body.thickness[axis] / model.mesh.through >= finest) continue;
            finest = body.thickness[axis] / model.mesh.through;
            text = fmt::format("the thinnest part is {}, {} along {} in {} cells", in_quotes(body.name), show_quantity(body.thickness[axis], kinds::length),
                               "xyz"[axis], model.mesh.through);
        }
    }
    return text;
}

/// Planes that the grid has to follow: faces of boxes, the ends of everything, and what the user asks for.
std::vector<double> fixed_planes(const Model& model, const Layout& layout, int axis) {
    std::vector<double> planes = model.mesh.planes[static_cast<std::size_t>(axis)];
    double from = std::numeric_limits<double>::max(), to = -from;
    for (std::size_t b = 0; b < layout.bodies.size(); ++b) {
        const Box& box = layout.bodies[b].box;
        from = std::min(from, box.lower()[axis]);
        to = std::max(to, box.upper()[axis]);
        if (layout.bodies[b].surface != no_index) continue;
        planes.push_back(box.lower()[axis]);
        planes.push_back(box.upper()[axis]);
        for (const Box& hole : layout.holes[b]) {
            planes.push_back(hole.lower()[axis]);
            planes.push_back(hole.upper()[axis]);
        }
    }
    const auto inside = [&](double plane) { return plane > from && plane < to; };
    for (const Shape& region : layout.regions) {
        const Box* box = std::get_if<Box>(&region);
        if (box == nullptr) continue;
        if (inside(box->lower()[axis])) planes.push_back(box->lower()[axis]);
        if (inside(box->upper()[axis])) planes.push_back(box->upper()[axis]);
    }
    planes.push_back(from);
    planes.push_back(to);
    return planes;
}

/// A plane that is good to follow, with the area of flat faces in it.
struct WantedPlane {
    double at = 0.0, area = 0.0;
};

/// Planes that are good to follow unless another one is near: flat faces of cut bodies and their ends. Planes within the tolerance are one.
std::vector<WantedPlane> wanted_planes(const Model& model, const Layout& layout, int axis) {
    std::vector<WantedPlane> all;
    for (const Body& body : layout.bodies) {
        if (body.surface == no_index) continue;
        all.push_back({body.box.lower()[axis]});
        all.push_back({body.box.upper()[axis]});
        const ClosedSurface& surface = layout.surfaces[body.surface].surface;
        for (const auto& t : surface.triangles) {
            const Vec3 p = surface.corners[t[0]], q = surface.corners[t[1]], r = surface.corners[t[2]];
            if (std::max(std::abs(p[axis] - q[axis]), std::abs(p[axis] - r[axis])) > layout.tolerance) continue;
            all.push_back({p[axis], 0.5 * length(cross(q - p, r - p))});
        }
    }
    for (const RegionSize& region : model.mesh.regions) {
        all.push_back({region.box.lower()[axis]});
        all.push_back({region.box.upper()[axis]});
    }
    std::sort(all.begin(), all.end(), [](const WantedPlane& a, const WantedPlane& b) { return a.at < b.at; });
    std::vector<WantedPlane> planes;
    for (const WantedPlane& plane : all) {
        if (planes.empty() || plane.at - planes.back().at > 2.0 * layout.tolerance) {
            planes.push_back(plane);
        } else {
            planes.back().area += plane.area;
        }
    }
    return planes;
}

/// Adds wanted planes where there is room, those with the largest faces first. Nothing here may depend on the direction of the axis or on
/// last digits: planes of the same area at the same distance from the middle are taken together, both or neither.
void add_wanted_planes(std::vector<WantedPlane> wanted, const std::vector<SizeDemand>& demands, double target, double tolerance, std::vector<double>& planes) {
    std::sort(planes.begin(), planes.end());
    const double low = planes.front(), high = planes.back(), middle = 0.5 * (low + high);
    const auto from_middle = [&](const WantedPlane& p) { return std::abs(p.at - middle); };
    double largest = 0.0;
    for (const WantedPlane& p : wanted) largest = std::max(largest, p.area);
    // Areas and distances on a scale on which last digits make no difference.
    const auto rank = [&](const WantedPlane& p) {
        return std::pair{largest > 0.0 ? -std::llround(1e6 * p.area / largest) : 0, std::llround(from_middle(p) / (10.0 * tolerance))};
    };
    std::stable_sort(wanted.begin(), wanted.end(), [&](const WantedPlane& a, const WantedPlane& b) { return rank(a) < rank(b); });
    constexpr double room = 0.35;  // of a cell: nearer planes would make needless slices
    const auto needs = [&](double plane) {
        double size = target;
        for (const SizeDemand& d : demands) {
            if (plane >= d.from - tolerance && plane <= d.to + tolerance) size = std::min(size, d.size);
        }
        return room * size * (1.0 - 1e-6);
    };
    const auto has_room = [&](double plane) {
        if (plane <= low + tolerance || plane >= high - tolerance) return false;
        const auto next = std::lower_bound(planes.begin(), planes.end(), plane);
        return *next - plane >= needs(plane) && plane - *(next - 1) >= needs(plane);
    };
    for (std::size_t i = 0; i < wanted.size();) {
        const std::size_t first = i;
        for (++i; i < wanted.size() && rank(wanted[i]) == rank(wanted[first]);) ++i;
        std::vector<double> accepted;
        for (std::size_t n = first; n < i; ++n) {
            if (has_room(wanted[n].at)) accepted.push_back(wanted[n].at);
        }
        std::sort(accepted.begin(), accepted.end());
        // Two that leave no room for each other lie around the middle: the middle stands for both.
        if (accepted.size() == 2 && accepted[1] - accepted[0] < needs(accepted[0])) {
            const double between = 0.5 * (accepted[0] + accepted[1]);
            accepted.clear();
            if (has_room(between)) accepted.push_back(between);
        }
        for (const double plane : accepted) planes.insert(std::lower_bound(planes.begin(), planes.end(), plane), plane);
    }
}

struct Stretch {
    double from = 0.0, to = 0.0;  // m
};

/// What is left of a box along an axis beside the boxes taken out of it: between each of them and what comes next in its way, another one or the end.
std::vector<Stretch> walls_beside(const Box& box, std::vector<Box> taken, int axis) {
    std::vector<Stretch> walls;
    const int u = (axis + 1) % 3, v = (axis + 2) % 3;
    const auto in_the_way = [&](const Box& a, const Box& b) {
        return std::max(a.lower()[u], b.lower()[u]) < std::min(a.upper()[u], b.upper()[u]) &&
               std::max(a.lower()[v], b.lower()[v]) < std::min(a.upper()[v], b.upper()[v]);
    };
    std::sort(taken.begin(), taken.end(), [&](const Box& a, const Box& b) { return a.lower()[axis] < b.lower()[axis]; });
    for (std::size_t i = 0; i < taken.size(); ++i) {
        walls.push_back({box.lower()[axis], taken[i].lower()[axis]});
        const auto behind = std::lower_bound(taken.begin(), taken.end(), taken[i].upper()[axis], [&](const Box& b, double x) { return b.lower()[axis] < x; });
        const auto next = std::find_if(behind, taken.end(), [&](const Box& other) { return in_the_way(taken[i], other); });
        walls.push_back({taken[i].upper()[axis], next == taken.end() ? box.upper()[axis] : next->lower()[axis]});
    }
    return walls;
}

/// The default size between two planes; where layers may be coarser, in stretches.
void add_default_size(const Model& model, const Layout& layout, int axis, Stretch body, std::vector<SizeDemand>& demands) {
    std::vector<SizeDemand> coarser;
    for (const LayerSize& l : model.mesh.layers) {
        if (!l.coarser || l.axis != axis || l.to <= body.from || l.from >= body.to) continue;
        coarser.push_back({std::max(l.from, body.from), std::min(l.to, body.to), std::max(layout.target, model.mesh.coarsening * l.cell), true});
    }
    if (coarser.empty()) {
        demands.push_back({body.from, body.to, layout.target});
        return;
    }
    std::sort(coarser.begin(), coarser.end(), [](const SizeDemand& a, const SizeDemand& b) { return a.from < b.from; });
    double from = body.from;
    for (const SizeDemand& layer : coarser) {
        if (layer.from > from) demands.push_back({from, layer.from, layout.target, true});
        demands.push_back(layer);
        from = std::max(from, layer.to);
    }
    if (body.to > from) demands.push_back({from, body.to, layout.target, true});
}

/// What bodies, wishes and footprints ask for along an axis; first cells `relax` times as thick as footprints ask for, none at infinity.
std::vector<SizeDemand> size_demands(const Model& model, const Layout& layout, int axis, double relax) {
    std::vector<SizeDemand> demands;
    // Even where everything is to be coarse: with a single cell through a part nothing is known of what goes on in it.
    const auto through = [&](double thickness) {
        const double wanted = model.mesh.coarsening * thickness / model.mesh.through;
        return model.mesh.through > 1 ? std::min(wanted, 0.5 * thickness) : wanted;
    };
    for (std::size_t b = 0; b < layout.bodies.size(); ++b) {
        const Body& body = layout.bodies[b];
        const std::optional<double>& own = model.parts[body.part].cell;
        const Stretch extent{body.box.lower()[axis], body.box.upper()[axis]};
        if (own) {
            demands.push_back({extent.from, extent.to, model.mesh.coarsening * *own});
        } else {
            add_default_size(model, layout, axis, extent, demands);
        }
        if (body.surface != no_index) {
            demands.push_back({extent.from, extent.to, through(body.thickness[axis])});
            continue;
        }
        // Walls left beside holes count as thin parts of their own.
        std::vector<double> faces{body.box.lower()[axis], body.box.upper()[axis]};
        for (const Box& hole : layout.holes[b]) faces.insert(faces.end(), {hole.lower()[axis], hole.upper()[axis]});
        std::sort(faces.begin(), faces.end());
        for (std::size_t i = 0; i + 1 < faces.size(); ++i) {
            const double thickness = faces[i + 1] - faces[i];
            if (thickness <= layout.tolerance) continue;
            demands.push_back({faces[i], faces[i + 1], through(thickness)});
        }
        for (const Stretch& wall : walls_beside(body.box, layout.taken[b], axis)) {
            if (wall.to - wall.from > layout.tolerance) demands.push_back({wall.from, wall.to, through(wall.to - wall.from)});
        }
    }
    for (const RegionSize& region : model.mesh.regions)
        demands.push_back({region.box.lower()[axis], region.box.upper()[axis], model.mesh.coarsening * region.cell});
    for (const LayerSize& layer : model.mesh.layers) {
        if (layer.axis == axis && !layer.coarser) demands.push_back({layer.from, layer.to, model.mesh.coarsening * layer.cell, true});
    }
    if (std::isinf(relax)) return demands;
    for (const FirstCell& cell : layout.first_cells) {
        const double size = relax * model.mesh.coarsening * cell.size;
        if (cell.axis == axis) demands.push_back({cell.upper ? cell.at : cell.at - size, cell.upper ? cell.at + size : cell.at, size, true});
    }
    const std::vector<SizeDemand>& across = layout.across[static_cast<std::size_t>(axis)];
    demands.insert(demands.end(), across.begin(), across.end());
    return demands;
}

}  // namespace

namespace {

Grid grid_with(const Model& model, const Layout& layout, double relax) {
    Grid grid;
    for (std::size_t axis = 0; axis < 3; ++axis) {
        const int a = static_cast<int>(axis);
        const std::vector<SizeDemand> demands = size_demands(model, layout, a, relax);
        std::vector<double> planes = fixed_planes(model, layout, a);
        add_wanted_planes(wanted_planes(model, layout, a), demands, layout.target, layout.tolerance, planes);
        // What does not vary takes one layer of cells.
        const bool flat = model.space && a == (model.space->revolved ? 1 : 2);
        if (flat) {
            const auto [low, high] = std::minmax_element(planes.begin(), planes.end());
            const double reach = std::max(-*low, *high);
            grid.lines[axis] = model.space->revolved ? std::vector{-1.01 * reach, 1.01 * reach} : std::vector{*low, *high};
            continue;
        }
        constexpr std::size_t most_lines = 2'000'000;
        grid.lines[axis] = grid_lines(std::move(planes), demands, model.mesh.growth, layout.tolerance, most_lines);
    }
    return grid;
}

/// What a grid would cost.
struct Size {
    double boxes = 1.0;
    double solid = 0.0;   ///< boxes within bodies
    double memory = 0.0;  ///< bytes to solve
    static constexpr double most_boxes = 4e9;

    Size(const Model& model, const Layout& layout, const Grid& grid) {
        for (int axis = 0; axis < 3; ++axis) boxes *= grid.lines[static_cast<std::size_t>(axis)].empty() ? 1e10 : static_cast<double>(grid.count(axis));
        if (uncountable()) return;
        for (const Body& body : layout.bodies) {
            double cells = 1.0;
            for (int axis = 0; axis < 3; ++axis) {
                const Range range = box_range(grid, axis, body.box.lower()[axis], body.box.upper()[axis]);
                cells *= static_cast<double>(range.last - range.first);
            }
            solid += cells;
        }
        const bool cut = std::any_of(layout.bodies.begin(), layout.bodies.end(), [](const Body& b) { return b.surface != no_index; });
        const bool in_time = std::any_of(model.studies.begin(), model.studies.end(), [](const Study& s) { return s.kind != StudyKind::steady; });
        memory = memory_to_solve(solid, cut, in_time);
    }

    [[nodiscard]] bool uncountable() const { return boxes >= 1e10; }
    /// Over the cap: empty boxes cost a few bytes each, cells about two hundred.
    [[nodiscard]] double excess(const Model& model) const {
        const auto cap = static_cast<double>(model.mesh.max_cells);
        return std::max(solid / cap, boxes / std::min(30.0 * cap, most_boxes));
    }
    [[nodiscard]] bool allowed(const Model& model) const { return !uncountable() && excess(model) <= 1.0 && memory <= static_cast<double>(machine_memory()); }
};

void require_allowed(const Model& model, const Layout& layout, const Size& size) {
    const auto count = [](double number) { return grouped(static_cast<unsigned long long>(number)); };
    if (size.uncountable() || size.excess(model) > 1.0) {
        throw ModelError(
            "mesh",
            fmt::format("the mesh would have about {} cells in {} grid boxes, more than mesh.max_cells = {} allows; raise "
                        "mesh.cell from {} to about {}, lower mesh.through, or raise the cap ({})",
                        size.uncountable() ? "too many" : count(size.solid), size.uncountable() ? "over 10 000 000 000" : count(size.boxes),
                        count(static_cast<double>(model.mesh.max_cells)), show_quantity(layout.target, kinds::length),
                        show_quantity(layout.target * std::cbrt(std::max(1.0, size.excess(model))) * 1.1, kinds::length, 2), finest_demand(model, layout)));
    }
    if (const auto available = static_cast<double>(machine_memory()); size.memory > available) {
        throw ModelError(
            "mesh", fmt::format("the mesh would have about {} cells, and solving it would take about {:.1f} GB of memory where this machine has {:.1f}; raise "
                                "mesh.cell from {} to about {} ({})",
                                count(size.solid), 1e-9 * size.memory, 1e-9 * available, show_quantity(layout.target, kinds::length),
                                show_quantity(layout.target * std::cbrt(size.memory / available) * 1.1, kinds::length, 2), finest_demand(model, layout)));
    }
}

}  // namespace

Grid make_grid(const Model& model, const Layout& layout) {
    constexpr double none = std::numeric_limits<double>::infinity();
    Grid grid = grid_with(model, layout, none);
    const Size plain(model, layout, grid);
    require_allowed(model, layout, plain);
    // Thin first cells are worth many cells, not any number of them: where hundreds of footprints ask for their own planes they get thicker ones.
    constexpr double most_growth = 1.5, always = 20'000.0;
    for (double relax = 1.0; relax < 100.0; relax *= 2.0) {
        Grid finer = grid_with(model, layout, relax);
        const Size size(model, layout, finer);
        if (size.boxes <= most_growth * plain.boxes + always && size.allowed(model)) return finer;
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
