#include <firnfield/mesh.hpp>

#include "base/words.hpp"
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

}  // namespace

Index cell_in_box(const Mesh& mesh, std::size_t box) {
    const auto found = std::lower_bound(mesh.cells.box.begin(), mesh.cells.box.end(), box);
    return found != mesh.cells.box.end() && *found == box ? static_cast<Index>(found - mesh.cells.box.begin()) : no_index;
}

Index cell_at_point(const Model& model, const Mesh& mesh, const std::string& part, Vec3 point, const std::string& address) {
    const Grid& grid = mesh.grid;
    std::array<std::vector<Index>, 3> around;
    for (std::size_t axis = 0; axis < 3; ++axis) {
        const std::vector<double>& lines = grid.lines[axis];
        around[axis] = boxes_around(lines, point[static_cast<int>(axis)], 1e-9 * (lines.back() - lines.front()));
    }
    for (const Index k : around[2]) {
        for (const Index j : around[1]) {
            for (const Index i : around[0]) {
                const Index cell = cell_in_box(mesh, (std::size_t{k} * grid.count(1) + j) * grid.count(0) + i);
                if (cell == no_index) continue;
                const Body& body = mesh.bodies[mesh.cells.body[cell]];
                if (picks(part, body.name, model.parts[body.part].name)) return cell;
            }
        }
    }
    throw ModelError(address, fmt::format("the point ({:g}, {:g}, {:g}) mm is not in part {}", 1e3 * point.x, 1e3 * point.y, 1e3 * point.z, in_quotes(part)));
}

}  // namespace firnfield
