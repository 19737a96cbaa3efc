/// What every check of a model is made of: mistakes collected by address.
#pragma once

#include <firnfield/error.hpp>
#include <firnfield/geometry.hpp>
#include <firnfield/quantity.hpp>

#include <fmt/format.h>

#include <cmath>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

/// Collects mistakes; the base of the classes that look for them.
struct Checks {
    std::vector<Problem> problems{};

    void add(const std::vector<Problem>& more) { problems.insert(problems.end(), more.begin(), more.end()); }

    void report(std::string address, std::string message) {
        problems.push_back({.address = std::move(address), .message = std::move(message), .location = {}});
    }

    bool check_finite(const std::string& address, double value) {
        if (std::isfinite(value)) return true;
        report(address, "the number is not finite");
        return false;
    }

    void check_positive(const std::string& address, double value, std::string_view what) {
        if (check_finite(address, value) && !(value > 0.0)) report(address, fmt::format("{} must be positive, found {:g}", what, value));
    }

    void check_not_negative(const std::string& address, double value, std::string_view what) {
        if (check_finite(address, value) && value < 0.0) report(address, fmt::format("{} must not be negative, found {:g}", what, value));
    }

    void check_share(const std::string& address, double value, std::string_view what) {
        if (check_finite(address, value) && !(value > 0.0 && value <= 1.0)) {
            report(address, fmt::format("{} must be above 0 and at most 1, found {:g}", what, value));
        }
    }

    void check_temperature(const std::string& address, double kelvin) {
        constexpr double hottest = 5000.0;
        if (!check_finite(address, kelvin)) return;
        if (kelvin <= 0.0) {
            report(address, fmt::format("temperature {} is at or below absolute zero", show_celsius(kelvin, 2)));
        } else if (kelvin > hottest) {
            report(address, fmt::format("temperature {} is beyond what this program is meant for (4700 °C)", show_celsius(kelvin, 0)));
        }
    }

    void check_direction(const std::string& address, Vec3 direction) {
        for (int axis = 0; axis < 3; ++axis) {
            if (!check_finite(address, direction[axis])) return;
        }
        if (length(direction) == 0.0) report(address, "a direction needs a length; [0, 0, 0] points nowhere");
    }

    void check_point(const std::string& address, Vec3 point) {
        for (int axis = 0; axis < 3; ++axis) check_finite(address, point[axis]);
    }

    void check_box(const std::string& address, const Box& box) {
        for (int axis = 0; axis < 3; ++axis) {
            check_positive(fmt::format("{}.size[{}]", address, axis), box.size[axis], "a size");
            check_finite(fmt::format("{}.at[{}]", address, axis), box.at[axis]);
        }
    }
};

}  // namespace firnfield
