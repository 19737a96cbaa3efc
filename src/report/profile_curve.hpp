/// A profile as a line to draw.
#pragma once

#include <firnfield/model.hpp>

#include <utility>
#include <vector>

namespace firnfield {

/// Times (s) and values (SI) of a profile from 0 to `span`, twice where it jumps.
[[nodiscard]] std::vector<std::pair<double, double>> profile_curve(const Profile& profile, double span);

}  // namespace firnfield
