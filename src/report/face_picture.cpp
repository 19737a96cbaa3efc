// Pictures of a solid whose faces carry numbers.

#include "report/best_seen.hpp"
#include "report/drawing.hpp"
#include "report/shades.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

/// One side of a solid, face by face.
class FaceView {
public:
    FaceView(const ClosedSurface& surface, std::span<const std::size_t> number, const Camera& camera, int width, int height)
        : camera_(camera), canvas_(width * oversampling, height * oversampling), face_of_{no_face} {
        for (std::size_t t = 0; t < surface.triangles.size(); ++t) {
            std::array<Vec3, 3> at{};
            for (std::size_t k = 0; k < 3; ++k) at[k] = surface.corners[surface.triangles[t][k]];
            const Vec3 doubled = cross(at[1] - at[0], at[2] - at[0]);
            if (dot(doubled, camera.towards_eye()) <= 0.0) continue;
            const Vec3 n = normalized(doubled);
            const std::size_t face = surface.face[t];
            canvas_.begin_face({.identity = static_cast<std::uint32_t>(face + 1),
                                .light = static_cast<float>(brightness(n)),
                                .normal = {static_cast<float>(n.x), static_cast<float>(n.y), static_cast<float>(n.z)}});
            face_of_.push_back(face);
            std::array<Canvas::Corner, 3> corner{};
            for (std::size_t k = 0; k < 3; ++k) {
                corner[k] = {camera_.project(at[k]), static_cast<double>(number[face])};
                corner[k].pixel.x *= oversampling;
                corner[k].pixel.y *= oversampling;
            }
            canvas_.triangle(corner[0], corner[1], corner[2]);
        }
    }

    [[nodiscard]] const Canvas& canvas() const { return canvas_; }

    /// By face.
    [[nodiscard]] std::vector<SeenSpot> spots(std::size_t faces) const {
        return best_seen(canvas_, oversampling, faces, [&](std::uint32_t face) { return std::min(face_of_[face], faces); });
    }

private:
    static constexpr std::size_t no_face = static_cast<std::size_t>(-1);

    const Camera& camera_;
    Canvas canvas_;
    std::vector<std::size_t> face_of_;  // of the canvas's faces
};

}  // namespace

void draw_numbered(const std::filesystem::path& file, const ClosedSurface& surface, std::span<const std::size_t> number, const std::string& title,
                   const std::string& counted, const Picture& view, int width, int height) {
    const int half = width / 2;
    const std::array cameras{Camera(view.azimuth, view.elevation), Camera(view.azimuth + 180.0, -view.elevation)};
    std::vector<std::uint32_t> pixels(static_cast<std::size_t>(width) * static_cast<std::size_t>(height), 0xFFFFFFFFU);
    std::array<std::vector<SeenSpot>, 2> spots;
    std::array<Camera, 2> fitted = cameras;
    for (std::size_t side = 0; side < 2; ++side) {
        fitted[side].fit(surface.corners, 40.0, 104.0, half - 40.0, height - 72.0);
        const FaceView seen(surface, number, fitted[side], half, height);
        const auto colour = [](double value) { return tint(static_cast<std::size_t>(std::lround(value))); };
        const std::vector<std::uint32_t> part = seen.canvas().picture(oversampling, colour, no_levels, rims_of(seen.canvas()));
        for (int y = 0; y < height; ++y) {
            std::copy_n(part.begin() + static_cast<std::ptrdiff_t>(y) * half, half,
                        pixels.begin() + static_cast<std::ptrdiff_t>(y) * width + static_cast<std::ptrdiff_t>(side) * half);
        }
        spots[side] = seen.spots(number.size());
    }
    Drawing drawing(pixels, width, height);
    std::size_t shown = 0;
    for (std::size_t f = 0; f < number.size(); ++f) {
        constexpr double least_room = 3.5;
        bool seen = false;
        for (std::size_t side = 0; side < 2; ++side) {
            const SeenSpot& spot = spots[side][f];
            if (spot.room < least_room) continue;
            seen = true;
            drawing.number(static_cast<double>(spot.x) + static_cast<double>(side) * half, spot.y, number[f], std::clamp(1.3 * spot.room, 8.0, 15.0));
        }
        if (seen) ++shown;
    }
    for (std::size_t side = 0; side < 2; ++side) drawing.axes(fitted[side], static_cast<double>(side) * half);
    drawing.text(24.0, 40.0, title, 21.0, true, 0.1);
    const std::string left_out = shown == number.size() ? "" : fmt::format("   |   {} of them hidden or too small to number", number.size() - shown);
    drawing.text(24.0, 64.0, fmt::format("{} {}, from two opposite sides{}", number.size(), counted, left_out), 13.5, false, 0.35);
    drawing.save(file);
}

}  // namespace firnfield
