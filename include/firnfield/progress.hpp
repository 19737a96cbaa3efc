/// Where a computation stands, for whoever watches it.
#pragma once

#include <functional>
#include <string>

namespace firnfield {

struct Progress {
    std::string design{}, study{};  ///< as far as whoever tells knows them
    std::string stage{};            ///< what is being done: "meshing", "solving", "marching", "explaining", …
    // Of a solve:
    int iteration = 0;      ///< Newton steps done
    double residual = 0.0;  ///< relative to the heat throughput; 0 when not known
    double target = 0.0;
    // Of a run in time, counted from its begin: one that goes on from a checkpoint has done a part already.
    double time = 0.0, end = 0.0, step = 0.0;  ///< s
    long long steps = 0;

    [[nodiscard]] bool of_solve() const { return target > 0.0; }
    [[nodiscard]] bool of_run() const { return end > 0.0; }
};

/// Called now and then; returning false stops the computation with Cancelled.
using ProgressCallback = std::function<bool(const Progress&)>;

/// Tells it, where somebody listens. Throws Cancelled.
void announce(const ProgressCallback& listener, const Progress& progress);

/// The same listener, told the study along.
[[nodiscard]] ProgressCallback of_study(const ProgressCallback& listener, const std::string& study);

}  // namespace firnfield
