/// An explanation as tables and charts show it.
#pragma once

#include <firnfield/findings.hpp>
#include <firnfield/units.hpp>

#include <algorithm>
#include <cmath>
#include <string>
#include <vector>

namespace firnfield {

/// "gap between fins, convection".
[[nodiscard]] std::string phrase(const Contribution& contribution);
/// "thinner or better pad", "more convection": what a change of it would be.
[[nodiscard]] std::string phrase(const Sensitivity& sensitivity);

/// The step that those count by which are no shares, and the change that a step of either kind makes, without its unit.
[[nodiscard]] std::string one_degree(const Units& units);
[[nodiscard]] std::string change_text(const Sensitivity& sensitivity, const Units& units);

/// The largest pieces; those below `least` of the rise, and beyond `most`, taken together as the last one.
[[nodiscard]] std::vector<Contribution> main_pieces(const std::vector<Contribution>& all, double rise, std::size_t most, double least = 0.005);

/// What pieces are shares of.
struct ShareOf {
    double whole = 0.0;   ///< K; a fall has a negative one
    bool of_rise = true;  ///< false: pieces cancel to next to nothing, of which no share says anything; then `whole` is the largest of them
    [[nodiscard]] double bar(double piece) const { return whole != 0.0 ? std::min(1.0, std::abs(piece / whole)) : 0.0; }
    /// "12.3 %", or "-" where it is no share of the rise.
    [[nodiscard]] std::string text(double piece) const;
};
[[nodiscard]] ShareOf share_of(const std::vector<Contribution>& all, double rise);

/// "transistor is hottest at 121.3 °C, 86.3 K above 35.0 °C; limit 150 °C".
[[nodiscard]] std::string headline(const Explanation& explanation, const Units& units);

}  // namespace firnfield
