#include "report/canvas.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {
namespace {

constexpr double degree = 3.14159265358979323846 / 180.0;
constexpr float nothing = -std::numeric_limits<float>::infinity();
constexpr Canvas::Colour background{0.978F, 0.982F, 0.988F};

}  // namespace

Camera::Camera(double azimuth, double elevation) {
    const double a = azimuth * degree, e = elevation * degree;
    eye_ = {std::sin(a) * std::cos(e), -std::cos(a) * std::cos(e), std::sin(e)};
    right_ = {std::cos(a), std::sin(a), 0.0};
    up_ = cross(eye_, right_);
}

void Camera::fit(const std::vector<Vec3>& points, double left, double top, double right, double bottom) {
    double low_x = std::numeric_limits<double>::max(), high_x = -low_x, low_y = low_x, high_y = -low_x;
    for (const Vec3& p : points) {
        low_x = std::min(low_x, dot(p, right_));
        high_x = std::max(high_x, dot(p, right_));
        low_y = std::min(low_y, dot(p, up_));
        high_y = std::max(high_y, dot(p, up_));
    }
    scale_ = std::min((right - left) / std::max(high_x - low_x, 1e-12), (bottom - top) / std::max(high_y - low_y, 1e-12));
    shift_x_ = 0.5 * (left + right) - scale_ * 0.5 * (low_x + high_x);
    shift_y_ = 0.5 * (top + bottom) + scale_ * 0.5 * (low_y + high_y);
}

Vec3 Camera::project(Vec3 point) const {
    return {shift_x_ + scale_ * dot(point, right_), shift_y_ - scale_ * dot(point, up_), scale_ * dot(point, eye_)};
}

Canvas::Canvas(int width, int height)
    : width_(width), height_(height), colour_(static_cast<std::size_t>(width) * static_cast<std::size_t>(height), background),
      depth_(colour_.size(), nothing) {}

Canvas::Window Canvas::clip(Vec3 a, Vec3 b, Vec3 c) const {
    const auto floor_to = [](double x, int low, int high) { return static_cast<int>(std::clamp(std::floor(x), static_cast<double>(low), static_cast<double>(high))); };
    return {floor_to(std::min({a.x, b.x, c.x}) - 0.5, 0, width_ - 1), floor_to(std::min({a.y, b.y, c.y}) - 0.5, 0, height_ - 1),
            floor_to(std::max({a.x, b.x, c.x}) + 0.5, 0, width_ - 1), floor_to(std::max({a.y, b.y, c.y}) + 0.5, 0, height_ - 1)};
}

void Canvas::line(Vec3 from, Vec3 to, const Colour& colour, double opacity, double thickness, double bias, bool through) {
    const double dx = to.x - from.x, dy = to.y - from.y;
    const int steps = std::max(1, static_cast<int>(std::ceil(std::max(std::abs(dx), std::abs(dy)))));
    const bool steep = std::abs(dy) > std::abs(dx);
    const int wide = std::max(1, static_cast<int>(std::lround(thickness)));
    for (int s = 0; s <= steps; ++s) {
        const double u = static_cast<double>(s) / steps;
        const double z = from.z + u * (to.z - from.z);
        for (int w = 0; w < wide; ++w) {
            const double offset = w - 0.5 * (wide - 1);
            const int x = static_cast<int>(std::floor(from.x + u * dx + (steep ? offset : 0.0)));
            const int y = static_cast<int>(std::floor(from.y + u * dy + (steep ? 0.0 : offset)));
            if (!inside(x, y)) continue;
            const std::size_t at = index(x, y);
            if (!through && z + bias < static_cast<double>(depth_[at])) continue;
            for (std::size_t c = 0; c < 3; ++c) {
                colour_[at][c] = static_cast<float>((1.0 - opacity) * static_cast<double>(colour_[at][c]) + opacity * static_cast<double>(colour[c]));
            }
        }
    }
}

std::vector<std::uint32_t> Canvas::reduced(int factor) const {
    const int width = width_ / factor, height = height_ / factor;
    std::vector<std::uint32_t> pixels;
    pixels.reserve(static_cast<std::size_t>(width) * static_cast<std::size_t>(height));
    for (int y = 0; y < height; ++y) {
        for (int x = 0; x < width; ++x) {
            std::array<double, 3> sum{};
            for (int dy = 0; dy < factor; ++dy) {
                for (int dx = 0; dx < factor; ++dx) {
                    const Colour& c = colour_[index(factor * x + dx, factor * y + dy)];
                    for (std::size_t i = 0; i < 3; ++i) sum[i] += static_cast<double>(c[i]);
                }
            }
            std::uint32_t packed = 0xFF;
            for (const double s : sum) packed = (packed << 8U) | static_cast<std::uint32_t>(std::lround(255.0 * std::clamp(s / (factor * factor), 0.0, 1.0)));
            pixels.push_back(packed);
        }
    }
    return pixels;
}

}  // namespace firnfield
