#include <firnfield/mesh.hpp>

#include "mesh/joint_table.hpp"
#include "mesh/layout.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

namespace firnfield {
namespace {

/// Fills boxes with bodies in the model's order and numbers what is solid.
class Filling {
public:
    Filling(const Grid& grid, const Layout& layout, Mesh& mesh) : grid_(grid), mesh_(mesh), owner_(grid.boxes(), no_index) {
        for (std::size_t b = 0; b < layout.bodies.size(); ++b) fill(static_cast<Index>(b), layout.bodies[b].box, layout.holes[b]);
        for (const auto& [bodies, volume] : overlaps_) mesh.overlaps.push_back({bodies.first, bodies.second, volume});
    }

    /// Body per box becomes cell per box.
    std::vector<Index> number_cells() {
        const std::size_t solid = static_cast<std::size_t>(std::count_if(owner_.begin(), owner_.end(), [](Index o) { return o != no_index; }));
        Cells& cells = mesh_.cells;
        cells.box.reserve(solid);
        cells.body.reserve(solid);
        cells.volume.reserve(solid);
        Index box = 0;
        for (Index k = 0; k < grid_.count(2); ++k) {
            for (Index j = 0; j < grid_.count(1); ++j) {
                const double section = grid_.width(1, j) * grid_.width(2, k);
                for (Index i = 0; i < grid_.count(0); ++i, ++box) {
                    if (owner_[box] == no_index) continue;
                    Body& body = mesh_.bodies[owner_[box]];
                    const double volume = section * grid_.width(0, i);
                    body.volume += volume;
                    ++body.cells;
                    cells.body.push_back(owner_[box]);
                    owner_[box] = cells.size();
                    cells.box.push_back(box);
                    cells.volume.push_back(volume);
                }
            }
        }
        return std::move(owner_);
    }

private:
    void fill(Index body, const Box& box, const std::vector<Box>& holes) {
        std::array<Range, 3> range;
        std::vector<std::array<Range, 3>> hole_ranges(holes.size());
        for (int axis = 0; axis < 3; ++axis) {
            const auto a = static_cast<std::size_t>(axis);
            range[a] = box_range(grid_, axis, box.lower()[axis], box.upper()[axis]);
            for (std::size_t h = 0; h < holes.size(); ++h) {
                hole_ranges[h][a] = box_range(grid_, axis, holes[h].lower()[axis], holes[h].upper()[axis]);
            }
        }
        const auto in_hole = [&](Index i, Index j, Index k) {
            return std::any_of(hole_ranges.begin(), hole_ranges.end(), [&](const std::array<Range, 3>& h) {
                return i >= h[0].first && i < h[0].last && j >= h[1].first && j < h[1].last && k >= h[2].first && k < h[2].last;
            });
        };
        for (Index k = range[2].first; k < range[2].last; ++k) {
            for (Index j = range[1].first; j < range[1].last; ++j) {
                std::size_t at = (std::size_t{k} * grid_.count(1) + j) * grid_.count(0) + range[0].first;
                for (Index i = range[0].first; i < range[0].last; ++i, ++at) {
                    if (!holes.empty() && in_hole(i, j, k)) continue;
                    if (owner_[at] != no_index) {
                        overlaps_[{owner_[at], body}] += grid_.width(0, i) * grid_.width(1, j) * grid_.width(2, k);
                    }
                    owner_[at] = body;
                }
            }
        }
    }

    const Grid& grid_;
    Mesh& mesh_;
    std::vector<Index> owner_;
    std::map<std::pair<Index, Index>, double> overlaps_;
};

/// Walks through all boxes and enters what lies between a cell and its neighbours: faces, contacts, patches.
class Neighbours {
public:
    Neighbours(const Model& model, const Layout& layout, const std::vector<Index>& cell_at, JointTable& joints, Mesh& mesh)
        : model_(model), mesh_(mesh), grid_(mesh.grid), layout_(layout), cell_at_(cell_at), joints_(joints), covered_(mesh.cells.size(), 0) {
        stride_ = {1, grid_.count(0), std::size_t{grid_.count(0)} * grid_.count(1)};
        for (int axis = 0; axis < 3; ++axis) {
            for (Index i = 0; i < grid_.count(axis); ++i) width_[static_cast<std::size_t>(axis)].push_back(grid_.width(axis, i));
        }
    }

