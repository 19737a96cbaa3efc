// Times the stages of the pipeline on one assembly at several sizes, against the machine's memory bandwidth and
// against one sweep over the matrix, so that figures of different machines can be compared.
// Usage: pipeline_bench [--round] [CELLS_IN_THOUSANDS …]; --round gives it rounded fins, round posts, a tilted tube and a dome.

#include <firnfield/firnfield.hpp>

#include <fmt/core.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <fstream>
#include <string>
#include <vector>

using namespace firnfield;
using namespace firnfield::literals;

namespace {

constexpr int repetitions = 5;

template <typename Run>
double median_seconds(const Run& run) {
    std::vector<double> seconds;
    for (int i = 0; i < repetitions; ++i) {
        const auto start = std::chrono::steady_clock::now();
        run();
        seconds.push_back(std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count());
    }
    std::sort(seconds.begin(), seconds.end());
    return seconds[seconds.size() / 2];
}

/// A board with chips in a case with fins: thin layers, joints, large empty space.
Model assembly(double cell, bool round) {
    Model model{.title = "bench"};
    model.mesh.cell = cell;
    model.mesh.max_cells = 100'000'000;
    model.add(Part{.name = "base", .shape = Box{.size = {160_mm, 120_mm, 8_mm}}, .material = "aluminium 6061-T6"});
    model.add(Part{.name = "fin", .shape = Box{.size = {2_mm, 120_mm, 30_mm}, .at = {1_mm, 0, -0.03}}, .material = "aluminium 6061-T6",
                   .repeat = {Repeat{.count = 16, .step = {10_mm, 0, 0}}}});
    model.add(Part{.name = "post", .shape = Box{.size = {6_mm, 6_mm, 12_mm}, .at = {10_mm, 10_mm, 8_mm}}, .material = "brass CuZn37",
                   .repeat = {Repeat{.count = 2, .step = {134_mm, 0, 0}}, Repeat{.count = 2, .step = {0, 94_mm, 0}}}});
    model.add(Part{.name = "board", .shape = Box{.size = {150_mm, 110_mm, 1.6_mm}, .at = {5_mm, 5_mm, 20_mm}}, .material = "FR-4 board 4 layers"});
    model.add(Part{.name = "chip", .shape = Box{.size = {12_mm, 12_mm, 1.5_mm}, .at = {20_mm, 20_mm, 21.6_mm}}, .material = "epoxy moulding compound",
                   .repeat = {Repeat{.count = 5, .step = {25_mm, 0, 0}}, Repeat{.count = 3, .step = {0, 28_mm, 0}}}});
    if (round) {
        const auto corner = [](double x, double y) { return OutlinePoint{.x = x, .y = y, .through = std::nullopt}; };
        model.parts[1].shape = Prism{.outline = {corner(0, 0), corner(0, 2_mm), corner(-29_mm, 2_mm), {.x = -29_mm, .y = 0, .through = std::array{-30_mm, 1_mm}}},
                                     .holes = {}, .length = 120_mm, .at = {1_mm, 0, 0}, .along = 1};
        model.parts[2].shape = Cylinder{.radius = 3_mm, .length = 12_mm, .at = {13_mm, 13_mm, 8_mm}};
        Part tube{.name = "tube", .shape = Tube{.outer_radius = 12_mm, .inner_radius = 9_mm, .length = 60_mm, .at = {-20_mm, 60_mm, 40_mm}}, .material = "copper"};
        tube.rotate = {Rotation{.axis = {1, 0.3, 0}, .angle = 25, .about = std::nullopt}};
        model.add(tube);
        model.add(Part{.name = "dome", .shape = Revolution{.outline = {corner(0, 0), corner(25_mm, 0), {.x = 0, .y = 20_mm, .through = std::array{17_mm, 14.6_mm}}}, .at = {190_mm, 60_mm, 0}}, .material = "brass CuZn37"});
    }
    model.add(Joint{.between = {"fin", "base"}});
    model.add(Joint{.between = {"post", "*"}, .resistance = 5e-5});
    model.add(Joint{.between = {"chip", "board"}, .resistance = 1.5e-4});
    model.add(Power{.into = {"chip"}, .each = 1_W});
    model.add(Cooling{.on = exposed(), .convection = 10.0, .ambient = 30_degC});
    return model;
}

/// Bytes a second of a = b + s·c on arrays far larger than the caches.
double triad_bandwidth() {
    const std::size_t n = 20'000'000;
    std::vector<double> a(n, 0.0), b(n, 1.0), c(n, 2.0);
    const double seconds = median_seconds([&] {
        for (std::size_t i = 0; i < n; ++i) a[i] = b[i] + 0.5 * c[i];
    });
    return 24.0 * static_cast<double>(n) / seconds;
}

/// Seconds of one pass over the links of a network: the cheapest thing a solver can do.
double sweep_seconds(const Network& network) {
    std::vector<double> t(network.nodes, 300.0), r(network.nodes, 0.0);
    return median_seconds([&] {
        for (std::size_t l = 0; l < network.links.size(); ++l) {
            const double flow = network.links.conductance[l] * (t[network.links.first[l]] - t[network.links.second[l]]);
            r[network.links.first[l]] -= flow;
            r[network.links.second[l]] += flow;
        }
    });
}

/// Largest memory this process has had.
double peak_bytes() {
    std::ifstream status("/proc/self/status");
    for (std::string line; std::getline(status, line);) {
        if (line.starts_with("VmHWM:")) return 1024.0 * std::atof(line.c_str() + 6);
    }
    return 0.0;
}

}  // namespace

