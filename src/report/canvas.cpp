#include "report/canvas.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {
namespace {

constexpr double degree = 3.14159265358979323846 / 180.0;
constexpr float farthest = -std::numeric_limits<float>::infinity();
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
      depth_(colour_.size(), farthest), value_(colour_.size(), 0.0F), light_(colour_.size(), 1.0F), identity_(colour_.size(), nothing),
      normal_(colour_.size()) {}

void Canvas::triangle(const Corner& a, const Corner& b, const Corner& c, std::uint32_t identity, double light, Vec3 normal) {
    const std::array<float, 3> direction{static_cast<float>(normal.x), static_cast<float>(normal.y), static_cast<float>(normal.z)};
    const double area = (b.pixel.x - a.pixel.x) * (c.pixel.y - a.pixel.y) - (b.pixel.y - a.pixel.y) * (c.pixel.x - a.pixel.x);
    if (area == 0.0) return;
    const auto limit = [](double x, int high) { return static_cast<int>(std::clamp(std::floor(x), 0.0, static_cast<double>(high))); };
    const int left = limit(std::min({a.pixel.x, b.pixel.x, c.pixel.x}) - 0.5, width_ - 1), right = limit(std::max({a.pixel.x, b.pixel.x, c.pixel.x}) + 0.5, width_ - 1);
    const int top = limit(std::min({a.pixel.y, b.pixel.y, c.pixel.y}) - 0.5, height_ - 1), bottom = limit(std::max({a.pixel.y, b.pixel.y, c.pixel.y}) + 0.5, height_ - 1);
    for (int y = top; y <= bottom; ++y) {
        for (int x = left; x <= right; ++x) {
            const double px = x + 0.5, py = y + 0.5;
            const double wb = ((px - a.pixel.x) * (c.pixel.y - a.pixel.y) - (py - a.pixel.y) * (c.pixel.x - a.pixel.x)) / area;
            const double wc = ((b.pixel.x - a.pixel.x) * (py - a.pixel.y) - (b.pixel.y - a.pixel.y) * (px - a.pixel.x)) / area;
            const double wa = 1.0 - wb - wc;
            constexpr double rim = -1e-9;
            if (wa < rim || wb < rim || wc < rim) continue;
            const auto depth = static_cast<float>(wa * a.pixel.z + wb * b.pixel.z + wc * c.pixel.z);
            const std::size_t at = index(x, y);
            if (depth <= depth_[at]) continue;
            depth_[at] = depth;
            value_[at] = static_cast<float>(wa * a.value + wb * b.value + wc * c.value);
            light_[at] = static_cast<float>(light);
            identity_[at] = identity;
            normal_[at] = direction;
        }
    }
}

void Canvas::blend(std::size_t at, const Colour& colour, double opacity) {
    for (std::size_t c = 0; c < 3; ++c) {
        colour_[at][c] = static_cast<float>((1.0 - opacity) * static_cast<double>(colour_[at][c]) + opacity * static_cast<double>(colour[c]));
    }
}

bool Canvas::rim_between(std::size_t a, std::size_t b) const {
    if (identity_[a] != identity_[b]) return true;
    if (identity_[a] == nothing) return false;
    constexpr float sharp = 0.82F;  // cos 35°
    const auto &n = normal_[a], &m = normal_[b];
    return n[0] * m[0] + n[1] * m[1] + n[2] * m[2] < sharp;
}

void Canvas::draw_rims(const Canvas& outline, const Colour& colour, double opacity) {
    for (int y = 0; y < height_; ++y) {
        for (int x = 0; x < width_; ++x) {
            const std::size_t at = index(x, y);
            if ((x + 1 < width_ && outline.rim_between(at, at + 1)) || (y + 1 < height_ && outline.rim_between(at, index(x, y + 1)))) blend(at, colour, opacity);
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
