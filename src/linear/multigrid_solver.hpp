/// Conjugate gradients preconditioned by multigrid, for large systems.
#pragma once

#include "linear/solver.hpp"

namespace firnfield {

/// The arrays that the matrix refers to have to outlive the solver.
[[nodiscard]] std::unique_ptr<LinearSolver> make_multigrid_solver(const NetworkMatrix& matrix);

}  // namespace firnfield
