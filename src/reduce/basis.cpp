// Spaces of responses, orthonormal in the capacities.

#include "reduce/basis.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

/// Nodes that are summed up by themselves: the order of the sums does not depend on the threads.
constexpr std::size_t chunk = 8192;

/// Σ a · weight · b over the nodes; without weights where there are none.
double product(std::span<const double> a, std::span<const double> weight, std::span<const double> b) {
    const auto chunks = static_cast<std::ptrdiff_t>((a.size() + chunk - 1) / chunk);
    std::vector<double> sums(static_cast<std::size_t>(chunks), 0.0);
#pragma omp parallel for schedule(static)
    for (std::ptrdiff_t k = 0; k < chunks; ++k) {
        const std::size_t from = static_cast<std::size_t>(k) * chunk, to = std::min(a.size(), from + chunk);
        double sum = 0.0;
        for (std::size_t i = from; i < to; ++i) sum += a[i] * (weight.empty() ? b[i] : weight[i] * b[i]);
        sums[static_cast<std::size_t>(k)] = sum;
    }
    double sum = 0.0;
    for (const double s : sums) sum += s;
    return sum;
}

}  // namespace

std::vector<double> Basis::project(std::span<const double> heat) const {
    std::vector<double> out;
    for (const std::vector<double>& column : columns_) out.push_back(product(column, {}, heat));
    return out;
}

std::vector<double> Basis::coordinates(std::span<const double> x) const {
    std::vector<double> out;
    for (const std::vector<double>& column : columns_) out.push_back(product(column, capacity_, x));
    return out;
}

bool Basis::add(std::vector<double> vector) {
    // Twice is enough (L. Giraud and J. Langou, "When modified Gram-Schmidt generates a well-conditioned set of vectors", IMA J. Numer. Anal. 22 (2002) 521).
    constexpr double nothing_new = 1e-9;
    const double before = std::sqrt(product(vector, capacity_, vector));
    if (!(before > 0.0)) return false;
    for (int pass = 0; pass < 2; ++pass) {
        for (const std::vector<double>& column : columns_) {
            const double share = product(column, capacity_, vector);
            const auto n = static_cast<std::ptrdiff_t>(vector.size());
#pragma omp parallel for schedule(static)
            for (std::ptrdiff_t i = 0; i < n; ++i) vector[static_cast<std::size_t>(i)] -= share * column[static_cast<std::size_t>(i)];
        }
    }
    const double after = std::sqrt(product(vector, capacity_, vector));
    if (!(after > nothing_new * before)) return false;
    for (double& x : vector) x /= after;
    columns_.push_back(std::move(vector));
    return true;
}

std::vector<double> shifts_for(double longest, double shortest) {
    constexpr double slowest = 0.5, a_decade = 2.2;
    constexpr int least = 6, most = 22;
    const double low = slowest / longest, high = std::max(1.0 / shortest, 2.0 * low);
    const int count = std::clamp(static_cast<int>(std::ceil(a_decade * std::log10(high / low))) + 1, least, most);
    std::vector<double> shifts;
    for (int j = 0; j < count; ++j) shifts.push_back(low * std::pow(high / low, static_cast<double>(j) / (count - 1)));
    return shifts;
}

}  // namespace firnfield
