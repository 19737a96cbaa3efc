// The colour scales, even to the eye.

#include <firnfield/picture.hpp>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

// Colours are laid out in OKLab (B. Ottosson, "A perceptual color space for image processing", 2020).
struct Lab {
    double l, a, b;
};

constexpr double degree = 3.14159265358979323846 / 180.0;

std::array<double, 3> to_linear_rgb(const Lab& c) {
    const double l = std::pow(c.l + 0.3963377774 * c.a + 0.2158037573 * c.b, 3);
    const double m = std::pow(c.l - 0.1055613458 * c.a - 0.0638541728 * c.b, 3);
    const double s = std::pow(c.l - 0.0894841775 * c.a - 1.2914855480 * c.b, 3);
    return {4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s, -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s,
            -0.0041960863 * l - 0.7034186147 * m + 1.7076147010 * s};
}

double gamma(double linear) {
    const double x = std::clamp(linear, 0.0, 1.0);
    return x <= 0.0031308 ? 12.92 * x : 1.055 * std::pow(x, 1.0 / 2.4) - 0.055;
}

/// Lightness, chroma and hue at even distances, from light to dark.
struct Anchor {
    double lightness, chroma, hue;
};
using Anchors = std::array<Anchor, 7>;

/// Pale ice over sea green and amber to dark ember.
constexpr Anchors ember{{{0.950, 0.025, 232.0},
                         {0.865, 0.075, 205.0},
                         {0.790, 0.105, 160.0},
                         {0.720, 0.130, 95.0},
                         {0.640, 0.160, 52.0},
                         {0.480, 0.165, 25.0},
                         {0.300, 0.110, 10.0}}};
/// Pale blue over grey to dark brown: along the axis of colours that nearly all eyes tell apart.
constexpr Anchors umber{{{0.950, 0.030, 240.0},
                         {0.850, 0.070, 250.0},
                         {0.755, 0.070, 255.0},
                         {0.670, 0.015, 255.0},
                         {0.570, 0.070, 75.0},
                         {0.430, 0.085, 68.0},
                         {0.270, 0.060, 58.0}}};
constexpr Anchors grey{{{0.960, 0.0, 0.0}, {0.850, 0.0, 0.0}, {0.740, 0.0, 0.0}, {0.630, 0.0, 0.0}, {0.520, 0.0, 0.0}, {0.400, 0.0, 0.0}, {0.260, 0.0, 0.0}}};

const Anchors& anchors_of(Palette palette) { return palette == Palette::umber ? umber : palette == Palette::grey ? grey : ember; }

Lab along(const Anchors& anchors, double t) {
    const double x = std::clamp(t, 0.0, 1.0) * static_cast<double>(anchors.size() - 1);
    const auto i = std::min(static_cast<std::size_t>(x), anchors.size() - 2);
    const double u = x - static_cast<double>(i);
    const auto lab = [](const Anchor& anchor) {
        return Lab{anchor.lightness, anchor.chroma * std::cos(anchor.hue * degree), anchor.chroma * std::sin(anchor.hue * degree)};
    };
    const Lab p = lab(anchors[i]), q = lab(anchors[i + 1]);
    return {p.l + u * (q.l - p.l), p.a + u * (q.a - p.a), p.b + u * (q.b - p.b)};
}

constexpr std::size_t steps = 512;

/// The path divided into pieces of equal length in OKLab, so that equal temperature steps look equally large.
using ColourScale = std::array<std::array<double, 3>, steps + 1>;

ColourScale make_scale(Palette palette) {
    const Anchors& anchors = anchors_of(palette);
    std::array<double, steps + 1> length{};
    for (std::size_t i = 1; i <= steps; ++i) {
        const Lab p = along(anchors, static_cast<double>(i - 1) / steps), q = along(anchors, static_cast<double>(i) / steps);
        length[i] = length[i - 1] + std::sqrt((p.l - q.l) * (p.l - q.l) + (p.a - q.a) * (p.a - q.a) + (p.b - q.b) * (p.b - q.b));
    }
    ColourScale scale{};
    std::size_t at = 0;
    for (std::size_t i = 0; i <= steps; ++i) {
        const double target = length[steps] * static_cast<double>(i) / steps;
        while (at + 1 < steps && length[at + 1] < target) ++at;
        const double u = (target - length[at]) / (length[at + 1] - length[at]);
        const std::array<double, 3> rgb = to_linear_rgb(along(anchors, (static_cast<double>(at) + u) / steps));
        for (std::size_t c = 0; c < 3; ++c) scale[i][c] = gamma(rgb[c]);
    }
    return scale;
}

}  // namespace

std::array<double, 3> temperature_colour(double t, Palette palette) {
    static const std::array scales{make_scale(Palette::ember), make_scale(Palette::umber), make_scale(Palette::grey)};
    const ColourScale& scale = scales[static_cast<std::size_t>(palette)];
    const double x = std::clamp(t, 0.0, 1.0) * static_cast<double>(steps);
    const auto i = std::min(static_cast<std::size_t>(x), steps - 1);
    const double u = x - static_cast<double>(i);
    std::array<double, 3> rgb{};
    for (std::size_t c = 0; c < 3; ++c) rgb[c] = scale[i][c] + u * (scale[i + 1][c] - scale[i][c]);
    return rgb;
}

}  // namespace firnfield
