#include "linear/smoother.hpp"

#include <algorithm>

namespace firnfield {
namespace {

/// Σ g x over the couplings that every row has.
template <std::uint32_t Width, typename T>
T usual_sum(const RowCouplings& part, std::uint32_t i, const T* x) {
    const std::uint32_t width = Width > 0 ? Width : part.width;
    const std::uint32_t* column = part.column.data() + std::size_t{i} * width;
    const float* coupling = part.coupling.data() + std::size_t{i} * width;
    T sum = 0;
    for (std::uint32_t k = 0; k < width; ++k) sum += static_cast<T>(coupling[k]) * x[column[k]];
    return sum;
}

/// Walks along the extra couplings of a block while a sweep goes through its rows.
template <typename T>
class Extra {
public:
    Extra(const ExtraCouplings& extra, std::size_t block, bool down, const T* x)
        : extra_(extra), x_(x), first_(extra.block[block]), next_(down ? extra.block[block + 1] : first_), last_(extra.block[block + 1]) {}

    /// Σ g x of row i, for i ascending.
    T up(std::uint32_t i) { return next_ < last_ && extra_.row[next_] == i ? sum(next_++) : T{0}; }
    /// Likewise, for i descending.
    T down(std::uint32_t i) { return next_ > first_ && extra_.row[next_ - 1] == i ? sum(--next_) : T{0}; }
    /// For i descending: what has been worked out for the row before.
    float take_down(std::uint32_t i, std::span<const float> known) { return next_ > first_ && extra_.row[next_ - 1] == i ? known[--next_] : 0.0F; }
    /// The row whose couplings come next going up; going down, one more than it, or 0.
    [[nodiscard]] std::uint32_t next_up() const { return next_ < last_ ? extra_.row[next_] : 0xFFFFFFFFU; }
    [[nodiscard]] std::uint32_t next_down() const { return next_ > first_ ? extra_.row[next_ - 1] + 1 : 0; }
    /// Σ g (x_i − x_j) of row i, for i ascending.
    T flow(std::uint32_t i) {
        if (next_ == last_ || extra_.row[next_] != i) return T{0};
        T s = 0;
        for (std::uint32_t at = extra_.start[next_]; at < extra_.start[next_ + 1]; ++at) s += static_cast<T>(extra_.coupling[at]) * (x_[i] - x_[extra_.column[at]]);
        ++next_;
        return s;
    }

private:
    T sum(std::uint32_t r) const {
        T s = 0;
        for (std::uint32_t at = extra_.start[r]; at < extra_.start[r + 1]; ++at) s += static_cast<T>(extra_.coupling[at]) * x_[extra_.column[at]];
        return s;
    }

