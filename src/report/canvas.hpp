/// A small z-buffer: triangles with a scalar at their corners, and lines, seen along parallel rays.
#pragma once

#include <firnfield/geometry.hpp>

#include <array>
#include <cstdint>
#include <vector>

namespace firnfield {

/// Looks at the scene from a direction; screen x to the right, y up, depth towards the eye.
class Camera {
public:
    /// Angles in degrees: azimuth 0 looks along +y and turns the eye towards +x; elevation above the horizon.
    Camera(double azimuth, double elevation);
    /// Scales and shifts so that the points fill the frame (pixels, y down).
    void fit(const std::vector<Vec3>& points, double left, double top, double right, double bottom);
    /// Pixel x, pixel y (down), depth (larger is nearer).
    [[nodiscard]] Vec3 project(Vec3 point) const;
    [[nodiscard]] Vec3 right() const { return right_; }
    [[nodiscard]] Vec3 up() const { return up_; }
    [[nodiscard]] Vec3 towards_eye() const { return eye_; }
    [[nodiscard]] double scale() const { return scale_; }

private:
    Vec3 right_, up_, eye_;
    double scale_ = 1.0, shift_x_ = 0.0, shift_y_ = 0.0;
};

/// Depth, value and face of what is nearest, per pixel; colours come last.
class Canvas {
public:
    Canvas(int width, int height);

    struct Corner {
        Vec3 pixel;    ///< from Camera::project
        double value;  ///< interpolated over the triangle
    };
    using Colour = std::array<float, 3>;
    /// What triangles have in common.
    struct Face {
        std::uint32_t identity = 0;  ///< tells surfaces apart: rims run between different ones
        float light = 1.0F;          ///< brightness
        std::array<float, 3> normal{};
    };

    /// Fills polygons that belong to one face where they are nearest.
    void begin_face(const Face& face) { faces_.push_back(face); }
    void triangle(const Corner& a, const Corner& b, const Corner& c);

    /// Lines between faces of different identity and where one turns sharply, as another canvas of the same size shows them.
    struct Rims {
        const Canvas& of;
        Colour colour{};
        float opacity = 1.0F;
    };
    /// The picture as 0xAARRGGBB, every `factor` × `factor` pixels averaged into one. `colour(value)` has three numbers from 0 to 1; thin lines run
    /// where `level(value)` changes within a face.
    template <typename ColourOf, typename Level>
    [[nodiscard]] std::vector<std::uint32_t> picture(int factor, const ColourOf& colour, const Level& level, const Rims& rims) const {
        const int width = width_ / factor, height = height_ / factor;
        std::vector<std::uint32_t> pixels;
        pixels.reserve(static_cast<std::size_t>(width) * static_cast<std::size_t>(height));
        for (int y = 0; y < height; ++y) {
            for (int x = 0; x < width; ++x) {
                Colour sum{};
                for (int dy = 0; dy < factor; ++dy) {
                    for (int dx = 0; dx < factor; ++dx) {
                        const Colour c = colour_of(factor * x + dx, factor * y + dy, colour, level, rims);
                        for (std::size_t i = 0; i < 3; ++i) sum[i] += c[i];
                    }
                }
                pixels.push_back(packed(sum, 1.0F / static_cast<float>(factor * factor)));
            }
        }
        return pixels;
    }

    /// What is nearest at a pixel: 0 nothing, n the n-th face that was begun.
    [[nodiscard]] std::uint32_t face(int x, int y) const { return face_[index(x, y)]; }
    /// Depth of the nearest triangle at a pixel.
    [[nodiscard]] double depth(int x, int y) const { return static_cast<double>(depth_[index(x, y)]); }
    [[nodiscard]] int width() const { return width_; }
    [[nodiscard]] int height() const { return height_; }
    [[nodiscard]] bool inside(int x, int y) const { return x >= 0 && y >= 0 && x < width_ && y < height_; }

private:
    static constexpr std::uint32_t nothing = 0;  // no face
    static constexpr Colour background{0.978F, 0.982F, 0.988F}, level_line{0.08F, 0.09F, 0.12F};

    [[nodiscard]] std::size_t index(int x, int y) const { return static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x); }
    [[nodiscard]] bool rim_between(std::size_t a, std::size_t b) const;
    [[nodiscard]] static std::uint32_t packed(const Colour& sum, float share);
    static void blend(Colour& under, const Colour& over, float opacity) {
        for (std::size_t i = 0; i < 3; ++i) under[i] += opacity * (over[i] - under[i]);
    }

    template <typename ColourOf, typename Level>
    [[nodiscard]] Colour colour_of(int x, int y, const ColourOf& colour, const Level& level, const Rims& rims) const {
        const std::size_t at = index(x, y), right = x + 1 < width_ ? at + 1 : at, below = y + 1 < height_ ? index(x, y + 1) : at;
        Colour out = background;
        if (face_[at] != nothing) {
            const Face& face = faces_[face_[at]];
            const auto value = static_cast<double>(value_[at]);
            const auto rgb = colour(value);
            for (std::size_t i = 0; i < 3; ++i) out[i] = face.light * static_cast<float>(rgb[i]);
            for (const std::size_t next : {right, below}) {
                if (value_[next] != value_[at] && faces_[face_[next]].identity == face.identity && level(static_cast<double>(value_[next])) != level(value))
                    blend(out, level_line, 0.55F);
            }
        }
        if (rims.of.rim_between(at, right) || rims.of.rim_between(at, below)) blend(out, rims.colour, rims.opacity);
        return out;
    }

    int width_, height_;
    std::vector<float> depth_, value_;
    std::vector<std::uint32_t> face_;
    std::vector<Face> faces_;  // the first is nothing
};

}  // namespace firnfield
