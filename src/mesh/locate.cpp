#include <firnfield/mesh.hpp>

#include "base/words.hpp"
#include "geometry/triangle_tree.hpp"
#include "model/bodies.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace firnfield {
namespace {

/// Boxes along one axis that hold the coordinate; two of them when it lies on a plane.
std::vector<Index> boxes_around(const std::vector<double>& lines, double x, double tolerance) {
    std::vector<Index> found;
    auto at = std::lower_bound(lines.begin(), lines.end(), x - tolerance);
    if (at == lines.end()) return found;
    for (Index i = at == lines.begin() ? 0 : static_cast<Index>(at - lines.begin()) - 1; i + 1 < lines.size() && lines[i] <= x + tolerance; ++i) {
        if (lines[i + 1] >= x - tolerance) found.push_back(i);
    }
    return found;
}

/// Whether a point lies in or on a body. Bodies built of boxes fill their boxes.
bool holds(const Mesh& mesh, Index cell, Vec3 point) {
    const Index surface = mesh.bodies[mesh.cells.body[cell]].surface;
    if (surface == no_index) return true;
    const auto place = mesh.grid.place(mesh.cells.box[cell]);
    double width = mesh.grid.width(0, place[0]);
    for (int axis = 1; axis < 3; ++axis) width = std::min(width, mesh.grid.width(axis, place[static_cast<std::size_t>(axis)]));
    const TriangleTree tree(triangles_of(mesh.surfaces[surface]));
    if (tree.inside(point)) return true;
    // A point on the surface, or off by what facets are off, is meant to be in it.
    for (const Side side : all_sides) {
        Vec3 near = point;
        near[axis_of(side)] += is_plus(side) ? 0.01 * width : -0.01 * width;
        if (tree.inside(near)) return true;
    }
    return false;
}

}  // namespace

CellRange cells_in_box(const Mesh& mesh, std::size_t box) {
    const auto [first, last] = std::equal_range(mesh.cells.box.begin(), mesh.cells.box.end(), box);
    return {static_cast<Index>(first - mesh.cells.box.begin()), static_cast<Index>(last - mesh.cells.box.begin())};
}

Index cell_in_box(const Mesh& mesh, std::size_t box, Index body) {
    const CellRange range = cells_in_box(mesh, box);
    for (Index c = range.first; c < range.last; ++c) {
        if (mesh.cells.body[c] == body) return c;
    }
    return no_index;
}

Index cell_at_point(const Model& model, const Mesh& mesh, const std::string& part, Vec3 point, const std::string& address) {
    const Grid& grid = mesh.grid;
    // Exactly first; then a little generously, since facets of round faces may end short of them.
    for (const double generous : {0.0, 0.01}) {
        if (generous > 0.0 && mesh.surfaces.empty()) break;
        std::array<std::vector<Index>, 3> around;
        for (std::size_t axis = 0; axis < 3; ++axis) {
            const std::vector<double>& lines = grid.lines[axis];
            const double extent = lines.back() - lines.front();
            around[axis] = boxes_around(lines, point[static_cast<int>(axis)], std::max(1e-9 * extent, generous * extent / static_cast<double>(lines.size() - 1)));
        }
        for (const Index k : around[2]) {
            for (const Index j : around[1]) {
                for (const Index i : around[0]) {
                    const CellRange range = cells_in_box(mesh, (std::size_t{k} * grid.count(1) + j) * grid.count(0) + i);
                    for (Index cell = range.first; cell < range.last; ++cell) {
                        const Body& body = mesh.bodies[mesh.cells.body[cell]];
                        if (picks(part, body.name, model.parts[body.part].name) && holds(mesh, cell, point)) return cell;
                    }
                }
            }
        }
    }
    throw ModelError(address, fmt::format("the point ({:g}, {:g}, {:g}) mm is not in part {}", 1e3 * point.x, 1e3 * point.y, 1e3 * point.z, in_quotes(part)));
}

}  // namespace firnfield
