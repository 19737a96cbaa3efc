// Parts without a path to a known temperature.

#include "network/paths.hpp"

#include "base/words.hpp"

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
    for (std::size_t l = 0; l < network.links.size(); ++l) sets.unite(network.links.first[l], network.links.second[l]);
    for (std::size_t l = 0; l < network.radiative_links.size(); ++l) {
        sets.unite(network.radiative_links.first[l], network.radiative_links.second[l]);
    }
    std::vector<bool> cooled(network.nodes, false);
    for (const Index node : network.ties.node) cooled[sets.root(node)] = true;
    for (std::size_t w = 0; w < network.walls.size(); ++w) {
        for (const Exchange& exchange : network.walls.of(w)) {
            if (exchange.kind != ExchangeKind::flux && exchange.coefficient > 0.0) cooled[sets.root(network.walls.node[w])] = true;
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
    std::vector<std::string> floating;
    for (const Index body : bodies_without_path(network)) floating.push_back(mesh.bodies[body].name);
    if (floating.empty()) return;
    const std::size_t first_part = mesh.bodies[bodies_without_path(network).front()].part;
    const bool all = floating.size() == mesh.bodies.size();
    throw ModelError(all && model.coolings.empty() && model.holds.empty() ? std::string("cooling") : fmt::format("part[{}]", first_part),
                     fmt::format("no path leads from {} to any ambient or imposed temperature, so the heat has nowhere to go: {}", quoted_list(floating),
                                 all ? "add a [[cooling]] or a [[hold]]"
                                     : "check that the parts touch (a joint with reach bridges a gap), are not insulated, or are cooled themselves"));
}

}  // namespace firnfield
