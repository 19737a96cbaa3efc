/// Sparse factorisation, for small systems and as the reference in tests.
#pragma once

#include "linear/solver.hpp"

namespace firnfield {

/// The arrays that the matrix refers to have to outlive the solver.
[[nodiscard]] std::unique_ptr<LinearSolver> make_direct_solver(const NetworkMatrix& matrix);

}  // namespace firnfield
