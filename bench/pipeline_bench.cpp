// Times the stages of the pipeline on one assembly at several sizes, against the machine's memory bandwidth and
// against one sweep over the matrix, so that figures of different machines can be compared.
// Usage: pipeline_bench [--round] [CELLS_IN_THOUSANDS …] [options of Google Benchmark, such as --benchmark_filter=mesh]

#include "assembly.hpp"

#include <benchmark/benchmark.h>
#include <fmt/core.h>

#include <map>
#include <memory>
#include <string>
#include <vector>

using namespace firnfield;
using namespace firnfield::bench;

namespace {

/// What the stages begin with, made once for each size.
struct Stages {
    Model model;
    Study study;
    std::shared_ptr<const Mesh> mesh;
    Network network;
};

const Stages& stages_of(double cells, bool round) {
    static std::map<double, std::unique_ptr<Stages>> known;
    std::unique_ptr<Stages>& stages = known[cells];
    if (!stages) {
        stages = std::make_unique<Stages>();
        stages->model = assembly_of(cells, round);
        stages->study = studies_of(stages->model).front();
        stages->mesh = std::make_shared<const Mesh>(build_mesh(stages->model));
        stages->network = build_network(stages->model, *stages->mesh, stages->study);
    }
    return *stages;
}

/// One pass over the elements between the nodes of a network: the cheapest thing a solver can do.
void sweep(const Network& network, std::vector<double>& t, std::vector<double>& r) {
    for (const Family& family : network.families) {
        for (std::size_t l = 0; l < family.second.size(); ++l) {
            const double flow = family.coefficient[l] * (t[family.first[l]] - t[family.second[l]]);
            r[family.first[l]] -= flow;
            r[family.second[l]] += flow;
        }
    }
    benchmark::DoNotOptimize(r.data());
}

template <typename Stage>
void add(const std::string& name, double cells, bool round, const Stage& stage) {
    benchmark::RegisterBenchmark(fmt::format("{}/{:.0f}k", name, 1e-3 * cells).c_str(),
                                 [=](benchmark::State& state) {
                                     const Stages& s = stages_of(cells, round);
                                     stage(state, s);
                                     state.counters["cells"] = static_cast<double>(s.mesh->cells.size());
                                     state.counters["per cell"] =
                                         benchmark::Counter(static_cast<double>(s.mesh->cells.size()),
                                                            benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
                                 })
        ->Unit(benchmark::kMillisecond)
        ->UseRealTime()
        ->Repetitions(5)
        ->ReportAggregatesOnly();
}

}  // namespace

int main(int argc, char** argv) {
    benchmark::Initialize(&argc, argv);
    std::vector<double> sizes;
    bool round = false;
    for (int i = 1; i < argc; ++i) {
        if (const std::string argument = argv[i]; argument == "--round") {
            round = true;
        } else {
            sizes.push_back(1000.0 * std::atof(argv[i]));
        }
    }
    if (sizes.empty()) sizes = {1e5, 1e6};
    fmt::print("triad bandwidth {:.1f} GB/s\n", triad_bandwidth() * 1e-9);
    for (const double cells : sizes) {
        add("mesh", cells, round, [](benchmark::State& state, const Stages& s) {
            for (auto _ : state) benchmark::DoNotOptimize(build_mesh(s.model));
        });
        add("network", cells, round, [](benchmark::State& state, const Stages& s) {
            for (auto _ : state) benchmark::DoNotOptimize(build_network(s.model, *s.mesh, s.study));
        });
        add("sweep", cells, round, [](benchmark::State& state, const Stages& s) {
            std::vector<double> t(s.network.nodes, 300.0), r(s.network.nodes, 0.0);
            for (auto _ : state) sweep(s.network, t, r);
        });
        add("solve", cells, round, [](benchmark::State& state, const Stages& s) {
            for (auto _ : state) benchmark::DoNotOptimize(solve_steady(s.model, s.mesh, s.study));
        });
    }
    benchmark::RunSpecifiedBenchmarks();
    fmt::print("peak memory {:.0f} MB\n", 1e-6 * memory("VmHWM"));
}
