#include "linear/multigrid_solver.hpp"

#include "linear/multigrid.hpp"

#include <fmt/format.h>

#include <cmath>

namespace firnfield {
namespace {

constexpr int most_iterations = 300;

double dot(const std::vector<double>& a, const std::vector<double>& b) {
    double sum = 0.0;
    for (std::size_t i = 0; i < a.size(); ++i) sum += a[i] * b[i];
    return sum;
}

/// y = A x in flux form; rows are independent, so the result does not depend on the number of threads.
void multiply(const SymmetricMatrix& matrix, std::span<const double> x, std::vector<double>& y) {
    const auto rows = static_cast<std::ptrdiff_t>(matrix.rows());
#pragma omp parallel for schedule(static) if (rows > 50000)
    for (std::ptrdiff_t row = 0; row < rows; ++row) {
        const auto i = static_cast<std::size_t>(row);
        double sum = matrix.excess[i] * x[i];
        for (std::uint64_t at = matrix.row_start[i]; at < matrix.row_start[i + 1]; ++at) sum += matrix.coupling[at] * (x[i] - x[matrix.column[at]]);
        y[i] = sum;
    }
}

/// Flexible conjugate gradients in double around a cycle in single precision.
class MultigridSolver final : public LinearSolver {
public:
    explicit MultigridSolver(SymmetricMatrix matrix) : matrix_(std::move(matrix)), multigrid_(matrix_) {}

    LinearSummary solve(std::span<const double> b, std::span<double> x, double tolerance) override {
        const std::size_t n = matrix_.rows();
        std::vector<double> r(n), p(n, 0.0), q(n, 0.0), z(n);
        LinearSummary summary;
        summary.method = fmt::format("conjugate gradients with aggregation multigrid, {} levels, complexity {:.2f}", multigrid_.levels(),
                                     multigrid_.operator_complexity());
        const double scale = std::sqrt(dot({b.begin(), b.end()}, {b.begin(), b.end()}));
        if (scale == 0.0) {
            std::fill(x.begin(), x.end(), 0.0);
            summary.converged = true;
            return summary;
        }
        multiply(matrix_, x, r);
        for (std::size_t i = 0; i < n; ++i) r[i] = b[i] - r[i];
        double norm = std::sqrt(dot(r, r)), rho = 0.0;
        while (norm > tolerance * scale && summary.iterations < most_iterations) {
            precondition(r, norm, z);
            // Flexible: the direction is made conjugate to the last one by its image, since the cycle is not linear.
            const double overlap = rho > 0.0 ? dot(z, q) / rho : 0.0;
            for (std::size_t i = 0; i < n; ++i) p[i] = z[i] - overlap * p[i];
            multiply(matrix_, p, q);
            rho = dot(p, q);
            if (!(rho > 0.0)) break;
            const double step = dot(p, r) / rho;
            for (std::size_t i = 0; i < n; ++i) {
                x[i] += step * p[i];
                r[i] -= step * q[i];
            }
            norm = std::sqrt(dot(r, r));
            ++summary.iterations;
        }
        multiply(matrix_, x, q);  // the true residual, not the updated one
        double square = 0.0;
        for (std::size_t i = 0; i < n; ++i) square += (b[i] - q[i]) * (b[i] - q[i]);
        summary.relative_residual = std::sqrt(square) / scale;
        summary.converged = norm <= tolerance * scale;
        return summary;
    }

private:
    void precondition(const std::vector<double>& r, double norm, std::vector<double>& z) {
        single_r_.resize(r.size());
        single_z_.resize(r.size());
        // Scaled to norm one, so that single precision neither overflows nor loses small residuals.
        for (std::size_t i = 0; i < r.size(); ++i) single_r_[i] = static_cast<float>(r[i] / norm);
        multigrid_.precondition(single_r_, single_z_);
        for (std::size_t i = 0; i < r.size(); ++i) z[i] = norm * static_cast<double>(single_z_[i]);
    }

    SymmetricMatrix matrix_;
    Multigrid multigrid_;
    std::vector<float> single_r_, single_z_;
};

}  // namespace

std::unique_ptr<LinearSolver> make_multigrid_solver(SymmetricMatrix matrix) { return std::make_unique<MultigridSolver>(std::move(matrix)); }

}  // namespace firnfield
