// The matrix of a coarse level: rows in colours, and sweeps over them.

#include "linear/colours.hpp"

#include "linear/parts.hpp"

#include <algorithm>
#include <array>
#include <cstring>

namespace firnfield {
namespace {

constexpr std::uint32_t lanes = Pack::lanes;
/// The numbers of a pack's rows, in one register.
using Lanes [[gnu::vector_size(sizeof(float) * lanes)]] = float;
/// Rows are ordered by their number of couplings within so many rows, which keeps packs full and neighbours near.
constexpr std::uint32_t window = 4096;

/// The first colour that no earlier neighbour has.
std::vector<std::uint32_t> colours_of(const LowerTriangle& matrix) {
    std::vector<std::uint32_t> colour(matrix.rows()), taken_by;
    for (std::uint32_t i = 0; i < matrix.rows(); ++i) {
        for (const Coupling& c : matrix.row(i)) taken_by[colour[c.column]] = i;
        const auto free = std::find_if(taken_by.begin(), taken_by.end(), [&](std::uint32_t by) { return by != i; });
        colour[i] = static_cast<std::uint32_t>(free - taken_by.begin());
        if (free == taken_by.end()) taken_by.push_back(left_out);
    }
    return colour;
}

/// Couplings of a row to earlier and to later colours.
struct Counts {
    std::uint32_t earlier = 0, later = 0;
};

/// For each place of the packs the row that goes there, or left_out; sets the limits of the colours.
std::vector<std::uint32_t> order_rows(const std::vector<std::uint32_t>& colour, const std::vector<Counts>& counts, std::vector<std::uint32_t>& limits) {
    // Where the rows of each colour begin.
    limits.assign(1, 0);
    for (const std::uint32_t c : colour) {
        if (limits.size() < c + 2) limits.resize(c + 2, 0);
        ++limits[c + 1];
    }
    for (std::size_t c = 1; c < limits.size(); ++c) limits[c] = limits[c - 1] + (limits[c] + lanes - 1) / lanes;
    std::vector<std::uint32_t> next(limits.begin(), limits.end()), order(std::size_t{limits.back()} * lanes, left_out);
    for (std::uint32_t& n : next) n *= lanes;
    // Windows one after the other, each by its couplings.
    std::vector<std::uint64_t> keys;
    const auto few = [](std::uint32_t n) { return std::min<std::uint64_t>(n, 255); };
    for (std::uint32_t first = 0; first < colour.size(); first += window) {
        keys.clear();
        for (std::uint32_t i = first; i < std::min<std::size_t>(first + window, colour.size()); ++i)
            keys.push_back(few(counts[i].earlier) << 40 | few(counts[i].later) << 32 | i);
        std::sort(keys.begin(), keys.end());
        for (const std::uint64_t key : keys) {
            const auto i = static_cast<std::uint32_t>(key);
            order[next[colour[i]]++] = i;
        }
    }
    return order;
}

std::vector<float> permuted(const std::vector<float>& values, const std::vector<std::uint32_t>& order) {
    if (values.empty()) return {};
    std::vector<float> out;
    out.reserve(order.size());
    for (const std::uint32_t i : order) out.push_back(i == left_out ? 0.0F : values[i]);
    return out;
}

Lanes load(const float* from) {
    Lanes out;
    std::memcpy(&out, from, sizeof out);
    return out;
}
void store(Lanes lane, float* to) { std::memcpy(to, &lane, sizeof lane); }
Lanes gather(const float* x, const std::uint32_t* column) { return Lanes{x[column[0]], x[column[1]], x[column[2]], x[column[3]]}; }

/// sum + Σ g x over `count` couplings of each row of a pack.
Lanes add_couplings(const std::uint32_t* column, const float* coupling, std::uint32_t count, const float* x, Lanes sum) {
    for (std::uint32_t e = 0; e < count; ++e, column += lanes, coupling += lanes) sum += load(coupling) * gather(x, column);
    return sum;
}

/// Calls `work(pack)` for some packs, in parallel where the matrix is large.
void for_packs(const ColourMatrix& matrix, std::uint32_t first, std::uint32_t last, const auto& work) {
    const auto some = [&](std::size_t from, std::size_t to) {
        for (std::size_t p = from; p < to; ++p) work(static_cast<std::uint32_t>(p));
    };
    if (matrix.rows() <= rows_for_threads) return some(first, last);
    const std::size_t parts = parts_of(matrix.rows());
    for_each_part(parts, [&](std::size_t p) { some(first + std::size_t{last - first} * p / parts, first + std::size_t{last - first} * (p + 1) / parts); });
}

}  // namespace

std::size_t ColourMatrix::bytes() const {
    return sizeof(Pack) * packs.size() +
           4 * (column.size() + coupling.size() + excess.size() + inverse_diagonal.size() + fixed_excess.size() + capacity.size() + coupling_sum.size());
}

Colouring coloured(const LowerTriangle& triangle, const std::vector<float>& coupling_sums) {
    Colouring out;
    ColourMatrix& matrix = out.matrix;
    const std::vector<std::uint32_t> colour = colours_of(triangle);
    std::vector<Counts> counts(triangle.rows());
    for (std::uint32_t i = 0; i < triangle.rows(); ++i) {
        for (const Coupling& c : triangle.row(i)) {
            const std::uint32_t j = c.column;
            ++(colour[j] < colour[i] ? counts[i].earlier : counts[i].later);
            ++(colour[i] < colour[j] ? counts[j].earlier : counts[j].later);
        }
    }
    const std::vector<std::uint32_t> order = order_rows(colour, counts, matrix.colour);
    out.position.resize(triangle.rows());
    std::uint32_t at = 0;
    for (std::uint32_t first = 0; first < order.size(); first += lanes) {
        Pack pack{.at = at};
        for (std::uint32_t k = 0; k < lanes; ++k) {
            const std::uint32_t i = order[first + k];
            if (i == left_out) continue;
            out.position[i] = first + k;
            pack.earlier = std::max(pack.earlier, counts[i].earlier);
            pack.later = std::max(pack.later, counts[i].later);
        }
        at += lanes * (pack.earlier + pack.later);
        matrix.packs.push_back(pack);
    }
    matrix.column.resize(at);
    matrix.coupling.assign(at, 0.0F);
    for (std::uint32_t p = 0; p < matrix.packs.size(); ++p) {
        const std::uint32_t end = p + 1 < matrix.packs.size() ? matrix.packs[p + 1].at : at;
        for (std::uint32_t e = matrix.packs[p].at; e < end; ++e) matrix.column[e] = p * lanes + (e - matrix.packs[p].at) % lanes;
    }
    // The counts now run backwards: the last coupling that comes stands first.
    const auto put = [&](std::uint32_t i, std::uint32_t j, float value) {
        const Pack& pack = matrix.packs[out.position[i] / lanes];
        const std::uint32_t nth = colour[j] < colour[i] ? --counts[i].earlier : pack.earlier + --counts[i].later;
        const std::uint32_t place = pack.at + nth * lanes + out.position[i] % lanes;
        matrix.column[place] = out.position[j];
        matrix.coupling[place] = value;
    };
    for (std::uint32_t i = 0; i < triangle.rows(); ++i) {
        for (const Coupling& c : triangle.row(i)) {
            put(i, c.column, c.value);
            put(c.column, i, c.value);
        }
    }
    matrix.couplings = triangle.couplings.size();
    matrix.excess = permuted(triangle.excess, order);
    matrix.fixed_excess = permuted(triangle.fixed_excess, order);
    matrix.capacity = permuted(triangle.capacity, order);
    std::vector<float> sums = permuted(coupling_sums, order);
    matrix.inverse_diagonal = inverse_of_sum(matrix.excess, sums);
    if (!matrix.capacity.empty()) matrix.coupling_sum = std::move(sums);
    return out;
}

void set_shift(ColourMatrix& matrix, double shift) {
    if (matrix.capacity.empty()) return;
    for (std::size_t i = 0; i < matrix.rows(); ++i) matrix.excess[i] = matrix.fixed_excess[i] + static_cast<float>(shift) * matrix.capacity[i];
    matrix.inverse_diagonal = inverse_of_sum(matrix.excess, matrix.coupling_sum);
}

void sweep_from_zero(const ColourMatrix& matrix, std::span<const float> b, std::span<float> x, std::span<float> residual) {
    for (std::size_t c = 0; c + 1 < matrix.colour.size(); ++c) {
        for_packs(matrix, matrix.colour[c], matrix.colour[c + 1], [&](std::uint32_t p) {
            const Pack& pack = matrix.packs[p];
            const Lanes sum = add_couplings(matrix.column.data() + pack.at, matrix.coupling.data() + pack.at, pack.earlier, x.data(), load(&b[p * lanes]));
            store(sum * load(&matrix.inverse_diagonal[p * lanes]), &x[p * lanes]);
        });
    }
    for_packs(matrix, 0, matrix.colour.back(), [&](std::uint32_t p) {
        const Pack& pack = matrix.packs[p];
        const std::uint32_t at = pack.at + lanes * pack.earlier;
        store(add_couplings(matrix.column.data() + at, matrix.coupling.data() + at, pack.later, x.data(), Lanes{}), &residual[p * lanes]);
    });
}

void sweep_back(const ColourMatrix& matrix, std::span<const float> b, std::span<float> x) {
    for (std::size_t c = matrix.colour.size() - 1; c-- > 0;) {
        for_packs(matrix, matrix.colour[c], matrix.colour[c + 1], [&](std::uint32_t p) {
            const Pack& pack = matrix.packs[p];
            const Lanes sum =
                add_couplings(matrix.column.data() + pack.at, matrix.coupling.data() + pack.at, pack.earlier + pack.later, x.data(), load(&b[p * lanes]));
            store(sum * load(&matrix.inverse_diagonal[p * lanes]), &x[p * lanes]);
        });
    }
}

double multiply(const ColourMatrix& matrix, std::span<const float> x, std::span<float> y) {
    return sum_parts(parts_of(matrix.rows()), [&](std::size_t part) {
        const std::size_t parts = parts_of(matrix.rows()), packs = matrix.packs.size();
        std::array<double, lanes> product{};
        for (std::size_t p = packs * part / parts; p < packs * (part + 1) / parts; ++p) {
            const Pack& pack = matrix.packs[p];
            const Lanes here = load(&x[p * lanes]);
            Lanes out = load(&matrix.excess[p * lanes]) * here;
            const std::uint32_t* column = matrix.column.data() + pack.at;
            const float* coupling = matrix.coupling.data() + pack.at;
            for (std::uint32_t e = 0; e < pack.earlier + pack.later; ++e, column += lanes, coupling += lanes) {
                out += load(coupling) * (here - gather(x.data(), column));
            }
            for (std::uint32_t k = 0; k < lanes; ++k) product[k] += static_cast<double>(here[k]) * static_cast<double>(out[k]);
            store(out, &y[p * lanes]);
        }
        return (product[0] + product[1]) + (product[2] + product[3]);
    });
}

}  // namespace firnfield
