// Linear solvers: convergence, agreement, threads, shifts, odd systems.

#include "linear/direct_solver.hpp"
#include "linear/hubs.hpp"
#include "linear/multigrid.hpp"
#include "linear/multigrid_solver.hpp"
#include "linear/parts.hpp"

#include <omp.h>
#include <catch2/catch.hpp>

#include <algorithm>
#include <cmath>
#include <numeric>
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

TEST_CASE("edges named twice are added up, each coupling stands with the later row", "[linear]") {
    const std::vector<std::uint32_t> first{0, 1, 2, 2}, second{1, 0, 0, 3};
    const std::vector<double> g{1.0, 2.0, 5.0, 4.0}, d{0.5, 0.0, 0.0, 1.0};
    const NetworkMatrix matrix{.nodes = 4, .edges = {{first, second, g}}, .excess = d};
    const LowerTriangle lower = lower_triangle(matrix);
    CHECK(std::vector<std::uint32_t>(lower.start.begin(), lower.start.end()) == std::vector<std::uint32_t>{0, 0, 1, 2, 3});
    CHECK(lower.couplings[0].column == 0);
    CHECK(lower.couplings[0].value == 3.0F);
    CHECK(lower.couplings[2].column == 2);
    CHECK(coupling_sums(lower) == std::vector<float>{8.0F, 3.0F, 9.0F, 4.0F});
    std::vector<double> y(4);
    multiply(matrix, std::vector<double>{1.0, 0.0, 0.0, 2.0}, y);
    CHECK(y == std::vector<double>{8.5, -3.0, -13.0, 10.0});

    // Rows 0 and 1 become one, row 2 is left out: its coupling to row 0 becomes excess.
    const Pairs pairs{.coarse = {0, 0, left_out, 1}, .later = {1, 3}, .earlier = {0, left_out}, .block = {0, 2}};
    const LowerTriangle coarse = coarse_triangle(lower, pairs);
    CHECK(coarse.couplings.empty());
    CHECK(coarse.excess == std::vector<float>{5.5F, 5.0F});
}

double image_of(const ColourMatrix& matrix, const std::vector<float>& x, std::vector<float>& y) { return multiply(matrix, x, y); }
double image_of(const StripMatrix& matrix, const std::vector<float>& x, std::vector<float>& y) {
    return multiply(matrix, std::vector<double>(x.begin(), x.end()), y);
}

