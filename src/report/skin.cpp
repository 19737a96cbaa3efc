#include "report/skin.hpp"

#include "findings/contact_temperatures.hpp"
#include "model/bodies.hpp"

#include <algorithm>
#include <cstdint>
#include <unordered_map>

namespace firnfield {
namespace {

/// Collects faces of grid boxes, then smooths their temperatures and finds the edges.
class Collector {
public:
    explicit Collector(const Mesh& mesh) : mesh_(mesh) {}

    /// The face of a cell's box towards one side.
    void add(Index cell, Side side, double temperature) {
        const auto at = mesh_.grid.place(mesh_.cells.box[cell]);
        const auto axis = static_cast<std::size_t>(axis_of(side));
        const std::size_t u = (axis + 1) % 3, v = (axis + 2) % 3;
        std::array<Index, 3> base = at;
        if (is_plus(side)) ++base[axis];
        Face face{{}, mesh_.cells.body[cell], side, temperature};
        constexpr std::array<std::array<Index, 2>, 4> around{{{0, 0}, {1, 0}, {1, 1}, {0, 1}}};
        for (std::size_t n = 0; n < 4; ++n) {
            std::array<Index, 3> corner = base;
            corner[u] += around[n][0];
            corner[v] += around[n][1];
            face.corner[n] = number(corner);
        }
        faces_.push_back(face);
    }

    Skin finish() {
        struct Mean {
            double sum = 0.0, count = 0.0;
        };
        std::unordered_map<std::uint64_t, Mean> means;
        std::unordered_map<std::uint64_t, int> sides_of_edge;
        means.reserve(faces_.size() * 2);
        sides_of_edge.reserve(faces_.size() * 4);
        for (const Face& face : faces_) {
            for (std::size_t n = 0; n < 4; ++n) {
                Mean& mean = means[key(face.corner[n], face)];
                mean.sum += face.temperature;
                mean.count += 1.0;
                ++sides_of_edge[edge_key(face, n)];
            }
        }
        Skin skin;
        skin.faces.reserve(faces_.size());
        for (const Face& face : faces_) {
            SkinFace out;
            out.side = face.side;
            for (std::size_t n = 0; n < 4; ++n) {
                out.corner[n] = position(face.corner[n]);
                const Mean& mean = means[key(face.corner[n], face)];
                out.temperature[n] = mean.sum / mean.count;
            }
            skin.faces.push_back(out);
            for (std::size_t n = 0; n < 4; ++n) {
                if (sides_of_edge[edge_key(face, n)] == 1) skin.edges.push_back({out.corner[n], out.corner[(n + 1) % 4]});
            }
        }
        return skin;
    }

private:
    struct Face {
        std::array<std::uint64_t, 4> corner;
        Index body;
        Side side;
        double temperature;
    };

    [[nodiscard]] std::uint64_t number(const std::array<Index, 3>& c) const {
        const std::uint64_t nx = mesh_.grid.count(0) + 1, ny = mesh_.grid.count(1) + 1;
        return (c[2] * ny + c[1]) * nx + c[0];
    }
    [[nodiscard]] Vec3 position(std::uint64_t corner) const {
        const std::uint64_t nx = mesh_.grid.count(0) + 1, ny = mesh_.grid.count(1) + 1;
        return {mesh_.grid.lines[0][corner % nx], mesh_.grid.lines[1][corner / nx % ny], mesh_.grid.lines[2][corner / (nx * ny)]};
    }
    /// Corner, body and direction in one number: corners number below 2^34, bodies below 2^24.
    static std::uint64_t key(std::uint64_t corner, const Face& face) {
        return (corner << 27U) | (std::uint64_t{face.body} << 3U) | static_cast<std::uint64_t>(face.side);
    }
    /// An edge is named by its lower corner and which of the face's two directions it runs along.
    static std::uint64_t edge_key(const Face& face, std::size_t n) {
        return (key(std::min(face.corner[n], face.corner[(n + 1) % 4]), face) << 1U) | (n % 2);
    }

