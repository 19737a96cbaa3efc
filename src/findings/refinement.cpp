// Which layers of the grid an error target makes finer, and which may be coarser.

#include "findings/refinement.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace firnfield {
namespace {

constexpr double finest = 0.2;      // of a cell at once
constexpr double no_change = 0.95;  // of a cell: not worth a layer of its own

/// Sizes relative to the present ones, for the factor c of s = c (N E)^(-1/3), `most` at the most.
PerLayer sizes_for(const PerLayer& errors, double c, double most) {
    PerLayer size;
    for (std::size_t a = 0; a < 3; ++a) {
        std::vector<double>& s = size[a];
        s.assign(errors[a].size(), 1.0);
        if (errors[a].size() < 2) continue;  // what does not vary
        // The number of cells along the axis depends on the sizes; a few rounds settle it. Coarser ones do not count: nothing becomes larger by them.
        for (int round = 0; round < 20; ++round) {
            const double cells = std::accumulate(s.begin(), s.end(), 0.0, [](double sum, double one) { return sum + 1.0 / std::min(one, 1.0); });
            for (std::size_t i = 0; i < s.size(); ++i) s[i] = std::clamp(c / std::cbrt(cells * errors[a][i]), finest, most);
        }
    }
    return size;
}

double error_left(const PerLayer& errors, const PerLayer& size) {
    double sum = 0.0;
    for (std::size_t a = 0; a < 3; ++a) {
        for (std::size_t i = 0; i < size[a].size(); ++i) sum += errors[a][i] * size[a][i] * size[a][i];
    }
    return sum;
}

}  // namespace

Refinement refine_layers(const MeshOptions& options, const Grid& grid, const PerLayer& errors, double share, const Coarsening& coarsening) {
    const double wanted = share * error_left(errors, sizes_for(errors, 1e300, 1.0));
    // The factor of all sizes: what is left grows with it.
    double low = 1e-100, high = 1e100;
    for (int step = 0; step < 400 && high > 1.001 * low; ++step) {
        const double middle = std::sqrt(low * high);
        (error_left(errors, sizes_for(errors, middle, 1.0)) > wanted ? high : low) = middle;
    }
    // What becomes coarser has next to no error, so that nothing else has to become finer for it.
    const PerLayer size = sizes_for(errors, low, coarsening.most);
    const double standard = coarsening.default_size / options.coarsening, largest = std::max(standard, coarsening.largest / options.coarsening);
    Refinement out;
    for (std::size_t a = 0; a < 3; ++a) {
        const int axis = static_cast<int>(a);
        double cells = 0.0;
        for (Index i = 0; i < size[a].size(); ++i) {
            cells += 1.0 / size[a][i];
            out.finer = out.finer || size[a][i] <= no_change;
            const double from = grid.lower(axis, i), to = grid.upper(axis, i);
            double cell = size[a][i] * (to - from) / options.coarsening;
            const bool coarser = coarsening.most > 1.0 && size[a][i] > no_change && cell > standard / no_change;
            if (coarser) cell = std::min(cell, largest);
            const bool was_asked = std::any_of(options.layers.begin(), options.layers.end(),
                                               [&](const LayerSize& l) { return !l.coarser && l.axis == axis && l.from < to && l.to > from; });
            if (!coarser && size[a][i] > no_change && !was_asked) continue;
            // One layer for neighbours of similar size: the smaller one's.
            LayerSize* last = out.layers.empty() ? nullptr : &out.layers.back();
            if (last != nullptr && last->axis == axis && last->to == from && last->coarser == coarser &&
                std::max(cell, last->cell) < 1.25 * std::min(cell, last->cell)) {
                last->to = to;
                last->cell = std::min(last->cell, cell);
            } else {
                out.layers.push_back({.axis = axis, .from = from, .to = to, .cell = cell, .coarser = coarser});
            }
        }
        out.cells *= cells / static_cast<double>(size[a].size());
    }
    return out;
}

}  // namespace firnfield
