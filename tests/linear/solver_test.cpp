#include "linear/direct_solver.hpp"
#include "linear/multigrid.hpp"
#include "linear/multigrid_solver.hpp"

#include <catch2/catch.hpp>

#include <cmath>
#include <random>

using namespace firnfield;

namespace {

/// Seven-point grid of n³ nodes; `conductance(axis, random)` per edge, ties of `tie` on one face.
SymmetricMatrix grid_matrix(std::size_t n, const auto& conductance, double tie, double everywhere = 0.0) {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> uniform(0.0, 1.0);
    std::vector<std::uint32_t> first, second;
    std::vector<double> g, diagonal(n * n * n, everywhere);
    const std::size_t stride[3] = {1, n, n * n};
    for (std::size_t k = 0; k < n; ++k) {
        for (std::size_t j = 0; j < n; ++j) {
            for (std::size_t i = 0; i < n; ++i) {
                const std::size_t node = (k * n + j) * n + i, at[3] = {i, j, k};
                for (int axis = 0; axis < 3; ++axis) {
                    if (at[axis] + 1 == n) continue;
                    first.push_back(static_cast<std::uint32_t>(node));
                    second.push_back(static_cast<std::uint32_t>(node + stride[axis]));
                    g.push_back(conductance(axis, uniform(random)));
                }
                if (i == 0) diagonal[node] += tie;
            }
        }
    }
    return assemble_network_matrix(n * n * n, first, second, g, diagonal);
}

/// Iterations to 1e-8, with the solution checked against the residual of the matrix itself.
int iterations_for(const SymmetricMatrix& matrix, double true_residual = 1.1e-8) {
    std::vector<double> b(matrix.rows()), x(matrix.rows(), 0.0);
    std::mt19937 random(3);
    std::uniform_real_distribution<double> uniform(0.0, 1.0);
    for (double& v : b) v = uniform(random);
    const LinearSummary summary = make_multigrid_solver(matrix)->solve(b, x, 1e-8);
    REQUIRE(summary.converged);
    CHECK(summary.relative_residual < true_residual);
    double error = 0.0, scale = 0.0;
    for (std::size_t i = 0; i < matrix.rows(); ++i) {
        double r = b[i] - matrix.diagonal[i] * x[i];
        for (std::uint64_t at = matrix.row_start[i]; at < matrix.row_start[i + 1]; ++at) r += matrix.coupling[at] * x[matrix.column[at]];
        error += r * r;
        scale += b[i] * b[i];
    }
    CHECK(std::sqrt(error / scale) < true_residual);
    return summary.iterations;
}

}  // namespace

TEST_CASE("edges named twice are added up", "[linear]") {
    const std::vector<std::uint32_t> first{0, 1, 0}, second{1, 0, 2};
    const std::vector<double> g{1.0, 2.0, 5.0}, d{0.5, 0.0, 0.0};
    const SymmetricMatrix m = assemble_network_matrix(3, first, second, g, d);
    CHECK(m.diagonal == std::vector<double>{8.5, 3.0, 5.0});
    CHECK(m.row_start == std::vector<std::uint64_t>{0, 2, 3, 4});
    CHECK(m.column == std::vector<std::uint32_t>{1, 2, 0, 0});
    CHECK(m.coupling == std::vector<double>{3.0, 5.0, 3.0, 5.0});
    CHECK(m.excess == d);
}

TEST_CASE("multigrid converges in few iterations whatever the coefficients", "[linear]") {
    const auto one = [](int, double) { return 1.0; };
    CHECK(iterations_for(grid_matrix(40, one, 1.0)) <= 20);
    CHECK(iterations_for(grid_matrix(40, one, 1e-4)) <= 20);
    CHECK(iterations_for(grid_matrix(40, [](int axis, double) { return axis == 2 ? 1e4 : 1.0; }, 1.0)) <= 40);
    std::mt19937 random(5);
    std::normal_distribution<double> normal(0.0, 3.0);
    CHECK(iterations_for(grid_matrix(40, [&](int, double) { return std::exp(normal(random)); }, 1.0)) <= 40);
    // At a contrast of 1e6 rounding lets the true residual lag behind the updated one.
    CHECK(iterations_for(grid_matrix(40, [](int, double u) { return u < 0.5 ? 1.0 : 1e6; }, 1.0), 5e-8) <= 40);
    CHECK(iterations_for(grid_matrix(40, one, 0.0, 10.0)) <= 15);  // a small time step: smoothing does most
}

TEST_CASE("multigrid and factorisation agree", "[linear]") {
    const SymmetricMatrix matrix = grid_matrix(16, [](int axis, double u) { return (axis + 1.0) * (0.1 + u); }, 0.3);
    std::vector<double> b(matrix.rows(), 1.0), x(matrix.rows(), 0.0), y(matrix.rows(), 0.0);
    REQUIRE(make_multigrid_solver(matrix)->solve(b, x, 1e-12).converged);
    REQUIRE(make_direct_solver(matrix)->solve(b, y, 1e-12).converged);
    for (std::size_t i = 0; i < x.size(); ++i) REQUIRE(x[i] == Approx(y[i]).epsilon(1e-9));
}

TEST_CASE("odd systems: one row, no coupling at all, nothing to solve", "[linear]") {
    const SymmetricMatrix lone = assemble_network_matrix(1, {}, {}, {}, std::vector<double>{2.0});
    std::vector<double> x{0.0};
    CHECK(make_multigrid_solver(lone)->solve(std::vector<double>{3.0}, x, 1e-10).converged);
    CHECK(x[0] == Approx(1.5));

    const SymmetricMatrix loose = assemble_network_matrix(2000, {}, {}, {}, std::vector<double>(2000, 4.0));
    std::vector<double> y(2000, 0.0);
    CHECK(make_multigrid_solver(loose)->solve(std::vector<double>(2000, 2.0), y, 1e-10).converged);
    CHECK(y[1234] == Approx(0.5));
    CHECK(make_multigrid_solver(loose)->solve(std::vector<double>(2000, 0.0), y, 1e-10).iterations == 0);
    CHECK(y[1234] == 0.0);
}
