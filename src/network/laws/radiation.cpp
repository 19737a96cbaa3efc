// Grey radiation between two temperatures.

#include "network/laws/laws.hpp"

namespace firnfield {
namespace {

class RadiationLaw final : public Law {
public:
    void heat(const Elements& e, std::span<double> out) const override {
        for (std::size_t i = 0; i < e.size(); ++i) {
            // Factored so that equal temperatures give exactly zero.
            const double a = e.first[i], b = e.second[i];
            out[i] = e.coefficient[i] * e.scale * (a * a + b * b) * (a + b) * e.difference[i];
        }
    }

    void slopes(const Elements& e, std::span<double> by_first, std::span<double> by_second) const override {
        const auto slope = [](double c, double t) { return 4.0 * c * t * t * t; };
        for (std::size_t i = 0; i < e.size(); ++i) by_first[i] = slope(e.coefficient[i] * e.scale, e.first[i]);
        for (std::size_t i = 0; i < by_second.size(); ++i) by_second[i] = slope(e.coefficient[i] * e.scale, e.second[i]);
    }
};

}  // namespace

std::shared_ptr<const Law> radiation_law() { return std::make_shared<const RadiationLaw>(); }

}  // namespace firnfield