TEST_CASE("sweeps leave the residual they say and are each other's transpose, for every storage of a matrix", "[linear]") {
    // A grid with some far edges, and one node that many are coupled to; large enough for several blocks.
    Graph graph = grid_graph(
        52, [](int axis, double u) { return (1.0 + axis) * (0.1 + u); }, 0.3, 1e-3);
    std::mt19937 random(11);
    std::uniform_int_distribution<std::uint32_t> anywhere(0, static_cast<std::uint32_t>(graph.excess.size()) - 1);
    // In one corner rows follow no pattern: neighbours stand two to eleven rows apart.
    for (std::uint32_t n = 20; n < 9000; ++n) {
        graph.first.push_back(n);
        graph.second.push_back(n - 2 - anywhere(random) % 10);
        graph.conductance.push_back(0.7);
    }
    for (int n = 0; n < 6000; ++n) {
        graph.first.push_back(anywhere(random));
        graph.second.push_back(n % 3 == 0 ? 77777 : anywhere(random));
        if (graph.first.back() == graph.second.back()) graph.second.back() = graph.first.back() > 0 ? graph.first.back() - 1 : 1;
        graph.conductance.push_back(0.5);
    }
    const NetworkMatrix matrix = graph.matrix();
    const LowerTriangle lower = lower_triangle(matrix);
    REQUIRE(lower.blocks() > 1);
    const std::size_t n = graph.excess.size();
    const std::vector<double> u = random_heat(n);
    std::vector<double> v(n), image(n);
    for (std::size_t i = 0; i < n; ++i) v[i] = std::sin(0.37 * static_cast<double>(i));
    const auto dot = [](const auto& a, const auto& b) {
        double sum = 0.0;
        for (std::size_t i = 0; i < a.size(); ++i) sum += static_cast<double>(a[i]) * static_cast<double>(b[i]);
        return sum;
    };
    const auto check = [&](const auto& stored, const std::vector<std::uint32_t>& position) {
        const auto to = [&](const std::vector<double>& from) {
            std::vector<float> out(stored.rows(), 0.0F);
            for (std::size_t i = 0; i < n; ++i) out[position[i]] = static_cast<float>(from[i]);
            return out;
        };
        std::vector<float> x = to(u), y(x.size()), residual(x.size());
        multiply(matrix, u, image);
        const double product = image_of(stored, x, y);
        CHECK(product == Approx(dot(u, image)).epsilon(1e-5));
        double worst = 0.0;
        for (std::size_t i = 0; i < n; ++i) worst = std::max(worst, std::abs(image[i] - static_cast<double>(y[position[i]])));
        CHECK(worst < 1e-3);  // the largest entries are about 1000

        // Both sweeps one after the other, from zero: a symmetric operator.
        const auto smoothed = [&](const std::vector<double>& b) {
            std::vector<float> right = to(b);
            sweep_from_zero(stored, right, x, residual);
            image_of(stored, x, y);
            double off = 0.0;
            for (std::size_t i = 0; i < x.size(); ++i) off = std::max(off, static_cast<double>(std::abs(right[i] - y[i] - residual[i])));
            CHECK(off < 1e-4);
            sweep_back(stored, right, x);
            return x;
        };
        const std::vector<float> of_u = smoothed(u), of_v = smoothed(v);
        CHECK(dot(of_u, to(v)) == Approx(dot(of_v, to(u))).epsilon(1e-4));
        CHECK(dot(of_u, to(u)) > 0.0);
    };
    std::vector<std::uint32_t> as_it_comes(n);
    for (std::uint32_t i = 0; i < n; ++i) as_it_comes[i] = i;
    const StripMatrix strips = strip_matrix(lower, coupling_sums(lower));
    CHECK(strips.borders.size() > 0);
    CHECK(strips.beyond.row.size() > 0);
    CHECK(strips.column.size() > 0);
    check(strips, as_it_comes);
    const Colouring colours = coloured(lower, coupling_sums(lower));
    check(colours.matrix, colours.position);
}

TEST_CASE("multigrid converges in few iterations whatever the coefficients", "[linear]") {
    const auto one = [](int, double) { return 1.0; };
    CHECK(iterations_for(grid_graph(40, one, 1.0)) <= 20);
    CHECK(iterations_for(grid_graph(40, one, 1e-4)) <= 20);
    CHECK(iterations_for(grid_graph(
              40, [](int axis, double) { return axis == 2 ? 1e4 : 1.0; }, 1.0)) <= 40);
    std::mt19937 random(5);
    std::normal_distribution<double> normal(0.0, 3.0);
    CHECK(iterations_for(grid_graph(
              40, [&](int, double) { return std::exp(normal(random)); }, 1.0)) <= 40);
    CHECK(iterations_for(grid_graph(
              40, [](int, double u) { return u < 0.5 ? 1.0 : 1e6; }, 1.0)) <= 40);
    CHECK(iterations_for(grid_graph(40, one, 0.0, 10.0)) <= 15);  // a small time step: smoothing does most
}

TEST_CASE("multigrid and factorisation agree", "[linear]") {
    const Graph graph = grid_graph(
        16, [](int axis, double u) { return (axis + 1.0) * (0.1 + u); }, 0.3);
    const NetworkMatrix matrix = graph.matrix();
    std::vector<double> b(matrix.nodes, 1.0), x(matrix.nodes, 0.0), y(matrix.nodes, 0.0);
    REQUIRE(make_multigrid_solver(matrix)->solve(b, x, 1e-12).converged);
    REQUIRE(make_direct_solver(matrix)->solve(b, y, 1e-12).converged);
    for (std::size_t i = 0; i < x.size(); ++i) REQUIRE(x[i] == Approx(y[i]).epsilon(1e-9));
}

