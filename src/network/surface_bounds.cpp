// Bounds on the temperatures of surfaces, from the maximum principle.

#include "network/surface_bounds.hpp"

#include <algorithm>
#include <limits>

namespace firnfield {
namespace {

/// Lowest and highest of some anchors.
class Hull {
public:
    Hull(const Network& network, const NodeReading& nodes) : network_(network), nodes_(nodes) {}

    void take(const Anchor& anchor) {
        const Walls& walls = network_.walls;
        switch (anchor.kind) {
            case Anchor::Kind::node:
                widen(nodes_.at(anchor.index), anchor);
                break;
            case Anchor::Kind::known:
                widen(network_.knowns[anchor.index].temperature, anchor);
                break;
            case Anchor::Kind::wall:
                widen(wall_state(network_, anchor.index, node_of(walls, anchor)).temperature, anchor);
                break;
            case Anchor::Kind::surroundings: {
                // Heat put onto several faces of a corner adds up there.
                bool heated = false;
                for (const Family& film : walls.group_of(anchor.index).films) {
                    if (film.known == no_index)
                        heated = true;
                    else
                        widen(network_.knowns[film.known].temperature, anchor);
                }
                if (!heated) break;
                const double node = node_of(walls, anchor);
                const double more = wall_state(network_, anchor.index, node).temperature - node;
                (more > 0.0 ? above_ : below_) += more;
                break;
            }
        }
    }

    [[nodiscard]] Bounded bound(double temperature) const {
        if (temperature < low_ + below_) return {low_ + below_, low_at_};
        if (temperature > high_ + above_) return {high_ + above_, high_at_};
        return {temperature, {}};
    }

private:
    /// Temperature of the node behind a wall.
    [[nodiscard]] double node_of(const Walls& walls, const Anchor& anchor) const { return nodes_.at(walls.node[anchor.index]); }

    void widen(double temperature, const Anchor& anchor) {
        if (temperature < low_) low_ = temperature, low_at_ = anchor;
        if (temperature > high_) high_ = temperature, high_at_ = anchor;
    }

    const Network& network_;
    const NodeReading& nodes_;
    double low_ = std::numeric_limits<double>::infinity(), high_ = -std::numeric_limits<double>::infinity();
    double below_ = 0.0, above_ = 0.0;
    Anchor low_at_{}, high_at_{};
};

/// Pairs of cells and something of theirs, to be grouped by cell.
template <typename T>
struct Grouped {
    std::vector<Index> first{};
    std::vector<T> items{};

