#include "linear/multigrid.hpp"

#include <firnfield/error.hpp>

#include "linear/aggregation.hpp"
#include "linear/smoother.hpp"

#include <algorithm>

namespace firnfield {
namespace {

constexpr std::size_t dense_limit = 400;
constexpr double second_iteration_above = 0.25;  // residual reduction at which one inner iteration is enough

double dot(const Level& level, std::span<const float> a, std::span<const float> b) {
    return sum_over_blocks(level, [&](std::size_t block) {
        double sum = 0.0;
        for (std::uint32_t i = level.block[block]; i < level.block[block + 1]; ++i) sum += static_cast<double>(a[i]) * static_cast<double>(b[i]);
        return sum;
    });
}

}  // namespace

Multigrid::Multigrid(const NetworkMatrix& matrix) {
    RowMatrix rows = to_rows(matrix);
    while (rows.rows() > dense_limit) {
        Coarsening coarsening = coarsen(rows);
        const bool stuck = coarsening.matrix.rows() >= rows.rows();  // nothing pairs: smoothing is all there is
        levels_.push_back(make_level(std::move(rows), matrix.shift));
        levels_.back().coarse = std::move(coarsening.coarse);
        rows = std::move(coarsening.matrix);
        if (stuck) break;
    }
    if (rows.rows() > 10 * dense_limit) throw ComputationError("the heat-conductance matrix could not be coarsened");
    levels_.push_back(make_level(std::move(rows), matrix.shift));
    factorise_coarsest();
    for (std::size_t l = 0; l + 1 < levels_.size(); ++l) {
        Work& work = work_.emplace_back();
        work.residual.resize(levels_[l].rows());
        work.beyond.resize(levels_[l].beyond.row.size());
        for (std::vector<float>* v : {&work.right, &work.solution, &work.first, &work.first_image, &work.second, &work.second_image}) v->resize(levels_[l + 1].rows());
    }
}

void Multigrid::shift(double shift) {
    for (Level& level : levels_) set_shift(level, shift);
    factorise_coarsest();
}

double Multigrid::operator_complexity() const {
    double entries = 0.0;
    for (const Level& level : levels_) entries += static_cast<double>(level.couplings + level.rows());
    return entries / static_cast<double>(levels_.front().couplings + levels_.front().rows());
}

std::size_t Multigrid::bytes() const {
    std::size_t sum = 0;
    for (const Level& level : levels_) sum += level.bytes();
    for (const Work& work : work_) sum += 4 * (work.residual.size() + work.beyond.size() + 6 * work.right.size());
    return sum;
}

void Multigrid::factorise_coarsest() {
    const Level& level = levels_.back();
    const auto rows = static_cast<Eigen::Index>(level.rows());
    if (rows == 0) return;
    Eigen::MatrixXd dense = Eigen::MatrixXd::Zero(rows, rows);
    const auto couple = [&](std::size_t i, std::uint32_t j, float coupling) {
        const auto row = static_cast<Eigen::Index>(i), column = static_cast<Eigen::Index>(j);
        dense(row, row) += static_cast<double>(coupling);
        dense(row, column) -= static_cast<double>(coupling);
    };
    for (std::size_t i = 0; i < level.rows(); ++i) dense(static_cast<Eigen::Index>(i), static_cast<Eigen::Index>(i)) = static_cast<double>(level.excess[i]);
    for (const RowCouplings* part : {&level.earlier, &level.later}) {
        for (std::size_t at = 0; at < part->column.size(); ++at) couple(at / part->width, part->column[at], part->coupling[at]);
    }
    for (const ExtraCouplings* extra : {&level.earlier.extra, &level.later.extra, &level.beyond}) {
        for (std::size_t r = 0; r < extra->row.size(); ++r) {
            for (std::uint32_t at = extra->start[r]; at < extra->start[r + 1]; ++at) couple(extra->row[r], extra->column[at], extra->coupling[at]);
        }
    }
    dense_.compute(dense);
    if (dense_.info() != Eigen::Success) throw ComputationError("the coarsest heat-conductance matrix is not positive definite");
}

void Multigrid::precondition(std::span<const float> r, std::span<float> z) {
    if (levels_.size() == 1) {
        solve_dense(r, z);
    } else {
        cycle(0, r, z);
    }
}

void Multigrid::solve_dense(std::span<const float> b, std::span<float> x) {
    Eigen::VectorXd rhs(static_cast<Eigen::Index>(b.size()));
    for (std::size_t i = 0; i < b.size(); ++i) rhs[static_cast<Eigen::Index>(i)] = static_cast<double>(b[i]);
    if (rhs.size() > 0) dense_.solveInPlace(rhs);
    for (std::size_t i = 0; i < x.size(); ++i) x[i] = static_cast<float>(rhs[static_cast<Eigen::Index>(i)]);
}

void Multigrid::cycle(std::size_t l, std::span<const float> b, std::span<float> x) {
    const Level& level = levels_[l];
    Work& work = work_[l];
    sweep_up_from_zero(level, b, x);
    if (!work.right.empty()) {
        residual_after_sweep(level, x, work.residual);
        std::fill(work.right.begin(), work.right.end(), 0.0F);
        // Aggregates stay within blocks, so blocks can be restricted by themselves.
        for_each_block(level, [&](std::size_t block) {
            for (std::uint32_t i = level.block[block]; i < level.block[block + 1]; ++i) {
                if (level.coarse[i] != left_out) work.right[level.coarse[i]] += work.residual[i];
            }
        });
        solve_coarse(l + 1, work.right, work.solution);
        for_each_block(level, [&](std::size_t block) {
            for (std::uint32_t i = level.block[block]; i < level.block[block + 1]; ++i) {
                if (level.coarse[i] != left_out) x[i] += work.solution[level.coarse[i]];
            }
        });
    }
    sweep_down(level, b, x, work.beyond);
}

/// K-cycle: at most two iterations of flexible conjugate gradients, preconditioned by the next cycle. Spoils b.
void Multigrid::solve_coarse(std::size_t l, std::span<float> b, std::span<float> x) {
    if (l + 1 == levels_.size()) return solve_dense(b, x);
    const Level& level = levels_[l];
    Work& work = work_[l - 1];
    const double start = dot(level, b, b);
    if (start == 0.0) {
        std::fill(x.begin(), x.end(), 0.0F);
        return;
    }
    cycle(l, b, work.first);
    const double rho_1 = multiply(level, std::span<const float>(work.first), work.first_image);
    const double alpha_1 = dot(level, work.first, b);
    const double step = alpha_1 / rho_1;
    const double left = sum_over_blocks(level, [&](std::size_t block) {
        double sum = 0.0;
        for (std::uint32_t i = level.block[block]; i < level.block[block + 1]; ++i) {
            b[i] -= static_cast<float>(step) * work.first_image[i];
            sum += static_cast<double>(b[i]) * static_cast<double>(b[i]);
        }
        return sum;
    });
    if (left <= second_iteration_above * second_iteration_above * start) {
        for (std::size_t i = 0; i < x.size(); ++i) x[i] = static_cast<float>(step) * work.first[i];
        return;
    }
    cycle(l, b, work.second);
    const double beta = multiply(level, std::span<const float>(work.second), work.second_image);
    const double gamma = dot(level, work.second, work.first_image);
    const double alpha_2 = dot(level, work.second, b);
    const double rho_2 = beta - gamma * gamma / rho_1;
    const auto share_1 = static_cast<float>(step - gamma * alpha_2 / (rho_1 * rho_2));
    const auto share_2 = static_cast<float>(alpha_2 / rho_2);
    for_each_block(level, [&](std::size_t block) {
        for (std::uint32_t i = level.block[block]; i < level.block[block + 1]; ++i) x[i] = share_1 * work.first[i] + share_2 * work.second[i];
    });
}

}  // namespace firnfield