    const ExtraCouplings& extra_;
    const T* x_;
    std::uint32_t first_, next_, last_;
};

/// The same without the nearest row, which is the last of the earlier and the first of the later ones.
template <std::uint32_t Width>
float far_sum(const RowCouplings& part, std::uint32_t i, const float* x, bool nearest_last) {
    const std::uint32_t width = Width > 0 ? Width : part.width;
    const std::size_t at = std::size_t{i} * width + (nearest_last ? 0 : 1);
    float sum = 0.0F;
    for (std::uint32_t k = 0; k + 1 < width; ++k) sum += part.coupling[at + k] * x[part.column[at + k]];
    return sum;
}

/// What flows from a row to the others, Σ g (x_i − x_j): exact where temperatures are nearly equal, unlike diagonal minus couplings.
template <std::uint32_t Width, typename T>
T usual_flow(const RowCouplings& part, std::uint32_t i, const T* x) {
    const std::uint32_t width = Width > 0 ? Width : part.width;
    const std::uint32_t* column = part.column.data() + std::size_t{i} * width;
    const float* coupling = part.coupling.data() + std::size_t{i} * width;
    const T here = x[i];
    T sum = 0;
    for (std::uint32_t k = 0; k < width; ++k) sum += static_cast<T>(coupling[k]) * (here - x[column[k]]);
    return sum;
}

/// Calls `plain(i)` for rows without extra couplings and `special(i)` for the others, so that the many need not look for what they lack.
void rows_up(const Level& level, std::size_t block, const auto& plain, const auto& special, const auto&... extra) {
    const std::uint32_t last = level.block[block + 1];
    for (std::uint32_t i = level.block[block]; i < last;) {
        const std::uint32_t stop = std::min({last, extra.next_up()...});
        for (; i < stop; ++i) plain(i);
        if (i < last) special(i++);
    }
}
void rows_down(const Level& level, std::size_t block, const auto& plain, const auto& special, const auto&... extra) {
    const std::uint32_t first = level.block[block];
    for (std::uint32_t i = level.block[block + 1]; i > first;) {
        const std::uint32_t stop = std::max({first, extra.next_down()...});
        for (; i > stop; --i) plain(i - 1);
        if (i > first) special(--i);
    }
}

/// Calls `work` with the width as a constant where it is a usual one.
template <typename Work>
void with_width(std::uint32_t width, const Work& work) {
    switch (width) {
        case 2: return work.template operator()<2>();
        case 3: return work.template operator()<3>();
        case 4: return work.template operator()<4>();
        case 5: return work.template operator()<5>();
        case 6: return work.template operator()<6>();
        default: return work.template operator()<0>();
    }
}

template <typename T>
double multiply_rows(const Level& level, std::span<const T> x, std::span<T> y) {
    return sum_over_blocks(level, [&](std::size_t b) {
        double product = 0.0;
        with_width(level.earlier.width, [&]<std::uint32_t Width>() {
            Extra<T> earlier(level.earlier.extra, b, false, x.data()), later(level.later.extra, b, false, x.data()), beyond(level.beyond, b, false, x.data());
            const auto row = [&](std::uint32_t i, T further) {
                const T image = static_cast<T>(level.excess[i]) * x[i] + usual_flow<Width>(level.earlier, i, x.data()) + usual_flow<Width>(level.later, i, x.data()) + further;
                y[i] = image;
                product += static_cast<double>(x[i]) * static_cast<double>(image);
            };
            rows_up(level, b, [&](std::uint32_t i) { row(i, T{0}); }, [&](std::uint32_t i) { row(i, earlier.flow(i) + later.flow(i) + beyond.flow(i)); }, earlier, later, beyond);
        });
        return product;
    });
}

}  // namespace

void sweep_up_from_zero(const Level& level, std::span<const float> b, std::span<float> x) {
    for_each_block(level, [&](std::size_t block) {
        with_width(level.earlier.width, [&]<std::uint32_t Width>() {
            Extra<float> extra(level.earlier.extra, block, false, x.data());
            if (level.block[block] < level.block[block + 1]) x[level.block[block]] = 0.0F;  // padding points at it
            const auto row = [&](std::uint32_t i, float further) {
                // The value just found comes last, multiplied into by one factor: what follows from it is all that has to wait.
                const std::size_t nearest = std::size_t{i} * (Width > 0 ? Width : level.earlier.width) + (Width > 0 ? Width : level.earlier.width) - 1;
                const float share = level.earlier.coupling[nearest] * level.inverse_diagonal[i];
                const float rest = (b[i] + further + far_sum<Width>(level.earlier, i, x.data(), true)) * level.inverse_diagonal[i];
                x[i] = rest + share * x[level.earlier.column[nearest]];
            };
            rows_up(level, block, [&](std::uint32_t i) { row(i, 0.0F); }, [&](std::uint32_t i) { row(i, extra.up(i)); }, extra);
        });
    });
}

void residual_after_sweep(const Level& level, std::span<const float> x, std::span<float> residual) {
    for_each_block(level, [&](std::size_t block) {
        with_width(level.later.width, [&]<std::uint32_t Width>() {
            Extra<float> extra(level.later.extra, block, false, x.data()), beyond(level.beyond, block, false, x.data());
            rows_up(level, block, [&](std::uint32_t i) { residual[i] = usual_sum<Width>(level.later, i, x.data()); },
                    [&](std::uint32_t i) { residual[i] = usual_sum<Width>(level.later, i, x.data()) + extra.up(i) + beyond.up(i); }, extra, beyond);
        });
    });
}

void sweep_down(const Level& level, std::span<const float> b, std::span<float> x, std::span<float> beyond) {
    // What comes from other blocks, before any of them changes.
    const ExtraCouplings& far = level.beyond;
    for_each_block(level, [&](std::size_t block) {
        for (std::uint32_t r = far.block[block]; r < far.block[block + 1]; ++r) {
            float sum = 0.0F;
            for (std::uint32_t at = far.start[r]; at < far.start[r + 1]; ++at) sum += far.coupling[at] * x[far.column[at]];
            beyond[r] = sum;
        }
    });
    for_each_block(level, [&](std::size_t block) {
        with_width(level.earlier.width, [&]<std::uint32_t Width>() {
            Extra<float> earlier(level.earlier.extra, block, true, x.data()), later(level.later.extra, block, true, x.data());
            Extra<float> outside(far, block, true, x.data());
            const auto row = [&](std::uint32_t i, float further) {
                const std::size_t nearest = std::size_t{i} * (Width > 0 ? Width : level.later.width);
                const float share = level.later.coupling[nearest] * level.inverse_diagonal[i];
                const float sum = b[i] + further + usual_sum<Width>(level.earlier, i, x.data()) + far_sum<Width>(level.later, i, x.data(), false);
                x[i] = sum * level.inverse_diagonal[i] + share * x[level.later.column[nearest]];
            };
            rows_down(level, block, [&](std::uint32_t i) { row(i, 0.0F); },
                      [&](std::uint32_t i) { row(i, earlier.down(i) + later.down(i) + outside.take_down(i, beyond)); }, earlier, later, outside);
        });
    });
}

double multiply(const Level& level, std::span<const float> x, std::span<float> y) { return multiply_rows(level, x, y); }
double multiply(const Level& level, std::span<const double> x, std::span<double> y) { return multiply_rows(level, x, y); }

}  // namespace firnfield