    const Mesh& mesh_;
    std::vector<Face> faces_;
};

/// Calls `visit(cell, side)` for the sides of cells that lie in mirror planes.
template <typename Visit>
void for_each_mirror_face(const Model& model, const Mesh& mesh, const Visit& visit) {
    for (const Mirror& mirror : model.mirrors) {
        const Index end = mirror.keep_plus ? 0 : mesh.grid.count(mirror.axis) - 1;
        const std::vector<double>& lines = mesh.grid.lines[static_cast<std::size_t>(mirror.axis)];
        const double plane = mirror.keep_plus ? lines.front() : lines.back();
        if (std::abs(plane - mirror.at) > 1e-9 * (lines.back() - lines.front())) continue;  // nothing reaches the plane
        for (Index cell = 0; cell < mesh.cells.size(); ++cell) {
            if (mesh.grid.place(mesh.cells.box[cell])[static_cast<std::size_t>(mirror.axis)] == end) visit(cell, make_side(mirror.axis, !mirror.keep_plus));
        }
    }
}

Side opposite(Side side) { return make_side(axis_of(side), !is_plus(side)); }

}  // namespace

std::vector<bool> hidden_bodies(const Model& model, const Mesh& mesh, const std::vector<std::string>& patterns) {
    std::vector<bool> hidden(mesh.bodies.size(), false);
    for (std::size_t b = 0; b < hidden.size(); ++b) {
        for (const std::string& pattern : patterns) {
            if (picks(pattern, mesh.bodies[b].name, model.parts[mesh.bodies[b].part].name)) hidden[b] = true;
        }
    }
    return hidden;
}

Skin visible_skin(const Model& model, const SteadySolution& solution, const std::vector<bool>& hidden) {
    const Mesh& mesh = *solution.mesh;
    const ContactTemperatures sides = contact_temperatures(model, solution);
    Collector collector(mesh);
    const auto seen = [&](Index cell) { return !hidden[mesh.cells.body[cell]]; };
    for (std::size_t p = 0; p < mesh.patches.size(); ++p) {
        if (seen(mesh.patches.cell[p])) collector.add(mesh.patches.cell[p], mesh.patches.side[p], solution.patch_temperature[p]);
    }
    for (std::size_t c = 0; c < mesh.contacts.size(); ++c) {
        const Index a = mesh.contacts.first[c], b = mesh.contacts.second[c];
        const auto side = static_cast<Side>(mesh.contacts.side[c]);
        const bool open = mesh.contacts.gap[c] > 0.0;
        if (seen(a) && (open || !seen(b))) collector.add(a, side, sides.first[c]);
        if (seen(b) && (open || !seen(a))) collector.add(b, opposite(side), sides.second[c]);
    }
    for_each_mirror_face(model, mesh, [&](Index cell, Side side) {
        if (seen(cell)) collector.add(cell, side, solution.temperature[cell]);
    });
    return collector.finish();
}

Skin hot_skin(const Model& model, const SteadySolution& solution, const std::vector<bool>& hidden, double above) {
    const Mesh& mesh = *solution.mesh;
    Collector collector(mesh);
    const std::vector<double>& t = solution.temperature;
    const auto hot = [&](Index cell) { return t[cell] >= above && !hidden[mesh.cells.body[cell]]; };
    const auto between = [&](Index a, Index b, Side side) {
        if (hot(a) && !hot(b)) collector.add(a, side, t[a]);
        if (hot(b) && !hot(a)) collector.add(b, opposite(side), t[b]);
    };
    for (std::size_t f = 0; f < mesh.faces.size(); ++f) between(mesh.faces.first[f], mesh.faces.second[f], make_side(mesh.faces.axis[f], true));
    for (std::size_t c = 0; c < mesh.contacts.size(); ++c) between(mesh.contacts.first[c], mesh.contacts.second[c], static_cast<Side>(mesh.contacts.side[c]));
    for (std::size_t p = 0; p < mesh.patches.size(); ++p) {
        if (hot(mesh.patches.cell[p])) collector.add(mesh.patches.cell[p], mesh.patches.side[p], solution.patch_temperature[p]);
    }
    for_each_mirror_face(model, mesh, [&](Index cell, Side side) {
        if (hot(cell)) collector.add(cell, side, t[cell]);
    });
    return collector.finish();
}

}  // namespace firnfield
