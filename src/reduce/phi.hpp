/// The functions φ₀(z) = eᶻ, φₖ₊₁(z) = (φₖ(z) − 1/k!) / z, which solve x' = −λx + polynomial exactly (M. Hochbruck and A. Ostermann, "Exponential
/// integrators", Acta Numerica 19 (2010) 209).
#pragma once

#include <array>
#include <cmath>
#include <cstddef>

namespace firnfield {

/// φ₀ … φ₄ at −x, for x ≥ 0.
[[nodiscard]] inline std::array<double, 5> phi_at_minus(double x) {
    constexpr std::array<double, 5> inverse_factorial{1.0, 1.0, 1.0 / 2.0, 1.0 / 6.0, 1.0 / 24.0};
    std::array<double, 5> phi{};
    if (x < 1.0) {
        // The series of the last one, and down from there: upwards the differences would cancel.
        constexpr int terms = 16;
        double term = inverse_factorial[4], sum = term;
        for (int j = 1; j < terms; ++j) {
            term *= -x / (j + 4);
            sum += term;
        }
        phi[4] = sum;
        for (std::size_t k = 4; k-- > 0;) phi[k] = inverse_factorial[k] - x * phi[k + 1];
    } else {
        phi[0] = std::exp(-x);
        for (std::size_t k = 0; k < 4; ++k) phi[k + 1] = (inverse_factorial[k] - phi[k]) / x;
    }
    return phi;
}

}  // namespace firnfield
