/// What of the mesh is to be seen: faces with temperatures at their corners, and the edges of bodies.
#pragma once

#include <firnfield/model.hpp>
#include <firnfield/steady.hpp>

#include <array>
#include <vector>

namespace firnfield {

/// One visible grid face.
struct SkinFace {
    std::array<Vec3, 4> corner;          ///< around the face
    std::array<double, 4> temperature;   ///< K, smoothed over faces of the same body and direction
    Side side;
};

struct SkinEdge {
    Vec3 from, to;
};

struct Skin {
    std::vector<SkinFace> faces;
    std::vector<SkinEdge> edges;         ///< where the direction or the body changes
};

/// The outside of everything that is not hidden, with mirror planes and faces against hidden parts closed.
[[nodiscard]] Skin visible_skin(const Model& model, const SteadySolution& solution, const std::vector<bool>& hidden_bodies);

/// The outside of what is hotter than `above` (K).
[[nodiscard]] Skin hot_skin(const Model& model, const SteadySolution& solution, const std::vector<bool>& hidden_bodies, double above);

/// Which bodies the patterns hide.
[[nodiscard]] std::vector<bool> hidden_bodies(const Model& model, const Mesh& mesh, const std::vector<std::string>& patterns);

}  // namespace firnfield
