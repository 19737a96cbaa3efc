/// Aggregation multigrid with K-cycle, as a preconditioner. Hierarchy in single precision, scalar products in double.
///
/// Y. Notay and P. S. Vassilevski, "Recursive Krylov-based multigrid cycles", Numer. Linear Algebra Appl. 15 (2008), 473-487.
#pragma once

#include "linear/colours.hpp"
#include "linear/strips.hpp"

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

    [[nodiscard]] const StripMatrix& finest() const { return finest_; }
    [[nodiscard]] std::size_t levels() const { return coarse_.size() + 2; }
    /// Entries of all levels over those of the finest.
    [[nodiscard]] double operator_complexity() const;
    [[nodiscard]] std::size_t bytes() const;

private:
    /// Work vectors of one level, so that no cycle allocates.
    struct Work {
        std::vector<float> residual;
        std::vector<float> right, solution, first, first_image, second;  // of the next coarser
    };

    template <typename Matrix>
    void cycle(const Matrix& matrix, std::size_t level, std::span<const float> b, std::span<float> x);
    void solve_coarse(std::size_t level, std::span<float> b, std::span<float> x);
    void solve_dense(std::span<const float> b, std::span<float> x);
    void factorise_coarsest();

    StripMatrix finest_;
    std::vector<ColourMatrix> coarse_;                   // level l stands at l - 1
    LowerTriangle coarsest_;                             // solved directly
    std::vector<std::vector<std::uint32_t>> coarse_of_;  // row of level l + 1 for each row of level l, or left_out
    std::vector<Work> work_;
    bool within_blocks_ = true;  // of the aggregates of the finest level
    double shift_ = 0.0;
    Eigen::LLT<Eigen::MatrixXd> dense_;
};

}  // namespace firnfield
