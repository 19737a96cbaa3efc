#include "linear/multigrid_solver.hpp"

#include "linear/multigrid.hpp"
#include "linear/smoother.hpp"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <limits>

namespace firnfield {
namespace {

constexpr int most_iterations = 300;
constexpr int most_refinements = 6;

double norm_of(const Level& level, std::span<const double> v) {
    return std::sqrt(sum_over_blocks(level, [&](std::size_t b) {
        double sum = 0.0;
        for (std::uint32_t i = level.block[b]; i < level.block[b + 1]; ++i) sum += v[i] * v[i];
        return sum;
    }));
}

/// Flexible conjugate gradients around a cycle in single precision. The iteration multiplies with the couplings of the hierarchy, which
/// are in single precision, too: a matrix that differs from the true one by 6e-8 of every coupling. Iterative refinement with the true
/// one takes that difference away, which costs one or two more products and no second matrix.
class MultigridSolver final : public LinearSolver {
public:
    explicit MultigridSolver(const NetworkMatrix& matrix) : matrix_(matrix), multigrid_(matrix) {}

    LinearSummary solve(std::span<const double> b, std::span<double> x, double tolerance) override {
        const auto start = std::chrono::steady_clock::now();
        const Level& level = multigrid_.finest();
        const std::size_t n = level.rows();
        LinearSummary summary{.method = "conjugate gradients with aggregation multigrid", .levels = static_cast<int>(multigrid_.levels()),
                              .complexity = multigrid_.operator_complexity()};
        r_.resize(n);
        p_.resize(n);
        q_.resize(n);
        single_r_.resize(n);
        single_z_.resize(n);
        const double scale = norm_of(level, b);
        if (scale == 0.0) {
            std::fill(x.begin(), x.end(), 0.0);
            summary.converged = true;
            return summary;
        }
        const double target = tolerance * scale;
        target_scale_ = scale;
        double last = 0.0;
        for (int refinement = 0; refinement < most_refinements; ++refinement) {
            const double norm = true_residual(b, x);
            summary.relative_residual = norm / scale;
            summary.converged = norm <= target;
            if (summary.converged || summary.iterations >= most_iterations) break;
            if (refinement > 0 && norm > 0.5 * last) {
                summary.converged = norm <= rounding_of(x);  // as far as double precision goes
                break;
            }
            last = norm;
            iterate(x, norm, target, summary.iterations);
        }
        summary.bytes = multigrid_.bytes() + 8 * (r_.size() + p_.size() + q_.size()) + 4 * (single_r_.size() + single_z_.size());
        summary.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        return summary;
    }

    void precondition(std::span<const double> r, std::span<double> z) override {
        const Level& level = multigrid_.finest();
        const double norm = norm_of(level, r);
        single_r_.resize(level.rows());
        single_z_.resize(level.rows());
        for (std::size_t i = 0; i < level.rows(); ++i) single_r_[i] = norm > 0.0 ? static_cast<float>(r[i] / norm) : 0.0F;
        multigrid_.precondition(single_r_, single_z_);
        for (std::size_t i = 0; i < level.rows(); ++i) z[i] = norm * static_cast<double>(single_z_[i]);
    }

    void shift(double shift) override {
        matrix_.shift = shift;
        multigrid_.shift(shift);
    }

private:
    double true_residual(std::span<const double> b, std::span<const double> x) {
        multiply(matrix_, x, r_);
        for (std::size_t i = 0; i < r_.size(); ++i) r_[i] = b[i] - r_[i];
        return norm_of(multigrid_.finest(), r_);
    }

    /// Norm of what double precision leaves of a residual: the last digit of every row's diagonal times its value.
    double rounding_of(std::span<const double> x) const {
        const Level& level = multigrid_.finest();
        return 4.0 * std::numeric_limits<double>::epsilon() * std::sqrt(sum_over_blocks(level, [&](std::size_t b) {
                   double sum = 0.0;
                   for (std::uint32_t i = level.block[b]; i < level.block[b + 1]; ++i) {
                       const double heat = x[i] / static_cast<double>(level.inverse_diagonal[i]);
                       sum += heat * heat;
                   }
                   return sum;
               }));
    }

    /// Improves x from the residual in r_ until the updated residual meets the target.
    void iterate(std::span<double> x, double norm, double target, int& iterations) {
        const Level& level = multigrid_.finest();
        const auto blocks = [&](const auto& work) { return sum_over_blocks(level, work); };
        double rho = 0.0;
        while (norm > target && iterations < most_iterations) {
            // Scaled to norm one, so that single precision neither overflows nor loses small residuals.
            const double down = 1.0 / norm;
            for_each_block(level, [&](std::size_t b) {
                for (std::uint32_t i = level.block[b]; i < level.block[b + 1]; ++i) single_r_[i] = static_cast<float>(down * r_[i]);
            });
            multigrid_.precondition(single_r_, single_z_);
            // Flexible: the direction is made conjugate to the last one by its image, since the cycle is not linear.
            double overlap = 0.0;
            if (rho > 0.0) {
                overlap = blocks([&](std::size_t b) {
                    double sum = 0.0;
                    for (std::uint32_t i = level.block[b]; i < level.block[b + 1]; ++i) sum += static_cast<double>(single_z_[i]) * q_[i];
                    return sum;
                }) * norm / rho;
            }
            const double along = blocks([&](std::size_t b) {
                double sum = 0.0;
                for (std::uint32_t i = level.block[b]; i < level.block[b + 1]; ++i) {
                    const double old = rho > 0.0 ? overlap * p_[i] : 0.0;
                    p_[i] = norm * static_cast<double>(single_z_[i]) - old;
                    sum += p_[i] * r_[i];
                }
                return sum;
            });
            rho = multiply(level, std::span<const double>(p_), q_);
            if (!(rho > 0.0)) return;
            const double step = along / rho;
            norm = std::sqrt(blocks([&](std::size_t b) {
                double sum = 0.0;
                for (std::uint32_t i = level.block[b]; i < level.block[b + 1]; ++i) {
                    x[i] += step * p_[i];
                    r_[i] -= step * q_[i];
                    sum += r_[i] * r_[i];
                }
                return sum;
            }));
            ++iterations;
            if (watch) watch(iterations, norm / target_scale_);
        }
    }

    NetworkMatrix matrix_;
    Multigrid multigrid_;
    std::vector<double> r_, p_, q_;
    std::vector<float> single_r_, single_z_;
    double target_scale_ = 1.0;
};

}  // namespace

std::unique_ptr<LinearSolver> make_multigrid_solver(const NetworkMatrix& matrix) { return std::make_unique<MultigridSolver>(matrix); }

}  // namespace firnfield
