// Grey radiation between two temperatures.

#include "network/laws/laws.hpp"

#include <algorithm>

namespace firnfield {
namespace {

class RadiationLaw final : public Law {
public:
    explicit RadiationLaw(const Curve& factor) : factor_(factor) {}

    void heat(const Elements& e, std::span<double> out) const override {
        for (std::size_t i = 0; i < e.size(); ++i) {
            // Factored so that equal temperatures give exactly zero.
            const double a = e.first[i], b = e.second[i];
            out[i] = e.coefficient[i] * e.scale * (a * a + b * b) * (a + b) * e.difference[i];
            if (!factor_.empty()) out[i] *= factor_(a);
        }
    }

    void slopes(const Elements& e, std::span<double> by_first, std::span<double> by_second) const override {
        const auto slope = [](double c, double t) { return 4.0 * c * t * t * t; };
        for (std::size_t i = 0; i < e.size(); ++i) by_first[i] = slope(e.coefficient[i] * e.scale, e.first[i]);
        for (std::size_t i = 0; i < by_second.size(); ++i) by_second[i] = slope(e.coefficient[i] * e.scale, e.second[i]);
        if (factor_.empty()) return;
        for (std::size_t i = 0; i < e.size(); ++i) {
            const double a = e.first[i], b = e.second[i], factor = factor_(a);
            by_first[i] = std::max(0.0, factor * by_first[i] + factor_.slope(a) * e.coefficient[i] * e.scale * (a * a + b * b) * (a + b) * e.difference[i]);
            if (!by_second.empty()) by_second[i] *= factor;
        }
    }

private:
    Curve factor_;
};

}  // namespace

std::shared_ptr<const Law> radiation_law(const Curve& factor) { return std::make_shared<const RadiationLaw>(factor); }

}  // namespace firnfield
