// Grid lines along one axis: through planes, within demanded sizes, growing gently.

#include "mesh/grid_lines.hpp"

#include <algorithm>
#include <cmath>

namespace firnfield {
namespace {

/// A stretch with one demand, between two fixed planes or a part of that. Cell sizes inside follow the size field
/// s(x) = min over both ends of (size at the end + slope·distance), capped by `size`:
/// counted in cells, such a field grows by the factor e^slope from one cell to the next.
struct Interval {
    double from, to;
    double size;                             // largest cell wanted inside
    bool ends_at_plane = true;               // a grid line has to pass through `to`
    double cap_low = size, cap_high = size;  // largest cell that suits the neighbours, at the two ends
    double low = 0.0, high = 0.0;            // size field at the two ends
};

double field(const Interval& interval, double slope, double x) {
    return std::min({interval.size, interval.low + slope * (x - interval.from), interval.high + slope * (interval.to - x)});
}

/// ∫ dx / s(x): the number of cells the field asks for. The field is piecewise linear, so the integral is exact.
double cells_wanted(const Interval& interval, double slope, double upto) {
    // Breakpoints of the field inside [from, upto].
    double points[5] = {interval.from, interval.from + (interval.size - interval.low) / slope, interval.to - (interval.size - interval.high) / slope,
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

/// Cells between two planes: the integral of the field over the intervals there divided into equal shares.
void divide(std::span<const Interval> intervals, double slope, std::vector<double>& lines) {
    double wanted = 0.0;
    for (const Interval& interval : intervals) wanted += cells_wanted(interval, slope, interval.to);
    const auto count = static_cast<std::size_t>(std::max(1.0, std::ceil(wanted - 1e-6)));
    std::size_t at = 0;
    double before = 0.0;  // cells up to the interval `at`
    for (std::size_t i = 1; i < count; ++i) {
        const double target = wanted * static_cast<double>(i) / static_cast<double>(count);
        for (; at + 1 < intervals.size(); ++at) {
            const double inside = cells_wanted(intervals[at], slope, intervals[at].to);
            if (before + inside >= target) break;
            before += inside;
        }
        double low = intervals[at].from, high = intervals[at].to;
        for (int step = 0; step < 60; ++step) {
            const double middle = 0.5 * (low + high);
            (before + cells_wanted(intervals[at], slope, middle) < target ? low : high) = middle;
        }
        lines.push_back(0.5 * (low + high));
    }
    lines.push_back(intervals.back().to);
}

/// The stretches of one axis with the demand that holds in each.
std::vector<Interval> intervals_between(const std::vector<double>& planes, std::span<const SizeDemand> demands, double tolerance) {
    std::vector<double> ends;  // of demands that act inside of intervals
    for (const SizeDemand& demand : demands) {
        if (demand.here_only) ends.insert(ends.end(), {demand.from, demand.to});
    }
    std::sort(ends.begin(), ends.end());
    std::vector<Interval> intervals;
    std::size_t next = 0;
    for (std::size_t i = 0; i + 1 < planes.size(); ++i) {
        double from = planes[i], size = planes[i + 1] - planes[i];
        for (const SizeDemand& demand : demands) {
            if (!demand.here_only && planes[i + 1] > demand.from + tolerance && planes[i] < demand.to - tolerance) size = std::min(size, demand.size);
        }
        for (; next < ends.size() && ends[next] < planes[i + 1] - tolerance; ++next) {
            if (ends[next] <= from + tolerance) continue;
            intervals.push_back({.from = from, .to = ends[next], .size = size, .ends_at_plane = false});
            from = ends[next];
        }
        intervals.push_back({.from = from, .to = planes[i + 1], .size = size});
    }
    for (const SizeDemand& demand : demands) {
        if (!demand.here_only) continue;
        for (Interval& i : intervals) {
            if (const double middle = 0.5 * (i.from + i.to); middle > demand.from && middle < demand.to)
                i.size = i.cap_low = i.cap_high = std::min(i.size, demand.size);
        }
    }
    return intervals;
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

std::vector<double> grid_lines(std::vector<double> planes, std::span<const SizeDemand> demands, double growth, double tolerance, std::size_t most) {
    std::sort(planes.begin(), planes.end());
    std::vector<double> fixed;
    for (const double plane : planes) {
        if (fixed.empty() || plane - fixed.back() > tolerance) fixed.push_back(plane);
    }
    std::vector<Interval> intervals = intervals_between(fixed, demands, tolerance);

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
        std::vector<std::size_t> firsts{0}, starts{0};  // first interval behind each plane, and the index of that plane in `lines`
        for (std::size_t i = 0; i < intervals.size(); ++i) {
            if (!intervals[i].ends_at_plane) continue;
            divide(std::span(intervals).subspan(firsts.back(), i + 1 - firsts.back()), slope, lines);
            firsts.push_back(i + 1);
            starts.push_back(lines.size() - 1);
        }
        if (lines.size() - 1 > most) return {};
        bool settled = true;
        const auto width = [&](std::size_t i) { return lines[i + 1] - lines[i]; };
        for (std::size_t p = 1; p + 1 < starts.size(); ++p) {
            const double before = width(starts[p] - 1), after = width(starts[p]);
            if (after > allowed * before) {
                Interval& behind = intervals[firsts[p]];
                behind.cap_low = 0.99 * behind.low * growth * before / after;
                settled = false;
            }
            if (before > allowed * after) {
                Interval& ahead = intervals[firsts[p] - 1];
                ahead.cap_high = 0.99 * ahead.high * growth * after / before;
                settled = false;
            }
        }
        if (settled) return lines;
    }
}

}  // namespace firnfield
