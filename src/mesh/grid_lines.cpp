#include "mesh/grid_lines.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

/// One interval between two fixed planes. Cell sizes inside follow the size field
/// s(x) = min over both ends of (size at the end + slope·distance), capped by `size`:
/// counted in cells, such a field grows by the factor e^slope from one cell to the next.
struct Interval {
    double from, to;
    double size;                  // largest cell wanted inside
    double cap_low, cap_high;     // largest cell that suits the neighbours, at the two ends
    double low = 0.0, high = 0.0; // size field at the two ends
};

double field(const Interval& interval, double slope, double x) {
    return std::min({interval.size, interval.low + slope * (x - interval.from), interval.high + slope * (interval.to - x)});
}

/// ∫ dx / s(x): the number of cells the field asks for. The field is piecewise linear, so the integral is exact.
double cells_wanted(const Interval& interval, double slope, double upto) {
    // Breakpoints of the field inside [from, upto].
    double points[5] = {interval.from, interval.from + (interval.size - interval.low) / slope,
                        interval.to - (interval.size - interval.high) / slope,
                        0.5 * (interval.from + interval.to + (interval.high - interval.low) / slope), upto};
    for (double& p : points) p = std::clamp(p, interval.from, upto);
    std::sort(std::begin(points), std::end(points));
    double sum = 0.0;
    for (int i = 0; i < 4; ++i) {
        const double width = points[i + 1] - points[i];
        if (width <= 0.0) continue;
        const double a = field(interval, slope, points[i]), b = field(interval, slope, points[i + 1]);
        const double growth = (b - a) / a;  // log1p keeps the last digits where the field is nearly level
        sum += width / a * (std::abs(growth) < 1e-12 ? 1.0 : std::log1p(growth) / growth);
    }
    return sum;
}

/// Cells of one interval: the field's integral divided into equal shares.
void divide(const Interval& interval, double slope, std::vector<double>& lines) {
    const double wanted = cells_wanted(interval, slope, interval.to);
    const auto count = static_cast<std::size_t>(std::max(1.0, std::ceil(wanted - 1e-6)));
    for (std::size_t i = 1; i < count; ++i) {
        const double target = wanted * static_cast<double>(i) / static_cast<double>(count);
        double low = interval.from, high = interval.to;
        for (int step = 0; step < 60; ++step) {
            const double middle = 0.5 * (low + high);
            (cells_wanted(interval, slope, middle) < target ? low : high) = middle;
        }
        lines.push_back(0.5 * (low + high));
    }
    lines.push_back(interval.to);
}

/// Lets the size field fall off towards finer neighbours: sweeps both ways until the ends agree.
void limit_slope(std::vector<Interval>& intervals, double slope) {
    for (Interval& i : intervals) {
        i.low = std::min(i.size, i.cap_low);
        i.high = std::min(i.size, i.cap_high);
    }
    for (std::size_t i = 0; i < intervals.size(); ++i) {
        Interval& here = intervals[i];
        if (i > 0) here.low = std::min(here.low, intervals[i - 1].high);
        here.high = std::min(here.high, here.low + slope * (here.to - here.from));
    }
    for (std::size_t i = intervals.size(); i-- > 0;) {
        Interval& here = intervals[i];
        if (i + 1 < intervals.size()) here.high = std::min(here.high, intervals[i + 1].low);
        here.low = std::min(here.low, here.high + slope * (here.to - here.from));
    }
}

}  // namespace

std::vector<double> grid_lines(std::vector<double> planes, std::span<const SizeDemand> demands, double growth, double tolerance,
                               std::size_t most) {
    std::sort(planes.begin(), planes.end());
    std::vector<double> fixed;
    for (const double plane : planes) {
        if (fixed.empty() || plane - fixed.back() > tolerance) fixed.push_back(plane);
    }
    std::vector<Interval> intervals;
    for (std::size_t i = 0; i + 1 < fixed.size(); ++i) {
        const double width = fixed[i + 1] - fixed[i];
        intervals.push_back({fixed[i], fixed[i + 1], width, width, width});
    }
    for (const SizeDemand& demand : demands) {
        for (Interval& interval : intervals) {
            if (interval.to > demand.from + tolerance && interval.from < demand.to - tolerance) interval.size = std::min(interval.size, demand.size);
        }
    }

    // Whole numbers of cells make them a little smaller than the field asks for, which can upset the ratio to the
    // neighbour by up to two. Then the larger of the two gives way and the division is repeated: its size at that end shrinks
    // by at least one percent each time, so this ends.
    const double slope = 0.97 * std::log(growth);
    const double allowed = growth * (1.0 + 1e-9);  // a tie is no excess, wherever rounding puts it
    std::vector<double> lines;
    while (true) {
        limit_slope(intervals, slope);
        double wanted = 0.0;
        for (const Interval& interval : intervals) wanted += cells_wanted(interval, slope, interval.to) + 1.0;
        if (!(wanted <= 2.0 * static_cast<double>(most))) return {};
        lines.assign(1, fixed.front());
        std::vector<std::size_t> starts{0};  // index in `lines` where each interval begins
        for (const Interval& interval : intervals) {
            divide(interval, slope, lines);
            starts.push_back(lines.size() - 1);
        }
        if (lines.size() - 1 > most) return {};
        bool settled = true;
        for (std::size_t i = 0; i < intervals.size(); ++i) {
            const double first = lines[starts[i] + 1] - lines[starts[i]];
            const double last = lines[starts[i + 1]] - lines[starts[i + 1] - 1];
            if (i > 0) {
                const double before = lines[starts[i]] - lines[starts[i] - 1];
                if (first > allowed * before) {
                    intervals[i].cap_low = 0.99 * intervals[i].low * growth * before / first;
                    settled = false;
                }
            }
            if (i + 1 < intervals.size()) {
                const double after = lines[starts[i + 1] + 1] - lines[starts[i + 1]];
                if (last > allowed * after) {
                    intervals[i].cap_high = 0.99 * intervals[i].high * growth * after / last;
                    settled = false;
                }
            }
        }
        if (settled) return lines;
    }
}

}  // namespace firnfield
