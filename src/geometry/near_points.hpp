/// Points that lie so near to each other that they are one.
#pragma once

#include <firnfield/geometry.hpp>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <map>
#include <vector>

namespace firnfield {

/// A hash of points by where they lie, as large as it has to be.
class NearPoints {
public:
    /// Points within `near` (m, above 0) of each other are one; coordinates count from `origin`, which should not be far.
    NearPoints(Vec3 origin, double near) : origin_(origin), near_(near) {}

    /// The number of the point: that of the first one that is near, else a new one.
    std::uint32_t number_of(Vec3 p) {
        Key key{};
        for (int axis = 0; axis < 3; ++axis)
            key[static_cast<std::size_t>(axis)] = static_cast<long long>(std::floor((p[axis] - origin_[axis]) / (cell * near_)));
        auto found = static_cast<std::uint32_t>(points_.size());
        for (long long i = -1; i <= 1; ++i) {
            for (long long j = -1; j <= 1; ++j) {
                for (long long k = -1; k <= 1; ++k) {
                    const auto there = grid_.find({key[0] + i, key[1] + j, key[2] + k});
                    if (there == grid_.end()) continue;
                    for (const std::uint32_t other : there->second) {
                        if (length(points_[other] - p) <= near_) found = std::min(found, other);
                    }
                }
            }
        }
        if (found == points_.size()) {
            points_.push_back(p);
            grid_[key].push_back(found);
        }
        return found;
    }

    /// Each point once, by its number.
    [[nodiscard]] const std::vector<Vec3>& points() const { return points_; }
    [[nodiscard]] std::vector<Vec3> take() { return std::move(points_); }

private:
    using Key = std::array<long long, 3>;
    static constexpr double cell = 4.0;  // of the distance that counts as near

    Vec3 origin_;
    double near_;
    std::vector<Vec3> points_;
    std::map<Key, std::vector<std::uint32_t>> grid_;
};

}  // namespace firnfield
