/// Loops over rows in a number of parts that depends on their number only, so that results are the same for any number of threads.
#pragma once

#include <algorithm>
#include <cstddef>
#include <cstdint>
#include <span>

namespace firnfield {

/// Fewer rows are one part: starting threads would take longer than the work.
inline constexpr std::size_t rows_for_threads = 40000;
inline constexpr std::size_t most_parts = 32;

[[nodiscard]] inline std::size_t parts_of(std::size_t rows) { return rows <= rows_for_threads ? 1 : std::clamp<std::size_t>(rows / 120000, 2, most_parts); }

/// Calls `work(part)` for 0 ≤ part < parts, in parallel where there are several.
template <typename Work>
void for_each_part(std::size_t parts, const Work& work) {
    const auto count = static_cast<std::ptrdiff_t>(parts);
    if (count == 1) return work(std::size_t{0});
#pragma omp parallel for schedule(static)
    for (std::ptrdiff_t p = 0; p < count; ++p) work(static_cast<std::size_t>(p));
}

/// Calls `work(first, last)` for all parts of `rows` rows.
template <typename Work>
void for_rows(std::size_t rows, const Work& work) {
    const std::size_t parts = parts_of(rows);
    for_each_part(parts, [&](std::size_t p) { work(rows * p / parts, rows * (p + 1) / parts); });
}

/// Sum over parts, each worked out by itself and added in order.
template <typename Work>
double sum_parts(std::size_t parts, const Work& work) {
    double sums[most_parts] = {};
    for_each_part(parts, [&](std::size_t p) { sums[p] = work(p); });
    double sum = 0.0;
    for (const double s : sums) sum += s;
    return sum;
}
template <typename Work>
double sum_rows(std::size_t rows, const Work& work) {
    const std::size_t parts = parts_of(rows);
    return sum_parts(parts, [&](std::size_t p) { return work(rows * p / parts, rows * (p + 1) / parts); });
}

/// The inner product, summed in double precision.
inline double dot(std::span<const float> a, std::span<const float> b) {
    return sum_rows(a.size(), [&](std::size_t first, std::size_t last) {
        double sum = 0.0;
#pragma omp simd reduction(+ : sum)
        for (std::size_t i = first; i < last; ++i) sum += static_cast<double>(a[i]) * static_cast<double>(b[i]);
        return sum;
    });
}

}  // namespace firnfield
