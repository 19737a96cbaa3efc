/// Aggregation multigrid with K-cycle, as a preconditioner. Hierarchy in single precision, scalar products in double.
///
/// Y. Notay and P. S. Vassilevski, "Recursive Krylov-based multigrid cycles", Numer. Linear Algebra Appl. 15 (2008), 473-487.
#pragma once

#include "linear/level.hpp"

#include <Eigen/Cholesky>

#include <span>
#include <vector>

namespace firnfield {

class Multigrid {
public:
    explicit Multigrid(const NetworkMatrix& matrix);

    /// z ≈ A⁻¹ r: one symmetric cycle. Vectors of the finest level.
    void precondition(std::span<const float> r, std::span<float> z);

    /// Another shift of the same matrix. The aggregates stay, which serves within a factor of about two.
    void shift(double shift);

    [[nodiscard]] const Level& finest() const { return levels_.front(); }
    [[nodiscard]] std::size_t levels() const { return levels_.size(); }
    /// Entries of all levels over those of the finest.
    [[nodiscard]] double operator_complexity() const;
    [[nodiscard]] std::size_t bytes() const;

private:
    /// Work vectors of one level, so that no cycle allocates.
    struct Work {
        std::vector<float> residual, beyond;                                          // of the level
        std::vector<float> right, solution, first, first_image, second, second_image;  // of the next coarser
    };

    void cycle(std::size_t level, std::span<const float> b, std::span<float> x);
    void solve_coarse(std::size_t level, std::span<float> b, std::span<float> x);
    void solve_dense(std::span<const float> b, std::span<float> x);
    void factorise_coarsest();

    std::vector<Level> levels_;  // the last is solved directly
    std::vector<Work> work_;
    Eigen::LLT<Eigen::MatrixXd> dense_;
};

}  // namespace firnfield
