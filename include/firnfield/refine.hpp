/// A steady study on a mesh that is refined, layer by layer of the grid, until what matters is known well enough.
#pragma once

#include <firnfield/findings.hpp>
#include <firnfield/steady.hpp>

namespace firnfield {

struct RefineOptions {
    double share = 0.01;      ///< of its own rise that a temperature may be off, unless MeshOptions::error_target says how many kelvin
    int most_rounds = 6;      ///< solves
    double most_cells = 1e6;  ///< unless there is an error target; MeshOptions::max_cells and the machine's memory hold in any case
    /// Layers that none of these depends on get larger cells, twice the default size at most. Never where MeshOptions::cell is given or a study in time
    /// shares the mesh; where designs do, what matters in one of them may not matter in the first.
    bool coarsen = true;
    SteadyOptions steady{};
};

/// Where a model has studies in time only: each of many steps costs several solves.
inline constexpr double most_cells_in_time = 2e5;

/// A study solved on the last of the meshes, and its findings with Findings::refinement and Findings::layers.
struct RefinedSolution {
    SteadySolution solution{};
    Findings findings{};
};

/// Solves a study, and again with finer layers where the error of a limit's temperature, a sensor or the hottest place comes from, until each of them is
/// known to `share` of its rise above the coldest surroundings (of a twentieth of the largest rise at least); with an error target, until these and the
/// hottest place of every part are known to that. Where caps end it before, MeshRefinement::outlook says what was reached.
///
/// Where an error comes from: what each drop is off (network/defects.hpp) times the heat that a watt at the place would send through it, the adjoint
/// (goal-oriented error estimation: R. Becker and R. Rannacher, Acta Numerica 10 (2001) 1). A mesh that is fine enough costs one solve and the estimate.
[[nodiscard]] RefinedSolution solve_refined(const Model& model, const Study& study, const RefineOptions& options = {});

/// MeshOptions::layers that the model's first steady study is refined to; without one, that which its first study in time would settle to with its loads on
/// all the time, to most_cells_in_time at most instead of RefineOptions::most_cells. The model's own where it is not to be refined, or where that cannot be
/// solved. Throws Cancelled.
[[nodiscard]] std::vector<LayerSize> refined_layers(const Model& model, RefineOptions options = {});

/// The model with the layers that refinement found: the same mesh for other designs and studies.
[[nodiscard]] Model with_layers(Model model, std::span<const LayerSize> layers);

}  // namespace firnfield
