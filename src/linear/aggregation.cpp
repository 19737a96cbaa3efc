#include "linear/aggregation.hpp"

#include <algorithm>
#include <numeric>

namespace firnfield {
namespace {

constexpr double quality_bound = 8.0;     // κ of the papers: bounds the two-level condition number
constexpr int passes = 3;
constexpr int extra_passes = 5;
constexpr double coarse_enough = 0.3;     // of the rows that are kept

/// Rows whose diagonal outweighs the couplings so far that smoothing alone reduces their error.
std::vector<bool> dominated_rows(const AggregationMatrix& matrix) {
    std::vector<bool> dominated(matrix.rows());
    for (std::size_t i = 0; i < matrix.rows(); ++i) {
        const double couplings = matrix.coupling_sum(i);
        dominated[i] = matrix.excess[i] + couplings >= quality_bound / (quality_bound - 2.0) * couplings;
    }
    return dominated;
}

/// Pairs every free row with the neighbour of best quality, if that is better than `bound`.
Aggregates pair_rows(const AggregationMatrix& matrix, double bound, const std::vector<bool>* dropped) {
    constexpr std::uint32_t free_row = 0xFFFFFFFEU;
    Aggregates pairs;
    pairs.coarse.assign(matrix.rows(), free_row);
    if (dropped != nullptr) {
        for (std::size_t i = 0; i < matrix.rows(); ++i) {
            if ((*dropped)[i]) pairs.coarse[i] = left_out;
        }
    }
    for (std::size_t i = 0; i < matrix.rows(); ++i) {
        if (pairs.coarse[i] != free_row) continue;
        std::uint32_t best = left_out;
        double best_quality = bound;
        const double d_i = matrix.smoothed_diagonal[i], e_i = matrix.excess[i];
        for (std::uint64_t at = matrix.row_start[i]; at < matrix.row_start[i + 1]; ++at) {
            const std::uint32_t j = matrix.column[at];
            if (pairs.coarse[j] != free_row) continue;
            const double d_j = matrix.smoothed_diagonal[j], e_j = matrix.excess[j];
            // The diagonals that the smoother of this level divides by, summed; the coarse diagonal is smaller, and would let
            // every pass relax the bound again.
            const double smoothing = 2.0 * d_i * d_j / (d_i + d_j);
            const double energy = static_cast<double>(matrix.coupling[at]) + (e_i + e_j > 0.0 ? e_i * e_j / (e_i + e_j) : 0.0);
            // Later candidates have to be really better, so that ties go to the first and patterns stay regular.
            if (smoothing < 0.9999 * best_quality * energy) {
                best_quality = smoothing / energy;
                best = j;
            }
        }
        pairs.coarse[i] = pairs.count;
        if (best != left_out) pairs.coarse[best] = pairs.count;
        ++pairs.count;
    }
    return pairs;
}

/// PᵀAP for piecewise constant P; couplings to rows left out become part of the excess.
AggregationMatrix coarse_matrix(const AggregationMatrix& fine, const Aggregates& aggregates) {
    AggregationMatrix coarse;
    coarse.excess.assign(aggregates.count, 0.0);
    coarse.smoothed_diagonal.assign(aggregates.count, 0.0);
    // Members of every aggregate, by counting.
    std::vector<std::uint32_t> start(std::size_t{aggregates.count} + 1, 0), member;
    for (const std::uint32_t c : aggregates.coarse) {
        if (c != left_out) ++start[c + 1];
    }
    std::partial_sum(start.begin(), start.end(), start.begin());
    member.resize(start.back());
    std::vector<std::uint32_t> next(start.begin(), start.end() - 1);
    for (std::size_t i = 0; i < fine.rows(); ++i) {
        if (aggregates.coarse[i] != left_out) member[next[aggregates.coarse[i]]++] = static_cast<std::uint32_t>(i);
    }

    coarse.row_start.reserve(std::size_t{aggregates.count} + 1);
    coarse.row_start.push_back(0);
    coarse.column.reserve(fine.column.size() / 2);
    coarse.coupling.reserve(fine.column.size() / 2);
    std::vector<std::uint64_t> place(aggregates.count, 0);  // where a column stands in the current row, plus one
    for (std::uint32_t c = 0; c < aggregates.count; ++c) {
        const std::uint64_t row = coarse.column.size();
        for (std::uint32_t m = start[c]; m < start[c + 1]; ++m) {
            const std::uint32_t i = member[m];
            coarse.excess[c] += fine.excess[i];
            coarse.smoothed_diagonal[c] += fine.smoothed_diagonal[i];
            for (std::uint64_t at = fine.row_start[i]; at < fine.row_start[i + 1]; ++at) {
                const std::uint32_t other = aggregates.coarse[fine.column[at]];
                if (other == left_out) {
                    coarse.excess[c] += static_cast<double>(fine.coupling[at]);
                } else if (other != c) {
                    if (place[other] > row) {
                        coarse.coupling[place[other] - 1] += fine.coupling[at];
                    } else {
                        coarse.column.push_back(other);
                        coarse.coupling.push_back(fine.coupling[at]);
                        place[other] = coarse.column.size();
                    }
                }
            }
        }
        coarse.row_start.push_back(coarse.column.size());
    }
    return coarse;
}

}  // namespace

double AggregationMatrix::coupling_sum(std::size_t row) const {
    double sum = 0.0;
    for (std::uint64_t at = row_start[row]; at < row_start[row + 1]; ++at) sum += static_cast<double>(coupling[at]);
    return sum;
}

AggregationMatrix to_aggregation_matrix(const SymmetricMatrix& matrix) {
    AggregationMatrix out;
    out.row_start = matrix.row_start;
    out.column = matrix.column;
    out.coupling.resize(matrix.coupling.size());
    std::transform(matrix.coupling.begin(), matrix.coupling.end(), out.coupling.begin(), [](double g) { return static_cast<float>(g); });
    out.excess = matrix.excess;
    return out;
}

Aggregates coarsen(AggregationMatrix& matrix) {
    const std::vector<bool> dominated = dominated_rows(matrix);
    matrix.smoothed_diagonal.resize(matrix.rows());
    for (std::size_t i = 0; i < matrix.rows(); ++i) matrix.smoothed_diagonal[i] = matrix.excess[i] + matrix.coupling_sum(i);
    Aggregates total = pair_rows(matrix, quality_bound, &dominated);
    std::size_t kept = 0;
    for (const bool dropped : dominated) kept += dropped ? 0 : 1;
    matrix = coarse_matrix(matrix, total);
    double bound = quality_bound;
    for (int pass = 1; pass < passes + extra_passes; ++pass) {
        if (pass >= passes) {
            if (static_cast<double>(total.count) <= coarse_enough * static_cast<double>(kept)) break;
            bound *= 2.0;
        }
        const Aggregates pairs = pair_rows(matrix, bound, nullptr);
        matrix = coarse_matrix(matrix, pairs);
        for (std::uint32_t& c : total.coarse) {
            if (c != left_out) c = pairs.coarse[c];
        }
        total.count = pairs.count;
    }
    return total;
}

}  // namespace firnfield
