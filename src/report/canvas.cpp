// A z-buffer that keeps values instead of colours, drawn into one as often as wanted.

#include "report/canvas.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {
namespace {

constexpr double degree = 3.14159265358979323846 / 180.0;
constexpr float farthest = -std::numeric_limits<float>::infinity();

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

Vec3 Camera::project(Vec3 point) const { return {shift_x_ + scale_ * dot(point, right_), shift_y_ - scale_ * dot(point, up_), scale_ * dot(point, eye_)}; }

Canvas::Canvas(int width, int height)
    : width_(width),
      height_(height),
      depth_(static_cast<std::size_t>(width) * static_cast<std::size_t>(height), farthest),
      value_(depth_.size(), 0.0F),
      face_(depth_.size(), nothing),
      faces_(1) {}

void Canvas::triangle(const Corner& a, const Corner& b, const Corner& c) {
    const double area = (b.pixel.x - a.pixel.x) * (c.pixel.y - a.pixel.y) - (b.pixel.y - a.pixel.y) * (c.pixel.x - a.pixel.x);
    if (area == 0.0) return;
    const double share = 1.0 / area;
    const auto face = static_cast<std::uint32_t>(faces_.size() - 1);
    const auto limit = [](double x, int high) { return static_cast<int>(std::clamp(std::floor(x), 0.0, static_cast<double>(high))); };
    const int left = limit(std::min({a.pixel.x, b.pixel.x, c.pixel.x}) - 0.5, width_ - 1),
              right = limit(std::max({a.pixel.x, b.pixel.x, c.pixel.x}) + 0.5, width_ - 1);
    const int top = limit(std::min({a.pixel.y, b.pixel.y, c.pixel.y}) - 0.5, height_ - 1),
              bottom = limit(std::max({a.pixel.y, b.pixel.y, c.pixel.y}) + 0.5, height_ - 1);
    for (int y = top; y <= bottom; ++y) {
        for (int x = left; x <= right; ++x) {
            const double px = x + 0.5, py = y + 0.5;
            const double wb = ((px - a.pixel.x) * (c.pixel.y - a.pixel.y) - (py - a.pixel.y) * (c.pixel.x - a.pixel.x)) * share;
            const double wc = ((b.pixel.x - a.pixel.x) * (py - a.pixel.y) - (b.pixel.y - a.pixel.y) * (px - a.pixel.x)) * share;
            const double wa = 1.0 - wb - wc;
            constexpr double rim = -1e-9;
            if (wa < rim || wb < rim || wc < rim) continue;
            const auto depth = static_cast<float>(wa * a.pixel.z + wb * b.pixel.z + wc * c.pixel.z);
            const std::size_t at = index(x, y);
            if (depth <= depth_[at]) continue;
            depth_[at] = depth;
            value_[at] = static_cast<float>(wa * a.value + wb * b.value + wc * c.value);
            face_[at] = face;
        }
    }
}

bool Canvas::rim_between(std::size_t a, std::size_t b) const {
    if (face_[a] == face_[b]) return false;
    const Face &one = faces_[face_[a]], &other = faces_[face_[b]];
    if (one.identity != other.identity) return true;
    constexpr float sharp = 0.82F;  // cos 35°
    return one.normal[0] * other.normal[0] + one.normal[1] * other.normal[1] + one.normal[2] * other.normal[2] < sharp;
}

std::uint32_t Canvas::packed(const Colour& sum, float share) {
    std::uint32_t out = 0xFF;
    for (const float s : sum) out = (out << 8U) | static_cast<std::uint32_t>(255.0F * std::clamp(s * share, 0.0F, 1.0F) + 0.5F);
    return out;
}

}  // namespace firnfield
