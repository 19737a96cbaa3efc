// Pairwise aggregation by the quality of pairs.

#include "linear/aggregation.hpp"

#include "linear/parts.hpp"

#include <algorithm>
#include <functional>
#include <utility>

namespace firnfield {
namespace {

constexpr double quality_bound = 8.0;  // κ of the papers: bounds the two-level condition number
constexpr int passes = 3;
constexpr int extra_passes = 2;
constexpr double coarse_enough = 0.3;  // of the rows that are kept
constexpr double few_pairs = 0.8;      // of the rows left by a pass: its pairs would only make the pattern irregular
constexpr std::uint32_t free_row = 0xFFFFFFFEU;

/// Rows whose diagonal outweighs the couplings so far that smoothing alone reduces their error leave the coarse problem.
bool is_dominated(float excess, float diagonal) { return static_cast<double>(excess) >= 2.0 / quality_bound * static_cast<double>(diagonal); }

/// Pairs every free row with the earlier neighbour of best quality, if that is better than `bound`. `smoothed` are the diagonals that the
/// smoother of the level divides by, summed over the rows gathered so far; the coarse diagonal is smaller, and would let every pass
/// relax the bound again.
Pairs pair_rows(const LowerTriangle& matrix, const std::vector<float>& smoothed, double bound, bool drop_dominated) {
    Pairs pairs;
    pairs.coarse.assign(matrix.rows(), free_row);
    // From the last row on, since rows know their earlier neighbours; so pairs are found from behind.
    Buffer<std::uint32_t> later(matrix.rows()), earlier(matrix.rows());
    std::vector<std::uint32_t> count(matrix.blocks(), 0);
    for_each_part(matrix.blocks(), [&](std::size_t b) {
        const std::uint32_t from = matrix.block[b], to = matrix.block[b + 1];
        if (drop_dominated) {
            for (std::uint32_t i = from; i < to; ++i) {
                if (is_dominated(matrix.excess[i], smoothed[i])) pairs.coarse[i] = left_out;
            }
        }
        std::uint32_t place = to;
        for (std::uint32_t i = to; i-- > from;) {
            if (pairs.coarse[i] != free_row) continue;
            std::uint32_t best = left_out;
            double best_quality = bound;
            const auto d_i = static_cast<double>(smoothed[i]), e_i = static_cast<double>(matrix.excess[i]);
            const std::span<const Coupling> row = matrix.row(i);
            for (std::size_t k = row.size(); k-- > 0;) {
                const std::uint32_t j = row[k].column;
                if (j < from) break;
                if (pairs.coarse[j] != free_row) continue;
                const auto d_j = static_cast<double>(smoothed[j]), e_j = static_cast<double>(matrix.excess[j]);
                const double smoothing = 2.0 * d_i * d_j / (d_i + d_j);
                const double energy = static_cast<double>(row[k].value) + (e_i > 0.0 && e_j > 0.0 ? e_i * e_j / (e_i + e_j) : 0.0);
                // Later candidates have to be really better, so that ties go to the first and patterns stay regular.
                if (smoothing < 0.9999 * best_quality * energy) {
                    best_quality = smoothing / energy;
                    best = j;
                }
            }
            --place;
            later[place] = i;
            earlier[place] = best;
            pairs.coarse[i] = place;
            if (best != left_out) pairs.coarse[best] = place;
        }
        count[b] = to - place;
    });
    pairs.block.assign(1, 0);
    for (const std::uint32_t n : count) pairs.block.push_back(pairs.block.back() + n);
    pairs.later.resize(pairs.block.back());
    pairs.earlier.resize(pairs.block.back());
    for_each_part(matrix.blocks(), [&](std::size_t b) {
        const std::uint32_t shift = matrix.block[b + 1] - pairs.block[b + 1];
        for (std::uint32_t c = pairs.block[b]; c < pairs.block[b + 1]; ++c) {
            pairs.later[c] = later[c + shift];
            pairs.earlier[c] = earlier[c + shift];
        }
        for (std::uint32_t i = matrix.block[b]; i < matrix.block[b + 1]; ++i) {
            if (pairs.coarse[i] != left_out) pairs.coarse[i] -= shift;
        }
    });
    return pairs;
}

std::vector<float> gathered(const std::vector<float>& fine, const Pairs& pairs) {
    std::vector<float> coarse(pairs.later.size());
    for (std::size_t c = 0; c < coarse.size(); ++c) coarse[c] = fine[pairs.later[c]] + (pairs.earlier[c] != left_out ? fine[pairs.earlier[c]] : 0.0F);
    return coarse;
}

}  // namespace

namespace {

/// Aggregates within the blocks of the matrix.
Coarsening coarsen_within_blocks(const LowerTriangle& fine, const std::vector<float>& coupling_sums, double& kept) {
    std::vector<float> smoothed(fine.rows());
    std::transform(fine.excess.begin(), fine.excess.end(), coupling_sums.begin(), smoothed.begin(), std::plus<>());
    Pairs pairs = pair_rows(fine, smoothed, quality_bound, true);
    kept = static_cast<double>(std::count_if(pairs.coarse.begin(), pairs.coarse.end(), [](std::uint32_t c) { return c != left_out; }));
    Coarsening out;
    out.matrix = coarse_triangle(fine, pairs);
    smoothed = gathered(smoothed, pairs);
    out.coarse = std::move(pairs.coarse);
    double bound = quality_bound;
    for (int pass = 1; pass < passes + extra_passes; ++pass) {
        const auto rows = static_cast<double>(out.matrix.rows());
        const bool enough = rows <= coarse_enough * kept;
        if (pass >= passes) {
            if (enough) break;
            bound *= 2.0;
        }
        pairs = pair_rows(out.matrix, smoothed, bound, false);
        if (enough && static_cast<double>(pairs.later.size()) > few_pairs * rows) break;
        out.matrix = coarse_triangle(out.matrix, pairs);
        smoothed = gathered(smoothed, pairs);
        for (std::uint32_t& c : out.coarse) {
            if (c != left_out) c = pairs.coarse[c];
        }
    }
    // One thread may pair across blocks.
    if (out.matrix.rows() <= rows_for_threads) out.matrix.block = {0, static_cast<std::uint32_t>(out.matrix.rows())};
    return out;
}

}  // namespace

Coarsening coarsen(LowerTriangle& fine, const std::vector<float>& coupling_sums) {
    double kept = 0.0;
    Coarsening out = coarsen_within_blocks(fine, coupling_sums, kept);
    // Where the strong couplings run across the borders of blocks, as between bonded sheets, nothing pairs within them.
    constexpr double stalled = 0.5;
    if (fine.blocks() == 1 || static_cast<double>(out.matrix.rows()) <= stalled * kept) return out;
    std::vector<std::uint32_t> blocks = std::exchange(fine.block, {0, static_cast<std::uint32_t>(fine.rows())});
    Coarsening across = coarsen_within_blocks(fine, coupling_sums, kept);
    fine.block = std::move(blocks);
    if (across.matrix.rows() >= out.matrix.rows()) return out;
    across.within_blocks = false;
    return across;
}

}  // namespace firnfield
