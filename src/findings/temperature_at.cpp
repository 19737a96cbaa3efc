#include <firnfield/findings.hpp>

#include "findings/contact_temperatures.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

/// Slope of the temperature from a cell's centre towards one side, K/m along that side, or nothing when there is no neighbour,
/// surface or contact to tell.
class Slopes {
public:
    Slopes(const SteadySolution& solution, const ContactTemperatures& contacts, Index cell)
        : solution_(solution), mesh_(*solution.mesh), contacts_(contacts), cell_(cell), here_(solution.temperature[cell]) {}

    [[nodiscard]] double towards(Side side) const {
        if (const auto slope = to_neighbour(side)) return *slope;
        if (const auto slope = to_surface(side)) return *slope;
        // Towards an oblique surface the temperature goes on as it came; else there is a plane or an axis of symmetry.
        if (has_surface_towards(side)) {
            if (const auto slope = to_neighbour(make_side(axis_of(side), !is_plus(side)))) return -*slope;
        }
        return 0.0;
    }

private:
    [[nodiscard]] bool has_surface_towards(Side side) const {
        const auto leans = [&](Vec3 normal) { return dot(normal, outward(side)) > 0.1; };
        const auto [first, last] = std::equal_range(mesh_.patches.cell.begin(), mesh_.patches.cell.end(), cell_);
        for (auto p = static_cast<std::size_t>(first - mesh_.patches.cell.begin()); p < static_cast<std::size_t>(last - mesh_.patches.cell.begin()); ++p) {
            if (leans(mesh_.patches.normal[p])) return true;
        }
        for (std::size_t c = 0; c < mesh_.contacts.size(); ++c) {
            if (mesh_.contacts.first[c] == cell_ && leans(mesh_.contacts.normal[c])) return true;
            if (mesh_.contacts.second[c] == cell_ && leans(-1.0 * mesh_.contacts.normal[c])) return true;
        }
        return false;
    }

    [[nodiscard]] std::optional<double> to_neighbour(Side side) const {
        const Grid& grid = mesh_.grid;
        const int axis = axis_of(side);
        const auto place = grid.place(mesh_.cells.box[cell_]);
        const Index at = place[static_cast<std::size_t>(axis)];
        const std::array<std::size_t, 3> stride{1, grid.count(0), std::size_t{grid.count(0)} * grid.count(1)};
        if (is_plus(side) ? at + 1 >= grid.count(axis) : at == 0) return std::nullopt;
        const std::size_t step = stride[static_cast<std::size_t>(axis)];
        const Index next = cell_in_box(mesh_, is_plus(side) ? mesh_.cells.box[cell_] + step : mesh_.cells.box[cell_] - step, mesh_.cells.body[cell_]);
        if (next == no_index) return std::nullopt;
        return (solution_.temperature[next] - here_) / std::abs(grid.middle(axis, is_plus(side) ? at + 1 : at - 1) - grid.middle(axis, at));
    }

    [[nodiscard]] std::optional<double> to_surface(Side side) const {
        const auto looks = [&](Vec3 normal) { return is_plus(side) ? normal[axis_of(side)] > 0.99 : normal[axis_of(side)] < -0.99; };
        const auto [first, last] = std::equal_range(mesh_.patches.cell.begin(), mesh_.patches.cell.end(), cell_);
        for (auto p = static_cast<std::size_t>(first - mesh_.patches.cell.begin()); p < static_cast<std::size_t>(last - mesh_.patches.cell.begin()); ++p) {
            if (looks(mesh_.patches.normal[p]) && mesh_.patches.depth[p] > 0.0) return (solution_.patch_temperature[p] - here_) / mesh_.patches.depth[p];
        }
        const Contacts& contacts = mesh_.contacts;
        for (std::size_t c = 0; c < contacts.size(); ++c) {
            if (contacts.first[c] == cell_ && looks(contacts.normal[c]) && contacts.depth_first[c] > 0.0) return (contacts_.first[c] - here_) / contacts.depth_first[c];
            if (contacts.second[c] == cell_ && looks(-1.0 * contacts.normal[c]) && contacts.depth_second[c] > 0.0) {
                return (contacts_.second[c] - here_) / contacts.depth_second[c];
            }
        }
        return std::nullopt;
    }

    const SteadySolution& solution_;
    const Mesh& mesh_;
    const ContactTemperatures& contacts_;
    Index cell_;
    double here_;
};

}  // namespace

double temperature_at(const Model& model, const SteadySolution& solution, const std::string& part, Vec3 point, const std::string& address) {
    const Mesh& mesh = *solution.mesh;
    const Index cell = cell_at_point(model, mesh, part, point, address);
    const ContactTemperatures contacts = contact_temperatures(model, solution);
    const Slopes slopes(solution, contacts, cell);
    const Vec3 offset = point - mesh.centre(cell);
    double temperature = solution.temperature[cell];
    for (int axis = 0; axis < 3; ++axis) {
        if (offset[axis] != 0.0) temperature += std::abs(offset[axis]) * slopes.towards(make_side(axis, offset[axis] > 0.0));
    }
    return temperature;
}

}  // namespace firnfield
