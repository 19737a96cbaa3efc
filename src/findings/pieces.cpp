// Parts that are in several pieces: cells of a body that no faces lead to.

#include "findings/pieces.hpp"

#include "base/words.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <numeric>
#include <set>

namespace firnfield {
namespace {

/// The first cell of the piece that a cell belongs to.
Index root_of(std::vector<Index>& parent, Index cell) {
    while (parent[cell] != cell) cell = parent[cell] = parent[parent[cell]];
    return cell;
}

struct Piece {
    double volume = 0.0;
    std::set<std::string> touches{};
};

}  // namespace

std::vector<Warning> tell_pieces(const Model& model, const Mesh& mesh) {
    std::vector<Index> parent(mesh.cells.size());
    std::iota(parent.begin(), parent.end(), Index{0});
    for (std::size_t f = 0; f < mesh.faces.size(); ++f) {
        const Index a = root_of(parent, mesh.faces.first[f]), b = root_of(parent, mesh.faces.second[f]);
        if (a != b) parent[std::max(a, b)] = std::min(a, b);
    }
    std::vector<std::map<Index, Piece>> pieces(mesh.bodies.size());  // by their first cell
    for (Index cell = 0; cell < mesh.cells.size(); ++cell) pieces[mesh.cells.body[cell]][root_of(parent, cell)].volume += mesh.cells.volume[cell];
    for (std::size_t c = 0; c < mesh.contacts.size(); ++c) {
        const Index first = mesh.contacts.first[c], second = mesh.contacts.second[c];
        const auto note = [&](Index cell, Index other) {
            auto& own = pieces[mesh.cells.body[cell]];
            if (own.size() > 1) own[root_of(parent, cell)].touches.insert(mesh.bodies[mesh.cells.body[other]].name);
        };
        note(first, second);
        note(second, first);
    }
    std::vector<Warning> out;
    std::vector<bool> told(model.parts.size(), false);
    for (Index body = 0; body < mesh.bodies.size(); ++body) {
        std::vector<Piece> found;
        double all = 0.0;
        for (auto& [cell, piece] : pieces[body]) all += piece.volume;
        constexpr double sliver = 1e-3;  // of the volume: where the grid cuts a thin edge
        for (auto& [cell, piece] : pieces[body]) {
            if (piece.volume > sliver * all) found.push_back(std::move(piece));
        }
        // In a sector pieces may join through the next one.
        if (found.size() < 2 || told[mesh.bodies[body].part] || (model.sector && mesh.bodies[body].on_planes != 0)) continue;
        told[mesh.bodies[body].part] = true;
        std::stable_sort(found.begin(), found.end(), [](const Piece& a, const Piece& b) { return a.volume > b.volume; });
        std::string text;
        constexpr std::size_t most = 4;
        for (std::size_t i = 0; i < std::min(most, found.size()); ++i) {
            const std::vector<std::string> names(found[i].touches.begin(), found[i].touches.end());
            text += fmt::format("{}one with {:.0f} % of it touches {}", i == 0 ? "" : "; ", 100.0 * found[i].volume / all,
                                names.empty() ? "nothing" : quoted_list(names, 4));
        }
        if (found.size() > most) text += fmt::format("; and {} more", found.size() - most);
        out.push_back({"in_pieces", fmt::format("{} is in {} pieces that do not touch each other: {}", in_quotes(mesh.bodies[body].name), found.size(), text)});
    }
    return out;
}

}  // namespace firnfield
