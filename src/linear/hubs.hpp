/// Systems in which a few nodes are coupled strongly to very many others, as a lumped node is to every cell of a part.
///
/// Pairwise aggregation cannot put such a hub and its cells into one aggregate, and apart they hold each other back. So the system is solved around the
/// hubs: with A = [K −G; −Gᵀ D], hubs last, K alone is what multigrid likes best (its couplings to the hubs are excess), and D − Gᵀ K⁻¹ G is a small dense
/// matrix. What rounding and inexact solves leave is taken by iterative refinement with A as it is.
#pragma once

#include "linear/solver.hpp"

#include <vector>

namespace firnfield {

/// The hubs of a matrix, the strongest first; at most `most_hubs`.
[[nodiscard]] std::vector<std::uint32_t> find_hubs(const NetworkMatrix& matrix);
inline constexpr std::size_t most_hubs = 16;

/// A solver around hubs; `make_inner` makes one for the matrix without them. The arrays that the matrix refers to have to outlive it.
[[nodiscard]] std::unique_ptr<LinearSolver> make_solver_around(const NetworkMatrix& matrix, std::vector<std::uint32_t> hubs,
                                                               const std::function<std::unique_ptr<LinearSolver>(const NetworkMatrix&)>& make_inner);

}  // namespace firnfield
