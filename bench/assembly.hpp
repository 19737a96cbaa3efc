// The assembly that benchmarks are made on, and the yardsticks they are measured with.
#pragma once

#include <firnfield/firnfield.hpp>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstdlib>
#include <fstream>
#include <string>
#include <vector>

namespace firnfield::bench {

using namespace firnfield::literals;

template <typename Run>
double median_seconds(const Run& run, int repetitions = 5) {
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
inline Model assembly(double cell, bool round) {
    Model model{.title = "bench"};
    model.mesh.cell = cell;
    model.mesh.max_cells = 100'000'000;
    model.add(Part{.name = "base", .shape = Box{.size = {160_mm, 120_mm, 8_mm}}, .material = "aluminium 6061-T6"});
    model.add(Part{.name = "fin",
                   .shape = Box{.size = {2_mm, 120_mm, 30_mm}, .at = {1_mm, 0, -0.03}},
                   .material = "aluminium 6061-T6",
                   .repeat = {Repeat{.count = 16, .step = {10_mm, 0, 0}}}});
    model.add(Part{.name = "post",
                   .shape = Box{.size = {6_mm, 6_mm, 12_mm}, .at = {10_mm, 10_mm, 8_mm}},
                   .material = "brass CuZn37",
                   .repeat = {Repeat{.count = 2, .step = {134_mm, 0, 0}}, Repeat{.count = 2, .step = {0, 94_mm, 0}}}});
    model.add(Part{.name = "board", .shape = Box{.size = {150_mm, 110_mm, 1.6_mm}, .at = {5_mm, 5_mm, 20_mm}}, .material = "FR-4 board 4 layers"});
    model.add(Part{.name = "chip",
                   .shape = Box{.size = {12_mm, 12_mm, 1.5_mm}, .at = {20_mm, 20_mm, 21.6_mm}},
                   .material = "epoxy moulding compound",
                   .repeat = {Repeat{.count = 5, .step = {25_mm, 0, 0}}, Repeat{.count = 3, .step = {0, 28_mm, 0}}}});
    if (round) {
        const auto corner = [](double x, double y) { return OutlinePoint{.x = x, .y = y, .through = std::nullopt}; };
        model.parts[1].shape =
            Prism{.outline = {corner(0, 0), corner(0, 2_mm), corner(-29_mm, 2_mm), {.x = -29_mm, .y = 0, .through = std::array{-30_mm, 1_mm}}},
                  .holes = {},
                  .length = 120_mm,
                  .at = {1_mm, 0, 0},
                  .along = 1};
        model.parts[2].shape = Cylinder{.radius = 3_mm, .length = 12_mm, .at = {13_mm, 13_mm, 8_mm}};
        Part tube{
            .name = "tube", .shape = Tube{.outer_radius = 12_mm, .inner_radius = 9_mm, .length = 60_mm, .at = {-20_mm, 60_mm, 40_mm}}, .material = "copper"};
        tube.rotate = {Rotation{.axis = {1, 0.3, 0}, .angle = 25, .about = std::nullopt}};
        model.add(tube);
        model.add(Part{.name = "dome",
                       .shape = Revolution{.outline = {corner(0, 0), corner(25_mm, 0), {.x = 0, .y = 20_mm, .through = std::array{17_mm, 14.6_mm}}},
                                           .at = {190_mm, 60_mm, 0}},
                       .material = "brass CuZn37"});
    }
    model.add(Joint{.between = {"fin", "base"}});
    model.add(Joint{.between = {"post", "*"}, .resistance = 5e-5});
    model.add(Joint{.between = {"chip", "board"}, .resistance = 1.5e-4});
    model.add(Power{.into = {"chip"}, .each = 1_W});
    model.add(Cooling{.on = exposed(), .convection = 10.0, .ambient = 30_degC});
    return model;
}

/// Bytes a second of a = b + s·c on arrays far larger than the caches.
inline double triad_bandwidth() {
    const std::size_t n = 20'000'000;
    std::vector<double> a(n, 0.0), b(n, 1.0), c(n, 2.0);
    const double seconds = median_seconds([&] {
        for (std::size_t i = 0; i < n; ++i) a[i] = b[i] + 0.5 * c[i];
    });
    return 24.0 * static_cast<double>(n) / seconds;
}

/// The assembly with about so many cells.
inline Model assembly_of(double cells_wanted, bool round) {
    double cell = 4_mm;
    for (int i = 0; i < 12; ++i) {
        const double cells = static_cast<double>(build_mesh(assembly(cell, round)).cells.size());
        if (std::abs(cells / cells_wanted - 1.0) < 0.1) break;
        cell *= std::clamp(std::cbrt(cells / cells_wanted), 0.5, 1.5);
    }
    return assembly(cell, round);
}

/// Bytes from a line of /proc/self/status.
inline double memory(const std::string& key) {
    std::ifstream status("/proc/self/status");
    for (std::string line; std::getline(status, line);) {
        if (line.starts_with(key + ":")) return 1024.0 * std::atof(line.c_str() + key.size() + 1);
    }
    return 0.0;
}

}  // namespace firnfield::bench
