// A mesh from a model: layout, cutting, touching, patches, in this order.

#include <firnfield/mesh.hpp>

#include "mesh/cell_map.hpp"
#include "mesh/cut.hpp"
#include "mesh/joint_table.hpp"
#include "mesh/layout.hpp"
#include "mesh/neighbours.hpp"
#include "mesh/touching.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace firnfield {
namespace {

void require_something_left(const Mesh& mesh) {
    std::vector<Problem> swallowed;
    for (const Body& body : mesh.bodies) {
        if (body.cells > 0) continue;
        swallowed.push_back({.address = fmt::format("part[{}]", body.part), .message = nothing_left(body.name, ""), .location = {}});
    }
    if (!swallowed.empty()) throw ModelError(std::move(swallowed));
}

/// Faces within a cut body, and its surface box by box.
class CutCells {
public:
    CutCells(const CellMap& map, Index body, const CutBody& cut, const ClosedSurface& surface, Mesh& mesh, std::vector<SurfacePatch>& patches)
        : map_(map), body_(body), cut_(cut), surface_(surface), mesh_(mesh), grid_(mesh.grid), patches_(patches) {}

    void enter() {
        const std::array<std::size_t, 3> stride{1, cut_.count(0), std::size_t{cut_.count(0)} * cut_.count(1)};
        std::size_t at = 0;
        std::array<Index, 3> local{};
        for (local[2] = 0; local[2] < cut_.count(2); ++local[2]) {
            for (local[1] = 0; local[1] < cut_.count(1); ++local[1]) {
                for (local[0] = 0; local[0] < cut_.count(0); ++local[0], ++at) {
                    const std::int32_t state = cut_.state[at];
                    if (state == CutBody::outside) continue;
                    for (std::int32_t piece = state; piece >= 0; piece = cut_.cut[static_cast<std::size_t>(piece)].next_piece) {
                        enter_surface(cut_.cut[static_cast<std::size_t>(piece)]);
                    }
                    for (std::size_t axis = 0; axis < 3; ++axis) {
                        if (local[axis] + 1 < cut_.count(axis)) enter_faces(axis, local, state, cut_.state[at + stride[axis]]);
                    }
                }
            }
        }
        for (const CutFace& face : cut_.between) {
            const CutBox &first = cut_.cut[static_cast<std::size_t>(face.first)], &second = cut_.cut[static_cast<std::size_t>(face.second)];
            add_face(first.cell, second.cell, face.axis, face.area);
        }
    }

private:
    [[nodiscard]] std::size_t box_at(const std::array<Index, 3>& local) const {
        return (std::size_t{cut_.range[2].first + local[2]} * grid_.count(1) + cut_.range[1].first + local[1]) * grid_.count(0) + cut_.range[0].first +
               local[0];
    }

    /// Open areas to the next box along one axis: between whole boxes, or between the pieces of one and the other.
    void enter_faces(std::size_t axis, std::array<Index, 3> local, std::int32_t state, std::int32_t next) {
        if (next == CutBody::outside) return;
        const auto split = [&](std::int32_t s) { return s >= 0 && cut_.cut[static_cast<std::size_t>(s)].next_piece >= 0; };
        if (split(state) && split(next)) return;  // CutBody::between has them
        std::array<Index, 3> beyond = local;
        ++beyond[axis];
        const auto cell_of = [&](std::int32_t s, const std::array<Index, 3>& at) {
            return s >= 0 ? cut_.cut[static_cast<std::size_t>(s)].cell : map_.cell(mesh_, box_at(at), body_);
        };
        if (split(state)) {
            for (std::int32_t p = state; p >= 0; p = cut_.cut[static_cast<std::size_t>(p)].next_piece) {
                add_face(cut_.cut[static_cast<std::size_t>(p)].cell, cell_of(next, beyond), axis, cut_.cut[static_cast<std::size_t>(p)].high_area[axis]);
            }
        } else if (split(next)) {
            for (std::int32_t p = next; p >= 0; p = cut_.cut[static_cast<std::size_t>(p)].next_piece) {
                add_face(cell_of(state, local), cut_.cut[static_cast<std::size_t>(p)].cell, axis, cut_.cut[static_cast<std::size_t>(p)].low_area[axis]);
            }
        } else if (state >= 0) {
            add_face(cell_of(state, local), cell_of(next, beyond), axis, cut_.cut[static_cast<std::size_t>(state)].high_area[axis]);
        } else if (next >= 0) {
            add_face(cell_of(state, local), cell_of(next, beyond), axis, cut_.cut[static_cast<std::size_t>(next)].low_area[axis]);
        } else {
            const std::size_t u = (axis + 1) % 3, v = (axis + 2) % 3;
            add_face(cell_of(state, local), cell_of(next, beyond), axis,
                     grid_.width(static_cast<int>(u), cut_.range[u].first + local[u]) * grid_.width(static_cast<int>(v), cut_.range[v].first + local[v]));
        }
    }

