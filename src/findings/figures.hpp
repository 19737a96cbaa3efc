/// The figures of a study, in the order in which its findings are described.
#pragma once

#include <firnfield/history.hpp>
#include <firnfield/quantity.hpp>

#include <span>
#include <string>
#include <tuple>
#include <vector>

namespace firnfield {

inline constexpr std::size_t figure_kinds = static_cast<std::size_t>(FigureKind::figure_min) + 1;

/// The order in which limits are told, the tightest first: missed ones, then those in kelvin, then by the margin: those of different quantities do not compare.
[[nodiscard]] inline std::tuple<bool, bool, double> tightness(double margin, const QuantityKind& quantity) {
    return {margin >= 0.0, !is_kelvin(quantity), margin};
}

/// What the figures of a row are named by. One joint of the model may rule many pairs of parts.
[[nodiscard]] std::string figure_name(const JointFinding& joint);
template <typename Row>
[[nodiscard]] const std::string& figure_name(const Row& row) {
    if constexpr (requires { row.name; }) {
        return row.name;
    } else {
        return row.subject;
    }
}

/// The figure of a kind and name; null where there is none.
[[nodiscard]] const Figure* find_figure(std::span<const Figure> figures, FigureKind kind, const std::string& name);

/// The figure of a kind that one side of a limit has; null where there is none.
[[nodiscard]] const Figure* limit_figure(std::span<const Figure> figures, FigureKind kind, const std::string& subject, bool upper, double limit);

/// The figure that tells a limit's margin; null where there is none.
template <typename Limit>
[[nodiscard]] const Figure* margin_of(std::span<const Figure> figures, const Limit& limit) {
    return limit_figure(figures, FigureKind::margin, limit.subject, limit.upper, limit.limit);
}

[[nodiscard]] std::vector<Figure> figures_of(const Findings& findings);
[[nodiscard]] std::vector<Figure> figures_of(const TimeFindings& findings);

}  // namespace firnfield
