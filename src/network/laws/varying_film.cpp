// The coefficient of a film between what is stirred and a surface: a curve over the difference, or a correlation.

#include "network/laws/laws.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {

VaryingFilm::VaryingFilm(Curve over_difference) : over_difference_(std::move(over_difference)) {
    usual_ = *std::max_element(over_difference_.value.begin(), over_difference_.value.end());
}

VaryingFilm::VaryingFilm(ConvectionLaw correlation) : correlation_(std::move(correlation)) {
    constexpr double room = 295.0, warmer = 305.0;  // K
    usual_ = coefficient(warmer, room);
}

double VaryingFilm::coefficient(double surface, double fluid) const {
    return correlation_ ? convection(*correlation_, surface, fluid, fluid_state(*correlation_, 0.5 * (surface + fluid))).coefficient
                        : over_difference_(std::abs(surface - fluid));
}

}  // namespace firnfield
