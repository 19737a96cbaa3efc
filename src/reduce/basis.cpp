// Spaces of responses, orthonormal in the capacities.

#include "reduce/basis.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

namespace firnfield {

Basis::Basis(std::vector<double> capacity, std::size_t most) : capacity_(std::move(capacity)), most_(most), rows_(capacity_.size() * most) {}

/// Of every vector Σ vector at node(i) · weight(i). They are summed up in pieces of their own, so that the order does not depend on the threads.
template <typename Node, typename Weight>
std::vector<double> Basis::sums(std::size_t terms, const Node& node, const Weight& weight) const {
    constexpr std::size_t piece = 8192;
    const std::size_t pieces = (terms + piece - 1) / piece;
    std::vector<double> each(pieces * size_, 0.0);
    const auto count = static_cast<std::ptrdiff_t>(pieces);
#pragma omp parallel for schedule(static) if (count > 1)
    for (std::ptrdiff_t p = 0; p < count; ++p) {
        double* sum = each.data() + static_cast<std::size_t>(p) * size_;
        const std::size_t from = static_cast<std::size_t>(p) * piece, to = std::min(terms, from + piece);
        for (std::size_t i = from; i < to; ++i) {
            const double w = weight(i);
            const double* row = rows_.data() + node(i) * most_;
            for (std::size_t c = 0; c < size_; ++c) sum[c] += w * row[c];
        }
    }
    std::vector<double> out(size_, 0.0);
    for (std::size_t p = 0; p < pieces; ++p) {
        for (std::size_t c = 0; c < size_; ++c) out[c] += each[p * size_ + c];
    }
    return out;
}

std::vector<double> Basis::project(std::span<const double> heat) const {
    return sums(
        nodes(), [](std::size_t i) { return i; }, [&](std::size_t i) { return heat[i]; });
}

std::vector<double> Basis::project(std::span<const Index> nodes, std::span<const double> heat) const {
    return sums(
        nodes.size(), [&](std::size_t i) { return nodes[i]; }, [&](std::size_t i) { return heat[i]; });
}

std::vector<double> Basis::coordinates(std::span<const double> x) const {
    return sums(
        nodes(), [](std::size_t i) { return i; }, [&](std::size_t i) { return capacity_[i] * x[i]; });
}

std::vector<double> Basis::vector(std::size_t number) const {
    std::vector<double> out(capacity_.size());
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = rows_[i * most_ + number];
    return out;
}

bool Basis::add(std::span<const double> vector) {
    // Twice is enough, for all vectors at once, too (L. Giraud, J. Langou, M. Rozložník and J. van den Eshof, "Rounding error analysis of the classical
    // Gram-Schmidt orthogonalization process", Numer. Math. 101 (2005) 87).
    constexpr double nothing_new = 1e-6;  // below that it is what a solve leaves open
    const auto norm = [&](const std::vector<double>& x) {
        double sum = 0.0;
        for (std::size_t i = 0; i < x.size(); ++i) sum += capacity_[i] * x[i] * x[i];
        return std::sqrt(sum);
    };
    std::vector<double> left(vector.begin(), vector.end());
    const double before = norm(left);
    if (!(before > 0.0) || size_ == most_) return false;
    const auto nodes = static_cast<std::ptrdiff_t>(left.size());
    for (int pass = 0; pass < 2; ++pass) {
        const std::vector<double> share = coordinates(left);
#pragma omp parallel for schedule(static)
        for (std::ptrdiff_t n = 0; n < nodes; ++n) {
            const auto i = static_cast<std::size_t>(n);
            const double* row = rows_.data() + i * most_;
            double sum = 0.0;
            for (std::size_t c = 0; c < size_; ++c) sum += share[c] * row[c];
            left[i] -= sum;
        }
    }
    const double after = norm(left);
    if (!(after > nothing_new * before)) return false;
    for (std::size_t i = 0; i < left.size(); ++i) rows_[i * most_ + size_] = left[i] / after;
    ++size_;
    return true;
}

double Basis::at(std::size_t node, std::span<const double> coordinates) const {
    const double* row = rows_.data() + node * most_;
    double sum = 0.0;
    for (std::size_t c = 0; c < coordinates.size(); ++c) sum += row[c] * coordinates[c];
    return sum;
}

std::vector<double> Basis::sum(std::span<const double> coordinates) const {
    std::vector<double> out(nodes());
    const auto count = static_cast<std::ptrdiff_t>(out.size());
#pragma omp parallel for schedule(static)
    for (std::ptrdiff_t i = 0; i < count; ++i) out[static_cast<std::size_t>(i)] = at(static_cast<std::size_t>(i), coordinates);
    return out;
}

void Basis::reserve(std::size_t most) {
    if (most <= most_) return;
    std::vector<double> rows(nodes() * most);
    for (std::size_t i = 0; i < nodes(); ++i)
        std::copy_n(rows_.begin() + static_cast<std::ptrdiff_t>(i * most_), size_, rows.begin() + static_cast<std::ptrdiff_t>(i * most));
    rows_ = std::move(rows);
    most_ = most;
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