    void find() {
        Faces& faces = mesh_.faces;
        const std::size_t most = 3 * std::size_t{mesh_.cells.size()};
        faces.first.reserve(most);
        faces.second.reserve(most);
        faces.axis.reserve(most);
        faces.area.reserve(most);
        faces.distance.reserve(most);
        for_each_cell([&](Index cell, const std::array<Index, 3>& place) {
            for (int axis = 0; axis < 3; ++axis) look_up(cell, place, axis);
        });
        for_each_cell([&](Index cell, const std::array<Index, 3>& place) {
            if (covered_[cell] != all_covered) expose(cell, place);
        });
    }

private:
    static constexpr std::uint8_t all_covered = 0x3F;
    static std::uint8_t bit(Side side) { return static_cast<std::uint8_t>(1U << static_cast<unsigned>(side)); }
    void cover(Index cell, Side side) { covered_[cell] = static_cast<std::uint8_t>(covered_[cell] | bit(side)); }

    /// Cells in ascending order with their place in the grid, without a division for each.
    template <typename Visit>
    void for_each_cell(const Visit& visit) const {
        std::array<Index, 3> place{};
        std::size_t box = 0;
        for (place[2] = 0; place[2] < grid_.count(2); ++place[2]) {
            for (place[1] = 0; place[1] < grid_.count(1); ++place[1]) {
                for (place[0] = 0; place[0] < grid_.count(0); ++place[0], ++box) {
                    if (cell_at_[box] != no_index) visit(cell_at_[box], place);
                }
            }
        }
    }

    double section(int axis, const std::array<Index, 3>& place) const {
        const auto a = static_cast<std::size_t>(axis), u = (a + 1) % 3, v = (a + 2) % 3;
        return width_[u][place[u]] * width_[v][place[v]];
    }

    /// What lies beyond the upper side of a cell along one axis.
    void look_up(Index cell, const std::array<Index, 3>& place, int axis) {
        const auto a = static_cast<std::size_t>(axis);
        const Index at = place[a];
        const Side up = make_side(axis, true), down = make_side(axis, false);
        if (at + 1 == grid_.count(axis)) return;
        const Index box = mesh_.cells.box[cell];
        const Index next = cell_at_[box + stride_[a]];
        if (next == no_index) {
            look_across_gap(cell, box, place, axis);
            return;
        }
        cover(cell, up);
        cover(next, down);
        const double area = section(axis, place);
        if (mesh_.cells.body[cell] == mesh_.cells.body[next]) {
            mesh_.faces.first.push_back(cell);
            mesh_.faces.second.push_back(next);
            mesh_.faces.axis.push_back(static_cast<std::uint8_t>(axis));
            mesh_.faces.area.push_back(area);
            mesh_.faces.distance.push_back(0.5 * (width_[a][at] + width_[a][at + 1]));
        } else {
            enter_contact(cell, next, up, area, 0.5 * width_[a][at], 0.5 * width_[a][at + 1], 0.0);
        }
    }

    /// The first solid beyond the gap counts as touching when a joint of the two bodies reaches that far.
    void look_across_gap(Index cell, Index box, const std::array<Index, 3>& place, int axis) {
        const double reach = joints_.reach(mesh_.cells.body[cell]);
        if (reach <= 0.0) return;
        const auto a = static_cast<std::size_t>(axis);
        const double from = grid_.upper(axis, place[a]);
        std::size_t other = box;
        for (Index at = place[a] + 1; at < grid_.count(axis); ++at) {
            other += stride_[a];
            const double gap = grid_.lower(axis, at) - from;
            if (gap > reach + layout_.tolerance) return;
            const Index next = cell_at_[other];
            if (next == no_index) continue;
            const Index first = mesh_.cells.body[cell], second = mesh_.cells.body[next];
            if (first == second) return;
            const Index joint = joints_.joint(first, second);
            if (joint == no_index || gap > joint_reach(joint) + layout_.tolerance) return;
            if (!bridges_openly(joint)) {
                cover(cell, make_side(axis, true));
                cover(next, make_side(axis, false));
            }
            enter_contact(cell, next, make_side(axis, true), section(axis, place), 0.5 * width_[a][place[a]], 0.5 * width_[a][at], gap);
            return;
        }
    }

