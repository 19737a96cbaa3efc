/// Aggregation multigrid with K-cycle, as a preconditioner. Hierarchy in single precision, scalar products in double.
///
/// Y. Notay and P. S. Vassilevski, "Recursive Krylov-based multigrid cycles", Numer. Linear Algebra Appl. 15 (2008), 473-487.
#pragma once

#include "linear/symmetric_matrix.hpp"

#include <Eigen/Cholesky>

#include <cstdint>
#include <span>
#include <vector>

namespace firnfield {

/// One level: the matrix in single precision and the way to the next coarser one.
struct Level {
    std::vector<std::uint64_t> row_start;
    std::vector<std::uint32_t> column;
    std::vector<float> coupling;         ///< −a_ij
    std::vector<float> excess;           ///< row sums
    std::vector<float> inverse_diagonal;
    std::vector<std::uint32_t> coarse;   ///< coarse row per row; left_out for those only smoothed

    [[nodiscard]] std::size_t rows() const { return excess.size(); }
};

class Multigrid {
public:
    explicit Multigrid(const SymmetricMatrix& matrix);

    /// z ≈ A⁻¹ r: one symmetric cycle. Vectors of the finest level.
    void precondition(std::span<const float> r, std::span<float> z);

    [[nodiscard]] std::size_t levels() const { return levels_.size() + 1; }
    /// Entries of all levels over those of the finest.
    [[nodiscard]] double operator_complexity() const { return complexity_; }

private:
    /// Work vectors of one level, so that no cycle allocates.
    struct Work {
        std::vector<float> residual, right, solution, first, first_image, second, second_image;
    };

    void cycle(std::size_t level, std::span<const float> b, std::span<float> x);
    void solve_coarse(std::size_t level, std::span<float> b, std::span<float> x);
    void solve_dense(std::span<const float> b, std::span<float> x);

    std::vector<Level> levels_;
    std::vector<Work> work_;
    Eigen::LLT<Eigen::MatrixXd> dense_;
    std::size_t dense_rows_ = 0;
    double complexity_ = 1.0;
};

}  // namespace firnfield
