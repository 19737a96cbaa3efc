// Gauss-Seidel sweeps over a matrix in strips.

#include "linear/parts.hpp"
#include "linear/strips.hpp"

namespace firnfield {
namespace {

constexpr std::uint32_t most = Strip::most_rows;

/// 1 for the rows of a strip that the first sweep takes last, 0 for the others.
constexpr std::array<float, most> odd = [] {
    std::array<float, most> flags{};
    for (std::uint32_t k = 1; k < most; k += 2) flags[k] = 1.0F;
    return flags;
}();

float sum_of(std::span<const Coupling> couplings, const float* x) {
    float sum = 0.0F;
    for (const Coupling& c : couplings) sum += c.value * x[c.column];
    return sum;
}
void give(std::span<const Coupling> couplings, float value, float* to) {
    for (const Coupling& c : couplings) to[c.column] += c.value * value;
}

/// Calls `work` with the number of bands as a constant.
auto with_bands(std::uint32_t bands, const auto& work) {
    switch (bands) {
        case 0:
            return work.template operator()<0>();
        case 1:
            return work.template operator()<1>();
        case 2:
            return work.template operator()<2>();
        default:
            return work.template operator()<Strip::most_bands>();
    }
}

/// Likewise with the width of listed strips, where it is a usual one.
constexpr std::uint32_t any_width = 99;
auto with_width(std::uint32_t width, const auto& work) {
    switch (width) {
        case 1:
            return work.template operator()<1>();
        case 2:
            return work.template operator()<2>();
        case 3:
            return work.template operator()<3>();
        default:
            return work.template operator()<any_width>();
    }
}

/// A strip as a sweep sees it.
struct View {
    const StripMatrix& matrix;
    const Strip& strip;
    bool first;  ///< of its block: nothing stands before it

