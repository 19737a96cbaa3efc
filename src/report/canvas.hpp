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

/// Colour, value and depth per pixel.
class Canvas {
public:
    Canvas(int width, int height);

    struct Corner {
        Vec3 pixel;    ///< from Camera::project
        double value;  ///< handed to the colour function
    };
    using Colour = std::array<float, 3>;

    /// Fills a triangle where it is nearest; `colour(value)` is asked per pixel.
    template <typename ColourOf>
    void triangle(const Corner& a, const Corner& b, const Corner& c, const ColourOf& colour) {
        const double area = (b.pixel.x - a.pixel.x) * (c.pixel.y - a.pixel.y) - (b.pixel.y - a.pixel.y) * (c.pixel.x - a.pixel.x);
        if (area == 0.0) return;
        const Window window = clip(a.pixel, b.pixel, c.pixel);
        for (int y = window.top; y <= window.bottom; ++y) {
            for (int x = window.left; x <= window.right; ++x) {
                const double px = x + 0.5, py = y + 0.5;
                const double wb = ((px - a.pixel.x) * (c.pixel.y - a.pixel.y) - (py - a.pixel.y) * (c.pixel.x - a.pixel.x)) / area;
                const double wc = ((b.pixel.x - a.pixel.x) * (py - a.pixel.y) - (b.pixel.y - a.pixel.y) * (px - a.pixel.x)) / area;
                const double wa = 1.0 - wb - wc;
                constexpr double rim = -1e-9;
                if (wa < rim || wb < rim || wc < rim) continue;
                put(x, y, wa * a.pixel.z + wb * b.pixel.z + wc * c.pixel.z, colour(wa * a.value + wb * b.value + wc * c.value));
            }
        }
    }

    /// A line; hidden behind triangles that are nearer by more than `bias` (depth), unless `through`.
    void line(Vec3 from, Vec3 to, const Colour& colour, double opacity, double thickness, double bias, bool through);

    /// Depth of the nearest triangle at a pixel.
    [[nodiscard]] double depth(int x, int y) const { return depth_[index(x, y)]; }
    [[nodiscard]] bool inside(int x, int y) const { return x >= 0 && y >= 0 && x < width_ && y < height_; }
    /// The picture as 0xAARRGGBB, every `factor` × `factor` pixels averaged into one.
    [[nodiscard]] std::vector<std::uint32_t> reduced(int factor) const;

private:
    struct Window {
        int left, top, right, bottom;
    };
    [[nodiscard]] Window clip(Vec3 a, Vec3 b, Vec3 c) const;
    [[nodiscard]] std::size_t index(int x, int y) const { return static_cast<std::size_t>(y) * static_cast<std::size_t>(width_) + static_cast<std::size_t>(x); }
    void put(int x, int y, double depth, const Colour& colour) {
        const std::size_t at = index(x, y);
        if (depth <= depth_[at]) return;
        depth_[at] = static_cast<float>(depth);
        colour_[at] = colour;
    }

    int width_, height_;
    std::vector<Colour> colour_;
    std::vector<float> depth_;
};

}  // namespace firnfield
