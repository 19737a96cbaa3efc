/// The error that the mesh makes in every figure of a steady study.
#pragma once

#include <firnfield/findings.hpp>
#include <firnfield/progress.hpp>

#include "findings/mesh_error.hpp"

#include <functional>

namespace firnfield {

/// Findings without errors, of the solution as it is or corrected by what `error` says it is off; in the latter case hottest and coldest places
/// may be moved by what is in doubt of them besides.
[[nodiscard]] Findings evaluate(const Model& model, const SteadySolution& solution, const MeshError* error = nullptr, bool doubted = false);

/// The findings that evaluate() made of a steady solution, corrected, with Figure::bar and Figure::solved; as they were where that fails, and a
/// remark says so. In the former case `then` may look at them, and where the errors come from. Throws Cancelled.
[[nodiscard]] Findings with_errors(const Model& model, const SteadySolution& solution, Findings solved, const ProgressCallback& progress = {},
                                   const std::function<void(MeshError&, const Findings&)>& then = {});

/// What an error is seen next to: of a temperature its rise above the coldest surroundings (K), of the rest the value itself.
[[nodiscard]] double scale_of(const Figure& figure, double coldest);

/// Remarks on what the errors of figures leave open: limits that cannot be decided, and temperatures that are not known well next to their rise above
/// the coldest surroundings (K).
void tell_uncertain(Findings& findings, double coldest);

}  // namespace firnfield