TEST_CASE("rows may be swept in any order of the nodes", "[linear]") {
    Graph graph = grid_graph(
        24, [](int axis, double u) { return (axis + 1.0) * (0.1 + u); }, 0.3);
    graph.capacity.assign(graph.excess.size(), 1.0);
    std::vector<std::uint32_t> order(graph.excess.size());
    for (std::uint32_t i = 0; i < order.size(); ++i) order[i] = i;
    std::shuffle(order.begin(), order.end(), std::mt19937(2));
    const std::vector<double> b = random_heat(order.size());
    std::vector<double> x(b.size(), 0.0), y(b.size(), 0.0), z(b.size(), 0.0);
    NetworkMatrix matrix = graph.matrix(1e-3);
    REQUIRE(make_multigrid_solver(matrix)->solve(b, x, 1e-11).converged);
    matrix.order = order;
    const auto solver = make_multigrid_solver(matrix);
    REQUIRE(solver->solve(b, y, 1e-11).converged);
    for (std::size_t i = 0; i < x.size(); ++i) REQUIRE(y[i] == Approx(x[i]).epsilon(1e-8));
    solver->precondition(b, z);
    const auto energy = [&](const std::vector<double>& v) {
        std::vector<double> image(v.size());
        multiply(matrix, v, image);
        double sum = 0.0;
        for (std::size_t i = 0; i < v.size(); ++i) sum += v[i] * image[i];
        return sum;
    };
    for (std::size_t i = 0; i < z.size(); ++i) z[i] -= x[i];
    CHECK(energy(z) < 0.7 * energy(x));
}

TEST_CASE("the result does not depend on the number of threads", "[linear]") {
    const Graph graph = grid_graph(
        40, [](int, double u) { return 0.1 + u; }, 0.3);  // large enough to be shared
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
    Graph graph = grid_graph(
        32, [](int, double u) { return 0.1 + u; }, 0.3);
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
    Graph graph = grid_graph(
        12, [](int, double u) { return 0.1 + u; }, 0.3);
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
    const Graph graph = grid_graph(
        20, [](int, double) { return 1.0; }, 1.0);
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

TEST_CASE("a node that is coupled to everything is solved around, however strongly", "[linear]") {
    for (const double strength : {1e-3, 1.0, 1e2, 1e6}) {
        INFO("strength " << strength);
        Graph graph = grid_graph(
            18, [](int, double x) { return 0.1 + x; }, 0.01);
        const auto cells = static_cast<std::uint32_t>(graph.excess.size());
        // Two hubs, coupled to each other, one of them weakly to the outside.
        for (std::uint32_t i = 0; i < cells; ++i) {
            graph.first.push_back(i);
            graph.second.push_back(cells + i % 2);
            graph.conductance.push_back(strength);
        }
        graph.first.push_back(cells);
        graph.second.push_back(cells + 1);
        graph.conductance.push_back(0.3);
        graph.excess.insert(graph.excess.end(), {0.0, 1e-3});
        graph.capacity.assign(graph.excess.size(), 2.0);
        NetworkMatrix matrix = graph.matrix();
        matrix.lumped_from = cells;
        CHECK(find_hubs(matrix).size() == (strength <= 1.0 ? 0 : 2));
        const std::vector<double> b = random_heat(graph.excess.size());
        std::vector<double> x(b.size(), 0.0);
        const auto solver = make_solver(matrix);
        const LinearSummary summary = solver->solve(b, x, 1e-10);
        INFO(summary.text());
        CHECK(summary.converged);
        CHECK(summary.iterations < 150);
        const double least = strength < 1e4 ? 1e-9 : 1e-5;  // where double precision ends
        CHECK(relative_residual(matrix, b, x) <= least);
        // One cycle is a preconditioner, and shifts are taken along.
        std::vector<double> z(b.size(), 0.0);
        solver->precondition(b, z);
        CHECK(std::inner_product(b.begin(), b.end(), z.begin(), 0.0) > 0.0);
        solver->shift(0.1);
        matrix.shift = 0.1;
        CHECK(solver->solve(b, x, 1e-10).converged);
        CHECK(relative_residual(matrix, b, x) <= least);
    }
}