    [[nodiscard]] const float* previous() const { return matrix.previous.data() + strip.first; }
    [[nodiscard]] const float* inverse() const { return matrix.inverse_diagonal.data() + strip.first; }
    [[nodiscard]] const float* band(std::uint32_t d) const { return matrix.banded.data() + strip.at + std::size_t{d} * strip.rows(); }
    /// Where the earlier neighbours of a band begin.
    template <typename T>
    [[nodiscard]] T* shifted(T* x, std::uint32_t d) const {
        return x + (strip.first - strip.distance[d]);
    }
};

/// sum[k] = from[k] + what the earlier rows give.
template <std::uint32_t Bands>
void take(const View& v, const float* __restrict from, const float* __restrict x, float* __restrict sum) {
    const std::uint32_t n = v.strip.rows();
    const float *g0 = v.band(0), *g1 = v.band(1), *g2 = v.band(2);
    const float *x0 = v.shifted(x, 0), *x1 = v.shifted(x, 1), *x2 = v.shifted(x, 2), *own = from + v.strip.first;
#pragma omp simd
    for (std::uint32_t k = 0; k < n; ++k) {
        float value = own[k];
        if constexpr (Bands > 0) value += g0[k] * x0[k];
        if constexpr (Bands > 1) value += g1[k] * x1[k];
        if constexpr (Bands > 2) value += g2[k] * x2[k];
        sum[k] = value;
    }
    const RowCouplings& extra = v.matrix.extra;
    for (std::uint32_t r = v.strip.extra; r < v.strip.extra_end; ++r) sum[extra.row[r] - v.strip.first] += sum_of(extra.of(r), x);
    if (!v.first) sum[0] += v.previous()[0] * x[v.strip.first - 1];
}

/// What the rows of the strip, with these values, give to the earlier ones.
template <std::uint32_t Bands>
void give(const View& v, const float* __restrict values, float* __restrict to) {
    const std::uint32_t n = v.strip.rows();
    for (std::uint32_t d = 0; d < Bands; ++d) {
        const float* g = v.band(d);
        float* target = v.shifted(to, d);
#pragma omp simd
        for (std::uint32_t k = 0; k < n; ++k) target[k] += g[k] * values[k];
    }
    const RowCouplings& extra = v.matrix.extra;
    for (std::uint32_t r = v.strip.extra; r < v.strip.extra_end; ++r) give(extra.of(r), values[extra.row[r] - v.strip.first], to);
    if (!v.first) to[v.strip.first - 1] += v.previous()[0] * values[0];
}

template <std::uint32_t Bands>
void banded_from_zero(const View& v, const float* b, float* __restrict x, float* __restrict residual) {
    const std::uint32_t n = v.strip.rows(), top = n - 1;
    float even[most], value[most];
    take<Bands>(v, b, x, even);
    const float *g = v.previous(), *inverse = v.inverse();
#pragma omp simd
    for (std::uint32_t k = 0; k < n; ++k) value[k] = even[k] *= inverse[k];
#pragma omp simd
    for (std::uint32_t k = 1; k < top; ++k) value[k] += odd[k] * inverse[k] * (g[k] * even[k - 1] + g[k + 1] * even[k + 1]);
    if (top % 2 == 1) value[top] += inverse[top] * g[top] * even[top - 1];
    float *own = x + v.strip.first, *left = residual + v.strip.first;
    // Odd rows have seen all rows of the strip, even ones have not seen the odd ones.
#pragma omp simd
    for (std::uint32_t k = 1; k < top; ++k) {
        own[k] = value[k];
        left[k] = (1.0F - odd[k]) * (g[k] * value[k - 1] + g[k + 1] * value[k + 1]);
    }
    own[0] = value[0];
    own[top] = value[top];
    left[top] = top % 2 == 0 && top > 0 ? g[top] * value[top - 1] : 0.0F;
    if (top > 0) left[0] = g[1] * value[1];
    give<Bands>(v, value, residual);
}

template <std::uint32_t Bands>
void banded_back(const View& v, float* __restrict b, float* __restrict x) {
    const std::uint32_t n = v.strip.rows(), top = n - 1;
    float rest[most], middle[most], value[most];
    take<Bands>(v, b, x, rest);
    const float *g = v.previous(), *inverse = v.inverse();
    float* own = x + v.strip.first;
#pragma omp simd
    for (std::uint32_t k = 1; k < top; ++k) middle[k] = own[k] + odd[k] * ((rest[k] + g[k] * own[k - 1] + g[k + 1] * own[k + 1]) * inverse[k] - own[k]);
    middle[0] = own[0];
    if (top > 0) middle[top] = top % 2 == 1 ? (rest[top] + g[top] * own[top - 1]) * inverse[top] : own[top];
#pragma omp simd
    for (std::uint32_t k = 1; k < top; ++k) {
        const float even = (rest[k] + g[k] * middle[k - 1] + g[k + 1] * middle[k + 1]) * inverse[k];
        own[k] = value[k] = odd[k] * middle[k] + (1.0F - odd[k]) * even;
    }
    own[0] = value[0] = (rest[0] + (top > 0 ? g[1] * middle[1] : 0.0F)) * inverse[0];
    if (top > 0) own[top] = value[top] = top % 2 == 0 ? (rest[top] + g[top] * middle[top - 1]) * inverse[top] : middle[top];
    give<Bands>(v, value, b);
}

/// Differences are taken in double precision, since temperatures across a strong coupling differ in their last digits.
template <std::uint32_t Bands>
double banded_multiply(const View& v, const double* __restrict x, float* __restrict y) {
    const std::uint32_t n = v.strip.rows(), top = n - 1;
    const float *g = v.previous(), *excess = v.matrix.excess.data() + v.strip.first;
    const double* own = x + v.strip.first;
    float* image = y + v.strip.first;
    double sum = 0.0;
#pragma omp simd reduction(+ : sum)
    for (std::uint32_t k = 0; k < n; ++k) {
        const double out = static_cast<double>(excess[k]) * own[k];
        sum += out * own[k];
        image[k] = static_cast<float>(out);
    }
    for (std::uint32_t d = 0; d < Bands; ++d) {
        const float* conductance = v.band(d);
        const double* other = v.shifted(x, d);
        float* to = v.shifted(y, d);
#pragma omp simd reduction(+ : sum)
        for (std::uint32_t k = 0; k < n; ++k) {
            const double difference = own[k] - other[k], f = static_cast<double>(conductance[k]) * difference;
            sum += f * difference;
            image[k] += static_cast<float>(f);
            to[k] -= static_cast<float>(f);
        }
    }
    float flow[most];
    flow[0] = 0.0F;
    if (!v.first) {
        const double difference = own[0] - own[-1], f = static_cast<double>(g[0]) * difference;
        sum += f * difference;
        flow[0] = static_cast<float>(f);
        image[-1] -= flow[0];
    }
#pragma omp simd reduction(+ : sum)
    for (std::uint32_t k = 1; k < n; ++k) {
        const double difference = own[k] - own[k - 1], f = static_cast<double>(g[k]) * difference;
        sum += f * difference;
        flow[k] = static_cast<float>(f);
    }
#pragma omp simd
    for (std::uint32_t k = 0; k < top; ++k) image[k] += flow[k] - flow[k + 1];
    image[top] += flow[top];
    return sum;
}

/// Calls `row(i, columns, values, extra)` for the rows of a listed strip, ascending.
template <std::uint32_t Width>
void listed_rows(const View& v, const auto& row) {
    const std::uint32_t width = Width == any_width ? v.matrix.width : Width;
    const std::uint32_t* column = v.matrix.column.data() + v.strip.at;
    const float* value = v.matrix.coupling.data() + v.strip.at;
    std::uint32_t r = v.strip.extra;
    for (std::uint32_t i = v.strip.first; i < v.strip.last; ++i, column += width, value += width) {
        const bool more = r < v.strip.extra_end && v.matrix.extra.row[r] == i;
        row(i, width, column, value, more ? v.matrix.extra.of(r++) : std::span<const Coupling>());
    }
}
template <std::uint32_t Width>
void listed_rows_down(const View& v, const auto& row) {
    const std::uint32_t width = Width == any_width ? v.matrix.width : Width;
    const std::uint32_t* column = v.matrix.column.data() + v.strip.at + std::size_t{v.strip.rows()} * width;
    const float* value = v.matrix.coupling.data() + v.strip.at + std::size_t{v.strip.rows()} * width;
    std::uint32_t r = v.strip.extra_end;
    for (std::uint32_t i = v.strip.last; i-- > v.strip.first;) {
        column -= width;
        value -= width;
        const bool more = r > v.strip.extra && v.matrix.extra.row[r - 1] == i;
        row(i, width, column, value, more ? v.matrix.extra.of(--r) : std::span<const Coupling>());
    }
}

template <std::uint32_t Width>
void listed_from_zero(const View& v, const float* b, float* x, float* residual) {
    listed_rows<Width>(v, [&](std::uint32_t i, std::uint32_t width, const std::uint32_t* column, const float* g, std::span<const Coupling> extra) {
        float sum = b[i] + sum_of(extra, x);
        const bool has_previous = i > v.strip.first || !v.first;
        if (has_previous) sum += v.matrix.previous[i] * x[i - 1];
        for (std::uint32_t k = 0; k < width; ++k) sum += g[k] * x[column[k]];
        const float value = x[i] = sum * v.matrix.inverse_diagonal[i];
        residual[i] = 0.0F;
        if (has_previous) residual[i - 1] += v.matrix.previous[i] * value;
        for (std::uint32_t k = 0; k < width; ++k) residual[column[k]] += g[k] * value;
        give(extra, value, residual);
    });
}

template <std::uint32_t Width>
void listed_back(const View& v, float* b, float* x) {
    listed_rows_down<Width>(v, [&](std::uint32_t i, std::uint32_t width, const std::uint32_t* column, const float* g, std::span<const Coupling> extra) {
        float sum = b[i] + sum_of(extra, x);
        const bool has_previous = i > v.strip.first || !v.first;
        if (has_previous) sum += v.matrix.previous[i] * x[i - 1];
        for (std::uint32_t k = 0; k < width; ++k) sum += g[k] * x[column[k]];
        const float value = x[i] = sum * v.matrix.inverse_diagonal[i];
        if (has_previous) b[i - 1] += v.matrix.previous[i] * value;
        for (std::uint32_t k = 0; k < width; ++k) b[column[k]] += g[k] * value;
        give(extra, value, b);
    });
}

template <std::uint32_t Width>
double listed_multiply(const View& v, const double* x, float* y) {
    double product = 0.0;
    listed_rows<Width>(v, [&](std::uint32_t i, std::uint32_t width, const std::uint32_t* column, const float* g, std::span<const Coupling> extra) {
        const double here = x[i];
        double out = static_cast<double>(v.matrix.excess[i]) * here;
        product += out * here;
        y[i] = 0.0F;
        const auto flow = [&](float conductance, std::uint32_t j) {
            const double difference = here - x[j], f = static_cast<double>(conductance) * difference;
            product += f * difference;
            out += f;
            y[j] -= static_cast<float>(f);
        };
        if (i > v.strip.first || !v.first) flow(v.matrix.previous[i], i - 1);
        for (std::uint32_t k = 0; k < width; ++k) flow(g[k], column[k]);
        for (const Coupling& c : extra) flow(c.value, c.column);
        y[i] += static_cast<float>(out);
    });
    return product;
}

/// The extra couplings of a banded strip.
double extra_multiply(const View& v, const double* x, float* y) {
    double product = 0.0;
    for (std::uint32_t r = v.strip.extra; r < v.strip.extra_end; ++r) {
        const std::uint32_t i = v.matrix.extra.row[r];
        for (const Coupling& c : v.matrix.extra.of(r)) {
            const double difference = x[i] - x[c.column], f = static_cast<double>(c.value) * difference;
            product += f * difference;
            y[i] += static_cast<float>(f);
            y[c.column] -= static_cast<float>(f);
        }
    }
    return product;
}

/// Calls `work(view, band, rows)` for all bands between a block and the one before it.
void for_borders(const StripMatrix& matrix, std::size_t block, const auto& work) {
    if (block >= matrix.blocks()) return;
    for (std::uint32_t n = matrix.block_border[block]; n < matrix.block_border[block + 1]; ++n) {
        const View v{matrix, matrix.borders[n], true};
        for (std::uint32_t d = 0; d < v.strip.bands; ++d) work(v, d, v.strip.rows());
    }
}

/// Adds to the rows of a block what those of other blocks give.
void add_from_others(const StripMatrix& matrix, std::size_t block, const float* __restrict x, float* __restrict to) {
    for_borders(matrix, block, [&](const View& v, std::uint32_t d, std::uint32_t n) {
        const float *g = v.band(d), *other = v.shifted(x, d);
        float* own = to + v.strip.first;
#pragma omp simd
        for (std::uint32_t k = 0; k < n; ++k) own[k] += g[k] * other[k];
    });
    for_borders(matrix, block + 1, [&](const View& v, std::uint32_t d, std::uint32_t n) {
        const float *g = v.band(d), *other = x + v.strip.first;
        float* own = v.shifted(to, d);
#pragma omp simd
        for (std::uint32_t k = 0; k < n; ++k) own[k] += g[k] * other[k];
    });
    for (std::uint32_t r = matrix.block_beyond[block]; r < matrix.block_beyond[block + 1]; ++r) to[matrix.beyond.row[r]] += sum_of(matrix.beyond.of(r), x);
}

/// Likewise for y = A x: what flows to the rows of other blocks. Returns the share of x·y.
double flow_to_others(const StripMatrix& matrix, std::size_t block, const double* __restrict x, float* __restrict y) {
    double product = 0.0;
    for_borders(matrix, block, [&](const View& v, std::uint32_t d, std::uint32_t n) {
        const float* g = v.band(d);
        const double *other = v.shifted(x, d), *own = x + v.strip.first;
        float* to = y + v.strip.first;
        double sum = 0.0;
#pragma omp simd reduction(+ : sum)
        for (std::uint32_t k = 0; k < n; ++k) {
            const double difference = own[k] - other[k], f = static_cast<double>(g[k]) * difference;
            sum += f * difference;
            to[k] += static_cast<float>(f);
        }
        product += sum;
    });
    for_borders(matrix, block + 1, [&](const View& v, std::uint32_t d, std::uint32_t n) {
        const float* g = v.band(d);
        const double *own = v.shifted(x, d), *other = x + v.strip.first;
        float* to = v.shifted(y, d);
#pragma omp simd
        for (std::uint32_t k = 0; k < n; ++k) to[k] += static_cast<float>(static_cast<double>(g[k]) * (own[k] - other[k]));
    });
    for (std::uint32_t r = matrix.block_beyond[block]; r < matrix.block_beyond[block + 1]; ++r) {
        const std::uint32_t i = matrix.beyond.row[r];
        for (const Coupling& c : matrix.beyond.of(r)) {
            const double difference = x[i] - x[c.column], f = static_cast<double>(c.value) * difference;
            if (c.column < i) product += f * difference;
            y[i] += static_cast<float>(f);
        }
    }
    return product;
}

}  // namespace

void sweep_from_zero(const StripMatrix& matrix, std::span<const float> b, std::span<float> x, std::span<float> residual) {
    for_each_part(matrix.blocks(), [&](std::size_t block) {
        for (std::uint32_t n = matrix.block_strip[block]; n < matrix.block_strip[block + 1]; ++n) {
            const View v{matrix, matrix.strips[n], n == matrix.block_strip[block]};
            if (v.strip.is_listed()) {
                with_width(matrix.width, [&]<std::uint32_t W>() { listed_from_zero<W>(v, b.data(), x.data(), residual.data()); });
            } else {
                with_bands(v.strip.bands, [&]<std::uint32_t B>() { banded_from_zero<B>(v, b.data(), x.data(), residual.data()); });
            }
        }
    });
    if (matrix.blocks() > 1) for_each_part(matrix.blocks(), [&](std::size_t block) { add_from_others(matrix, block, x.data(), residual.data()); });
}

void sweep_back(const StripMatrix& matrix, std::span<float> b, std::span<float> x) {
    if (matrix.blocks() > 1) for_each_part(matrix.blocks(), [&](std::size_t block) { add_from_others(matrix, block, x.data(), b.data()); });
    for_each_part(matrix.blocks(), [&](std::size_t block) {
        for (std::uint32_t n = matrix.block_strip[block + 1]; n-- > matrix.block_strip[block];) {
            const View v{matrix, matrix.strips[n], n == matrix.block_strip[block]};
            if (v.strip.is_listed()) {
                with_width(matrix.width, [&]<std::uint32_t W>() { listed_back<W>(v, b.data(), x.data()); });
            } else {
                with_bands(v.strip.bands, [&]<std::uint32_t B>() { banded_back<B>(v, b.data(), x.data()); });
            }
        }
    });
}

namespace {

/// y = A x and x·y; `prepare(first, last)` is called before the first use of these rows of x.
double multiply_prepared(const StripMatrix& matrix, const double* x, float* y, const auto& prepare) {
    double product = sum_parts(matrix.blocks(), [&](std::size_t block) {
        double sum = 0.0;
        for (std::uint32_t n = matrix.block_strip[block]; n < matrix.block_strip[block + 1]; ++n) {
            const View v{matrix, matrix.strips[n], n == matrix.block_strip[block]};
            prepare(v.strip.first, v.strip.last);
            if (v.strip.is_listed()) {
                sum += with_width(matrix.width, [&]<std::uint32_t W>() { return listed_multiply<W>(v, x, y); });
            } else {
                sum += with_bands(v.strip.bands, [&]<std::uint32_t B>() { return banded_multiply<B>(v, x, y); });
                sum += extra_multiply(v, x, y);
            }
        }
        return sum;
    });
    if (matrix.blocks() > 1) product += sum_parts(matrix.blocks(), [&](std::size_t block) { return flow_to_others(matrix, block, x, y); });
    return product;
}

}  // namespace

double multiply(const StripMatrix& matrix, std::span<const double> x, std::span<float> y) {
    return multiply_prepared(matrix, x.data(), y.data(), [](std::uint32_t, std::uint32_t) {});
}

double next_direction(const StripMatrix& matrix, std::span<const float> z, double overlap, std::span<double> p, std::span<float> image) {
    return multiply_prepared(matrix, p.data(), image.data(), [&](std::uint32_t first, std::uint32_t last) {
#pragma omp simd
        for (std::uint32_t i = first; i < last; ++i) p[i] = static_cast<double>(z[i]) - overlap * p[i];
    });
}

}  // namespace firnfield
