/// Conjugate gradients preconditioned by multigrid, for large systems.
#pragma once

#include "linear/solver.hpp"

namespace firnfield {

[[nodiscard]] std::unique_ptr<LinearSolver> make_multigrid_solver(SymmetricMatrix matrix);

}  // namespace firnfield
