/// The true surface of the assembly with smooth temperatures at its corners, for pictures and viewers.
#pragma once

#include <firnfield/model.hpp>
#include <firnfield/steady.hpp>

#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <vector>

namespace firnfield {

/// A flat convex piece of surface.
struct SurfacePolygon {
    Index first = 0, count = 0;  ///< corners: SurfaceField::index[first … first + count)
    Index body = 0;
    std::uint16_t tag = 0;  ///< face of the body, as in Mesh::tags
    std::uint8_t side = 0;  ///< main direction where the body has flat faces of this tag in several directions
    bool inner = false;     ///< closes a section or a hot region; no face of the part
    Vec3 normal{};
};

struct SurfaceField {
    std::vector<Vec3> corners{};        ///< m
    std::vector<double> temperature{};  ///< K, per corner
    std::vector<Index> index{};
    std::vector<SurfacePolygon> polygons{};

    [[nodiscard]] std::span<const Index> of(const SurfacePolygon& p) const { return std::span(index).subspan(p.first, p.count); }
};

/// What is to be seen.
struct SurfaceView {
    std::vector<bool> hidden{};          ///< per body; what hidden bodies cover shows
    std::optional<HalfSpace> section{};  ///< only what lies on this side, closed by the plane with the temperature inside
    std::optional<double> above{};       ///< K; only what is hotter
};

/// Makes surfaces of one solution. What all views of it share is worked out once; model and solution have to outlive it.
class SurfaceReader {
public:
    SurfaceReader(const Model& model, const SteadySolution& solution);
    ~SurfaceReader();
    [[nodiscard]] SurfaceField field(const SurfaceView& view) const;

    struct Shared;

private:
    const SteadySolution& solution_;
    std::unique_ptr<const Shared> shared_;
};

[[nodiscard]] SurfaceField surface_field(const Model& model, const SteadySolution& solution, const SurfaceView& view);

/// Which bodies the patterns pick.
[[nodiscard]] std::vector<bool> picked_bodies(const Model& model, const Mesh& mesh, const std::vector<std::string>& patterns);

}  // namespace firnfield
