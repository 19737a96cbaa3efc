// Faces between cells of bodies built of boxes, and their contacts.

#include "mesh/neighbours.hpp"

#include <algorithm>
#include <cmath>
#include <map>

namespace firnfield {
namespace {

/// Walks through the boxes of bodies built of boxes and enters what lies between a cell and its neighbours: faces, contacts, patches.
class Neighbours {
public:
    Neighbours(const Model& model, const Layout& layout, const CellMap& map, JointTable& joints, Mesh& mesh, std::vector<SurfacePatch>& patches)
        : model_(model),
          mesh_(mesh),
          grid_(mesh.grid),
          layout_(layout),
          map_(map),
          cell_at_(map.plain),
          joints_(joints),
          patches_(patches),
          covered_(mesh.cells.size(), 0) {
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
        for (const auto& [bodies, miss] : misses_) mesh_.near_misses.push_back(miss);
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
        const double reach = joints_.reach(mesh_.cells.body[cell]), miss = 0.25 * layout_.target;
        const auto a = static_cast<std::size_t>(axis);
        const double from = grid_.upper(axis, place[a]);
        std::size_t other = box;
        for (Index at = place[a] + 1; at < grid_.count(axis); ++at) {
            other += stride_[a];
            const double gap = grid_.lower(axis, at) - from;
            if (gap > std::max(reach, miss) + layout_.tolerance) return;
            const Index next = cell_at_[other];
            if (next == no_index) {
                if (!map_.empty(other)) return;  // a cut body stands between
                continue;
            }
            const Index first = mesh_.cells.body[cell], second = mesh_.cells.body[next];
            if (first == second) return;
            const Index joint = joints_.joint(first, second);
            if (joint == no_index || gap > joint_reach(joint) + layout_.tolerance) {
                if (gap <= miss) note_miss(first, second, gap, section(axis, place));
                return;
            }
            if (!bridges_openly(joint)) {
                cover(cell, make_side(axis, true));
                cover(next, make_side(axis, false));
            }
            enter_contact(cell, next, make_side(axis, true), section(axis, place), 0.5 * width_[a][place[a]], 0.5 * width_[a][at], gap);
            return;
        }
    }

    void note_miss(Index first, Index second, double gap, double area) {
        NearMiss& found = misses_.try_emplace(std::minmax(first, second), NearMiss{std::min(first, second), std::max(first, second), gap, 0.0}).first->second;
        found.gap = std::min(found.gap, gap);
        found.area += area;
    }

    [[nodiscard]] double joint_reach(Index joint) const { return model_.joints[joint].reach; }
    [[nodiscard]] bool bridges_openly(Index joint) const { return model_.joints[joint].exchange_factor.has_value(); }

    void enter_contact(Index first, Index second, Side side, double area, double depth_first, double depth_second, double gap) {
        const Index first_body = mesh_.cells.body[first], second_body = mesh_.cells.body[second];
        const Index index = joints_.touch(first_body, face_of(first_body, first, side), second_body, face_of(second_body, second, opposite(side)), area, gap);
        const Index joint = joints_.joint_of_pair(index);
        Contacts& list = joint != no_index && bridges_openly(joint) ? mesh_.gaps : mesh_.contacts;
        list.first.push_back(first);
        list.second.push_back(second);
        list.pair.push_back(index);
        Vec3 normal;
        normal[axis_of(side)] = is_plus(side) ? 1.0 : -1.0;
        list.normal.push_back(normal);
        list.area.push_back(area);
        list.depth_first.push_back(depth_first);
        list.depth_second.push_back(depth_second);
        list.gap.push_back(gap);
    }

    /// The face of the body that a side of a cell belongs to.
    [[nodiscard]] std::uint16_t face_of(Index body, Index cell, Side side) const {
        const int axis = axis_of(side);
        const Index at = grid_.place(mesh_.cells.box[cell])[static_cast<std::size_t>(axis)];
        return face_of(mesh_.bodies[body].box, side, is_plus(side) ? grid_.upper(axis, at) : grid_.lower(axis, at));
    }
    [[nodiscard]] std::uint16_t face_of(const Box& extent, Side side, double plane) const {
        const double outer = is_plus(side) ? extent.upper()[axis_of(side)] : extent.lower()[axis_of(side)];
        return std::abs(plane - outer) <= layout_.tolerance ? static_cast<std::uint16_t>(side) : inner_tag;
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
            SurfacePatch patch;
            patch.cell = cell;
            patch.tag = face_of(extent, side, plane);
            patch.zone = layout_.box_zones[mesh_.cells.body[cell]][patch.tag];
            patch.area = section(axis, place);
            patch.vector[axis] = is_plus(side) ? patch.area : -patch.area;
            patch.depth = 0.5 * width_[static_cast<std::size_t>(axis)][at] * patch.area;
            patches_.push_back(patch);
        }
    }

    const Model& model_;
    Mesh& mesh_;
    const Grid& grid_;
    const Layout& layout_;
    const CellMap& map_;
    const std::vector<Index>& cell_at_;
    JointTable& joints_;
    std::vector<SurfacePatch>& patches_;
    std::vector<std::uint8_t> covered_;  // a bit for each side of a cell that is not exposed
    std::map<std::pair<Index, Index>, NearMiss> misses_;
    std::array<std::size_t, 3> stride_{};
    std::array<std::vector<double>, 3> width_;
};

}  // namespace

void find_neighbours(const Model& model, const Layout& layout, const CellMap& map, JointTable& joints, Mesh& mesh, std::vector<SurfacePatch>& patches) {
    Neighbours(model, layout, map, joints, mesh, patches).find();
}

}  // namespace firnfield
