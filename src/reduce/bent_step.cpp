// One step of what bends.

#include "reduce/bent_step.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace firnfield {
namespace {

double largest_difference(const std::vector<double>& a, const std::vector<double>& b) {
    double most = 0.0;
    for (std::size_t i = 0; i < a.size(); ++i) {
        if (const double here = std::abs(a[i] - b[i]); !(here <= most)) most = here;  // what is no number stays none
    }
    return most;
}

double largest(const std::vector<double>& a) {
    double most = 0.0;
    for (const double x : a) {
        if (!(std::abs(x) <= most)) most = std::abs(x);
    }
    return most;
}

}  // namespace

void add_through(const Amplitudes& begin, const Amplitudes& middle, const Amplitudes& end, ModalInput& input) {
    for (std::size_t k = 0; k < begin.size(); ++k) {
        input.coefficient[0][k] += begin[k];
        input.coefficient[1][k] += -3.0 * begin[k] + 4.0 * middle[k] - end[k];
        input.coefficient[2][k] += 2.0 * begin[k] - 4.0 * middle[k] + 2.0 * end[k];
    }
}

Amplitudes BentStep::input_at(const Amplitudes& state, const Drive::Values& at, std::vector<double>& rise) const {
    rise = bent.rises(modes.coordinates(state));
    return bent.input(rise, at, which);
}

BentStep::Solution BentStep::solve(const Amplitudes& from, const ModalInput& linear, double close) const {
    constexpr double inside = 1e-7;  // so that jumps at the ends are not seen
    const std::array<Drive::Values, 3> at{values(inside), values(0.5), values(1.0 - inside)};
    std::array<std::vector<double>, 3> rise, before;
    const Amplitudes begin = input_at(from, at[0], rise[0]);
    Amplitudes middle = begin, end = begin;
    Solution out;
    constexpr int most = 40;
    double last = 0.0;
    for (int round = 0; round < most; ++round) {
        out.input = linear;
        add_through(begin, middle, end, out.input);
        before = rise;
        const Amplitudes next_middle = input_at(modes.after(from, out.input, 0.5 * length, length), at[1], rise[1]);
        const Amplitudes next_end = input_at(modes.after(from, out.input, length, length), at[2], rise[2]);
        const double change = round == 0 ? 1e300 : largest({largest_difference(rise[1], before[1]), largest_difference(rise[2], before[2])});
        // The heat that the step has is that of the temperatures before this round.
        const double left = last > 0.0 && change < last ? change * change / (last - change) : change;
        if (change <= close && left <= close) {
            out.settled = true;
            rise = before;
            break;
        }
        if (!std::isfinite(change) || (round > 4 && change > 0.95 * last)) return out;
        last = change;
        middle = next_middle;
        end = next_end;
    }
    if (!out.settled) return out;
    constexpr std::array<double, 3> share{1.0 / 6.0, 4.0 / 6.0, 1.0 / 6.0};
    for (std::size_t i = 0; i < share.size(); ++i) out.flows.add(share[i], bent.flows(rise[i], at[i]));
    // Where the polynomial is off most, it is so by the cubic that it lacks; from an end to the middle that adds up to a third of it.
    constexpr double where = 0.75, adds_up = 1.0 / 3.0;
    std::vector<double> there;
    const Amplitudes is = input_at(modes.after(from, out.input, where * length, length), values(where), there);
    Amplitudes off(is.size());
    for (std::size_t k = 0; k < is.size(); ++k) {
        const double said = out.input.coefficient[0][k] - linear.coefficient[0][k] +
                            where * (out.input.coefficient[1][k] - linear.coefficient[1][k] + where * (out.input.coefficient[2][k] - linear.coefficient[2][k]));
        const double x = modes.rate()[k] * length;
        off[k] = adds_up * length * (is[k] - said) * (x > 0.0 ? -std::expm1(-x) / x : 1.0);
    }
    out.error = largest(bent.rises(modes.coordinates(off)));
    return out;
}

}  // namespace firnfield
