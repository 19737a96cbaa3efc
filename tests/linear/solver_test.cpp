#include "linear/direct_solver.hpp"
#include "linear/multigrid.hpp"
#include "linear/multigrid_solver.hpp"

#include <catch2/catch.hpp>
#include <omp.h>

#include <algorithm>
#include <cmath>
#include <random>

using namespace firnfield;

namespace {

/// A network that owns its arrays.
struct Graph {
    std::vector<std::uint32_t> first{}, second{};
    std::vector<double> conductance{}, excess{}, capacity{};

    [[nodiscard]] NetworkMatrix matrix(double shift = 0.0) const {
        return {.nodes = excess.size(), .edges = {{first, second, conductance}}, .excess = excess, .capacity = capacity, .shift = shift};
    }
};

/// Seven-point grid of n³ nodes; `conductance(axis, random)` per edge, ties of `tie` on one face.
Graph grid_graph(std::size_t n, const auto& conductance, double tie, double everywhere = 0.0) {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> uniform(0.0, 1.0);
    Graph graph;
    graph.excess.assign(n * n * n, everywhere);
    const std::size_t stride[3] = {1, n, n * n};
    for (std::size_t k = 0; k < n; ++k) {
        for (std::size_t j = 0; j < n; ++j) {
            for (std::size_t i = 0; i < n; ++i) {
                const std::size_t node = (k * n + j) * n + i, at[3] = {i, j, k};
                for (int axis = 0; axis < 3; ++axis) {
                    if (at[axis] + 1 == n) continue;
                    graph.first.push_back(static_cast<std::uint32_t>(node));
                    graph.second.push_back(static_cast<std::uint32_t>(node + stride[axis]));
                    graph.conductance.push_back(conductance(axis, uniform(random)));
                }
                if (i == 0) graph.excess[node] += tie;
            }
        }
    }
    return graph;
}

std::vector<double> random_heat(std::size_t n) {
    std::vector<double> b(n);
    std::mt19937 random(3);
    std::uniform_real_distribution<double> uniform(0.0, 1.0);
    for (double& v : b) v = uniform(random);
    return b;
}

double relative_residual(const NetworkMatrix& matrix, const std::vector<double>& b, const std::vector<double>& x) {
    std::vector<double> y(x.size());
    multiply(matrix, x, y);
    double error = 0.0, scale = 0.0;
    for (std::size_t i = 0; i < x.size(); ++i) {
        error += (b[i] - y[i]) * (b[i] - y[i]);
        scale += b[i] * b[i];
    }
    return std::sqrt(error / scale);
}

/// Iterations to 1e-8, with the solution checked against the residual of the matrix itself.
int iterations_for(const Graph& graph) {
    const NetworkMatrix matrix = graph.matrix();
    const std::vector<double> b = random_heat(matrix.nodes);
    std::vector<double> x(matrix.nodes, 0.0);
    const LinearSummary summary = make_multigrid_solver(matrix)->solve(b, x, 1e-8);
    CHECK(summary.converged);
    CHECK(relative_residual(matrix, b, x) <= 1.0001e-8);
    return summary.iterations;
}

}  // namespace

TEST_CASE("edges named twice are added up, rows stand in the order of sweeps", "[linear]") {
    const std::vector<std::uint32_t> first{0, 1, 2, 2}, second{1, 0, 0, 3};
    const std::vector<double> g{1.0, 2.0, 5.0, 4.0}, d{0.5, 0.0, 0.0, 1.0};
    const Level level = make_level(to_rows({.nodes = 4, .edges = {{first, second, g}}, .excess = d}), 0.0);
    REQUIRE(level.earlier.width == 1);
    CHECK(level.earlier.column == std::vector<std::uint32_t>{0, 0, 0, 2});
    CHECK(level.earlier.coupling == std::vector<float>{0.0F, 3.0F, 5.0F, 4.0F});
    CHECK(level.later.column == std::vector<std::uint32_t>{1, 3, 3, 3});
    CHECK(level.later.coupling == std::vector<float>{3.0F, 0.0F, 4.0F, 0.0F});
    CHECK(level.later.extra.row == std::vector<std::uint32_t>{0});  // its second one does not fit
    CHECK(level.later.extra.coupling == std::vector<float>{5.0F});
    CHECK(level.couplings == 6);
    CHECK(level.inverse_diagonal[0] == Approx(1.0 / 8.5));
    CHECK(level.beyond.row.empty());
    std::vector<double> y(4);
    multiply({.nodes = 4, .edges = {{first, second, g}}, .excess = d}, std::vector<double>{1.0, 0.0, 0.0, 2.0}, y);
    CHECK(y == std::vector<double>{8.5, -3.0, -13.0, 10.0});
}

TEST_CASE("multigrid converges in few iterations whatever the coefficients", "[linear]") {
    const auto one = [](int, double) { return 1.0; };
    CHECK(iterations_for(grid_graph(40, one, 1.0)) <= 20);
    CHECK(iterations_for(grid_graph(40, one, 1e-4)) <= 20);
    CHECK(iterations_for(grid_graph(40, [](int axis, double) { return axis == 2 ? 1e4 : 1.0; }, 1.0)) <= 40);
    std::mt19937 random(5);
    std::normal_distribution<double> normal(0.0, 3.0);
    CHECK(iterations_for(grid_graph(40, [&](int, double) { return std::exp(normal(random)); }, 1.0)) <= 40);
    CHECK(iterations_for(grid_graph(40, [](int, double u) { return u < 0.5 ? 1.0 : 1e6; }, 1.0)) <= 40);
    CHECK(iterations_for(grid_graph(40, one, 0.0, 10.0)) <= 15);  // a small time step: smoothing does most
}

