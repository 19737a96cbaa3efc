#include "linear/multigrid.hpp"

#include <firnfield/error.hpp>

#include "linear/aggregation.hpp"
#include "linear/smoother.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

constexpr std::size_t dense_limit = 400;
constexpr double second_iteration_above = 0.25;  // residual reduction at which one inner iteration is enough

double dot(std::span<const float> a, std::span<const float> b) {
    double sum = 0.0;
    for (std::size_t i = 0; i < a.size(); ++i) sum += static_cast<double>(a[i]) * static_cast<double>(b[i]);
    return sum;
}

Level make_level(const AggregationMatrix& matrix) {
    Level level;
    level.row_start = matrix.row_start;
    level.column = matrix.column;
    level.coupling = matrix.coupling;
    level.excess.resize(matrix.rows());
    level.inverse_diagonal.resize(matrix.rows());
    for (std::size_t i = 0; i < matrix.rows(); ++i) {
        level.excess[i] = static_cast<float>(matrix.excess[i]);
        level.inverse_diagonal[i] = static_cast<float>(1.0 / (matrix.excess[i] + matrix.coupling_sum(i)));
    }
    return level;
}

Eigen::MatrixXd to_dense(const AggregationMatrix& matrix) {
    const auto rows = static_cast<Eigen::Index>(matrix.rows());
    Eigen::MatrixXd dense = Eigen::MatrixXd::Zero(rows, rows);
    for (std::size_t i = 0; i < matrix.rows(); ++i) {
        const auto row = static_cast<Eigen::Index>(i);
        dense(row, row) = matrix.excess[i] + matrix.coupling_sum(i);
        for (std::uint64_t at = matrix.row_start[i]; at < matrix.row_start[i + 1]; ++at) {
            dense(row, static_cast<Eigen::Index>(matrix.column[at])) -= static_cast<double>(matrix.coupling[at]);
        }
    }
    return dense;
}

}  // namespace

Multigrid::Multigrid(const SymmetricMatrix& matrix) {
    AggregationMatrix current = to_aggregation_matrix(matrix);
    const auto entries = [](const AggregationMatrix& m) { return static_cast<double>(m.column.size() + m.rows()); };
    const double fine_entries = entries(current);
    while (current.rows() > dense_limit) {
        Level level = make_level(current);
        const std::size_t rows = current.rows();
        Aggregates aggregates = coarsen(current);
        level.coarse = std::move(aggregates.coarse);
        levels_.push_back(std::move(level));
        complexity_ += entries(current) / fine_entries;
        if (current.rows() >= rows) break;  // nothing pairs: smoothing is all there is
    }
    dense_rows_ = current.rows();
    if (dense_rows_ > 10 * dense_limit) throw ComputationError("the heat-conductance matrix could not be coarsened");
    if (dense_rows_ > 0) {
        dense_.compute(to_dense(current));
        if (dense_.info() != Eigen::Success) throw ComputationError("the coarsest heat-conductance matrix is not positive definite");
    }
    for (std::size_t l = 0; l < levels_.size(); ++l) {
        const std::size_t coarse = l + 1 < levels_.size() ? levels_[l + 1].rows() : dense_rows_;
        Work work;
        work.residual.resize(levels_[l].rows());
        for (std::vector<float>* v : {&work.right, &work.solution, &work.first, &work.first_image, &work.second, &work.second_image}) v->resize(coarse);
        work_.push_back(std::move(work));
    }
}

void Multigrid::precondition(std::span<const float> r, std::span<float> z) {
    if (levels_.empty()) {
        solve_dense(r, z);
    } else {
        cycle(0, r, z);
    }
}

void Multigrid::solve_dense(std::span<const float> b, std::span<float> x) {
    Eigen::VectorXd rhs(static_cast<Eigen::Index>(b.size()));
    for (std::size_t i = 0; i < b.size(); ++i) rhs[static_cast<Eigen::Index>(i)] = static_cast<double>(b[i]);
    dense_.solveInPlace(rhs);
    for (std::size_t i = 0; i < x.size(); ++i) x[i] = static_cast<float>(rhs[static_cast<Eigen::Index>(i)]);
}

void Multigrid::cycle(std::size_t l, std::span<const float> b, std::span<float> x) {
    const Level& level = levels_[l];
    Work& work = work_[l];
    std::copy(b.begin(), b.end(), work.residual.begin());
    sweep_up_from_zero(level, work.residual, x);

    std::fill(work.right.begin(), work.right.end(), 0.0F);
    for (std::size_t i = 0; i < level.rows(); ++i) {
        if (level.coarse[i] != left_out) work.right[level.coarse[i]] += work.residual[i];
    }
    if (!work.right.empty()) {
        solve_coarse(l + 1, work.right, work.solution);
        for (std::size_t i = 0; i < level.rows(); ++i) {
            if (level.coarse[i] != left_out) x[i] += work.solution[level.coarse[i]];
        }
    }
    sweep_down(level, b, x);
}

/// K-cycle: at most two iterations of flexible conjugate gradients, preconditioned by the next cycle. Spoils b.
void Multigrid::solve_coarse(std::size_t l, std::span<float> b, std::span<float> x) {
    if (l == levels_.size()) return solve_dense(b, x);
    const Level& level = levels_[l];
    Work& work = work_[l - 1];
    const double start = dot(b, b);
    if (start == 0.0) {
        std::fill(x.begin(), x.end(), 0.0F);
        return;
    }
    cycle(l, b, work.first);
    const double rho_1 = multiply(level, work.first, work.first_image);
    const double alpha_1 = dot(work.first, b);
    const double step = alpha_1 / rho_1;
    double left = 0.0;
    for (std::size_t i = 0; i < b.size(); ++i) {
        b[i] -= static_cast<float>(step) * work.first_image[i];
        left += static_cast<double>(b[i]) * static_cast<double>(b[i]);
    }
    if (left <= second_iteration_above * second_iteration_above * start) {
        for (std::size_t i = 0; i < x.size(); ++i) x[i] = static_cast<float>(step) * work.first[i];
        return;
    }
    cycle(l, b, work.second);
    const double beta = multiply(level, work.second, work.second_image);
    const double gamma = dot(work.second, work.first_image);
    const double alpha_2 = dot(work.second, b);
    const double rho_2 = beta - gamma * gamma / rho_1;
    const auto share_1 = static_cast<float>(step - gamma * alpha_2 / (rho_1 * rho_2));
    const auto share_2 = static_cast<float>(alpha_2 / rho_2);
    for (std::size_t i = 0; i < x.size(); ++i) x[i] = share_1 * work.first[i] + share_2 * work.second[i];
}

}  // namespace firnfield
