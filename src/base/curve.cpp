// Piecewise linear curves.

#include <firnfield/curve.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

/// Index of the piece [n, n + 1] that x lies in.
std::size_t piece_of(const Curve& curve, double x) {
    const auto after = std::upper_bound(curve.at.begin(), curve.at.end(), x) - curve.at.begin();
    return static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(after - 1, 0, std::ssize(curve.at) - 2));
}

}  // namespace

double Curve::operator()(double x) const {
    if (x <= at.front()) return value.front();
    if (x >= at.back()) return value.back();
    const std::size_t n = piece_of(*this, x);
    return value[n] + (value[n + 1] - value[n]) * (x - at[n]) / (at[n + 1] - at[n]);
}

double Curve::slope(double x) const {
    if (at.size() < 2 || x < at.front() || x > at.back()) return 0.0;
    const std::size_t n = piece_of(*this, x);
    return (value[n + 1] - value[n]) / (at[n + 1] - at[n]);
}

double Curve::mean(double a, double b) const {
    if (a > b) std::swap(a, b);
    const Curve& f = *this;
    if (at.size() < 2 || b <= at.front() || a >= at.back() || (a >= at.front() && b <= at.back() && piece_of(f, a) == piece_of(f, b))) {
        return 0.5 * (f(a) + f(b));  // one straight line
    }
    double sum = 0.0, from = a;
    for (const double bend : at) {
        if (bend <= from || bend >= b) continue;
        sum += 0.5 * (f(from) + f(bend)) * (bend - from);
        from = bend;
    }
    sum += 0.5 * (f(from) + f(b)) * (b - from);
    return sum / (b - a);
}

std::string problem_of(const Curve& curve) {
    if (curve.at.size() != curve.value.size())
        return fmt::format("a curve needs as many values as places, found {} and {}", curve.value.size(), curve.at.size());
    if (curve.at.size() == 1) return "a curve needs at least two points";
    for (std::size_t i = 0; i < curve.at.size(); ++i) {
        if (!std::isfinite(curve.at[i]) || !std::isfinite(curve.value[i])) return "the points of a curve must be finite";
        if (i > 0 && !(curve.at[i] > curve.at[i - 1])) return fmt::format("the places of a curve must ascend; number {} does not", i + 1);
    }
    return {};
}

}  // namespace firnfield
