// Groups of walls with the same films.

#include "network/walls_builder.hpp"

#include <algorithm>
#include <map>

namespace firnfield {

void WallsBuilder::add(Family family, std::span<const Index> patches, std::span<const double> coefficient) {
    const auto film = static_cast<Index>(films_.size());
    films_.push_back(std::move(family));
    for (std::size_t i = 0; i < patches.size(); ++i) layers_.push_back({patches[i], film, coefficient[i]});
}

Walls WallsBuilder::build() {
    std::stable_sort(layers_.begin(), layers_.end(), [](const Layer& a, const Layer& b) { return a.patch < b.patch; });
    struct Group {
        std::vector<Index> patches{};
        std::vector<std::vector<double>> coefficient{};  // by film of the group
    };
    std::map<std::vector<Index>, Group> groups;  // by their films
    std::vector<Index> films;
    Group* group = nullptr;
    for (std::size_t begin = 0, end = 0; begin < layers_.size(); begin = end) {
        while (end < layers_.size() && layers_[end].patch == layers_[begin].patch) ++end;
        const auto same = [&] {
            if (films.size() != end - begin) return false;
            for (std::size_t i = begin; i < end; ++i) {
                if (films[i - begin] != layers_[i].film) return false;
            }
            return true;
        };
        if (group == nullptr || !same()) {
            films.clear();
            for (std::size_t i = begin; i < end; ++i) films.push_back(layers_[i].film);
            group = &groups[films];
            group->coefficient.resize(films.size());
        }
        group->patches.push_back(layers_[begin].patch);
        for (std::size_t i = begin; i < end; ++i) group->coefficient[i - begin].push_back(layers_[i].coefficient);
    }
    Walls walls;
    for (auto& [key, entries] : groups) {
        WallGroup out{.begin = static_cast<Index>(walls.size())};
        for (const Index patch : entries.patches) {
            walls.patch.push_back(patch);
            walls.node.push_back(mesh_.patches.cell[patch]);
            walls.resistance.push_back(to_surface_[patch]);
        }
        out.end = static_cast<Index>(walls.size());
        for (std::size_t f = 0; f < key.size(); ++f) {
            out.films.push_back(films_[key[f]]);
            out.films.back().coefficient = std::move(entries.coefficient[f]);
        }
        walls.groups.push_back(std::move(out));
    }
    return walls;
}

}  // namespace firnfield
