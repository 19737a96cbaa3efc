/// Mistakes in what goes with time: profiles, thermostats, studies and how they refer to each other.
#pragma once

#include <firnfield/error.hpp>
#include <firnfield/model.hpp>

#include <vector>

namespace firnfield {

[[nodiscard]] std::vector<Problem> check_time(const Model& model);

}  // namespace firnfield
