/// Sparse factorisation, for small systems and as the reference in tests.
#pragma once

#include "linear/solver.hpp"

namespace firnfield {

[[nodiscard]] std::unique_ptr<LinearSolver> make_direct_solver(const SymmetricMatrix& matrix);

}  // namespace firnfield
