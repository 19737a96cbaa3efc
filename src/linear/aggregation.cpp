#include "linear/aggregation.hpp"

#include <algorithm>

namespace firnfield {
namespace {

constexpr double quality_bound = 8.0;     // κ of the papers: bounds the two-level condition number
constexpr int passes = 3;
constexpr int extra_passes = 5;
constexpr double coarse_enough = 0.3;     // of the rows that are kept
constexpr std::uint32_t free_row = 0xFFFFFFFEU;

/// Pairs of rows; a pair may be one row alone.
struct Pairs {
    std::vector<std::uint32_t> coarse;         // per row
    std::vector<std::uint32_t> first, second;  // rows of each pair; second is left_out for lone rows
    std::vector<std::uint32_t> block;          // first pair of each block, and their number
};

double coupling_sum(const RowMatrix& matrix, std::uint32_t i) {
    double sum = 0.0;
    for (std::uint32_t at = matrix.start[i]; at < matrix.start[i + 1]; ++at) sum += static_cast<double>(matrix.coupling[at]);
    return sum;
}

/// Rows whose diagonal outweighs the couplings so far that smoothing alone reduces their error leave the coarse problem.
bool is_dominated(const RowMatrix& matrix, std::uint32_t i) {
    const double couplings = coupling_sum(matrix, i);
    return static_cast<double>(matrix.excess[i]) + couplings >= quality_bound / (quality_bound - 2.0) * couplings;
}

/// Pairs every free row with the neighbour of best quality, if that is better than `bound`. `smoothed` are the diagonals that the
/// smoother of the level divides by, summed over the rows gathered so far; the coarse diagonal is smaller, and would let every pass
/// relax the bound again.
Pairs pair_rows(const RowMatrix& matrix, const std::vector<float>& smoothed, double bound, bool drop_dominated) {
    Pairs pairs;
    pairs.coarse.assign(matrix.rows(), free_row);
    std::vector<std::vector<std::uint32_t>> first(matrix.block.size() - 1), second(matrix.block.size() - 1);
    for_each_block(matrix, [&](std::size_t b) {
        const std::uint32_t from = matrix.block[b], to = matrix.block[b + 1];
        if (drop_dominated) {
            for (std::uint32_t i = from; i < to; ++i) {
                if (is_dominated(matrix, i)) pairs.coarse[i] = left_out;
            }
        }
        for (std::uint32_t i = from; i < to; ++i) {
            if (pairs.coarse[i] != free_row) continue;
            std::uint32_t best = left_out;
            double best_quality = bound;
            const auto d_i = static_cast<double>(smoothed[i]), e_i = static_cast<double>(matrix.excess[i]);
            for (std::uint32_t at = matrix.start[i]; at < matrix.start[i + 1]; ++at) {
                const std::uint32_t j = matrix.column[at];
                if (j < from || j >= to || pairs.coarse[j] != free_row || j == i) continue;
                const auto d_j = static_cast<double>(smoothed[j]), e_j = static_cast<double>(matrix.excess[j]);
                const double smoothing = 2.0 * d_i * d_j / (d_i + d_j);
                const double energy = static_cast<double>(matrix.coupling[at]) + (e_i + e_j > 0.0 ? e_i * e_j / (e_i + e_j) : 0.0);
                // Later candidates have to be really better, so that ties go to the first and patterns stay regular.
                if (smoothing < 0.9999 * best_quality * energy) {
                    best_quality = smoothing / energy;
                    best = j;
                }
            }
            const auto number = static_cast<std::uint32_t>(first[b].size());
            pairs.coarse[i] = number;
            if (best != left_out) pairs.coarse[best] = number;
            first[b].push_back(i);
            second[b].push_back(best);
        }
    });
    pairs.block.assign(1, 0);
    for (std::size_t b = 0; b + 1 < matrix.block.size(); ++b) {
        const std::uint32_t offset = pairs.block.back();
        pairs.block.push_back(offset + static_cast<std::uint32_t>(first[b].size()));
        pairs.first.insert(pairs.first.end(), first[b].begin(), first[b].end());
        pairs.second.insert(pairs.second.end(), second[b].begin(), second[b].end());
        for (std::uint32_t i = matrix.block[b]; i < matrix.block[b + 1]; ++i) {
            if (pairs.coarse[i] != left_out) pairs.coarse[i] += offset;
        }
    }
    return pairs;
}

/// PᵀAP; couplings to rows left out become part of the excess.
RowMatrix coarse_matrix(const RowMatrix& fine, const Pairs& pairs) {
    RowMatrix coarse;
    coarse.block = pairs.block;
    const std::size_t rows = pairs.first.size();
    const bool shifts = !fine.capacity.empty();
    coarse.excess.resize(rows);
    if (shifts) {
        coarse.fixed_excess.resize(rows);
        coarse.capacity.resize(rows);
    }
    std::vector<std::uint32_t> length(rows, 0);
    std::vector<std::vector<std::uint32_t>> column(fine.block.size() - 1);
    std::vector<std::vector<float>> coupling(fine.block.size() - 1);
    for_each_block(fine, [&](std::size_t b) {
        std::vector<std::uint32_t> place(rows, 0);  // where a column stands in the current row, plus one
        for (std::uint32_t c = pairs.block[b]; c < pairs.block[b + 1]; ++c) {
            const auto row = static_cast<std::uint32_t>(column[b].size());
            double excess = 0.0, fixed = 0.0, capacity = 0.0, lost = 0.0;
            for (const std::uint32_t i : {pairs.first[c], pairs.second[c]}) {
                if (i == left_out) continue;
                excess += static_cast<double>(fine.excess[i]);
                if (shifts) {
                    fixed += static_cast<double>(fine.fixed_excess[i]);
                    capacity += static_cast<double>(fine.capacity[i]);
                }
                for (std::uint32_t at = fine.start[i]; at < fine.start[i + 1]; ++at) {
                    const std::uint32_t other = pairs.coarse[fine.column[at]];
                    const float g = fine.coupling[at];
                    if (other == left_out) {
                        lost += static_cast<double>(g);
                    } else if (other != c) {
                        if (place[other] > row) {
                            coupling[b][place[other] - 1] += g;
                        } else {
                            column[b].push_back(other);
                            coupling[b].push_back(g);
                            place[other] = static_cast<std::uint32_t>(column[b].size());
                        }
                    }
                }
            }
            coarse.excess[c] = static_cast<float>(excess + lost);
            if (shifts) {
                coarse.fixed_excess[c] = static_cast<float>(fixed + lost);
                coarse.capacity[c] = static_cast<float>(capacity);
            }
            length[c] = static_cast<std::uint32_t>(column[b].size()) - row;
        }
    });
    coarse.start.assign(rows + 1, 0);
    for (std::size_t c = 0; c < rows; ++c) coarse.start[c + 1] = coarse.start[c] + length[c];
    coarse.column.reserve(coarse.start.back());
    coarse.coupling.reserve(coarse.start.back());
    for (std::size_t b = 0; b + 1 < fine.block.size(); ++b) {
        coarse.column.insert(coarse.column.end(), column[b].begin(), column[b].end());
        coarse.coupling.insert(coarse.coupling.end(), coupling[b].begin(), coupling[b].end());
        std::vector<std::uint32_t>().swap(column[b]);
        std::vector<float>().swap(coupling[b]);
    }
    return coarse;
}

std::vector<float> gathered(const std::vector<float>& fine, const Pairs& pairs) {
    std::vector<float> coarse(pairs.first.size());
    for (std::size_t c = 0; c < coarse.size(); ++c) {
        coarse[c] = fine[pairs.first[c]] + (pairs.second[c] != left_out ? fine[pairs.second[c]] : 0.0F);
    }
    return coarse;
}

}  // namespace

Coarsening coarsen(const RowMatrix& fine) {
    std::vector<float> smoothed(fine.rows());
    for (std::uint32_t i = 0; i < fine.rows(); ++i) smoothed[i] = static_cast<float>(static_cast<double>(fine.excess[i]) + coupling_sum(fine, i));
    Pairs pairs = pair_rows(fine, smoothed, quality_bound, true);
    const auto kept = static_cast<double>(std::count_if(pairs.coarse.begin(), pairs.coarse.end(), [](std::uint32_t c) { return c != left_out; }));
    Coarsening out;
    out.matrix = coarse_matrix(fine, pairs);
    smoothed = gathered(smoothed, pairs);
    out.coarse = std::move(pairs.coarse);
    double bound = quality_bound;
    for (int pass = 1; pass < passes + extra_passes; ++pass) {
        if (pass >= passes) {
            if (static_cast<double>(out.matrix.rows()) <= coarse_enough * kept) break;
            bound *= 2.0;
        }
        pairs = pair_rows(out.matrix, smoothed, bound, false);
        out.matrix = coarse_matrix(out.matrix, pairs);
        smoothed = gathered(smoothed, pairs);
        for (std::uint32_t& c : out.coarse) {
            if (c != left_out) c = pairs.coarse[c];
        }
    }
    // One thread may pair across blocks.
    if (out.matrix.rows() <= rows_for_threads) out.matrix.block = {0, static_cast<std::uint32_t>(out.matrix.rows())};
    return out;
}

}  // namespace firnfield