TEST_CASE("multigrid and factorisation agree", "[linear]") {
    const Graph graph = grid_graph(16, [](int axis, double u) { return (axis + 1.0) * (0.1 + u); }, 0.3);
    const NetworkMatrix matrix = graph.matrix();
    std::vector<double> b(matrix.nodes, 1.0), x(matrix.nodes, 0.0), y(matrix.nodes, 0.0);
    REQUIRE(make_multigrid_solver(matrix)->solve(b, x, 1e-12).converged);
    REQUIRE(make_direct_solver(matrix)->solve(b, y, 1e-12).converged);
    for (std::size_t i = 0; i < x.size(); ++i) REQUIRE(x[i] == Approx(y[i]).epsilon(1e-9));
}

TEST_CASE("the result does not depend on the number of threads", "[linear]") {
    const Graph graph = grid_graph(40, [](int, double u) { return 0.1 + u; }, 0.3);  // large enough to be shared
    REQUIRE(graph.excess.size() > rows_for_threads);
    const std::vector<double> b = random_heat(graph.excess.size());
    const auto solution = [&](int threads) {
        const int before = omp_get_max_threads();
        omp_set_num_threads(threads);
        std::vector<double> x(b.size(), 0.0);
        make_multigrid_solver(graph.matrix())->solve(b, x, 1e-8);
        omp_set_num_threads(before);
        return x;
    };
    const std::vector<double> one = solution(1);
    CHECK(one == solution(2));
    CHECK(one == solution(5));
}

TEST_CASE("one hierarchy serves several right-hand sides and shifts within a factor of two", "[linear]") {
    Graph graph = grid_graph(32, [](int, double u) { return 0.1 + u; }, 0.3);
    graph.capacity.assign(graph.excess.size(), 0.0);
    std::mt19937 random(1);
    for (double& c : graph.capacity) c = std::uniform_real_distribution<double>(0.1, 3.0)(random);
    const auto solver = make_multigrid_solver(graph.matrix(0.02));
    const std::vector<double> b = random_heat(graph.excess.size()), ones(b.size(), 1.0);
    std::vector<double> x(b.size(), 0.0);
    const int fresh = solver->solve(b, x, 1e-8).iterations;
    CHECK(relative_residual(graph.matrix(0.02), b, x) <= 1.0001e-8);
    CHECK(solver->solve(ones, x, 1e-8).converged);
    CHECK(relative_residual(graph.matrix(0.02), ones, x) <= 1.0001e-8);
    for (const double shift : {0.01, 0.04}) {
        solver->shift(shift);
        std::fill(x.begin(), x.end(), 0.0);
        CHECK(solver->solve(b, x, 1e-8).iterations <= fresh + 4);
        CHECK(relative_residual(graph.matrix(shift), b, x) <= 1.0001e-8);
    }
}

TEST_CASE("a factorisation follows the shift", "[linear]") {
    Graph graph = grid_graph(12, [](int, double u) { return 0.1 + u; }, 0.3);
    graph.capacity.assign(graph.excess.size(), 2.0);
    const std::vector<double> b = random_heat(graph.excess.size());
    std::vector<double> x(b.size(), 0.0), y(b.size(), 0.0);
    const auto direct = make_direct_solver(graph.matrix(0.02));
    direct->shift(0.04);
    REQUIRE(direct->solve(b, x, 1e-10).converged);
    CHECK(relative_residual(graph.matrix(0.04), b, x) <= 1e-10);
    direct->precondition(b, y);
    CHECK(y[77] == Approx(x[77]).epsilon(1e-9));
}

TEST_CASE("a solve says what it did", "[linear]") {
    const Graph graph = grid_graph(20, [](int, double) { return 1.0; }, 1.0);
    std::vector<double> x(graph.excess.size(), 0.0);
    const LinearSummary summary = make_multigrid_solver(graph.matrix())->solve(random_heat(x.size()), x, 1e-8);
    CHECK(summary.levels >= 2);
    CHECK(summary.complexity > 1.0);
    CHECK(summary.complexity < 1.6);
    CHECK(summary.bytes < 200 * x.size());
    CHECK_THAT(summary.text(), Catch::Matchers::Contains("levels") && Catch::Matchers::Contains("iterations to"));
}

TEST_CASE("odd systems: one row, no coupling at all, nothing to solve", "[linear]") {
    const Graph lone{.excess = {2.0}};
    std::vector<double> x{0.0};
    CHECK(make_multigrid_solver(lone.matrix())->solve(std::vector<double>{3.0}, x, 1e-10).converged);
    CHECK(x[0] == Approx(1.5));

    const Graph loose{.excess = std::vector<double>(2000, 4.0)};
    std::vector<double> y(2000, 0.0);
    const auto solver = make_multigrid_solver(loose.matrix());
    CHECK(solver->solve(std::vector<double>(2000, 2.0), y, 1e-10).converged);
    CHECK(y[1234] == Approx(0.5));
    CHECK(solver->solve(std::vector<double>(2000, 0.0), y, 1e-10).iterations == 0);
    CHECK(y[1234] == 0.0);
}
