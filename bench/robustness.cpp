// Iterations of the linear solver on coefficients that are hard on multigrid, about half a million unknowns each.
// Usage: robustness

#include "assembly.hpp"

#include "linear/solver.hpp"

#include <fmt/core.h>

#include <cstdint>
#include <functional>
#include <random>
#include <vector>

using namespace firnfield;
using namespace firnfield::bench;

namespace {

/// A box of unit cells, some of them empty, with one conductivity a cell and an axis; held at the bottom.
struct Lattice {
    std::array<std::uint32_t, 3> size{80, 80, 80};
    std::array<double, 3> along{1.0, 1.0, 1.0};  ///< conductances of a cell of conductivity one
    std::function<double(std::uint32_t, std::uint32_t, std::uint32_t)> conductivity = [](auto, auto, auto) { return 1.0; };  ///< 0: empty
};

/// Its conductances, as a solver takes them. The arrays are referred to by matrix().
struct System {
    std::vector<std::uint32_t> first, second;
    std::vector<double> conductance, excess;

    explicit System(const Lattice& lattice) {
        const auto [nx, ny, nz] = lattice.size;
        std::vector<std::uint32_t> number(std::size_t{nx} * ny * nz, no_index);
        std::vector<double> k(number.size());
        std::uint32_t nodes = 0;
        for (std::uint32_t z = 0, i = 0; z < nz; ++z) {
            for (std::uint32_t y = 0; y < ny; ++y) {
                for (std::uint32_t x = 0; x < nx; ++x, ++i) {
                    k[i] = lattice.conductivity(x, y, z);
                    if (k[i] > 0.0) number[i] = nodes++;
                }
            }
        }
        excess.assign(nodes, 0.0);
        const std::array<std::uint32_t, 3> stride{1, nx, nx * ny};
        for (std::uint32_t i = 0; i < number.size(); ++i) {
            if (number[i] == no_index) continue;
            const std::array<std::uint32_t, 3> at{i % nx, i / nx % ny, i / nx / ny};
            if (at[2] == 0) excess[number[i]] = 2.0 * k[i] * lattice.along[2];
            for (std::size_t a = 0; a < 3; ++a) {
                if (at[a] + 1 == lattice.size[a] || number[i + stride[a]] == no_index) continue;
                first.push_back(number[i]);
                second.push_back(number[i + stride[a]]);
                conductance.push_back(lattice.along[a] * 2.0 * k[i] * k[i + stride[a]] / (k[i] + k[i + stride[a]]));
            }
        }
        tie_islands();
    }

    [[nodiscard]] NetworkMatrix matrix() const {
        return {.nodes = excess.size(), .edges = {{first, second, conductance}}, .excess = excess, .capacity = {}, .shift = 0.0, .order = {}};
    }

private:
    /// Cells that hang on nothing would make the matrix singular: they are held where they stand.
    void tie_islands() {
        std::vector<std::uint32_t> root(excess.size());
        for (std::uint32_t i = 0; i < root.size(); ++i) root[i] = i;
        const auto find = [&](std::uint32_t i) {
            while (root[i] != i) i = root[i] = root[root[i]];
            return i;
        };
        for (std::size_t e = 0; e < first.size(); ++e) root[find(first[e])] = find(second[e]);
        std::vector<bool> held(excess.size(), false);
        for (std::uint32_t i = 0; i < excess.size(); ++i) {
            if (excess[i] > 0.0) held[find(i)] = true;
        }
        for (std::uint32_t i = 0; i < excess.size(); ++i) {
            if (!held[find(i)]) excess[i] = 1.0, held[find(i)] = true;
        }
    }
};

struct Result {
    int iterations = 0;
    bool converged = false;
    double seconds = 0.0;
};

/// To 1e-8 from zero for a right-hand side of random numbers.
Result solve(const Lattice& lattice) {
    const System system(lattice);
    std::mt19937_64 random(7);
    std::normal_distribution<double> normal;
    std::vector<double> b(system.excess.size()), x(system.excess.size(), 0.0);
    for (double& value : b) value = normal(random);
    const auto start = std::chrono::steady_clock::now();
    const LinearSummary summary = make_solver(system.matrix())->solve(b, x, 1e-8);
    return {summary.iterations, summary.converged, std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count()};
}

}  // namespace

int main() {
    std::mt19937_64 random(1);
    std::normal_distribution<double> normal;
    std::uniform_real_distribution<double> uniform(0.0, 1.0);
    const auto always = [](auto draw) { return [draw](std::uint32_t, std::uint32_t, std::uint32_t) { return draw(); }; };
    const std::vector<std::pair<const char*, Lattice>> cases{
        {"uniform", {}},
        {"conductivity 1e4 times larger along x", {.along = {1e4, 1.0, 1.0}}},
        {"conductivity 1e4 times larger along y", {.along = {1.0, 1e4, 1.0}}},
        {"conductivity 1e4 times larger along z", {.along = {1.0, 1.0, 1e4}}},
        {"conductivity 1e4 times larger along x and y", {.along = {1e4, 1e4, 1.0}}},
        {"cells 1000 times as long as high", {.along = {1e-3, 1e-3, 1e3}}},
        {"log-normal conductivities, sigma 3", {.conductivity = always([&] { return std::exp(3.0 * normal(random)); })}},
        {"conductivities 1 or 1e6 at random", {.conductivity = always([&] { return uniform(random) < 0.5 ? 1.0 : 1e6; })}},
        {"60 % of the cells empty", {.size = {108, 108, 108}, .conductivity = always([&] { return uniform(random) < 0.6 ? 0.0 : 1.0; })}},
        {"fins of one cell on a base",
         {.size = {160, 80, 80}, .conductivity = [](std::uint32_t x, std::uint32_t, std::uint32_t z) { return z < 8 || x % 2 == 0 ? 1.0 : 0.0; }}},
        {"thin sheets of few cells, bonded", {.size = {350, 350, 4}, .along = {1.0, 1.0, 200.0}}},
        {"a chain of cells over eight decades", {.size = {1, 1, 500000}, .conductivity = always([&] { return std::pow(10.0, 8.0 * uniform(random) - 4.0); })}},
    };
    fmt::print("{:<46} {:>10} {:>8} {:>8}\n", "", "iterations", "", "s");
    for (const auto& [name, lattice] : cases) {
        const Result r = solve(lattice);
        fmt::print("{:<46} {:>10} {:>8} {:>8.2f}\n", name, r.iterations, r.converged ? "" : "failed", r.seconds);
    }
}
