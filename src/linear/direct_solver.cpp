#include "linear/direct_solver.hpp"

#include <firnfield/error.hpp>

#include <Eigen/SparseCholesky>
#include <Eigen/SparseCore>

#include <cmath>

namespace firnfield {
namespace {

using EigenMatrix = Eigen::SparseMatrix<double, Eigen::ColMajor, int>;
using ConstVector = Eigen::Map<const Eigen::VectorXd>;
using Vector = Eigen::Map<Eigen::VectorXd>;

EigenMatrix to_eigen(const SymmetricMatrix& matrix) {
    const auto rows = static_cast<Eigen::Index>(matrix.rows());
    EigenMatrix out(rows, rows);
    std::vector<int> count(matrix.rows());
    for (std::size_t r = 0; r < matrix.rows(); ++r) count[r] = static_cast<int>(matrix.row_start[r + 1] - matrix.row_start[r]) + 1;
    out.reserve(count);
    for (std::size_t r = 0; r < matrix.rows(); ++r) {
        const auto row = static_cast<Eigen::Index>(r);
        for (std::uint64_t at = matrix.row_start[r]; at < matrix.row_start[r + 1]; ++at) {
            out.insert(static_cast<Eigen::Index>(matrix.column[at]), row) = -matrix.coupling[at];
        }
        out.insert(row, row) = matrix.diagonal[r];
    }
    out.makeCompressed();
    return out;
}

double relative_residual(const EigenMatrix& matrix, const ConstVector& b, const Vector& x) {
    const double scale = b.norm();
    return scale > 0.0 ? (b - matrix * x).norm() / scale : 0.0;
}

/// LDLᵀ with approximate-minimum-degree ordering, and refinement for the last digits.
class DirectSolver final : public LinearSolver {
public:
    explicit DirectSolver(const SymmetricMatrix& matrix) : matrix_(to_eigen(matrix)), factor_(matrix_) {
        if (factor_.info() != Eigen::Success) throw ComputationError("the heat-conductance matrix could not be factorised");
    }

    LinearSummary solve(std::span<const double> b, std::span<double> x, double tolerance) override {
        const ConstVector rhs(b.data(), static_cast<Eigen::Index>(b.size()));
        Vector solution(x.data(), static_cast<Eigen::Index>(x.size()));
        solution = factor_.solve(rhs);
        LinearSummary summary{.method = "sparse Cholesky factorisation", .iterations = 1, .relative_residual = 0.0, .converged = true};
        summary.relative_residual = relative_residual(matrix_, rhs, solution);
        while (summary.relative_residual > tolerance && summary.iterations < 4) {
            solution += factor_.solve(rhs - matrix_ * solution);
            summary.relative_residual = relative_residual(matrix_, rhs, solution);
            ++summary.iterations;
        }
        summary.converged = summary.relative_residual <= std::max(tolerance, 1e-12);
        return summary;
    }

private:
    EigenMatrix matrix_;
    Eigen::SimplicialLDLT<EigenMatrix> factor_;
};

}  // namespace

std::unique_ptr<LinearSolver> make_direct_solver(const SymmetricMatrix& matrix) { return std::make_unique<DirectSolver>(matrix); }

}  // namespace firnfield
