// Where a point lies among nodes and surfaces, for reading its temperature.

#include "network/probe.hpp"

#include <algorithm>
#include <cmath>
#include <optional>

namespace firnfield {
namespace {

using Source = Readout::Source;

/// The point lies `share` of the way to something; negative where the temperature is continued from the other side.
struct Towards {
    Source towards = Source::node;
    Index index = 0;
    double share = 0.0;
};

}  // namespace

/// Looks around a cell for what tells how the temperature goes on towards one side.
class Probe::Finder {
public:
    Finder(const Mesh& mesh, const Network& network, Index cell) : mesh_(mesh), network_(network), cell_(cell) {}

    /// What lies on one side, and the share of the way to it that `offset` (m) makes.
    [[nodiscard]] std::optional<Towards> towards(Side side, double offset) const {
        if (const auto part = to_neighbour(side, offset)) return part;
        bool insulated = false;
        if (const auto part = to_surface(side, offset, insulated)) return part;
        // Towards an oblique surface the temperature goes on as it came; else there is a plane or an axis of symmetry.
        if (!insulated && has_surface_towards(side)) return to_neighbour(make_side(axis_of(side), !is_plus(side)), -offset);
        return std::nullopt;
    }

private:
    struct Range {
        std::size_t first, last;
    };
    [[nodiscard]] Range patches_of_cell() const {
        const auto [first, last] = std::equal_range(mesh_.patches.cell.begin(), mesh_.patches.cell.end(), cell_);
        return {static_cast<std::size_t>(first - mesh_.patches.cell.begin()), static_cast<std::size_t>(last - mesh_.patches.cell.begin())};
    }

    [[nodiscard]] bool has_surface_towards(Side side) const {
        const auto leans = [&](Vec3 normal) { return dot(normal, outward(side)) > 0.1; };
        const Range patches = patches_of_cell();
        for (std::size_t p = patches.first; p < patches.last; ++p) {
            if (leans(mesh_.patches.normal[p])) return true;
        }
        for (std::size_t c = 0; c < mesh_.contacts.size(); ++c) {
            if (mesh_.contacts.first[c] == cell_ && leans(mesh_.contacts.normal[c])) return true;
            if (mesh_.contacts.second[c] == cell_ && leans(-1.0 * mesh_.contacts.normal[c])) return true;
        }
        return false;
    }

    [[nodiscard]] std::optional<Towards> to_neighbour(Side side, double offset) const {
        const Grid& grid = mesh_.grid;
        const int axis = axis_of(side);
        const Index at = grid.place(mesh_.cells.box[cell_])[static_cast<std::size_t>(axis)];
        const std::array<std::size_t, 3> stride{1, grid.count(0), std::size_t{grid.count(0)} * grid.count(1)};
        if (is_plus(side) ? at + 1 >= grid.count(axis) : at == 0) return std::nullopt;
        const std::size_t step = stride[static_cast<std::size_t>(axis)];
        const Index next = cell_in_box(mesh_, is_plus(side) ? mesh_.cells.box[cell_] + step : mesh_.cells.box[cell_] - step, mesh_.cells.body[cell_]);
        if (next == no_index) return std::nullopt;
        return Towards{Source::node, next, offset / std::abs(grid.middle(axis, is_plus(side) ? at + 1 : at - 1) - grid.middle(axis, at))};
    }

    [[nodiscard]] std::optional<Towards> to_surface(Side side, double offset, bool& insulated) const {
        const auto looks = [&](Vec3 normal) { return is_plus(side) ? normal[axis_of(side)] > 0.99 : normal[axis_of(side)] < -0.99; };
        const Range patches = patches_of_cell();
        for (std::size_t p = patches.first; p < patches.last; ++p) {
            if (!looks(mesh_.patches.normal[p]) || !(mesh_.patches.depth[p] > 0.0)) continue;
            const double share = std::min(1.0, offset / mesh_.patches.depth[p]);  // not past the wall, where facets lie a little inside of it
            const Readout::Term surface = readout_of_patch(network_, static_cast<Index>(p)).terms.front();
            if (surface.source != Source::node) return Towards{surface.source, surface.index, share};
            insulated = true;
            return std::nullopt;
        }
        const Contacts& contacts = mesh_.contacts;
        for (std::size_t c = 0; c < contacts.size(); ++c) {
            const auto index = static_cast<Index>(c);
            if (contacts.first[c] == cell_ && looks(contacts.normal[c]) && contacts.depth_first[c] > 0.0)
                return Towards{Source::first_of_contact, index, std::min(1.0, offset / contacts.depth_first[c])};
            if (contacts.second[c] == cell_ && looks(-1.0 * contacts.normal[c]) && contacts.depth_second[c] > 0.0) {
                return Towards{Source::second_of_contact, index, std::min(1.0, offset / contacts.depth_second[c])};
            }
        }
        return std::nullopt;
    }

    const Mesh& mesh_;
    const Network& network_;
    Index cell_;
};

Probe::Probe(const Model& model, const Mesh& mesh, const Network& network, const ContactReader& contacts, const std::string& part, Vec3 point,
             const std::string& address)
    : contacts_(contacts) {
    if (const auto node = find_node(model, part)) {
        readout_ = {{{Source::node, mesh.cells.size() + static_cast<Index>(*node), 1.0}}, {}};
        return;
    }
    const Index cell = cell_at_point(model, mesh, part, point, address);
    const Finder finder(mesh, network, cell);
    const Vec3 offset = point - mesh.centre(cell);
    double here = 1.0;
    for (int axis = 0; axis < 3; ++axis) {
        if (offset[axis] == 0.0) continue;
        if (const auto found = finder.towards(make_side(axis, offset[axis] > 0.0), std::abs(offset[axis]))) {
            readout_.terms.push_back({found->towards, found->index, found->share});
            here -= found->share;
        }
    }
    readout_.terms.push_back({Source::node, cell, here});
    if (here < 0.0 || std::any_of(readout_.terms.begin(), readout_.terms.end(), [](const Readout::Term& t) { return t.weight < 0.0 || t.weight > 1.0; })) {
        const SurfaceBounds bounds(mesh, network, {cell});
        const std::span<const Anchor> around = bounds.anchors(cell);
        readout_.anchors.assign(around.begin(), around.end());
        const auto [first, last] = std::equal_range(mesh.patches.cell.begin(), mesh.patches.cell.end(), cell);
        for (auto p = first; p != last; ++p) {
            const End& end = network.surface[static_cast<std::size_t>(p - mesh.patches.cell.begin())];
            if (end.at == End::At::wall) readout_.anchors.push_back({Anchor::Kind::surroundings, end.index});
        }
    }
}

}  // namespace firnfield