    [[nodiscard]] double joint_reach(Index joint) const { return model_.joints[joint].reach; }
    [[nodiscard]] bool bridges_openly(Index joint) const { return model_.joints[joint].exchange_factor.has_value(); }

    void enter_contact(Index first, Index second, Side side, double area, double depth_first, double depth_second, double gap) {
        const Index index = joints_.pair(mesh_.cells.body[first], mesh_.cells.body[second]);
        ContactPair& pair = joints_.pairs()[index];
        pair.area += area;
        pair.mean_gap += area * gap;  // divided by the area at the end
        pair.largest_gap = std::max(pair.largest_gap, gap);
        Contacts& list = pair.joint != no_index && bridges_openly(pair.joint) ? mesh_.gaps : mesh_.contacts;
        list.first.push_back(first);
        list.second.push_back(second);
        list.pair.push_back(index);
        list.side.push_back(static_cast<std::uint8_t>(side));
        list.area.push_back(area);
        list.depth_first.push_back(depth_first);
        list.depth_second.push_back(depth_second);
        list.gap.push_back(gap);
    }

    /// Sides that nothing covers become patches, but for those in a mirror plane.
    void expose(Index cell, const std::array<Index, 3>& place) {
        const Box& extent = mesh_.bodies[mesh_.cells.body[cell]].box;
        for (const Side side : all_sides) {
            if ((covered_[cell] & bit(side)) != 0) continue;
            const int axis = axis_of(side);
            const Index at = place[static_cast<std::size_t>(axis)];
            const bool at_end = is_plus(side) ? at + 1 == grid_.count(axis) : at == 0;
            if (at_end && layout_.mirror_side[static_cast<std::size_t>(side)]) continue;
            const double plane = is_plus(side) ? grid_.upper(axis, at) : grid_.lower(axis, at);
            const double outer = is_plus(side) ? extent.upper()[axis] : extent.lower()[axis];
            Patches& patches = mesh_.patches;
            patches.cell.push_back(cell);
            patches.tag.push_back(std::abs(plane - outer) <= layout_.tolerance ? static_cast<FaceTag>(side) : FaceTag::inner);
            patches.side.push_back(side);
            patches.area.push_back(section(axis, place));
            patches.depth.push_back(0.5 * width_[static_cast<std::size_t>(axis)][at]);
        }
    }

    const Model& model_;
    Mesh& mesh_;
    const Grid& grid_;
    const Layout& layout_;
    const std::vector<Index>& cell_at_;
    JointTable& joints_;
    std::vector<std::uint8_t> covered_;  // a bit for each side of a cell that is not exposed
    std::array<std::size_t, 3> stride_{};
    std::array<std::vector<double>, 3> width_;
};

}  // namespace

std::string_view name_of(FaceTag tag) { return tag == FaceTag::inner ? "inner" : name_of(static_cast<Side>(tag)); }

Vec3 Mesh::foot(std::size_t patch) const {
    Vec3 point = centre(patches.cell[patch]);
    const Side side = patches.side[patch];
    point[axis_of(side)] += is_plus(side) ? patches.depth[patch] : -patches.depth[patch];
    return point;
}

Mesh build_mesh(const Model& model) {
    if (std::vector<Problem> problems = validate(model); !problems.empty()) throw ModelError(std::move(problems));
    const Layout layout = lay_out(model);
    Mesh mesh;
    mesh.bodies = layout.bodies;
    mesh.multiplicity = static_cast<double>(1U << model.mirrors.size());
    mesh.grid = make_grid(model, layout);
    const std::vector<Index> cell_at = Filling(mesh.grid, layout, mesh).number_cells();

    std::vector<Problem> swallowed;
    for (const Body& body : mesh.bodies) {
        if (body.cells > 0) continue;
        swallowed.push_back({.address = fmt::format("part[{}]", body.part),
                             .message = fmt::format("nothing is left of \"{}\": holes or later parts take all of it; a part that stands later "
                                                    "in the model displaces earlier ones",
                                                    body.name),
                             .location = {}});
    }
    if (!swallowed.empty()) throw ModelError(std::move(swallowed));

    JointTable joints(model, mesh.bodies);
    Neighbours(model, layout, cell_at, joints, mesh).find();
    joints.require_every_joint_used();
    mesh.pairs = std::move(joints.pairs());
    for (ContactPair& pair : mesh.pairs) pair.mean_gap /= pair.area;
    return mesh;
}

}  // namespace firnfield
