/// Figures that are told of a run as a whole, from what was recorded of it.
#pragma once

#include "findings/gauges.hpp"

#include <span>
#include <vector>

namespace firnfield {

/// Of every term of a run, SI; not a number where it is not defined, as the first time of what never happens. `found`: with its thermostats.
[[nodiscard]] std::vector<double> run_terms(const Gauges& gauges, const TimeRecord& record, const TimeFindings& found);

/// What mesh and steps make wrong of them; open: not a number where it is not known. `found`: with the figures of its thermostats.
[[nodiscard]] std::vector<ReadingError> run_term_errors(const Gauges& gauges, const TimeRecord& record, const TimeFindings& found);

/// What that makes of every figure: each term moved alone, one after the other.
[[nodiscard]] std::vector<ReadingError> run_figure_errors(const Gauges& gauges, std::span<const double> terms, std::span<const ReadingError> errors);

/// Of every figure: those that are not of the run are not numbers.
[[nodiscard]] std::vector<double> run_figure_values(const Gauges& gauges, std::span<const double> terms);

}  // namespace firnfield
