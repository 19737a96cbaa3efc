// An order of the nodes that linear solvers sweep well.

#include "network/node_order.hpp"

#include <algorithm>

namespace firnfield {
namespace {

/// Boxes that a body spans along an axis.
struct Span {
    Index lowest = no_index, highest = 0;
    [[nodiscard]] Index boxes() const { return highest - lowest + 1; }
};

/// Sorts by a key below `keys`, keeping the order of equal ones.
void sort_by(std::vector<Index>& order, std::vector<Index>& space, Index keys, const auto& key) {
    std::vector<Index> next(std::size_t{keys} + 1, 0);
    for (const Index cell : order) ++next[key(cell) + 1];
    for (Index k = 0; k < keys; ++k) next[k + 1] += next[k];
    space.resize(order.size());
    for (const Index cell : order) space[next[key(cell)]++] = cell;
    order.swap(space);
}

}  // namespace

std::vector<Index> node_order(const Mesh& mesh) {
    const Cells& cells = mesh.cells;
    std::vector<std::array<Span, 3>> spans(mesh.bodies.size());
    for (Index cell = 0; cell < cells.size(); ++cell) {
        const auto place = mesh.grid.place(cells.box[cell]);
        for (std::size_t axis = 0; axis < 3; ++axis) {
            Span& span = spans[cells.body[cell]][axis];
            span.lowest = std::min(span.lowest, place[axis]);
            span.highest = std::max(span.highest, place[axis]);
        }
    }
    // Per body the axes from that of the next cell to that of the farthest.
    std::vector<std::array<std::size_t, 3>> axes(mesh.bodies.size());
    for (std::size_t body = 0; body < axes.size(); ++body) {
        axes[body] = {0, 1, 2};
        std::stable_sort(axes[body].begin(), axes[body].end(), [&](std::size_t a, std::size_t b) { return spans[body][a].boxes() > spans[body][b].boxes(); });
        std::swap(axes[body][1], axes[body][2]);
    }
    std::vector<Index> order(cells.size()), space;
    for (Index cell = 0; cell < order.size(); ++cell) order[cell] = cell;
    const Index most = std::max({mesh.grid.count(0), mesh.grid.count(1), mesh.grid.count(2)});
    for (std::size_t n = 0; n < 3; ++n) {
        sort_by(order, space, most, [&](Index cell) { return mesh.grid.place(cells.box[cell])[axes[cells.body[cell]][n]]; });
    }
    sort_by(order, space, static_cast<Index>(mesh.bodies.size()), [&](Index cell) { return cells.body[cell]; });
    return order;
}

}  // namespace firnfield
