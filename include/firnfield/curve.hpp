/// A value that depends on another, by straight lines between given points.
#pragma once

#include <string>
#include <vector>

namespace firnfield {

/// Points of a curve; constant before the first and after the last. Without points it stands for "no dependence".
struct Curve {
    std::vector<double> at{};     ///< ascending
    std::vector<double> value{};  ///< as many

    [[nodiscard]] bool empty() const { return at.empty(); }
    [[nodiscard]] double operator()(double x) const;
    [[nodiscard]] double slope(double x) const;
    /// Mean value between a and b, which may stand in either order; the value itself where they are equal.
    [[nodiscard]] double mean(double a, double b) const;
    bool operator==(const Curve&) const = default;
};

/// What is wrong with a curve; empty when nothing is.
[[nodiscard]] std::string problem_of(const Curve& curve);

}  // namespace firnfield
