// Which solver a system takes, and what it says of its work.

#include "linear/solver.hpp"

#include <firnfield/error.hpp>

#include "linear/direct_solver.hpp"
#include "linear/hubs.hpp"
#include "linear/multigrid_solver.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <vector>

namespace firnfield {

std::string LinearSummary::text() const {
    const std::string hierarchy = levels > 0 ? fmt::format(", {} levels, complexity {:.2f}", levels, complexity) : std::string();
    return fmt::format("{}{}: {} iteration{} to {:.1g} in {:.2g} s, {:.3g} MB{}", method, hierarchy, iterations, iterations == 1 ? "" : "s", relative_residual,
                       seconds, 1e-6 * static_cast<double>(bytes), converged ? "" : ", not converged");
}

bool solves_directly(std::size_t nodes, Solves solves) {
    // A factorisation of 1000 nodes takes a few milliseconds. It takes longer than multigrid, but solves five to ten times as fast: for many
    // right-hand sides that is worth it up to the larger size.
    return nodes <= (solves == Solves::few ? 1000U : 4000U);
}

namespace {

/// Multigrid, and where it does not get there a factorisation, if the matrix is sparse enough for one: long chains of conductances over many
/// decades are hard for any iteration and next to nothing for a factorisation.
class Iterative final : public LinearSolver {
public:
    explicit Iterative(const NetworkMatrix& matrix) : matrix_(matrix) {
        try {
            multigrid_ = make_multigrid_solver(matrix);
        } catch (const ComputationError&) {
            direct_ = make_direct_solver(matrix);
        }
    }

    LinearSummary solve(std::span<const double> b, std::span<double> x, double tolerance) override {
        if (direct_) return direct_->solve(b, x, tolerance);
        multigrid_->watch = watch;
        const std::vector<double> first(x.begin(), x.end());
        const LinearSummary summary = multigrid_->solve(b, x, tolerance);
        if (summary.converged) return summary;
        const std::vector<double> reached(x.begin(), x.end());
        std::copy(first.begin(), first.end(), x.begin());
        try {
            auto direct = make_direct_solver(matrix_);
            const LinearSummary other = direct->solve(b, x, tolerance);
            if (other.relative_residual < summary.relative_residual) {
                direct_ = std::move(direct);
                return other;
            }
        } catch (const ComputationError&) {
            // Too large, or no better.
        }
        std::copy(reached.begin(), reached.end(), x.begin());
        return summary;
    }

    void precondition(std::span<const double> r, std::span<double> z) override { (direct_ ? direct_ : multigrid_)->precondition(r, z); }

    void shift(double shift) override {
        matrix_.shift = shift;
        if (multigrid_) {
            multigrid_->shift(shift);
            direct_.reset();
        } else {
            direct_->shift(shift);
        }
    }

private:
    NetworkMatrix matrix_;
    std::unique_ptr<LinearSolver> multigrid_, direct_;
};

}  // namespace

std::unique_ptr<LinearSolver> make_solver(const NetworkMatrix& matrix, Solves solves) {
    if (solves_directly(matrix.nodes, solves)) return make_direct_solver(matrix);
    const auto iterative = [](const NetworkMatrix& m) -> std::unique_ptr<LinearSolver> { return std::make_unique<Iterative>(m); };
    std::vector<std::uint32_t> hubs = find_hubs(matrix);
    return hubs.empty() ? iterative(matrix) : make_solver_around(matrix, std::move(hubs), iterative);
}

}  // namespace firnfield
