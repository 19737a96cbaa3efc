#include "linear/solver.hpp"

#include "linear/direct_solver.hpp"
#include "linear/multigrid_solver.hpp"

namespace firnfield {

std::unique_ptr<LinearSolver> make_solver(SymmetricMatrix matrix) {
    constexpr std::size_t largest_direct = 4000;
    if (matrix.rows() <= largest_direct) return make_direct_solver(matrix);
    return make_multigrid_solver(std::move(matrix));
}

}  // namespace firnfield
