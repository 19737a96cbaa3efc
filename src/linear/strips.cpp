// The matrix of the finest level, in strips.

#include "linear/strips.hpp"

#include "linear/parts.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

constexpr std::uint32_t shortest_banded = 12;  // shorter ones cost more than lists

/// Rows whose strips are looked for, and where their couplings may stand.
struct Stretch {
    const LowerTriangle& matrix;
    std::uint32_t first, last;
    std::uint32_t lowest, limit;  ///< columns looked at; the row just before is not one of them when `skip_previous`
    bool skip_previous;

    [[nodiscard]] std::span<const Coupling> of(std::uint32_t i) const {
        std::span<const Coupling> row = matrix.row(i);
        while (!row.empty() && row.front().column < lowest) row = row.subspan(1);
        while (!row.empty() && (row.back().column >= limit || (skip_previous && row.back().column + 1 == i))) row = row.first(row.size() - 1);
        return row;
    }
    [[nodiscard]] bool has(std::uint32_t i, std::uint32_t distance) const {
        return i < last && std::any_of(of(i).begin(), of(i).end(), [&](const Coupling& c) { return i - c.column == distance; });
    }
};

/// All rows of a block and their neighbours in it.
Stretch inner_stretch(const LowerTriangle& matrix, std::size_t b) {
    return {matrix, matrix.block[b], matrix.block[b + 1], matrix.block[b], matrix.block[b + 1], true};
}

std::uint32_t band_of(const Strip& strip, std::uint32_t distance) {
    std::uint32_t d = 0;
    while (d < strip.bands && strip.distance[d] != distance) ++d;
    return d;
}

/// Whether the next row can join the strip. Neighbours that it shares with the row after it become bands.
bool accept(const Stretch& stretch, Strip& strip) {
    const std::uint32_t i = strip.last;
    if (strip.rows() >= Strip::most_rows) return false;
    for (std::uint32_t d = 0; d < strip.bands; ++d) {
        if (strip.rows() >= strip.distance[d] || i - strip.distance[d] >= stretch.limit) return false;
    }
    const std::span<const Coupling> row = stretch.of(i);
    if (std::any_of(row.begin(), row.end(), [&](const Coupling& c) { return band_of(strip, i - c.column) == strip.bands; })) {
        const bool begins = i == strip.first;
        Strip widened = strip;
        for (const Coupling& c : row) {
            const std::uint32_t distance = i - c.column;
            if (band_of(widened, distance) < widened.bands) continue;
            if (c.column >= strip.first) return false;  // it has to be known before the strip begins
            if (!stretch.has(i + 1, distance)) continue;
            const bool fits = widened.bands < Strip::most_bands && strip.first - stretch.lowest >= distance;
            if (fits) {
                widened.distance[widened.bands++] = distance;
            } else if (!begins) {
                return false;
            }
        }
        strip = widened;
    }
    ++strip.last;
    return true;
}

std::vector<Strip> find_strips(const Stretch& stretch) {
    std::vector<Strip> strips;
    for (std::uint32_t i = stretch.first; i < stretch.last;) {
        Strip strip{.first = i, .last = i};
        while (strip.last < stretch.last && accept(stretch, strip)) {
        }
        i = strip.last;
        if (strip.rows() < shortest_banded) {
            strip.bands = Strip::listed;
            if (!strips.empty() && strips.back().is_listed()) {
                strips.back().last = strip.last;
                continue;
            }
        }
        strips.push_back(strip);
    }
    return strips;
}

void add_coupling(RowCouplings& to, std::uint32_t row, const Coupling& coupling) {
    if (to.start.empty()) to.start.push_back(0);
    if (to.row.empty() || to.row.back() != row) {
        to.row.push_back(row);
        to.start.push_back(to.start.back());
    }
    to.couplings.push_back(coupling);
    ++to.start.back();
}

void append(RowCouplings& to, const RowCouplings& from) {
    if (to.start.empty()) to.start.push_back(0);
    const auto offset = static_cast<std::uint32_t>(to.couplings.size());
    for (std::size_t r = 0; r < from.row.size(); ++r) to.start.push_back(offset + from.start[r + 1]);
    to.row.insert(to.row.end(), from.row.begin(), from.row.end());
    to.couplings.insert(to.couplings.end(), from.couplings.begin(), from.couplings.end());
}

/// What is found of one block before it is known where it is stored.
struct BlockParts {
    std::vector<Strip> strips{}, borders{};
    RowCouplings extra{};
    std::vector<std::pair<std::uint32_t, Coupling>> beyond{};  // row and coupling
    std::size_t listed_rows = 0, listed_couplings = 0;
};

