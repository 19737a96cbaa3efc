// Pictures of a solid whose faces carry numbers.

#include "report/drawing.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

/// A soft colour for each number; neighbours in the list differ much.
std::array<double, 3> tint(std::size_t number) {
    constexpr double golden = 0.6180339887498949;
    const double hue = static_cast<double>(number) * golden;
    std::array<double, 3> rgb{};
    for (std::size_t c = 0; c < 3; ++c) {
        const double place = hue + static_cast<double>(c) / 3.0;
        rgb[c] = 0.80 + 0.14 * std::cos(2.0 * 3.14159265358979323846 * place);
    }
    return rgb;
}

/// One side of a solid, and the spot on each face that is seen best.
class FaceView {
public:
    FaceView(const ClosedSurface& surface, std::span<const std::size_t> number, const Camera& camera, int width, int height)
        : camera_(camera), width_(width * oversampling), height_(height * oversampling), canvas_(width_, height_), face_of_{no_face} {
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

    /// Where a face is seen best.
    struct Spot {
        int x = 0, y = 0;   // pixels of the picture
        double room = 0.0;  // pixels around it that belong to the face
    };
    /// By face; what is not seen has no room.
    [[nodiscard]] std::vector<Spot> spots(std::size_t faces) const {
        // Steps to the nearest pixel of another face, in two sweeps (Rosenfeld & Pfaltz, "Sequential operations in digital picture processing", 1966).
        std::vector<int> room(static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_), 0);
        const auto at = [&](int x, int y) -> int& {
            return room[static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x)];
        };
        const auto step = [&](int x, int y, int dx, int dy) {
            if (!canvas_.inside(x + dx, y + dy) || face(x + dx, y + dy) != face(x, y)) return 0;
            return at(x + dx, y + dy);
        };
        for (int y = 0; y < height_; ++y) {
            for (int x = 0; x < width_; ++x) {
                if (face(x, y) != no_face) at(x, y) = 1 + std::min({step(x, y, -1, 0), step(x, y, 0, -1), step(x, y, -1, -1), step(x, y, 1, -1)});
            }
        }
        std::vector<Spot> out(faces);
        for (int y = height_ - 1; y >= 0; --y) {
            for (int x = width_ - 1; x >= 0; --x) {
                if (face(x, y) == no_face) continue;
                at(x, y) = std::min(at(x, y), 1 + std::min({step(x, y, 1, 0), step(x, y, 0, 1), step(x, y, 1, 1), step(x, y, -1, 1)}));
                Spot& best = out[face(x, y)];
                const double here = static_cast<double>(at(x, y)) / oversampling;
                if (here > best.room) best = {x / oversampling, y / oversampling, here};
            }
        }
        return out;
    }

private:
    static constexpr std::size_t no_face = static_cast<std::size_t>(-1);
    [[nodiscard]] std::size_t face(int x, int y) const { return face_of_[canvas_.face(x, y)]; }

    const Camera& camera_;
    int width_, height_;
    Canvas canvas_;
    std::vector<std::size_t> face_of_;  // of the canvas's faces
};

}  // namespace

void draw_numbered(const std::filesystem::path& file, const ClosedSurface& surface, std::span<const std::size_t> number, const std::string& title,
                   const std::string& counted, const Picture& view, int width, int height) {
    const int half = width / 2;
    const std::array cameras{Camera(view.azimuth, view.elevation), Camera(view.azimuth + 180.0, -view.elevation)};
    std::vector<std::uint32_t> pixels(static_cast<std::size_t>(width) * static_cast<std::size_t>(height), 0xFFFFFFFFU);
    std::array<std::vector<FaceView::Spot>, 2> spots;
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
            const FaceView::Spot& spot = spots[side][f];
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
