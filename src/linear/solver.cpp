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

bool solves_directly(std::size_t nodes) {
    constexpr std::size_t largest = 4000;
    return nodes <= largest;
}

std::unique_ptr<LinearSolver> make_solver(const NetworkMatrix& matrix) {
    if (solves_directly(matrix.nodes)) return make_direct_solver(matrix);
    return make_multigrid_solver(matrix);
}

}  // namespace firnfield