    void add_face(Index first, Index second, std::size_t axis, double area) {
        if (!(area > 0.0) || first == no_index || second == no_index) return;
        const int a = static_cast<int>(axis);
        mesh_.faces.first.push_back(first);
        mesh_.faces.second.push_back(second);
        mesh_.faces.axis.push_back(static_cast<std::uint8_t>(axis));
        mesh_.faces.area.push_back(area);
        mesh_.faces.distance.push_back(grid_.middle(a, grid_.place(mesh_.cells.box[second])[axis]) -
                                       grid_.middle(a, grid_.place(mesh_.cells.box[first])[axis]));
    }

    void enter_surface(const CutBox& box) {
        Index cell = box.cell;
        Vec3 shift;
        if (cell == no_index) {
            // Too little of the body for a cell: its surface goes to the neighbour it opens to most.
            cell = neighbour(box);
            if (cell == no_index) return;
            shift = grid_.centre(box.box) - mesh_.centre(cell);
        }
        for (Index p = box.first_patch; p != no_index; p = cut_.patches[p].next) {
            const CutPatch& patch = cut_.patches[p];
            if (surface_.faces[patch.tag].name.starts_with(symmetry_tag)) continue;
            patches_.push_back({cell, patch.tag, patch.zone, patch.vector, patch.area, patch.depth + dot(shift, patch.vector)});
        }
    }

    Index neighbour(const CutBox& box) const {
        const std::array<std::size_t, 3> stride{1, grid_.count(0), std::size_t{grid_.count(0)} * grid_.count(1)};
        const auto place = grid_.place(box.box);
        Index best = no_index;
        double widest = -1.0;
        for (std::size_t axis = 0; axis < 3; ++axis) {
            for (const bool up : {false, true}) {
                if (up ? place[axis] + 1 >= grid_.count(static_cast<int>(axis)) : place[axis] == 0) continue;
                const Index cell = map_.cell(mesh_, up ? box.box + stride[axis] : box.box - stride[axis], body_);
                const double open = up ? box.high_area[axis] : box.low_area[axis];
                if (cell != no_index && open > widest) {
                    best = cell;
                    widest = open;
                }
            }
        }
        return best;
    }

    const CellMap& map_;
    Index body_;
    const CutBody& cut_;
    const ClosedSurface& surface_;
    Mesh& mesh_;
    const Grid& grid_;
    std::vector<SurfacePatch>& patches_;
};

/// Brings patches into the order of their cells.
SurfacePatches by_cell(std::vector<SurfacePatch> list, Index cells) {
    SurfacePatches out;
    out.first.assign(std::size_t{cells} + 1, 0);
    for (const SurfacePatch& patch : list) ++out.first[patch.cell + 1];
    std::partial_sum(out.first.begin(), out.first.end(), out.first.begin());
    out.list.resize(list.size());
    std::vector<Index> next(out.first.begin(), out.first.end() - 1);
    for (const SurfacePatch& patch : list) out.list[next[patch.cell]++] = patch;
    return out;
}

/// Enters what contacts leave exposed. Faces of cut bodies get the area of the true surface.
void enter_exposed(const SurfacePatches& before, const SurfacePatches& after, const Layout& layout, Mesh& mesh) {
    constexpr double remnant = 5e-3;  // facets that do not match leave slivers where surfaces touch
    mesh.tags = {std::string(symmetry_tag)};
    const auto number = [&](const std::string& name) {
        const auto found = std::find(mesh.tags.begin(), mesh.tags.end(), name);
        if (found != mesh.tags.end()) return static_cast<std::uint16_t>(found - mesh.tags.begin());
        mesh.tags.push_back(name);
        return static_cast<std::uint16_t>(mesh.tags.size() - 1);
    };
    std::vector<std::uint16_t> of_boxes;
    for (const Side side : all_sides) of_boxes.push_back(number(std::string(name_of(side))));
    of_boxes.push_back(number("inner"));
    std::vector<std::vector<std::uint16_t>> of_surface;
    for (const CutSurface& cut : layout.surfaces) {
        std::vector<std::uint16_t>& tags = of_surface.emplace_back();
        for (const SurfaceFace& face : cut.surface.faces) tags.push_back(face.name.starts_with(symmetry_tag) ? std::uint16_t{0} : number(face.name));
    }
    Patches& patches = mesh.patches;
    for (std::size_t p = 0; p < after.list.size(); ++p) {
        const SurfacePatch& patch = after.list[p];
        if (!(patch.area > remnant * before.list[p].area)) continue;
        const Index surface = mesh.bodies[mesh.cells.body[patch.cell]].surface;
        const double size = length(patch.vector);
        if (!(size > 0.0)) continue;
        patches.cell.push_back(patch.cell);
        patches.tag.push_back(surface == no_index ? of_boxes[patch.tag] : of_surface[surface][patch.tag]);
        patches.zone.push_back(patch.zone);
        patches.normal.push_back((1.0 / size) * patch.vector);
        patches.area.push_back(patch.area * (surface == no_index ? 1.0 : layout.surfaces[surface].surface.faces[patch.tag].area_factor));
        patches.depth.push_back(patch.depth / patch.area);
    }
}

/// Of a model of lumped nodes alone: a box without a cell.
Grid empty_grid() {
    Grid grid;
    for (std::vector<double>& lines : grid.lines) lines = {0.0, 1.0};
    return grid;
}

}  // namespace

