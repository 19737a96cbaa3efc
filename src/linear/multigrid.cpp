// The hierarchy of an aggregation multigrid and its K-cycle.

#include "linear/multigrid.hpp"

#include <firnfield/error.hpp>

#include "linear/aggregation.hpp"
#include "linear/parts.hpp"

#include <algorithm>

namespace firnfield {
namespace {

constexpr std::size_t dense_limit = 400;
constexpr double second_iteration_above = 0.25;  // residual reduction at which one inner iteration is enough

/// The coarse row of each row, when rows and coarse rows have been moved; no positions mean that they have not.
std::vector<std::uint32_t> moved(std::span<const std::uint32_t> coarse, std::size_t rows, std::span<const std::uint32_t> position,
                                 std::span<const std::uint32_t> coarse_position) {
    std::vector<std::uint32_t> out(rows, left_out);
    for (std::uint32_t i = 0; i < coarse.size(); ++i) {
        if (coarse[i] != left_out) out[position.empty() ? i : position[i]] = coarse_position.empty() ? coarse[i] : coarse_position[coarse[i]];
    }
    return out;
}

void restrict_rows(std::span<const std::uint32_t> coarse, std::size_t first, std::size_t last, std::span<const float> from, std::span<float> to) {
    for (std::size_t i = first; i < last; ++i) {
        if (coarse[i] != left_out) to[coarse[i]] += from[i];
    }
}

void prolong_rows(std::span<const std::uint32_t> coarse, std::size_t first, std::size_t last, std::span<const float> from, std::span<float> to) {
    for (std::size_t i = first; i < last; ++i) {
        if (coarse[i] != left_out) to[i] += from[coarse[i]];
    }
}

}  // namespace

Multigrid::Multigrid(const NetworkMatrix& matrix) : shift_(matrix.shift) {
    LowerTriangle rows = lower_triangle(matrix);
    std::vector<float> sums = coupling_sums(rows);
    Coarsening coarsening = coarsen(rows, sums);
    within_blocks_ = coarsening.within_blocks;
    finest_ = strip_matrix(std::move(rows), std::move(sums));
    std::vector<std::uint32_t> position;  // of the rows of the last level; empty where they stand as they come
    while (true) {
        rows = std::move(coarsening.matrix);
        const std::vector<std::uint32_t> coarse = std::move(coarsening.coarse);
        const std::size_t finer_rows = coarse_.empty() ? finest_.rows() : coarse_.back().rows();
        sums = coupling_sums(rows);
        if (rows.rows() > dense_limit) coarsening = coarsen(rows, sums);
        // The last level is solved directly. There may be next to nothing that pairs before it is small; levels that hardly differ cost without end.
        constexpr double stalled = 0.95;
        if (rows.rows() <= dense_limit || static_cast<double>(coarsening.matrix.rows()) > stalled * static_cast<double>(rows.rows())) {
            coarse_of_.push_back(moved(coarse, finer_rows, position, {}));
            break;
        }
        Colouring colouring = coloured(rows, sums);
        coarse_of_.push_back(moved(coarse, finer_rows, position, colouring.position));
        coarse_.push_back(std::move(colouring.matrix));
        position = std::move(colouring.position);
    }
    coarsest_ = std::move(rows);
    if (coarsest_.rows() > 10 * dense_limit) throw ComputationError("the heat-conductance matrix could not be coarsened");
    factorise_coarsest();
    for (std::size_t l = 0; l <= coarse_.size(); ++l) {
        Work& work = work_.emplace_back();
        work.residual.resize(coarse_of_[l].size());
        const std::size_t next = l < coarse_.size() ? coarse_[l].rows() : coarsest_.rows();
        work.right.resize(next);
        work.solution.resize(next);
        if (l == coarse_.size()) break;
        for (std::vector<float>* v : {&work.first, &work.first_image, &work.second}) v->resize(next);
    }
}

void Multigrid::shift(double shift) {
    shift_ = shift;
    set_shift(finest_, shift);
    for (ColourMatrix& matrix : coarse_) set_shift(matrix, shift);
    factorise_coarsest();
}

double Multigrid::operator_complexity() const {
    const auto entries = [](const auto& matrix) { return static_cast<double>(2 * matrix.couplings + matrix.rows()); };
    double sum = entries(finest_);
    for (const ColourMatrix& matrix : coarse_) sum += entries(matrix);
    return sum / entries(finest_);
}

std::size_t Multigrid::bytes() const {
    std::size_t sum = finest_.bytes();
    for (const ColourMatrix& matrix : coarse_) sum += matrix.bytes();
    for (const std::vector<std::uint32_t>& coarse : coarse_of_) sum += 4 * coarse.size();
    for (const Work& work : work_) sum += 4 * (work.residual.size() + 2 * work.right.size() + 3 * work.first.size());
    return sum;
}

void Multigrid::factorise_coarsest() {
    const auto rows = static_cast<Eigen::Index>(coarsest_.rows());
    if (rows == 0) return;
    Eigen::MatrixXd dense = Eigen::MatrixXd::Zero(rows, rows);
    for (std::uint32_t n = 0; n < coarsest_.rows(); ++n) {
        const auto i = static_cast<Eigen::Index>(n);
        dense(i, i) += coarsest_.capacity.empty() ? static_cast<double>(coarsest_.excess[n])
                                                  : static_cast<double>(coarsest_.fixed_excess[n]) + shift_ * static_cast<double>(coarsest_.capacity[n]);
        for (const Coupling& c : coarsest_.row(n)) {
            const auto j = static_cast<Eigen::Index>(c.column);
            const auto g = static_cast<double>(c.value);
            dense(i, i) += g;
            dense(j, j) += g;
            dense(i, j) -= g;
            dense(j, i) -= g;
        }
    }
    dense_.compute(dense);
    if (dense_.info() != Eigen::Success) throw ComputationError("the coarsest heat-conductance matrix is not positive definite");
}

void Multigrid::precondition(std::span<const float> r, std::span<float> z) { cycle(finest_, 0, r, z); }

void Multigrid::solve_dense(std::span<const float> b, std::span<float> x) {
    Eigen::VectorXd rhs(static_cast<Eigen::Index>(b.size()));
    for (std::size_t i = 0; i < b.size(); ++i) rhs[static_cast<Eigen::Index>(i)] = static_cast<double>(b[i]);
    if (rhs.size() > 0) dense_.solveInPlace(rhs);
    for (std::size_t i = 0; i < x.size(); ++i) x[i] = static_cast<float>(rhs[static_cast<Eigen::Index>(i)]);
}

template <typename Matrix>
void Multigrid::cycle(const Matrix& matrix, std::size_t level, std::span<const float> b, std::span<float> x) {
    Work& work = work_[level];
    const std::span<const std::uint32_t> coarse = coarse_of_[level];
    sweep_from_zero(matrix, b, x, work.residual);
    std::fill(work.right.begin(), work.right.end(), 0.0F);
    if constexpr (std::is_same_v<Matrix, StripMatrix>) {
        if (within_blocks_) {
            for_each_part(matrix.blocks(),
                          [&](std::size_t block) { restrict_rows(coarse, matrix.block[block], matrix.block[block + 1], work.residual, work.right); });
        } else {
            restrict_rows(coarse, 0, coarse.size(), work.residual, work.right);
        }
        solve_coarse(level + 1, work.right, work.solution);
        for_rows(b.size(), [&](std::size_t first, std::size_t last) {
            prolong_rows(coarse, first, last, work.solution, x);
            std::copy_n(b.data() + first, last - first, work.residual.data() + first);
        });
        sweep_back(matrix, work.residual, x);
    } else {
        restrict_rows(coarse, 0, coarse.size(), work.residual, work.right);
        solve_coarse(level + 1, work.right, work.solution);
        for_rows(b.size(), [&](std::size_t first, std::size_t last) { prolong_rows(coarse, first, last, work.solution, x); });
        sweep_back(matrix, b, x);
    }
}

/// K-cycle: at most two iterations of flexible conjugate gradients, preconditioned by the next cycle. Spoils b.
void Multigrid::solve_coarse(std::size_t level, std::span<float> b, std::span<float> x) {
    if (level > coarse_.size()) return solve_dense(b, x);
    const ColourMatrix& matrix = coarse_[level - 1];
    Work& work = work_[level - 1];
    const double start = dot(b, b);
    if (start == 0.0) {
        std::fill(x.begin(), x.end(), 0.0F);
        return;
    }
    cycle(matrix, level, b, work.first);
    const double rho_1 = multiply(matrix, work.first, work.first_image);
    const double alpha_1 = dot(work.first, b);
    const double step = alpha_1 / rho_1;
    const auto single_step = static_cast<float>(step);
    const double left = sum_rows(b.size(), [&](std::size_t first, std::size_t last) {
        double sum = 0.0;
#pragma omp simd reduction(+ : sum)
        for (std::size_t i = first; i < last; ++i) {
            b[i] -= single_step * work.first_image[i];
            sum += static_cast<double>(b[i]) * static_cast<double>(b[i]);
        }
        return sum;
    });
    if (left <= second_iteration_above * second_iteration_above * start) {
        for (std::size_t i = 0; i < x.size(); ++i) x[i] = single_step * work.first[i];
        return;
    }
    cycle(matrix, level, b, work.second);
    const double beta = multiply(matrix, work.second, work_[level].residual);  // the image itself is not needed
    const double gamma = dot(work.second, work.first_image);
    const double alpha_2 = dot(work.second, b);
    const double rho_2 = beta - gamma * gamma / rho_1;
    const auto share_1 = static_cast<float>(step - gamma * alpha_2 / (rho_1 * rho_2));
    const auto share_2 = static_cast<float>(alpha_2 / rho_2);
    for_rows(x.size(), [&](std::size_t first, std::size_t last) {
#pragma omp simd
        for (std::size_t i = first; i < last; ++i) x[i] = share_1 * work.first[i] + share_2 * work.second[i];
    });
}

}  // namespace firnfield
