/// The figures of a study, in the order in which its findings are described.
#pragma once

#include <firnfield/history.hpp>

#include <vector>

namespace firnfield {

inline constexpr std::size_t figure_kinds = static_cast<std::size_t>(FigureKind::duty) + 1;

[[nodiscard]] std::vector<Figure> figures_of(const Findings& findings);
[[nodiscard]] std::vector<Figure> figures_of(const TimeFindings& findings);

}  // namespace firnfield
