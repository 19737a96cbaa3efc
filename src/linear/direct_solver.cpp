// Sparse LDLᵀ factorisation with iterative refinement, for small systems.

#include "linear/direct_solver.hpp"

#include <firnfield/error.hpp>

#include <fmt/format.h>
#include <Eigen/SparseCholesky>
#include <Eigen/SparseCore>

#include <algorithm>
#include <chrono>
#include <limits>

namespace firnfield {
namespace {

using EigenMatrix = Eigen::SparseMatrix<double, Eigen::ColMajor, int>;
using ConstVector = Eigen::Map<const Eigen::VectorXd>;
using Vector = Eigen::Map<Eigen::VectorXd>;

EigenMatrix to_eigen(const NetworkMatrix& matrix) {
    std::vector<Eigen::Triplet<double>> entries;
    for (const Edges& edges : matrix.edges) {
        for (std::size_t e = 0; e < edges.first.size(); ++e) {
            const auto i = static_cast<int>(edges.first[e]), j = static_cast<int>(edges.second[e]);
            const double g = edges.conductance[e];
            entries.insert(entries.end(), {{i, i, g}, {j, j, g}, {i, j, -g}, {j, i, -g}});
        }
    }
    for (std::size_t i = 0; i < matrix.nodes; ++i) {
        const double excess = matrix.excess[i] + (matrix.capacity.empty() ? 0.0 : matrix.shift * matrix.capacity[i]);
        entries.emplace_back(static_cast<int>(i), static_cast<int>(i), excess);
    }
    EigenMatrix out(static_cast<Eigen::Index>(matrix.nodes), static_cast<Eigen::Index>(matrix.nodes));
    out.setFromTriplets(entries.begin(), entries.end());
    return out;
}

/// LDLᵀ with approximate-minimum-degree ordering, and refinement in flux form for the last digits.
class DirectSolver final : public LinearSolver {
public:
    explicit DirectSolver(const NetworkMatrix& matrix) : matrix_(matrix) {
        const EigenMatrix full = to_eigen(matrix_);
        factor_.analyzePattern(full);
        if (const double entries = factor_.entries(); entries > most_entries) {
            throw ComputationError(fmt::format("a sparse factorisation of the heat-conductance matrix would take {:.2g} entries", entries));
        }
        factorise(full);
    }

    LinearSummary solve(std::span<const double> b, std::span<double> x, double tolerance) override {
        const auto start = std::chrono::steady_clock::now();
        const ConstVector rhs(b.data(), static_cast<Eigen::Index>(b.size()));
        Vector solution(x.data(), static_cast<Eigen::Index>(x.size()));
        Eigen::VectorXd residual(rhs.size());
        const auto relative_residual = [&] {
            multiply(matrix_, x, {residual.data(), static_cast<std::size_t>(residual.size())});
            residual = rhs - residual;
            const double scale = rhs.norm();
            return scale > 0.0 ? residual.norm() / scale : 0.0;
        };
        solution = factor_.solve(rhs);
        LinearSummary summary{.method = "sparse Cholesky factorisation", .iterations = 1, .relative_residual = relative_residual()};
        constexpr int most_refinements = 6;
        while (summary.relative_residual > tolerance && summary.iterations < most_refinements) {
            const Eigen::VectorXd before = solution;
            const double last = summary.relative_residual;
            solution += factor_.solve(residual);
            summary.relative_residual = relative_residual();
            ++summary.iterations;
            if (summary.relative_residual <= 0.5 * last) continue;
            if (summary.relative_residual > last) {
                solution = before;
                summary.relative_residual = relative_residual();
            }
            break;
        }
        // As multigrid ends: to the tolerance, or as far as double precision goes.
        summary.converged = summary.relative_residual <= std::max(tolerance, 1e-12) || summary.relative_residual * rhs.norm() <= rounding_of(solution);
        summary.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        return summary;
    }

    void precondition(std::span<const double> r, std::span<double> z) override {
        Vector(z.data(), static_cast<Eigen::Index>(z.size())) = factor_.solve(ConstVector(r.data(), static_cast<Eigen::Index>(r.size())));
    }

    void shift(double shift) override {
        matrix_.shift = shift;
        factorise(to_eigen(matrix_));
    }

private:
    /// Norm of what double precision leaves of a residual: the last digit of every row's diagonal times its value.
    [[nodiscard]] double rounding_of(const Vector& x) const { return 4.0 * std::numeric_limits<double>::epsilon() * diagonal_.cwiseProduct(x).norm(); }

    void factorise(const EigenMatrix& full) {
        diagonal_ = full.diagonal();
        factor_.factorize(full);
        if (factor_.info() != Eigen::Success) throw ComputationError("the heat-conductance matrix could not be factorised");
    }

    /// The factorisation, and what it takes.
    struct Factor : Eigen::SimplicialLDLT<EigenMatrix> {
        [[nodiscard]] double entries() const { return m_nonZerosPerCol.cast<double>().sum(); }
    };
    static constexpr double most_entries = 1.5e8;  // 2 GB

    NetworkMatrix matrix_;
    Factor factor_;
    Eigen::VectorXd diagonal_;
};

}  // namespace

std::unique_ptr<LinearSolver> make_direct_solver(const NetworkMatrix& matrix) { return std::make_unique<DirectSolver>(matrix); }

}  // namespace firnfield
