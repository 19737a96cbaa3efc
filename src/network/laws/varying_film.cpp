// The coefficient of a film between what is stirred and a surface: a curve over the difference, or a correlation.

#include "network/laws/laws.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {

double VaryingFilm::coefficient(double surface, double fluid) const {
    return correlation_ ? convection(*correlation_, surface, fluid, fluid_state(*correlation_, 0.5 * (surface + fluid))).coefficient
                        : over_difference_(std::abs(surface - fluid));
}

double VaryingFilm::usual() const {
    constexpr double room = 295.0, warmer = 305.0;  // K
    return correlation_ ? coefficient(warmer, room) : *std::max_element(over_difference_.value.begin(), over_difference_.value.end());
}

}  // namespace firnfield
