#include "linear/smoother.hpp"

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
            for (std::uint32_t i = level.block[b]; i < level.block[b + 1]; ++i) {
                const T image = static_cast<T>(level.excess[i]) * x[i] + usual_flow<Width>(level.earlier, i, x.data()) + usual_flow<Width>(level.later, i, x.data()) +
                                earlier.flow(i) + later.flow(i) + beyond.flow(i);
                y[i] = image;
                product += static_cast<double>(x[i]) * static_cast<double>(image);
            }
        });
        return product;
    });
}

}  // namespace

void sweep_up_from_zero(const Level& level, std::span<const float> b, std::span<float> x) {
    for_each_block(level, [&](std::size_t block) {
        with_width(level.earlier.width, [&]<std::uint32_t Width>() {
            Extra<float> extra(level.earlier.extra, block, false, x.data());
            for (std::uint32_t i = level.block[block]; i < level.block[block + 1]; ++i) {
                x[i] = 0.0F;  // padding points at the row itself
                x[i] = (b[i] + extra.up(i) + usual_sum<Width>(level.earlier, i, x.data())) * level.inverse_diagonal[i];
            }
        });
    });
}

void residual_after_sweep(const Level& level, std::span<const float> x, std::span<float> residual) {
    for_each_block(level, [&](std::size_t block) {
        with_width(level.later.width, [&]<std::uint32_t Width>() {
            Extra<float> extra(level.later.extra, block, false, x.data()), beyond(level.beyond, block, false, x.data());
            for (std::uint32_t i = level.block[block]; i < level.block[block + 1]; ++i) {
                residual[i] = usual_sum<Width>(level.later, i, x.data()) + extra.up(i) + beyond.up(i);
            }
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
            std::uint32_t r = far.block[block + 1];
            for (std::uint32_t i = level.block[block + 1]; i-- > level.block[block];) {
                float sum = b[i] + earlier.down(i) + later.down(i) + usual_sum<Width>(level.earlier, i, x.data());
                if (r > far.block[block] && far.row[r - 1] == i) sum += beyond[--r];
                x[i] = (sum + usual_sum<Width>(level.later, i, x.data())) * level.inverse_diagonal[i];
            }
        });
    });
}

double multiply(const Level& level, std::span<const float> x, std::span<float> y) { return multiply_rows(level, x, y); }
double multiply(const Level& level, std::span<const double> x, std::span<double> y) { return multiply_rows(level, x, y); }

}  // namespace firnfield
