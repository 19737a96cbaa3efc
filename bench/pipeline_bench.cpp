// Times the stages of the pipeline on one assembly at several sizes, against the machine's memory bandwidth and
// against one sweep over the matrix, so that figures of different machines can be compared.
// Usage: pipeline_bench [--round] [CELLS_IN_THOUSANDS …]; --round gives it rounded fins, round posts, a tilted tube and a dome.

#include "assembly.hpp"

#include <fmt/core.h>

#include <algorithm>
#include <cstdlib>
#include <string>
#include <vector>

using namespace firnfield;
using namespace firnfield::bench;

namespace {

constexpr int repetitions = 5;

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
        const Model model = assembly_of(1000.0 * target, round);
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
                   mesh_seconds / solve, solve / sweep, memory("VmHWM") / mesh->cells.size());
    }
}
