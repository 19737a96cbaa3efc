/// The true surface of the assembly with smooth temperatures at its corners, for pictures and viewers.
#pragma once

#include <firnfield/model.hpp>
#include <firnfield/steady.hpp>

#include "findings/extremes.hpp"
#include "mesh/surface_pieces.hpp"

#include <memory>
#include <optional>
#include <vector>

namespace firnfield {

/// Pieces of surface with a temperature at each corner.
struct SurfaceField : SurfacePieces {
    std::vector<double> temperature{};  ///< K
};

/// What is to be seen.
struct SurfaceView {
    std::vector<bool> hidden{};          ///< per body; what hidden bodies cover shows
    std::optional<HalfSpace> section{};  ///< only what lies on this side, closed by the plane with the temperature inside
    std::optional<double> above{};       ///< K; only what is at least as hot, closed by the surface of that temperature
};

/// Makes surfaces of one solution. What all views of it share is worked out once; the solution has to outlive it.
class SurfaceReader {
public:
    explicit SurfaceReader(const SteadySolution& solution);
    ~SurfaceReader();
    [[nodiscard]] SurfaceField field(const SurfaceView& view) const;
    /// K, of each corner of pieces of the solution's mesh.
    [[nodiscard]] std::vector<double> temperatures(const SurfacePieces& surface) const;
    /// What the tables tell: no surface shows more.
    [[nodiscard]] const BodyTemperatures& bodies() const;

    struct Shared;

private:
    const SteadySolution& solution_;
    std::unique_ptr<const Shared> shared_;
};

[[nodiscard]] SurfaceField surface_field(const SteadySolution& solution, const SurfaceView& view);

/// Which bodies the patterns pick.
[[nodiscard]] std::vector<bool> picked_bodies(const Model& model, const Mesh& mesh, const std::vector<std::string>& patterns);

}  // namespace firnfield
