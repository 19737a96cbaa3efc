/// The error that the mesh makes in every figure of a steady study.
#pragma once

#include <firnfield/findings.hpp>
#include <firnfield/progress.hpp>

#include "findings/mesh_error.hpp"

namespace firnfield {

/// The findings with every figure moved by what `error` says it is off.
[[nodiscard]] Findings moved(const Model& model, const SteadySolution& solution, Findings findings, const MeshError& error);

/// Works out Figure::bar of all figures of a steady solution; where that fails, a remark says so. Throws Cancelled.
void estimate_errors(const Model& model, const SteadySolution& solution, Findings& findings, const ProgressCallback& progress = {});

/// Remarks on what the errors of figures leave open: limits that cannot be decided, and temperatures that are not known well next to their rise above
/// the coldest surroundings (K).
void tell_uncertain(Findings& findings, double coldest);

}  // namespace firnfield
