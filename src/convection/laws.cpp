// The list of laws: what each needs, where it is from, where it holds.

#include "convection/laws.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield::correlations {
namespace {

/// Several times as fast as a power: walls ask for it at every step.
double fourth_root(double x) { return std::sqrt(std::sqrt(x)); }

}  // namespace

double vertical_plate(double ra, double pr) {
    const double root = 0.825 + 0.387 * std::sqrt(std::cbrt(ra)) / std::pow(1.0 + std::pow(0.492 / pr, 9.0 / 16.0), 8.0 / 27.0);
    return root * root;
}

double vertical_plate_laminar(double ra, double pr) { return 0.68 + 0.670 * fourth_root(ra) / std::pow(1.0 + std::pow(0.492 / pr, 9.0 / 16.0), 4.0 / 9.0); }

double horizontal_free(double ra) { return std::max(0.54 * fourth_root(ra), 0.15 * std::cbrt(ra)); }

double horizontal_covered(double ra) { return 0.27 * fourth_root(ra); }

double horizontal_cylinder(double ra, double pr) {
    const double root = 0.60 + 0.387 * std::sqrt(std::cbrt(ra)) / std::pow(1.0 + std::pow(0.559 / pr, 9.0 / 16.0), 8.0 / 27.0);
    return root * root;
}

double sphere_natural(double ra, double pr) { return 2.0 + 0.589 * fourth_root(ra) / std::pow(1.0 + std::pow(0.469 / pr, 9.0 / 16.0), 4.0 / 9.0); }

double parallel_plates(double channel) {
    // Written without 1/Ra', so that a channel at ambient temperature gives zero.
    return channel / std::sqrt(576.0 + 2.87 * channel * std::sqrt(channel));
}

double parallel_plates_uniform_flux(double channel) { return channel > 0.0 ? 1.0 / std::sqrt(12.0 / channel + 1.88 / std::pow(channel, 0.4)) : 0.0; }

double parallel_plates_elenbaas(double channel) { return channel > 0.0 ? channel / 24.0 * std::pow(1.0 - std::exp(-35.0 / channel), 0.75) : 0.0; }

double flat_plate(double re, double pr) {
    constexpr double transition = 5e5;
    if (re <= transition) return 0.664 * std::sqrt(re) * std::cbrt(pr);
    return (0.037 * std::pow(re, 0.8) - 871.3) * std::cbrt(pr);
}

double cylinder_cross_flow(double re, double pr) {
    return 0.3 + 0.62 * std::sqrt(re) * std::cbrt(pr) / fourth_root(1.0 + std::pow(0.4 / pr, 2.0 / 3.0)) * std::pow(1.0 + std::pow(re / 282000.0, 0.625), 0.8);
}

double tube_bank(double re, double pr, bool staggered, double ratio) {
    struct Range {
        double factor, exponent;
    };
    const Range ranges[] = {{staggered ? 0.90 : 0.80, 0.40},
                            {0.51, 0.50},
                            staggered ? Range{ratio < 2.0 ? 0.35 * std::pow(ratio, 0.2) : 0.40, 0.60} : Range{0.27, 0.63},
                            {staggered ? 0.022 : 0.021, 0.84}};
    constexpr double borders[] = {100.0, 1000.0, 2e5};
    const auto branch = [&](int n) { return ranges[n].factor * std::pow(re, ranges[n].exponent); };
    double nusselt = branch(0);
    for (int n = 0; n < 3; ++n) {
        // The published branches jump; within a quarter of a border one goes over into the next.
        const double share = std::clamp(0.5 + 0.5 * std::log(re / borders[n]) / std::log(1.25), 0.0, 1.0);
        nusselt = (1.0 - share) * nusselt + share * branch(n + 1);
    }
    return nusselt * std::pow(pr, 0.36);
}

double vertical_gap(double ra, double slenderness) {
    const double turbulent = 0.0605 * std::cbrt(ra);
    const double middle = ra > 0.0 ? std::cbrt(1.0 + std::pow(0.104 * std::pow(ra, 0.293) / (1.0 + std::pow(6310.0 / ra, 1.36)), 3.0)) : 1.0;
    const double laminar = 0.242 * std::pow(ra / slenderness, 0.272);
    return std::max({turbulent, middle, laminar});
}

double horizontal_gap(double ra) { return 1.0 + 1.44 * std::max(0.0, 1.0 - 1708.0 / std::max(ra, 1.0)) + std::max(0.0, std::cbrt(ra / 5830.0) - 1.0); }

double sphere_forced(double re, double pr) { return 2.0 + (0.4 * std::sqrt(re) + 0.06 * std::pow(re, 2.0 / 3.0)) * std::pow(pr, 0.4); }

double smooth_friction(double re) { return std::pow(0.790 * std::log(re) - 1.64, -2.0); }

double duct_turbulent(double re, double pr) {
    const double eighth = smooth_friction(re) / 8.0;
    return eighth * (re - 1000.0) * pr / (1.0 + 12.7 * std::sqrt(eighth) * (std::pow(pr, 2.0 / 3.0) - 1.0));
}

double duct_laminar(double graetz) { return 3.66 + 0.0668 * graetz / (1.0 + 0.04 * std::pow(graetz, 2.0 / 3.0)); }

}  // namespace firnfield::correlations