double Mesh::images(std::uint32_t on_planes) const {
    double count = 1.0, sectors = multiplicity;
    int of_sector = 0;
    for (std::size_t n = 0; n < planes.size(); ++n) {
        const bool on = (on_planes >> n & 1U) != 0;
        if (!planes[n].of_sector) {
            sectors /= 2.0;
            if (on) count *= 2.0;
        } else if (on) {
            ++of_sector;
        }
    }
    return of_sector == 2 ? count * sectors : of_sector == 1 ? count * 2.0 : count;
}

Grid plan_grid(const Model& model) {
    if (std::vector<Problem> problems = validate(model); !problems.empty()) throw ModelError(std::move(problems));
    return model.parts.empty() ? empty_grid() : make_grid(model, lay_out(model));
}

Mesh build_mesh(const Model& model) {
    if (std::vector<Problem> problems = validate(model); !problems.empty()) throw ModelError(std::move(problems));
    Mesh mesh;
    if (model.parts.empty()) {
        mesh.grid = empty_grid();
        return mesh;
    }
    Layout layout = lay_out(model);
    mesh.grid = make_grid(model, layout);
    mesh.bodies = layout.bodies;
    mesh.planes = layout.planes;
    mesh.first_cells = layout.first_cells;
    mesh.usual_cell = layout.target;
    mesh.zones = layout.zones;
    mesh.overlaps = layout.overlaps;
    mesh.multiplicity = static_cast<double>(1U << model.mirrors.size()) * (model.sector ? model.sector->pieces : 1);
    if (model.space && model.space->revolved) mesh.multiplicity *= wedges_in_turn();
    std::vector<CutBody> cuts;
    for (const CutSurface& surface : layout.surfaces) {
        cuts.push_back(surface.surface.triangles.empty() ? CutBody{} : cut_by_grid(mesh.grid, surface));
        mesh.quality.push_back(cuts.back().quality);
    }
    const CellMap map = number_cells(layout, cuts, mesh);
    require_something_left(mesh);

    JointTable joints(model, mesh.bodies);
    std::vector<SurfacePatch> surface;
    find_neighbours(model, layout, map, joints, mesh, surface);
    for (Index b = 0; b < mesh.bodies.size(); ++b) {
        const Index s = mesh.bodies[b].surface;
        if (s != no_index) CutCells(map, b, cuts[s], layout.surfaces[s].surface, mesh, surface).enter();
    }
    const SurfacePatches whole = by_cell(std::move(surface), mesh.cells.size());
    SurfacePatches left = whole;
    find_touching(model, layout, map, joints, left, mesh);
    enter_exposed(whole, left, layout, mesh);
    mesh.open_joints = joints.open_joints();
    mesh.pairs = joints.settle(mesh.cells, left.list);
    for (CutSurface& cut : layout.surfaces) mesh.surfaces.push_back(std::move(cut.surface));
    return mesh;
}

}  // namespace firnfield
