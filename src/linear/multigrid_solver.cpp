// Flexible conjugate gradients with the multigrid cycle, and refinement of the residual in double precision.

#include "linear/multigrid_solver.hpp"

#include "linear/multigrid.hpp"
#include "linear/parts.hpp"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <limits>

namespace firnfield {
namespace {

constexpr int most_iterations = 300;
constexpr int most_refinements = 12;
constexpr double reduction_at_a_time = 1e-5;  // what residuals in single precision can hold

double sum_of_squares(std::span<const double> v) {
    return sum_rows(v.size(), [&](std::size_t first, std::size_t last) {
        double sum = 0.0;
#pragma omp simd reduction(+ : sum)
        for (std::size_t i = first; i < last; ++i) sum += v[i] * v[i];
        return sum;
    });
}

/// Flexible conjugate gradients around a cycle in single precision. Vectors are in double precision: temperatures across strong couplings differ
/// in their last digits. The iteration multiplies with the couplings of the hierarchy, which are in single precision: a matrix that differs from
/// the true one by 6e-8 of every coupling. Iterative refinement with the true one takes that difference away, which costs one or two more
/// products and no second matrix.
class MultigridSolver final : public LinearSolver {
public:
    explicit MultigridSolver(const NetworkMatrix& matrix) : matrix_(matrix), multigrid_(matrix) {}

    LinearSummary solve(std::span<const double> b, std::span<double> x, double tolerance) override {
        const auto start = std::chrono::steady_clock::now();
        const std::size_t n = matrix_.nodes;
        LinearSummary summary{.method = "conjugate gradients with aggregation multigrid",
                              .levels = static_cast<int>(multigrid_.levels()),
                              .complexity = multigrid_.operator_complexity()};
        const double scale = std::sqrt(sum_of_squares(b));
        if (scale == 0.0) {
            std::fill(x.begin(), x.end(), 0.0);
            summary.converged = true;
            return summary;
        }
        for (std::vector<double>* v : {&r_, &p_}) v->resize(n);
        for (std::vector<float>* v : {&residual_, &z_, &q_}) v->resize(n);
        double last = 0.0;
        for (int refinement = 0; refinement <= most_refinements; ++refinement) {
            const double norm = true_residual(b, x);
            summary.relative_residual = norm / scale;
            summary.converged = norm <= tolerance * scale;
            if (summary.converged || summary.iterations >= most_iterations) break;
            if (refinement > 0 && norm > 0.5 * last) {
                summary.converged = norm <= rounding_of(x);  // as far as double precision goes
                break;
            }
            last = norm;
            iterate(x, norm, std::max(tolerance * scale / norm, reduction_at_a_time), norm / scale, summary.iterations);
        }
        summary.bytes = multigrid_.bytes() + (2 * sizeof(double) + 3 * sizeof(float)) * n;
        summary.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        return summary;
    }

    void precondition(std::span<const double> r, std::span<double> z) override {
        const std::size_t n = matrix_.nodes;
        const double norm = std::sqrt(sum_of_squares(r));
        if (norm == 0.0) return std::fill(z.begin(), z.end(), 0.0);
        residual_.resize(n);
        z_.resize(n);
        for (std::size_t i = 0; i < n; ++i) residual_[i] = static_cast<float>(r[node(i)] / norm);
        multigrid_.precondition(residual_, z_);
        for (std::size_t i = 0; i < n; ++i) z[node(i)] = norm * static_cast<double>(z_[i]);
    }

    void shift(double shift) override {
        matrix_.shift = shift;
        multigrid_.shift(shift);
    }

private:
    /// The node of a row of the hierarchy.
    [[nodiscard]] std::size_t node(std::size_t row) const { return matrix_.order.empty() ? row : matrix_.order[row]; }

    /// Sets r_ = b − A x, with the matrix as given, and returns its norm.
    double true_residual(std::span<const double> b, std::span<const double> x) {
        multiply(matrix_, x, r_);
        for_rows(r_.size(), [&](std::size_t first, std::size_t last) {
            for (std::size_t i = first; i < last; ++i) r_[i] = b[i] - r_[i];
        });
        return std::sqrt(sum_of_squares(r_));
    }

    /// Norm of what double precision leaves of a residual: the last digit of every row's diagonal times its value.
    double rounding_of(std::span<const double> x) const {
        double sum = 0.0;
        for (std::size_t i = 0; i < x.size(); ++i) {
            const double heat = x[node(i)] / static_cast<double>(multigrid_.finest().inverse_diagonal[i]);
            sum += heat * heat;
        }
        return 4.0 * std::numeric_limits<double>::epsilon() * std::sqrt(sum);
    }

    /// Improves x from the residual r_ of norm `norm` until the updated one is smaller by the factor `reduction`. It is scaled to norm one, so that
    /// single precision neither overflows nor loses small residuals.
    void iterate(std::span<double> x, double norm, double reduction, double relative_residual, int& iterations) {
        const std::size_t n = r_.size();
        for_rows(n, [&](std::size_t first, std::size_t last) {
            for (std::size_t i = first; i < last; ++i) residual_[i] = static_cast<float>(r_[node(i)] / norm);
        });
        std::vector<double>& correction = r_;  // has done its work
        std::fill(correction.begin(), correction.end(), 0.0);
        std::fill(p_.begin(), p_.end(), 0.0);
        double rho = 0.0, left = 1.0;
        while (left > reduction && iterations < most_iterations) {
            multigrid_.precondition(residual_, z_);
            // Flexible: the direction is made conjugate to the last one by its image, since the cycle is not linear.
            const double overlap = rho > 0.0 ? dot(z_, q_) / rho : 0.0;
            const double along = dot(z_, residual_);
            rho = next_direction(multigrid_.finest(), z_, overlap, p_, q_);
            if (!(rho > 0.0)) break;
            const double step = along / rho;
            const auto single_step = static_cast<float>(step);
            left = std::sqrt(sum_rows(n, [&](std::size_t first, std::size_t last) {
                double sum = 0.0;
#pragma omp simd reduction(+ : sum)
                for (std::size_t i = first; i < last; ++i) {
                    correction[i] += step * p_[i];
                    residual_[i] -= single_step * q_[i];
                    sum += static_cast<double>(residual_[i]) * static_cast<double>(residual_[i]);
                }
                return sum;
            }));
            ++iterations;
            if (watch) watch(iterations, left * relative_residual);
        }
        for_rows(n, [&](std::size_t first, std::size_t last) {
            for (std::size_t i = first; i < last; ++i) x[node(i)] += norm * correction[i];
        });
    }

    NetworkMatrix matrix_;
    Multigrid multigrid_;
    std::vector<double> r_, p_;
    std::vector<float> residual_, z_, q_;
};

}  // namespace

std::unique_ptr<LinearSolver> make_multigrid_solver(const NetworkMatrix& matrix) { return std::make_unique<MultigridSolver>(matrix); }

}  // namespace firnfield
