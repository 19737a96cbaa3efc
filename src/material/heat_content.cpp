// Heat content over temperature, with melting, and its inverse.

#include "material/heat_content.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {

Melting melting_range(const Melting& melting, double tolerance) {
    if (melting.to > melting.from) return melting;
    const double half = 0.1 * tolerance;
    return {melting.from - half, melting.from + half, melting.latent_heat};
}

HeatContent::HeatContent(const Material& material, double tolerance) {
    if (material.melting) melting_ = melting_range(*material.melting, tolerance);
    const Curve& factor = material.specific_heat_factor;
    std::vector<double> places = factor.at;
    if (melting_) places.insert(places.end(), {melting_->from, melting_->to});
    if (places.empty()) places.push_back(0.0);
    std::sort(places.begin(), places.end());
    places.erase(std::unique(places.begin(), places.end()), places.end());
    const auto sensible = [&](double t) { return factor.empty() ? 1.0 : factor(t); };
    low_slope_ = sensible(places.front());
    for (std::size_t i = 0; i < places.size(); ++i) {
        const double t = places[i];
        Knot knot{.temperature = t, .content = t, .slope = sensible(t), .growth = 0.0};
        if (i + 1 < places.size()) knot.growth = (sensible(places[i + 1]) - sensible(t)) / (places[i + 1] - t);
        if (melting_ && t >= melting_->from && t < melting_->to)
            knot.slope += melting_->latent_heat / *material.specific_heat / (melting_->to - melting_->from);
        if (!knots_.empty()) {
            const Knot& last = knots_.back();
            const double d = t - last.temperature;
            knot.content = last.content + d * (last.slope + 0.5 * last.growth * d);
        }
        knots_.push_back(knot);
    }
}

const HeatContent::Knot& HeatContent::below(double temperature) const {
    const auto after = std::upper_bound(knots_.begin(), knots_.end(), temperature, [](double t, const Knot& k) { return t < k.temperature; });
    return after == knots_.begin() ? knots_.front() : *(after - 1);
}

double HeatContent::at(double temperature) const {
    const Knot& knot = below(temperature);
    const double d = temperature - knot.temperature;
    return d < 0.0 ? knot.content + low_slope_ * d : knot.content + d * (knot.slope + 0.5 * knot.growth * d);
}

double HeatContent::slope(double temperature) const {
    const Knot& knot = below(temperature);
    const double d = temperature - knot.temperature;
    return d < 0.0 ? low_slope_ : knot.slope + knot.growth * d;
}

double HeatContent::temperature(double content) const {
    const auto after = std::upper_bound(knots_.begin(), knots_.end(), content, [](double c, const Knot& k) { return c < k.content; });
    if (after == knots_.begin()) return knots_.front().temperature + (content - knots_.front().content) / low_slope_;
    const Knot& knot = *(after - 1);
    const double c = content - knot.content;
    // The root of slope·d + growth·d²/2 = c in the form that does not cancel.
    return knot.temperature + 2.0 * c / (knot.slope + std::sqrt(std::max(0.0, knot.slope * knot.slope + 2.0 * knot.growth * c)));
}

double HeatContent::melted(double temperature) const {
    return melting_ ? std::clamp((temperature - melting_->from) / (melting_->to - melting_->from), 0.0, 1.0) : 0.0;
}

}  // namespace firnfield