    [[nodiscard]] std::span<const T> of(std::size_t place) const { return std::span(items).subspan(first[place], first[place + 1] - first[place]); }
};

/// The neighbours across faces of the cells that `place` numbers (no_index: not wanted).
Grouped<Index> neighbours(const Mesh& mesh, const std::vector<Index>& place, std::size_t count) {
    Grouped<Index> out;
    out.first.assign(count + 1, 0);
    const auto each = [&](const auto& use) {
        for (std::size_t f = 0; f < mesh.faces.size(); ++f) {
            const Index a = mesh.faces.first[f], b = mesh.faces.second[f];
            if (place[a] != no_index) use(place[a], b);
            if (place[b] != no_index) use(place[b], a);
        }
    };
    each([&](Index at, Index) { ++out.first[at + 1]; });
    for (std::size_t i = 0; i < count; ++i) out.first[i + 1] += out.first[i];
    out.items.resize(out.first.back());
    std::vector<Index> next(out.first.begin(), out.first.end() - 1);
    each([&](Index at, Index other) { out.items[next[at]++] = other; });
    return out;
}

}  // namespace

SurfaceBounds::SurfaceBounds(const Mesh& mesh, const Network& network, std::vector<Index> cells) : cells_(std::move(cells)), first_(1, 0) {
    if (cells_.empty()) return;
    std::vector<Index> place(mesh.cells.size(), no_index);
    for (std::size_t i = 0; i < cells_.size(); ++i) place[cells_[i]] = static_cast<Index>(i);
    const std::vector<Index> wanted = place;
    const auto own = static_cast<Index>(cells_.size());
    Index count = own;
    for (std::size_t f = 0; f < mesh.faces.size(); ++f) {
        const Index a = mesh.faces.first[f], b = mesh.faces.second[f];
        if (wanted[a] != no_index && place[b] == no_index) place[b] = count++;
        if (wanted[b] != no_index && place[a] == no_index) place[a] = count++;
    }
    const Grouped<Index> beside = neighbours(mesh, place, count);

    std::vector<std::vector<Anchor>> more(cells_.size());
    const auto add = [&](Index cell, Anchor::Kind kind, Index index) {
        if (wanted[cell] != no_index) more[wanted[cell]].push_back({kind, index});
    };
    for (std::size_t c = 0; c < mesh.contacts.size(); ++c) {
        add(mesh.contacts.first[c], Anchor::Kind::node, mesh.contacts.second[c]);
        add(mesh.contacts.second[c], Anchor::Kind::node, mesh.contacts.first[c]);
    }
    for (std::size_t w = 0; w < network.walls.size(); ++w) {
        if (network.walls.resistance[w] >= 0.0) add(network.walls.node[w], Anchor::Kind::wall, static_cast<Index>(w));
    }
    for (std::size_t p = 0; p < mesh.patches.size(); ++p) {
        if (network.surface[p].at == End::At::known) add(mesh.patches.cell[p], Anchor::Kind::known, network.surface[p].index);
    }

    std::vector<Index> nodes;
    for (Index i = 0; i < own; ++i) {
        nodes.assign(1, cells_[i]);
        for (const Index near : beside.of(i)) {
            nodes.push_back(near);
            for (const Index far : beside.of(place[near])) nodes.push_back(far);
        }
        std::sort(nodes.begin(), nodes.end());
        nodes.erase(std::unique(nodes.begin(), nodes.end()), nodes.end());
        for (const Index node : nodes) anchors_.push_back({Anchor::Kind::node, node});
        anchors_.insert(anchors_.end(), more[i].begin(), more[i].end());
        first_.push_back(static_cast<Index>(anchors_.size()));
    }
}

std::span<const Anchor> SurfaceBounds::anchors(Index cell) const {
    const auto found = std::lower_bound(cells_.begin(), cells_.end(), cell);
    if (found == cells_.end() || *found != cell) return {};
    const auto at = static_cast<std::size_t>(found - cells_.begin());
    return std::span(anchors_).subspan(first_[at], first_[at + 1] - first_[at]);
}

Bounded SurfaceBounds::bound(double temperature, std::span<const Index> cells, const Network& network, const NodeReading& nodes) const {
    Hull hull(network, nodes);
    for (const Index cell : cells) {
        const std::span<const Anchor> around = anchors(cell);
        if (around.empty()) return {temperature, {}};
        for (const Anchor& anchor : around) hull.take(anchor);
    }
    return hull.bound(temperature);
}

std::shared_ptr<const SurfaceBounds> bounds_of_surfaces(const Mesh& mesh, const Network& network) {
    if (mesh.surfaces.empty()) return nullptr;  // every centre lies in its part
    std::vector<bool> needed(mesh.cells.size(), false);
    for (std::size_t w = 0; w < network.walls.size(); ++w) {
        if (network.walls.resistance[w] < 0.0) needed[network.walls.node[w]] = true;
    }
    for (std::size_t c = 0; c < mesh.contacts.size(); ++c) {
        if (mesh.contacts.depth_first[c] < 0.0 || mesh.contacts.depth_second[c] < 0.0) needed[mesh.contacts.first[c]] = needed[mesh.contacts.second[c]] = true;
    }
    std::vector<Index> cells;
    for (Index cell = 0; cell < mesh.cells.size(); ++cell) {
        if (needed[cell]) cells.push_back(cell);
    }
    return std::make_shared<const SurfaceBounds>(mesh, network, std::move(cells));
}

Bounded reported_temperature(const Network& network, Index wall, double balanced, const NodeReading& nodes) {
    const Index node = network.walls.node[wall];
    if (network.walls.resistance[wall] >= 0.0 || !network.surface_bounds) return {balanced, {}};
    return network.surface_bounds->bound(balanced, {&node, 1}, network, nodes);
}

Bounded wall_temperature(const Network& network, Index wall, const NodeReading& nodes) {
    return reported_temperature(network, wall, wall_state(network, wall, nodes.at(network.walls.node[wall])).temperature, nodes);
}

Bounded bound_between(std::span<const Anchor> anchors, double temperature, const Network& network, const NodeReading& nodes) {
    if (anchors.empty()) return {temperature, {}};
    Hull hull(network, nodes);
    for (const Anchor& anchor : anchors) hull.take(anchor);
    return hull.bound(temperature);
}

}  // namespace firnfield
