/// Local refinement: which layers of the grid the discretisation error comes from, and the cell sizes that halve it at the least cost.
#pragma once

#include <firnfield/steady.hpp>

#include <array>
#include <vector>

namespace firnfield {

/// What a linear profile in each cell misses, by axis and layer of the grid: Σ k V (h ∂²T/∂x²)²/12 over the cells of a layer,
/// the square of an energy norm, in W K. It falls with the square of the cell size along that axis, as errors of temperatures do.
[[nodiscard]] std::array<std::vector<double>, 3> layer_errors(const Model& model, const SteadySolution& solution);

/// Cell sizes for MeshOptions::layers, and what they cost.
struct Refinement {
    std::vector<LayerSize> layers{};
    double cells = 1.0;  ///< so many times the cells of the present mesh
};

/// The sizes that bring the sum of the layers' errors down to `share` of what it is, with as few cells as possible: with
/// sizes s of the layers i of the axes a, Π_a Σ_i 1/s is least for s ∝ (N_a E_ai)^(-1/3), N_a the cells along the axis, E_ai the errors.
/// (The principle of equal gain everywhere is that of W. Dörfler, SIAM J. Numer. Anal. 33 (1996) 1106, for whole layers.)
/// `grid` is that of `errors`; layers of `options` that are finer are kept.
[[nodiscard]] Refinement refine_layers(const MeshOptions& options, const Grid& grid, const std::array<std::vector<double>, 3>& errors, double share);

}  // namespace firnfield
