// Which cells lie in each box of the grid.

#include "mesh/cell_map.hpp"

#include <algorithm>
#include <map>

namespace firnfield {
namespace {

/// Fills grid boxes with the bodies built of boxes, in the model's order.
class Filling {
public:
    Filling(const Grid& grid, const Layout& layout, Mesh& mesh) : grid_(grid), owner_(grid.boxes(), no_index) {
        for (std::size_t b = 0; b < layout.bodies.size(); ++b) {
            if (layout.bodies[b].surface == no_index) fill(static_cast<Index>(b), layout.bodies[b].box, layout.holes[b]);
        }
        for (const auto& [bodies, volume] : overlaps_) mesh.overlaps.push_back({bodies.first, bodies.second, volume});
    }

    /// Body per box, or no_index.
    std::vector<Index> take() { return std::move(owner_); }

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
    std::vector<Index> owner_;
    std::map<std::pair<Index, Index>, double> overlaps_;
};

double box_volume(const Grid& grid, Index box) {
    const auto place = grid.place(box);
    return grid.width(0, place[0]) * grid.width(1, place[1]) * grid.width(2, place[2]);
}

/// Calls `visit(box, volume, index in CutBody::cut or −1)` for every cell of a cut body, ascending by box.
template <typename Visit>
void for_each_cut_cell(const Grid& grid, const CutBody& body, const Visit& visit) {
    std::size_t at = 0;
    for (Index k = 0; k < body.count(2); ++k) {
        for (Index j = 0; j < body.count(1); ++j) {
            const double section = grid.width(1, body.range[1].first + j) * grid.width(2, body.range[2].first + k);
            const std::size_t row = (std::size_t{body.range[2].first + k} * grid.count(1) + body.range[1].first + j) * grid.count(0) + body.range[0].first;
            for (Index i = 0; i < body.count(0); ++i, ++at) {
                const std::int32_t state = body.state[at];
                if (state == CutBody::inside) {
                    visit(row + i, section * grid.width(0, body.range[0].first + i), -1);
                    continue;
                }
                for (std::int32_t piece = state; piece >= 0; piece = body.cut[static_cast<std::size_t>(piece)].next_piece) {
                    const CutBox& box = body.cut[static_cast<std::size_t>(piece)];
                    if (makes_cell(grid, box)) visit(row + i, box.volume, piece);
                }
            }
        }
    }
}

}  // namespace

bool makes_cell(const Grid& grid, const CutBox& box) {
    constexpr double nothing = 1e-10;
    return box.volume > nothing * box_volume(grid, box.box);
}

CellMap number_cells(const Layout& layout, std::vector<CutBody>& cuts, Mesh& mesh) {
    const Grid& grid = mesh.grid;
    CellMap map;
    map.plain = Filling(grid, layout, mesh).take();
    map.first.assign(grid.boxes() + 1, 0);
    for (std::size_t box = 0; box < map.plain.size(); ++box) map.first[box + 1] = map.plain[box] != no_index ? 1 : 0;
    for (const CutBody& cut : cuts) for_each_cut_cell(grid, cut, [&](std::size_t box, double, std::int32_t) { ++map.first[box + 1]; });
    for (std::size_t box = 0; box < map.plain.size(); ++box) map.first[box + 1] += map.first[box];
    const Index count = map.first.back();
    Cells& cells = mesh.cells;
    cells.box.resize(count);
    cells.body.resize(count, no_index);
    cells.volume.resize(count);
    const auto enter = [&](Index cell, std::size_t box, Index body, double volume) {
        cells.box[cell] = static_cast<Index>(box);
        cells.body[cell] = body;
        cells.volume[cell] = volume;
        mesh.bodies[body].volume += volume;
        ++mesh.bodies[body].cells;
    };
    std::size_t box = 0;
    for (Index k = 0; k < grid.count(2); ++k) {
        for (Index j = 0; j < grid.count(1); ++j) {
            const double section = grid.width(1, j) * grid.width(2, k);
            for (Index i = 0; i < grid.count(0); ++i, ++box) {
                if (map.plain[box] == no_index) continue;
                enter(map.first[box], box, map.plain[box], section * grid.width(0, i));
                map.plain[box] = map.first[box];
            }
        }
    }
    for (Index b = 0; b < mesh.bodies.size(); ++b) {
        if (mesh.bodies[b].surface == no_index) continue;
        CutBody& cut = cuts[mesh.bodies[b].surface];
        for_each_cut_cell(grid, cut, [&](std::size_t at, double volume, std::int32_t piece) {
            Index cell = map.first[at];
            while (cells.body[cell] != no_index) ++cell;
            enter(cell, at, b, volume);
            if (piece >= 0) cut.cut[static_cast<std::size_t>(piece)].cell = cell;
        });
    }
    return map;
}

}  // namespace firnfield
