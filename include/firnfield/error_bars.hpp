/// How far results may be off because cells have a size: the same study on several meshes, and what they say about the finest.
#pragma once

#include <firnfield/findings.hpp>
#include <firnfield/steady.hpp>

namespace firnfield {

struct ErrorBarOptions {
    int meshes = 3;      ///< 2 or 3; two cannot tell the observed order
    double ratio = 1.5;  ///< of the cell sizes from one mesh to the next
    SteadyOptions steady{};
};

/// A study solved on the finest of the meshes, and its findings with Findings::error_bars and the bars of its figures filled.
struct BarredSolution {
    SteadySolution solution{};
    Findings findings{};
};

/// Solves a study on a mesh finer than the model's, the model's, and a coarser one; where the finer one would pass MeshOptions::max_cells
/// or the machine's memory, on the model's and two coarser ones. Coarser meshes alone tell little where thin parts
/// cannot be coarsened.
///
/// The error of the finest is estimated after L. F. Richardson (1911) with the observed order, times the safety factor 1.25 after
/// P. J. Roache, J. Fluids Eng. 116 (1994) 405. Where the three meshes do not agree on an order, it is the larger of what the last
/// difference and the one before imply at first order, times the same factor.
[[nodiscard]] BarredSolution solve_with_error_bars(const Model& model, const Study& study, const ErrorBarOptions& options = {});

/// The model with the finest of the meshes that error bars were found on.
[[nodiscard]] Model meshed_finest(Model model, const ErrorBars& bars);

/// The estimate for one quantity from its values on meshes whose cells grow by `ratio`, finest first; two or three of them.
[[nodiscard]] DiscretisationError discretisation_error(std::span<const double> values, double ratio);

}  // namespace firnfield