/// Writes the bands; calls `other(row, coupling)` for what does not stand in one.
void fill_banded(const Stretch& stretch, const Strip& strip, float* banded, const auto& other) {
    std::fill_n(banded, std::size_t{strip.bands} * strip.rows(), 0.0F);
    for (std::uint32_t i = strip.first; i < strip.last; ++i) {
        for (const Coupling& c : stretch.of(i)) {
            const std::uint32_t d = band_of(strip, i - c.column);
            if (d < strip.bands) {
                banded[std::size_t{d} * strip.rows() + (i - strip.first)] = c.value;
            } else {
                other(i, c);
            }
        }
    }
}

void fill_listed(const Stretch& stretch, const Strip& strip, std::uint32_t width, std::uint32_t* column, float* coupling) {
    for (std::uint32_t i = strip.first; i < strip.last; ++i) {
        const std::span<const Coupling> all = stretch.of(i);
        for (std::size_t k = 0; k < width; ++k) {
            *column++ = k < all.size() ? all[k].column : i;
            *coupling++ = k < all.size() ? all[k].value : 0.0F;
        }
    }
}

/// The borders of a block, and its couplings to others that fit none of them.
void find_borders(const LowerTriangle& matrix, std::size_t b, BlockParts& parts) {
    if (b == 0) return;
    const std::uint32_t first = matrix.block[b], last = matrix.block[b + 1], before = matrix.block[b - 1];
    const auto reaches_out = [&](std::uint32_t i) { return !matrix.row(i).empty() && matrix.row(i).front().column < first; };
    const auto keep = [&](std::uint32_t i, const Coupling& c) { parts.beyond.emplace_back(i, c); };
    for (std::uint32_t i = first; i < last; ++i) {
        if (!reaches_out(i)) continue;
        Stretch border{matrix, i, i, before, first, false};
        for (; i < last && reaches_out(i); ++i) {
            for (const Coupling& c : matrix.row(i)) {
                if (c.column < before) keep(i, c);
            }
        }
        border.last = i;
        for (const Strip& strip : find_strips(border)) {
            if (strip.is_listed()) {
                for (std::uint32_t row = strip.first; row < strip.last; ++row) {
                    for (const Coupling& c : border.of(row)) keep(row, c);
                }
            } else {
                parts.borders.push_back(strip);
            }
        }
    }
}

/// Sorts the couplings between blocks by row, with both rows.
void fill_beyond(StripMatrix& out, const std::vector<BlockParts>& blocks) {
    std::vector<std::pair<std::uint32_t, Coupling>> all;
    for (const BlockParts& parts : blocks) {
        for (const auto& [i, c] : parts.beyond) {
            all.emplace_back(i, c);
            all.emplace_back(c.column, Coupling{i, c.value});
        }
    }
    std::sort(all.begin(), all.end(), [](const auto& x, const auto& y) { return x.first != y.first ? x.first < y.first : x.second.column < y.second.column; });
    out.beyond.start.push_back(0);
    out.block_beyond.push_back(0);
    std::size_t b = 0;
    for (std::size_t k = 0; k < all.size();) {
        const std::uint32_t i = all[k].first;
        for (; i >= out.block[b + 1]; ++b) out.block_beyond.push_back(static_cast<std::uint32_t>(out.beyond.row.size()));
        out.beyond.row.push_back(i);
        for (; k < all.size() && all[k].first == i; ++k) out.beyond.couplings.push_back(all[k].second);
        out.beyond.start.push_back(static_cast<std::uint32_t>(out.beyond.couplings.size()));
    }
    out.block_beyond.resize(out.block.size(), static_cast<std::uint32_t>(out.beyond.row.size()));
}

}  // namespace

std::size_t StripMatrix::bytes() const {
    const auto size = [](const RowCouplings& c) { return 4 * (c.row.size() + c.start.size()) + sizeof(Coupling) * c.couplings.size(); };
    return sizeof(Strip) * (strips.size() + borders.size()) + size(extra) + size(beyond) +
           4 * (previous.size() + banded.size() + column.size() + coupling.size() + excess.size() + inverse_diagonal.size() + fixed_excess.size() +
                capacity.size() + coupling_sum.size());
}

