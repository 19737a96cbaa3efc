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

/// Depth, value, light and identity of what is nearest, per pixel; colours come last.
class Canvas {
public:
    Canvas(int width, int height);

    struct Corner {
        Vec3 pixel;    ///< from Camera::project
        double value;  ///< interpolated over the triangle
    };
    using Colour = std::array<float, 3>;
    static constexpr std::uint32_t nothing = 0;

    /// Fills a triangle where it is nearest. `identity` (not 0) tells faces apart, `light` is their brightness.
    void triangle(const Corner& a, const Corner& b, const Corner& c, std::uint32_t identity, double light, Vec3 normal);

    /// Colours every pixel that shows something; lines of `line` colour run between faces of different identity, and where `level(value)`
    /// changes from one pixel to the next.
    template <typename ColourOf, typename Level>
    void shade(const ColourOf& colour, const Level& level) {
        for (std::size_t at = 0; at < colour_.size(); ++at) {
            if (identity_[at] == nothing) continue;
            const std::array<double, 3> rgb = colour(static_cast<double>(value_[at]));
            for (std::size_t c = 0; c < 3; ++c) colour_[at][c] = light_[at] * static_cast<float>(rgb[c]);
        }
        for (int y = 0; y < height_; ++y) {
            for (int x = 0; x < width_; ++x) {
                const std::size_t at = index(x, y);
                if (identity_[at] == nothing) continue;
                for (const std::size_t next : {x + 1 < width_ ? at + 1 : at, y + 1 < height_ ? index(x, y + 1) : at}) {
                    if (identity_[next] != identity_[at] || level(static_cast<double>(value_[next])) == level(static_cast<double>(value_[at]))) continue;
                    blend(at, {0.08F, 0.09F, 0.12F}, 0.55);
                }
            }
        }
    }
    /// Draws the rims of faces as `outline` shows them onto this picture: where another face begins or the same one turns sharply.
    void draw_rims(const Canvas& outline, const Colour& colour, double opacity);

    /// Depth of the nearest triangle at a pixel.
    [[nodiscard]] double depth(int x, int y) const { return static_cast<double>(depth_[index(x, y)]); }
    [[nodiscard]] bool inside(int x, int y) const { return x >= 0 && y >= 0 && x < width_ && y < height_; }
    /// The picture as 0xAARRGGBB, every `factor` × `factor` pixels averaged into one.
    [[nodiscard]] std::vector<std::uint32_t> reduced(int factor) const;

private:
    [[nodiscard]] std::size_t index(int x, int y) const { return static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x); }
    void blend(std::size_t at, const Colour& colour, double opacity);
    [[nodiscard]] bool rim_between(std::size_t a, std::size_t b) const;

    int width_, height_;
    std::vector<Colour> colour_;
    std::vector<float> depth_, value_, light_;
    std::vector<std::uint32_t> identity_;
    std::vector<std::array<float, 3>> normal_;
};

}  // namespace firnfield
