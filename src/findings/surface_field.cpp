// Temperatures of the visible surface: of patches, contacts and cells, smooth over the faces of a body.

#include "findings/surface_field.hpp"

#include "findings/extremes.hpp"
#include "findings/iso_surface.hpp"
#include "model/bodies.hpp"

#include <algorithm>

namespace firnfield {
namespace {

/// Temperature gradient of every cell from its neighbours in the same body, K/m.
std::vector<Vec3> gradients(const SteadySolution& solution) {
    const Mesh& mesh = *solution.mesh;
    std::vector<Vec3> gradient(mesh.cells.size());
    std::vector<std::array<std::uint8_t, 3>> count(mesh.cells.size(), {0, 0, 0});
    for (std::size_t f = 0; f < mesh.faces.size(); ++f) {
        const Index a = mesh.faces.first[f], b = mesh.faces.second[f];
        const std::size_t axis = mesh.faces.axis[f];
        const double slope = (solution.temperature[b] - solution.temperature[a]) / mesh.faces.distance[f];
        for (const Index cell : {a, b}) {
            gradient[cell][static_cast<int>(axis)] += slope;
            ++count[cell][axis];
        }
    }
    for (std::size_t c = 0; c < gradient.size(); ++c) {
        for (std::size_t axis = 0; axis < 3; ++axis) {
            if (count[c][axis] > 1) gradient[c][static_cast<int>(axis)] /= count[c][axis];
        }
    }
    return gradient;
}

/// Keeps what is at least as hot as asked.
SurfaceField only_above(const SurfaceField& field, double above) {
    SurfaceField out;
    for (const SurfacePiece& face : field.pieces) {
        const auto corners = field.of(face);
        SurfacePiece kept = face;
        kept.first = static_cast<Index>(out.index.size());
        for (std::size_t i = 0; i < corners.size(); ++i) {
            const Index a = corners[i], b = corners[(i + 1) % corners.size()];
            const double ta = field.temperature[a] - above, tb = field.temperature[b] - above;
            const auto put = [&](Vec3 p, double t) {
                out.index.push_back(static_cast<Index>(out.corners.size()));
                out.corners.push_back(p);
                out.temperature.push_back(t);
            };
            if (ta >= 0.0) put(field.corners[a], field.temperature[a]);
            if ((ta < 0.0) != (tb < 0.0)) put(field.corners[a] + (ta / (ta - tb)) * (field.corners[b] - field.corners[a]), above);
        }
        kept.count = static_cast<Index>(out.index.size()) - kept.first;
        if (kept.count > 2) out.pieces.push_back(kept);
    }
    return out;
}

}  // namespace

struct SurfaceReader::Shared {
    std::vector<Vec3> gradient;
    BodyTemperatures bodies;  // no surface shows more than the tables tell
};

std::vector<bool> picked_bodies(const Model& model, const Mesh& mesh, const std::vector<std::string>& patterns) {
    std::vector<bool> picked(mesh.bodies.size(), false);
    for (std::size_t b = 0; b < picked.size(); ++b) {
        for (const std::string& pattern : patterns) {
            if (picks(pattern, mesh.bodies[b].name, model.parts[mesh.bodies[b].part].name)) picked[b] = true;
        }
    }
    return picked;
}

SurfaceReader::SurfaceReader(const SteadySolution& solution) : solution_(solution) {
    const Mesh& mesh = *solution.mesh;
    auto shared = std::make_unique<Shared>();
    shared->gradient = gradients(solution);
    shared->bodies = Extremes(mesh).of(solution.nodes(), solution.patch_temperature, solution.contacts);
    shared_ = std::move(shared);
}

SurfaceReader::~SurfaceReader() = default;

std::vector<double> SurfaceReader::temperatures(const SurfacePieces& surface) const {
    const Mesh& mesh = *solution_.mesh;
    return corner_values(surface, [&](const SurfacePiece& piece, Vec3 point) {
        const bool of_patch = piece.on == SurfacePiece::On::patch;
        double base = solution_.temperature[piece.cell];
        if (of_patch) base = solution_.patch_temperature[piece.place];
        if (piece.on == SurfacePiece::On::first_of_contact) base = solution_.contacts.first[piece.place];
        if (piece.on == SurfacePiece::On::second_of_contact) base = solution_.contacts.second[piece.place];
        if (!piece.cuts) return base;
        const Vec3 from = of_patch ? mesh.foot(piece.place) : mesh.centre(piece.cell);
        return std::clamp(base + dot(shared_->gradient[piece.cell], point - from), shared_->bodies.coldest[piece.body].temperature,
                          shared_->bodies.hottest[piece.body].temperature);
    });
}

SurfaceField SurfaceReader::field(const SurfaceView& view) const {
    SurfaceField field{surface_pieces(*solution_.mesh, {.hidden = view.hidden, .section = view.section}), {}};
    field.temperature = temperatures(field);
    if (!view.above) return field;
    field = only_above(field, *view.above);
    add_iso_surface(field, solution_, shared_->gradient, shared_->bodies, view.hidden, *view.above, view.section);
    return field;
}

const BodyTemperatures& SurfaceReader::bodies() const { return shared_->bodies; }

SurfaceField surface_field(const SteadySolution& solution, const SurfaceView& view) { return SurfaceReader(solution).field(view); }

}  // namespace firnfield
