/// Local refinement: the cell sizes in the layers of the grid that lower an error at the least cost.
#pragma once

#include <firnfield/mesh.hpp>

#include <array>
#include <vector>

namespace firnfield {

/// By axis and layer of the grid.
using PerLayer = std::array<std::vector<double>, 3>;

/// Cell sizes for MeshOptions::layers, and what they cost.
struct Refinement {
    std::vector<LayerSize> layers{};
    double cells = 1.0;  ///< so many times the cells of the present mesh
    bool finer = false;  ///< somewhere
};

/// How far cells may grow where nothing depends on them.
struct Coarsening {
    double most = 1.0;          ///< times their size at once
    double default_size = 0.0;  ///< m: what is larger takes its place (LayerSize::coarser)
    double largest = 0.0;       ///< m
};

/// The sizes that bring the sum of the layers' errors down to `share` of what it is, with as few cells as possible: with
/// sizes s of the layers i of the axes a, Π_a Σ_i 1/s is least for s ∝ (N_a E_ai)^(-1/3), N_a the cells along the axis, E_ai the errors.
/// (The principle of equal gain everywhere is that of W. Dörfler, SIAM J. Numer. Anal. 33 (1996) 1106, for whole layers.)
/// `grid` is that of `errors`; layers of `options` that are finer are kept, unless coarsening lets them go.
[[nodiscard]] Refinement refine_layers(const MeshOptions& options, const Grid& grid, const PerLayer& errors, double share, const Coarsening& coarsening = {});

}  // namespace firnfield