int main(int argc, char** argv) {
    std::vector<double> thousands;
    bool round = false;
    for (int i = 1; i < argc; ++i) {
        if (std::string(argv[i]) == "--round") {
            round = true;
        } else {
            thousands.push_back(std::atof(argv[i]));
        }
    }
    if (thousands.empty()) thousands = {100, 1000};
    fmt::print("triad bandwidth {:.1f} GB/s, medians of {} runs\n\n", triad_bandwidth() * 1e-9, repetitions);
    fmt::print("{:>12} {:>10} {:>10} {:>10} {:>10} {:>12} {:>12} {:>12}\n", "cells", "mesh s", "network s", "sweep s", "solve s", "mesh/solve", "solve/sweeps", "bytes/cell");
    for (const double target : thousands) {
        // Find the cell size that gives about the wanted number of cells.
        double cell = 4_mm;
        for (int i = 0; i < 12; ++i) {
            const double cells = static_cast<double>(build_mesh(assembly(cell, round)).cells.size());
            if (std::abs(cells / (1000.0 * target) - 1.0) < 0.1) break;
            cell *= std::clamp(std::cbrt(cells / (1000.0 * target)), 0.5, 1.5);
        }
        const Model model = assembly(cell, round);
        const Study study = studies_of(model).front();
        const auto mesh = std::make_shared<const Mesh>(build_mesh(model));
        const double mesh_seconds = median_seconds([&] { static_cast<void>(build_mesh(model)); });
        const Network network = build_network(model, *mesh, study);
        const double network_seconds = median_seconds([&] { static_cast<void>(build_network(model, *mesh, study)); });
        const double sweep = sweep_seconds(network);
        double solve = 0.0;
        {
            std::vector<double> seconds;
            for (int i = 0; i < 3; ++i) seconds.push_back(solve_steady(model, mesh, study).summary.solve_seconds);
            std::sort(seconds.begin(), seconds.end());
            solve = seconds[1];
        }
        fmt::print("{:>12} {:>10.3f} {:>10.3f} {:>10.4f} {:>10.2f} {:>12.2f} {:>12.0f} {:>12.0f}\n", mesh->cells.size(), mesh_seconds, network_seconds, sweep, solve,
                   mesh_seconds / solve, solve / sweep, peak_bytes() / mesh->cells.size());
    }
}
