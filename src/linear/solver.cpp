#include "linear/solver.hpp"

#include "linear/direct_solver.hpp"
#include "linear/multigrid_solver.hpp"

#include <fmt/format.h>

namespace firnfield {

std::string LinearSummary::text() const {
    const std::string hierarchy = levels > 0 ? fmt::format(", {} levels, complexity {:.2f}", levels, complexity) : std::string();
    return fmt::format("{}{}: {} iteration{} to {:.1g} in {:.2g} s, {:.3g} MB{}", method, hierarchy, iterations, iterations == 1 ? "" : "s", relative_residual, seconds,
                       1e-6 * static_cast<double>(bytes), converged ? "" : ", not converged");
}

bool solves_directly(std::size_t nodes, Solves solves) {
    // A factorisation of 1000 nodes takes a few milliseconds. It takes longer than multigrid, but solves five to ten times as fast: for many
    // right-hand sides that is worth it up to the larger size.
    return nodes <= (solves == Solves::few ? 1000U : 4000U);
}

std::unique_ptr<LinearSolver> make_solver(const NetworkMatrix& matrix, Solves solves) {
    if (solves_directly(matrix.nodes, solves)) return make_direct_solver(matrix);
    return make_multigrid_solver(matrix);
}

}  // namespace firnfield
