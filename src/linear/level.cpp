#include "linear/level.hpp"

#include <firnfield/error.hpp>

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {
namespace {

struct Entry {
    std::uint32_t column;
    float coupling;
};

std::size_t numbers(const ExtraCouplings& e) { return e.block.size() + e.row.size() + e.start.size() + e.column.size() + e.coupling.size(); }
std::size_t numbers(const RowCouplings& r) { return r.column.size() + r.coupling.size() + numbers(r.extra); }

/// Collects the extra couplings of the rows of one block.
void add_extra(ExtraCouplings& extra, std::uint32_t row, std::span<const Entry> entries) {
    if (entries.empty()) return;
    extra.row.push_back(row);
    for (const Entry& e : entries) {
        extra.column.push_back(e.column);
        extra.coupling.push_back(e.coupling);
    }
    extra.start.push_back(static_cast<std::uint32_t>(extra.column.size()));
}

void append(ExtraCouplings& to, const ExtraCouplings& from) {
    if (to.block.empty()) {
        to.block.push_back(0);
        to.start.push_back(0);
    }
    const auto offset = static_cast<std::uint32_t>(to.column.size());
    for (const std::uint32_t end : from.start) to.start.push_back(offset + end);
    to.row.insert(to.row.end(), from.row.begin(), from.row.end());
    to.column.insert(to.column.end(), from.column.begin(), from.column.end());
    to.coupling.insert(to.coupling.end(), from.coupling.begin(), from.coupling.end());
    to.block.push_back(static_cast<std::uint32_t>(to.row.size()));
}

/// What is stored for every row: the mean number of couplings on one side, rounded up unless it is hardly more.
std::uint32_t usual_width(const RowMatrix& rows) {
    if (rows.rows() == 0) return 0;
    const double mean = 0.5 * static_cast<double>(rows.column.size()) / static_cast<double>(rows.rows());
    return static_cast<std::uint32_t>(std::max(1.0, std::ceil(mean - 0.04)));
}

}  // namespace

std::size_t Level::bytes() const {
    return 4 * (block.size() + numbers(earlier) + numbers(later) + numbers(beyond) + excess.size() + inverse_diagonal.size() + fixed_excess.size() + capacity.size() + coarse.size());
}

RowMatrix to_rows(const NetworkMatrix& matrix) {
    RowMatrix rows;
    const std::size_t blocks = matrix.nodes > rows_for_threads ? most_blocks : 1;
    for (std::size_t b = 0; b <= blocks; ++b) rows.block.push_back(static_cast<std::uint32_t>(matrix.nodes * b / blocks));
    std::size_t entries = 0;
    for (const Edges& edges : matrix.edges) entries += 2 * edges.first.size();
    if (entries >= std::numeric_limits<std::uint32_t>::max()) throw ComputationError("the network has more links than the solver can number");
    rows.start.assign(matrix.nodes + 1, 0);
    for (const Edges& edges : matrix.edges) {
        for (std::size_t e = 0; e < edges.first.size(); ++e) {
            ++rows.start[edges.first[e] + 1];
            ++rows.start[edges.second[e] + 1];
        }
    }
    for (std::size_t i = 0; i < matrix.nodes; ++i) rows.start[i + 1] += rows.start[i];
    std::vector<std::uint32_t> next(rows.start.begin(), rows.start.end() - 1);
    rows.column.resize(entries);
    rows.coupling.resize(entries);
    for (const Edges& edges : matrix.edges) {
        for (std::size_t e = 0; e < edges.first.size(); ++e) {
            const std::uint32_t i = edges.first[e], j = edges.second[e];
            const auto g = static_cast<float>(edges.conductance[e]);
            rows.column[next[i]] = j;
            rows.coupling[next[i]++] = g;
            rows.column[next[j]] = i;
            rows.coupling[next[j]++] = g;
        }
    }
    rows.excess.assign(matrix.excess.begin(), matrix.excess.end());
    if (!matrix.capacity.empty()) {
        rows.fixed_excess = rows.excess;
        rows.capacity.assign(matrix.capacity.begin(), matrix.capacity.end());
        for (std::size_t i = 0; i < matrix.nodes; ++i) rows.excess[i] = static_cast<float>(matrix.excess[i] + matrix.shift * matrix.capacity[i]);
    }
    return rows;
}

Level make_level(RowMatrix rows, double shift) {
    Level level;
    level.block = rows.block;
    level.earlier.width = level.later.width = usual_width(rows);
    const std::uint32_t width = level.earlier.width;
    for (RowCouplings* part : {&level.earlier, &level.later}) {
        part->column.resize(std::size_t{width} * rows.rows());
        part->coupling.resize(std::size_t{width} * rows.rows());
    }
    struct Extras {
        ExtraCouplings earlier, later, beyond;
        std::size_t couplings = 0;
    };
    std::vector<Extras> extras(rows.block.size() - 1);
    for_each_block(rows, [&](std::size_t b) {
        const std::uint32_t first = rows.block[b], last = rows.block[b + 1];
        std::vector<Entry> entries, joined;
        for (std::uint32_t i = first; i < last; ++i) {
            entries.clear();
            joined.clear();
            for (std::uint32_t at = rows.start[i]; at < rows.start[i + 1]; ++at) {
                if (rows.column[at] != i) entries.push_back({rows.column[at], rows.coupling[at]});
            }
            std::sort(entries.begin(), entries.end(), [](const Entry& x, const Entry& y) { return x.column < y.column; });
            for (const Entry& e : entries) {
                if (!joined.empty() && joined.back().column == e.column) {
                    joined.back().coupling += e.coupling;
                } else {
                    joined.push_back(e);
                }
            }
            extras[b].couplings += joined.size();
            const auto before = [&](std::uint32_t limit) { return std::partition_point(joined.begin(), joined.end(), [&](const Entry& e) { return e.column < limit; }); };
            const auto inside = before(first), middle = before(i), outside = before(last);
            entries.assign(joined.begin(), inside);
            entries.insert(entries.end(), outside, joined.end());
            add_extra(extras[b].beyond, i, entries);
            // The nearest rows stand last among the earlier and first among the later ones: sweeps add them last, since these
            // are the values that they have just found. Padding points at a row that is never far.
            const auto put = [&](RowCouplings& part, std::size_t k, Entry e) {
                part.column[std::size_t{i} * width + k] = e.column;
                part.coupling[std::size_t{i} * width + k] = e.coupling;
            };
            const std::span<const Entry> down{inside, middle}, up{middle, outside};
            for (std::size_t k = 0; k < width; ++k) {
                put(level.earlier, width - 1 - k, k < down.size() ? down[down.size() - 1 - k] : Entry{first, 0.0F});
                put(level.later, k, k < up.size() ? up[k] : Entry{last - 1, 0.0F});
            }
            if (down.size() > width) add_extra(extras[b].earlier, i, down.first(down.size() - width));
            if (up.size() > width) add_extra(extras[b].later, i, up.subspan(width));
        }
    });
    for (const Extras& e : extras) {
        append(level.earlier.extra, e.earlier);
        append(level.later.extra, e.later);
        append(level.beyond, e.beyond);
        level.couplings += e.couplings;
    }
    level.excess = std::move(rows.excess);
    level.fixed_excess = std::move(rows.fixed_excess);
    level.capacity = std::move(rows.capacity);
    rows = {};
    set_shift(level, shift);
    return level;
}

void set_shift(Level& level, double shift) {
    level.inverse_diagonal.resize(level.rows());
    std::vector<double> couplings(level.rows());
    const std::uint32_t width = level.earlier.width;
    for (const RowCouplings* part : {&level.earlier, &level.later}) {
        for (std::size_t i = 0; i < level.rows(); ++i) {
            for (std::uint32_t k = 0; k < width; ++k) couplings[i] += static_cast<double>(part->coupling[i * width + k]);
        }
    }
    for (const ExtraCouplings* extra : {&level.earlier.extra, &level.later.extra, &level.beyond}) {
        for (std::size_t r = 0; r < extra->row.size(); ++r) {
            for (std::uint32_t at = extra->start[r]; at < extra->start[r + 1]; ++at) couplings[extra->row[r]] += static_cast<double>(extra->coupling[at]);
        }
    }
    for (std::size_t i = 0; i < level.rows(); ++i) {
        if (!level.capacity.empty()) level.excess[i] = level.fixed_excess[i] + static_cast<float>(shift) * level.capacity[i];
        level.inverse_diagonal[i] = static_cast<float>(1.0 / (static_cast<double>(level.excess[i]) + couplings[i]));
    }
}

}  // namespace firnfield
