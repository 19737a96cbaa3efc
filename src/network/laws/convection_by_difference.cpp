// Convection with a coefficient given as a curve over the difference in temperature.

#include "network/laws/laws.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

class ConvectionByDifference final : public Law {
public:
    explicit ConvectionByDifference(const Curve& coefficient) : curve_(coefficient) {}

    void heat(const Elements& e, std::span<double> out) const override {
        for (std::size_t i = 0; i < e.size(); ++i) out[i] = e.coefficient[i] * e.scale * curve_(std::abs(e.difference[i])) * e.difference[i];
    }

    void slopes(const Elements& e, std::span<double> by_first, std::span<double> by_second) const override {
        for (std::size_t i = 0; i < e.size(); ++i) {
            const double difference = std::abs(e.difference[i]);
            const double slope = e.coefficient[i] * e.scale * (curve_(difference) + difference * curve_.slope(difference));
            by_first[i] = std::max(0.0, slope);
            if (!by_second.empty()) by_second[i] = slope;
        }
    }

    bool starts_flat() const override { return true; }

private:
    Curve curve_;
};

}  // namespace

std::shared_ptr<const Law> convection_law(const Curve& coefficient) { return std::make_shared<const ConvectionByDifference>(coefficient); }

}  // namespace firnfield
