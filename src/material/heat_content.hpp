/// Heat stored against temperature, with specific heat as a curve and latent heat over a melting range.
#pragma once

#include <firnfield/material.hpp>

#include <vector>

namespace firnfield {

/// Heat content in kelvin: divided by density, volume and the specific heat as given, so that it equals the temperature
/// where the specific heat is constant. Rises strictly with temperature.
class HeatContent {
public:
    /// `tolerance`: of the study, K; see melting_range().
    HeatContent(const Material& material, double tolerance);

    [[nodiscard]] double at(double temperature) const;
    [[nodiscard]] double slope(double temperature) const;
    /// The inverse of at().
    [[nodiscard]] double temperature(double content) const;
    /// Share that is liquid, 0 … 1; 0 where nothing melts.
    [[nodiscard]] double melted(double temperature) const;

    /// Whether content and temperature are not the same.
    [[nodiscard]] static bool varies(const Material& material) { return !material.specific_heat_factor.empty() || material.melting.has_value(); }

private:
    /// Between this knot and the next the slope is a straight line.
    struct Knot {
        double temperature = 0.0, content = 0.0;
        double slope = 0.0;   ///< just above
        double growth = 0.0;  ///< of the slope, 1/K
    };
    [[nodiscard]] const Knot& below(double temperature) const;

    std::vector<Knot> knots_;
    double low_slope_ = 1.0;  // below the first knot
    std::optional<Melting> melting_;
};

}  // namespace firnfield
