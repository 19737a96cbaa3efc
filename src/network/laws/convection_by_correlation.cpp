// Convection by a correlation, with the properties of the fluid at the film's temperature.

#include "network/laws/laws.hpp"

#include <algorithm>

namespace firnfield {
namespace {

class ConvectionByCorrelation final : public Law {
public:
    explicit ConvectionByCorrelation(const ConvectionLaw& correlation) : correlation_(correlation) {}

    void heat(const Elements& e, std::span<double> out) const override {
        for (std::size_t i = 0; i < e.size(); ++i) out[i] = e.coefficient[i] * e.scale * flux(e.first[i], e.second[i]);
    }

    void slopes(const Elements& e, std::span<double> by_first, std::span<double> by_second) const override {
        constexpr double step = 0.01;  // K; correlations are smooth on that scale, and properties have no derivative at hand
        for (std::size_t i = 0; i < e.size(); ++i) {
            const double area = e.coefficient[i] * e.scale, wall = e.first[i], fluid = e.second[i];
            by_first[i] = std::max(0.0, area * (flux(wall + step, fluid) - flux(wall - step, fluid)) / (2.0 * step));
            if (!by_second.empty()) by_second[i] = area * (flux(wall, fluid - step) - flux(wall, fluid + step)) / (2.0 * step);
        }
    }

    bool starts_flat() const override { return true; }

private:
    /// W/m².
    double flux(double wall, double fluid) const {
        return (wall - fluid) * firnfield::convection(correlation_, wall, fluid, fluid_state(correlation_, 0.5 * (wall + fluid))).coefficient;
    }

    ConvectionLaw correlation_;
};

}  // namespace

std::shared_ptr<const Law> convection_law(const ConvectionLaw& correlation) { return std::make_shared<const ConvectionByCorrelation>(correlation); }

}  // namespace firnfield
