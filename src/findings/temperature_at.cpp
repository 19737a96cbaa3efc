#include <firnfield/findings.hpp>
#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "findings/contact_temperatures.hpp"
#include "model/bodies.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

/// The cell in a box, or no_index. Cells are numbered by ascending box.
Index cell_in_box(const Mesh& mesh, std::size_t box) {
    const auto found = std::lower_bound(mesh.cells.box.begin(), mesh.cells.box.end(), box);
    return found != mesh.cells.box.end() && *found == box ? static_cast<Index>(found - mesh.cells.box.begin()) : no_index;
}

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

/// Slope of the temperature from the cell's centre towards one of its sides, K/m outward.
double outward_slope(const SteadySolution& solution, const ContactTemperatures& contacts, Index cell, Side side) {
    const Mesh& mesh = *solution.mesh;
    const Grid& grid = mesh.grid;
    const int axis = axis_of(side);
    const auto place = grid.place(mesh.cells.box[cell]);
    const Index at = place[static_cast<std::size_t>(axis)];
    const double here = solution.temperature[cell];
    const std::array<std::size_t, 3> stride{1, grid.count(0), std::size_t{grid.count(0)} * grid.count(1)};
    if (is_plus(side) ? at + 1 < grid.count(axis) : at > 0) {
        const std::size_t step = stride[static_cast<std::size_t>(axis)];
        const Index next = cell_in_box(mesh, is_plus(side) ? mesh.cells.box[cell] + step : mesh.cells.box[cell] - step);
        if (next != no_index && mesh.cells.body[next] == mesh.cells.body[cell]) {
            return (solution.temperature[next] - here) / std::abs(grid.middle(axis, is_plus(side) ? at + 1 : at - 1) - grid.middle(axis, at));
        }
    }
    const auto [first, last] = std::equal_range(mesh.patches.cell.begin(), mesh.patches.cell.end(), cell);
    for (auto p = static_cast<std::size_t>(first - mesh.patches.cell.begin()); p < static_cast<std::size_t>(last - mesh.patches.cell.begin()); ++p) {
        if (mesh.patches.side[p] == side) return (solution.patch_temperature[p] - here) / mesh.patches.depth[p];
    }
    for (std::size_t c = 0; c < mesh.contacts.size(); ++c) {
        const auto looks = static_cast<Side>(mesh.contacts.side[c]);
        if (mesh.contacts.first[c] == cell && looks == side) return (contacts.first[c] - here) / mesh.contacts.depth_first[c];
        if (mesh.contacts.second[c] == cell && looks == make_side(axis, !is_plus(side))) return (contacts.second[c] - here) / mesh.contacts.depth_second[c];
    }
    return 0.0;  // a mirror plane
}

}  // namespace

double temperature_at(const Model& model, const SteadySolution& solution, const std::string& part, Vec3 point, const std::string& address) {
    const Mesh& mesh = *solution.mesh;
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
                if (!picks(part, body.name, model.parts[body.part].name)) continue;
                const ContactTemperatures contacts = contact_temperatures(model, solution);
                const Vec3 offset = point - mesh.centre(cell);
                double temperature = solution.temperature[cell];
                for (int axis = 0; axis < 3; ++axis) {
                    if (offset[axis] == 0.0) continue;
                    temperature += std::abs(offset[axis]) * outward_slope(solution, contacts, cell, make_side(axis, offset[axis] > 0.0));
                }
                return temperature;
            }
        }
    }
    throw ModelError(address, fmt::format("the point ({:g}, {:g}, {:g}) mm is not in part {}", 1e3 * point.x, 1e3 * point.y, 1e3 * point.z, in_quotes(part)));
}

}  // namespace firnfield
