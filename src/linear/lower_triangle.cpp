// Symmetric matrices by their strict lower triangle.

#include "linear/lower_triangle.hpp"

#include "linear/parts.hpp"

#include <firnfield/error.hpp>

#include <limits>
#include <utility>

namespace firnfield {
namespace {

/// Sorts a row, which is short, and adds up couplings to the same column. Returns how many are left.
std::size_t sort_and_join(Coupling* row, std::size_t size) {
    std::size_t kept = 0;
    for (std::size_t k = 0; k < size; ++k) {
        const Coupling next = row[k];
        std::size_t to = kept;
        while (to > 0 && row[to - 1].column > next.column) --to;
        if (to > 0 && row[to - 1].column == next.column) {
            row[to - 1].value += next.value;
        } else {
            for (std::size_t m = kept; m > to; --m) row[m] = row[m - 1];
            row[to] = next;
            ++kept;
        }
    }
    return kept;
}

/// Moves the couplings of blocks together: those of block b begin at `from[b]`, and starts count from there, one row ahead.
void close_gaps(LowerTriangle& matrix, const std::vector<std::uint32_t>& from) {
    std::uint32_t to = 0;
    for (std::size_t b = 0; b < matrix.blocks(); ++b) {
        if (matrix.block[b] == matrix.block[b + 1]) continue;
        const std::uint32_t length = matrix.start[matrix.block[b + 1]];
        if (to != from[b]) std::copy_n(matrix.couplings.begin() + from[b], length, matrix.couplings.begin() + to);
        for (std::uint32_t i = matrix.block[b]; i < matrix.block[b + 1]; ++i) matrix.start[i + 1] += to;
        to += length;
    }
    matrix.start[0] = 0;
    matrix.couplings.resize(to);
}

/// Couplings that belong to later rows than the one they were found with, as linked lists.
class Pending {
public:
    Pending(std::uint32_t first, std::uint32_t last) : first_(first), head_(last - first, none) {}
    void add(std::uint32_t row, Coupling coupling) {
        entries_.push_back({coupling, head_[row - first_]});
        head_[row - first_] = static_cast<std::uint32_t>(entries_.size() - 1);
    }
    /// Calls `take` for all couplings of a row.
    void of(std::uint32_t row, const auto& take) const {
        for (std::uint32_t at = head_[row - first_]; at != none; at = entries_[at].next) take(entries_[at].coupling);
    }

private:
    static constexpr std::uint32_t none = 0xFFFFFFFFU;
    struct Entry {
        Coupling coupling;
        std::uint32_t next;
    };
    std::uint32_t first_;
    std::vector<std::uint32_t> head_;
    std::vector<Entry> entries_;
};

}  // namespace

LowerTriangle lower_triangle(const NetworkMatrix& matrix) {
    LowerTriangle out;
    const std::size_t blocks = parts_of(matrix.nodes);
    for (std::size_t b = 0; b <= blocks; ++b) out.block.push_back(static_cast<std::uint32_t>(matrix.nodes * b / blocks));
    Buffer<std::uint32_t> place(matrix.order.size());
    for (std::uint32_t n = 0; n < place.size(); ++n) place[matrix.order[n]] = n;
    /// Calls `take(later, earlier, conductance)` for all edges.
    const auto for_edges = [&](const auto& take) {
        for (const Edges& edges : matrix.edges) {
            for (std::size_t e = 0; e < edges.first.size(); ++e) {
                const std::uint32_t i = place.empty() ? edges.first[e] : place[edges.first[e]], j = place.empty() ? edges.second[e] : place[edges.second[e]];
                take(std::max(i, j), std::min(i, j), edges.conductance[e]);
            }
        }
    };
    out.start.assign(matrix.nodes + 1, 0);
    std::size_t total = 0;
    for (const Edges& edges : matrix.edges) total += edges.first.size();
    if (total >= std::numeric_limits<std::uint32_t>::max()) throw ComputationError("the network has more links than the solver can number");
    for_edges([&](std::uint32_t i, std::uint32_t, double) { ++out.start[i]; });
    std::uint32_t sum = 0;
    for (std::uint32_t& s : out.start) s = std::exchange(sum, sum + s);
    // While rows are filled, their starts move to their ends, which are the starts of the next ones.
    out.couplings.resize(total);
    for_edges([&](std::uint32_t i, std::uint32_t j, double conductance) { out.couplings[out.start[i]++] = {j, static_cast<float>(conductance)}; });
    std::uint32_t from = 0, to = 0;
    for (std::uint32_t i = 0; i < matrix.nodes; ++i) {
        const std::uint32_t end = out.start[i];
        const std::size_t kept = sort_and_join(out.couplings.data() + from, end - from);
        if (to != from) std::copy_n(out.couplings.begin() + from, kept, out.couplings.begin() + to);
        out.start[i] = to;
        to += static_cast<std::uint32_t>(kept);
        from = end;
    }
    out.start[matrix.nodes] = to;
    out.couplings.resize(to);
    const auto in_order = [&](std::span<const double> values) {
        std::vector<float> moved(values.size());
        for (std::size_t n = 0; n < moved.size(); ++n) moved[n] = static_cast<float>(values[place.empty() ? n : matrix.order[n]]);
        return moved;
    };
    out.excess = in_order(matrix.excess);
    if (!matrix.capacity.empty()) {
        out.fixed_excess = out.excess;
        out.capacity = in_order(matrix.capacity);
        for (std::size_t n = 0; n < out.rows(); ++n) out.excess[n] += static_cast<float>(matrix.shift) * out.capacity[n];
    }
    return out;
}

LowerTriangle coarse_triangle(const LowerTriangle& fine, const Pairs& pairs) {
    LowerTriangle out;
    out.block = pairs.block;
    const std::size_t rows = pairs.later.size();
    const auto gathered = [&](const std::vector<float>& values) {
        if (values.empty()) return std::vector<float>();
        std::vector<float> sum(rows);
        for (std::size_t c = 0; c < rows; ++c) sum[c] = values[pairs.later[c]] + (pairs.earlier[c] != left_out ? values[pairs.earlier[c]] : 0.0F);
        return sum;
    };
    out.excess = gathered(fine.excess);
    out.fixed_excess = gathered(fine.fixed_excess);
    out.capacity = gathered(fine.capacity);
    out.start.resize(rows + 1);
    out.start[0] = 0;
    out.couplings.resize(fine.couplings.size());  // more than needed
    std::vector<std::uint32_t> from;
    for (std::size_t b = 0; b < fine.blocks(); ++b) from.push_back(fine.start[fine.block[b]]);
    for_each_part(fine.blocks(), [&](std::size_t b) {
        Pending pending(out.block[b], out.block[b + 1]);
        Coupling* const first = out.couplings.data() + from[b];
        Coupling* end = first;
        for (std::uint32_t c = out.block[b]; c < out.block[b + 1]; ++c) {
            Coupling* const row = end;
            pending.of(c, [&](Coupling coupling) { *end++ = coupling; });
            for (const std::uint32_t i : {pairs.later[c], pairs.earlier[c]}) {
                if (i == left_out) continue;
                for (const Coupling& coupling : fine.row(i)) {
                    const std::uint32_t other = pairs.coarse[coupling.column];
                    if (other < c) {
                        *end++ = {other, coupling.value};
                    } else if (other != c && other != left_out) {
                        pending.add(other, {c, coupling.value});
                    }
                }
            }
            end = row + sort_and_join(row, static_cast<std::size_t>(end - row));
            out.start[c + 1] = static_cast<std::uint32_t>(end - first);
        }
    });
    close_gaps(out, from);
    if (static_cast<std::size_t>(std::count(pairs.coarse.begin(), pairs.coarse.end(), left_out)) == 0) return out;
    const auto lose = [&](std::uint32_t to, float value) {
        out.excess[to] += value;
        if (!out.fixed_excess.empty()) out.fixed_excess[to] += value;
    };
    for (std::uint32_t i = 0; i < fine.rows(); ++i) {
        const std::uint32_t c = pairs.coarse[i];
        for (const Coupling& coupling : fine.row(i)) {
            const std::uint32_t other = pairs.coarse[coupling.column];
            if (c == left_out && other != left_out) lose(other, coupling.value);
            if (c != left_out && other == left_out) lose(c, coupling.value);
        }
    }
    return out;
}

std::vector<float> coupling_sums(const LowerTriangle& matrix) {
    std::vector<float> sum(matrix.rows());
    for (std::uint32_t i = 0; i < matrix.rows(); ++i) {
        float own = sum[i];
        for (const Coupling& c : matrix.row(i)) {
            own += c.value;
            sum[c.column] += c.value;
        }
        sum[i] = own;
    }
    return sum;
}

std::vector<float> inverse_of_sum(const std::vector<float>& a, const std::vector<float>& b) {
    std::vector<float> out(a.size());
    for (std::size_t i = 0; i < a.size(); ++i) {
        const float sum = a[i] + b[i];
        out[i] = sum > 0.0F ? 1.0F / sum : 0.0F;
    }
    return out;
}

}  // namespace firnfield