StripMatrix strip_matrix(LowerTriangle matrix, std::vector<float> coupling_sums) {
    StripMatrix out;
    out.block = matrix.block;
    out.couplings = matrix.couplings.size();
    out.previous.assign(matrix.rows(), 0.0F);
    std::vector<BlockParts> blocks(matrix.blocks());
    for_each_part(matrix.blocks(), [&](std::size_t b) {
        for (std::uint32_t i = matrix.block[b] + 1; i < matrix.block[b + 1]; ++i) {
            const std::span<const Coupling> row = matrix.row(i);
            if (!row.empty() && row.back().column + 1 == i) out.previous[i] = row.back().value;
        }
        BlockParts& parts = blocks[b];
        const Stretch stretch = inner_stretch(matrix, b);
        parts.strips = find_strips(stretch);
        for (const Strip& strip : parts.strips) {
            if (!strip.is_listed()) continue;
            parts.listed_rows += strip.rows();
            for (std::uint32_t i = strip.first; i < strip.last; ++i) parts.listed_couplings += stretch.of(i).size();
        }
        find_borders(matrix, b, parts);
    });
    std::size_t rows = 0, couplings = 0;
    for (const BlockParts& parts : blocks) {
        rows += parts.listed_rows;
        couplings += parts.listed_couplings;
    }
    // Wide enough for the most, not for all: padding costs little, but it costs.
    if (rows > 0) out.width = static_cast<std::uint32_t>(std::ceil(static_cast<double>(couplings) / static_cast<double>(rows) - 0.1));
    std::uint32_t banded = 0, listed = 0;
    const auto place = [&](Strip& s) {
        std::uint32_t& at = s.is_listed() ? listed : banded;
        s.at = at;
        at += s.rows() * (s.is_listed() ? out.width : s.bands);
    };
    out.block_strip.push_back(0);
    out.block_border.push_back(0);
    for (BlockParts& parts : blocks) {
        std::for_each(parts.strips.begin(), parts.strips.end(), place);
        std::for_each(parts.borders.begin(), parts.borders.end(), place);
        out.block_strip.push_back(out.block_strip.back() + static_cast<std::uint32_t>(parts.strips.size()));
        out.block_border.push_back(out.block_border.back() + static_cast<std::uint32_t>(parts.borders.size()));
    }
    out.banded.resize(banded);
    out.column.resize(listed);
    out.coupling.resize(listed);
    for_each_part(matrix.blocks(), [&](std::size_t b) {
        BlockParts& parts = blocks[b];
        const Stretch stretch = inner_stretch(matrix, b);
        for (Strip& strip : parts.strips) {
            strip.extra = static_cast<std::uint32_t>(parts.extra.row.size());
            if (strip.is_listed()) {
                fill_listed(stretch, strip, out.width, out.column.data() + strip.at, out.coupling.data() + strip.at);
                for (std::uint32_t i = strip.first; i < strip.last; ++i) {
                    const std::span<const Coupling> all = stretch.of(i);
                    for (const Coupling& c : all.subspan(std::min<std::size_t>(out.width, all.size()))) add_coupling(parts.extra, i, c);
                }
            } else {
                fill_banded(stretch, strip, out.banded.data() + strip.at, [&](std::uint32_t i, const Coupling& c) { add_coupling(parts.extra, i, c); });
            }
            strip.extra_end = static_cast<std::uint32_t>(parts.extra.row.size());
        }
        for (const Strip& strip : parts.borders) {
            const Stretch border{matrix, strip.first, strip.last, matrix.block[b - 1], matrix.block[b], false};
            fill_banded(border, strip, out.banded.data() + strip.at, [&](std::uint32_t i, const Coupling& c) { parts.beyond.emplace_back(i, c); });
        }
    });
    fill_beyond(out, blocks);
    for (const BlockParts& parts : blocks) {
        for (Strip s : parts.strips) {
            s.extra += static_cast<std::uint32_t>(out.extra.row.size());
            s.extra_end += static_cast<std::uint32_t>(out.extra.row.size());
            out.strips.push_back(s);
        }
        out.borders.insert(out.borders.end(), parts.borders.begin(), parts.borders.end());
        append(out.extra, parts.extra);
    }
    out.excess = std::move(matrix.excess);
    out.inverse_diagonal = inverse_of_sum(out.excess, coupling_sums);
    out.fixed_excess = std::move(matrix.fixed_excess);
    out.capacity = std::move(matrix.capacity);
    if (!out.capacity.empty()) out.coupling_sum = std::move(coupling_sums);
    return out;
}

void set_shift(StripMatrix& matrix, double shift) {
    if (matrix.capacity.empty()) return;
    for (std::size_t i = 0; i < matrix.rows(); ++i) matrix.excess[i] = matrix.fixed_excess[i] + static_cast<float>(shift) * matrix.capacity[i];
    matrix.inverse_diagonal = inverse_of_sum(matrix.excess, matrix.coupling_sum);
}

}  // namespace firnfield
