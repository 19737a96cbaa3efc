// The error falls with the square of the cell size.

#include "models.hpp"

#include <catch2/catch.hpp>

#include <cmath>

using namespace firnfield;
using namespace firnfield::literals;
using namespace firnfield::test;

namespace {

/// Rectangular bar with uniform generation q between faces held at T₀: the double sine series of the temperature.
double series(double a, double b, double kx, double ky, double q, double x, double y) {
    constexpr double pi = 3.14159265358979323846;
    double sum = 0.0;
    for (int m = 1; m < 400; m += 2) {
        for (int n = 1; n < 400; n += 2) {
            const double lambda = kx * std::pow(m * pi / a, 2) + ky * std::pow(n * pi / b, 2);
            sum += 16.0 * q / (pi * pi * m * n * lambda) * std::sin(m * pi * x / a) * std::sin(n * pi * y / b);
        }
    }
    return sum;
}

double error_with(double cell) {
    Model m;
    m.mesh.cell = cell;
    m.mesh.through = 1;
    m.materials = {Material{.name = "grain", .conductivity = {2.0, 5.0, 1.0}}};
    m.add(block("bar", {100_mm, 60_mm, 1_mm}, {}, "grain"));
    m.add(Power{.into = {"bar"}, .density = 1e6});
    Selection all = side("bar", Side::minus_x);
    all.sides.insert(all.sides.end(), {"+x", "-y", "+y"});
    m.add(Hold{.on = all, .temperature = 300.0});
    const SteadySolution s = solve_steady(m);
    double square = 0.0, volume = 0.0;
    for (Index c = 0; c < s.mesh->cells.size(); ++c) {
        const Vec3 at = s.mesh->centre(c);
        const double error = s.temperature[c] - 300.0 - series(0.1, 0.06, 2.0, 5.0, 1e6, at.x, at.y);
        square += s.mesh->cells.volume[c] * error * error;
        volume += s.mesh->cells.volume[c];
    }
    return std::sqrt(square / volume);
}

/// A film with radiation beside it: the wall temperature is no unknown, and must not cost an order.
double film_error_with(int cells) {
    Model m;
    m.mesh.cell = 0.02 / cells;
    m.mesh.through = 1;
    m.materials = {plain("k", 1.5)};
    m.add(block("slab", {20_mm, 1_mm, 1_mm}, {}, "k"));
    m.add(Power{.into = {"slab"}, .density = 400000.0});
    Cooling both = convection(side("slab", Side::plus_x), 20.0, 300.0);
    both.emissivity = 0.9;
    m.add(both);
    // All heat leaves through the far wall; behind it the parabola of uniform generation.
    const double flux = 400000.0 * 0.02;
    double wall = 400.0;
    for (int i = 0; i < 50; ++i) {
        const double f = 20.0 * (wall - 300.0) + 0.9 * stefan_boltzmann * (std::pow(wall, 4) - std::pow(300.0, 4)) - flux;
        wall -= f / (20.0 + 4 * 0.9 * stefan_boltzmann * std::pow(wall, 3));
    }
    const SteadySolution s = solve_steady(m);
    double worst = 0.0;
    for (Index c = 0; c < s.mesh->cells.size(); ++c) {
        const double x = s.mesh->centre(c).x;
        worst = std::max(worst, std::abs(s.temperature[c] - wall - 400000.0 / (2 * 1.5) * (0.02 * 0.02 - x * x)));
    }
    return worst;
}

}  // namespace

TEST_CASE("second order in the cell size, held faces", "[verification]") {
    const double coarse = error_with(4_mm), fine = error_with(2_mm), finest = error_with(1_mm);
    const double order = std::log2(fine / finest);
    INFO("errors " << coarse << " " << fine << " " << finest << ", order " << std::log2(coarse / fine) << " then " << order);
    CHECK(std::log2(coarse / fine) >= 1.9);
    CHECK(order >= 1.9);
}

TEST_CASE("second order in the cell size, convection and radiation", "[verification]") {
    const double coarse = film_error_with(20), fine = film_error_with(40), finest = film_error_with(80);
    INFO("errors " << coarse << " " << fine << " " << finest);
    CHECK(std::log2(coarse / fine) >= 1.9);
    CHECK(std::log2(fine / finest) >= 1.9);
}
