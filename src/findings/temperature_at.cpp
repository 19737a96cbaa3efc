#include <firnfield/findings.hpp>

#include "findings/contact_temperatures.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

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
    const Index cell = cell_at_point(model, mesh, part, point, address);
    const ContactTemperatures contacts = contact_temperatures(model, solution);
    const Vec3 offset = point - mesh.centre(cell);
    double temperature = solution.temperature[cell];
    for (int axis = 0; axis < 3; ++axis) {
        if (offset[axis] == 0.0) continue;
        temperature += std::abs(offset[axis]) * outward_slope(solution, contacts, cell, make_side(axis, offset[axis] > 0.0));
    }
    return temperature;
}

}  // namespace firnfield
