// Parts without a path to a known temperature.

#include "network/paths.hpp"

#include "base/words.hpp"
#include "network/lumped.hpp"

#include <fmt/format.h>

#include <set>

namespace firnfield {
namespace {

/// Disjoint sets with path halving.
class Sets {
public:
    explicit Sets(Index count) : parent_(count) {
        for (Index i = 0; i < count; ++i) parent_[i] = i;
    }
    Index root(Index i) {
        while (parent_[i] != i) i = parent_[i] = parent_[parent_[i]];
        return i;
    }
    void unite(Index a, Index b) {
        a = root(a);
        b = root(b);
        // The smaller index becomes the root, which keeps the trees shallow for cells numbered along rows.
        if (a != b) parent_[std::max(a, b)] = std::min(a, b);
    }

private:
    std::vector<Index> parent_;
};

}  // namespace

std::vector<Index> bodies_without_path(const Network& network) {
    Sets sets(network.nodes);
    for (const Family& family : network.families) {
        for (std::size_t i = 0; i < family.second.size(); ++i) sets.unite(family.first[i], family.second[i]);
    }
    std::vector<bool> cooled(network.nodes, false);
    const auto reaches = [](const Family& family, std::size_t i) { return family.known != no_index && family.coefficient[i] * family.scale > 0.0; };
    for (const Family& family : network.families) {
        for (std::size_t i = 0; i < family.size(); ++i) {
            if (reaches(family, i)) cooled[sets.root(family.first[i])] = true;
        }
    }
    for (const WallGroup& group : network.walls.groups) {
        for (const Family& film : group.films) {
            for (std::size_t i = 0; i < film.size(); ++i) {
                if (reaches(film, i)) cooled[sets.root(network.walls.node[group.begin + i])] = true;
            }
        }
    }
    std::vector<Index> floating;
    std::set<Index> seen;
    for (Index node = 0; node < network.nodes; ++node) {
        const Index body = network.owner[node];
        if (!cooled[sets.root(node)] && seen.insert(body).second) floating.push_back(body);
    }
    return floating;
}

void require_paths(const Model& model, const Mesh& mesh, const Network& network) {
    const std::vector<Index> owners = bodies_without_path(network);
    if (owners.empty()) return;
    std::vector<std::string> floating;
    for (const Index owner : owners) floating.push_back(name_of_owner(model, mesh, owner));
    const bool all = floating.size() == mesh.bodies.size() + network.nodes - mesh.cells.size();
    const Index first = owners.front();
    const std::string entry = first < mesh.bodies.size() ? fmt::format("part[{}]", mesh.bodies[first].part) : std::string("node");
    throw ModelError(all && model.coolings.empty() && model.holds.empty() ? std::string("cooling") : entry,
                     fmt::format("no path leads from {} to any ambient or imposed temperature, so the heat has nowhere to go: {}", quoted_list(floating),
                                 all && !model.nodes.empty() ? "add a [[resistor]] to the \"ambient\", a [[cooling]] or a [[hold]]"
                                 : all                       ? "add a [[cooling]] or a [[hold]]"
                                       : "check that the parts touch (a joint with reach bridges a gap), are not insulated, or are cooled themselves"));
}

}  // namespace firnfield
