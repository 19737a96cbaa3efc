#include "linear/smoother.hpp"

namespace firnfield {

void sweep_up_from_zero(const Level& level, std::span<float> residual, std::span<float> x) {
    for (std::size_t i = 0; i < level.rows(); ++i) {
        const float value = residual[i] * level.inverse_diagonal[i];
        x[i] = value;
        residual[i] = 0.0F;
        for (std::uint64_t at = level.row_start[i]; at < level.row_start[i + 1]; ++at) residual[level.column[at]] += level.coupling[at] * value;
    }
}

void sweep_down(const Level& level, std::span<const float> b, std::span<float> x) {
    for (std::size_t i = level.rows(); i-- > 0;) {
        float sum = b[i];
        for (std::uint64_t at = level.row_start[i]; at < level.row_start[i + 1]; ++at) sum += level.coupling[at] * x[level.column[at]];
        x[i] = sum * level.inverse_diagonal[i];
    }
}

double multiply(const Level& level, std::span<const float> x, std::span<float> y) {
    double product = 0.0;
    for (std::size_t i = 0; i < level.rows(); ++i) {
        float sum = level.excess[i] * x[i];
        for (std::uint64_t at = level.row_start[i]; at < level.row_start[i + 1]; ++at) sum += level.coupling[at] * (x[i] - x[level.column[at]]);
        y[i] = sum;
        product += static_cast<double>(x[i]) * static_cast<double>(sum);
    }
    return product;
}

}  // namespace firnfield
