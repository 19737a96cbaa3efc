/// Figures that are told of a run as a whole, from what was recorded of it.
#pragma once

#include "findings/gauges.hpp"

#include <span>
#include <vector>

namespace firnfield {

/// A term of a run.
struct RunReading {
    double value = 0.0;    ///< SI; not a number where it is not defined, as the first time of what never happens
    ReadingError error{};  ///< open: not a number where it is not known
};
/// Of every term. `found`: with its thermostats; their errors are known once it has its figures with bars.
[[nodiscard]] std::vector<RunReading> run_readings(const Gauges& gauges, const TimeRecord& record, const TimeFindings& found);

/// Of every figure: those that are not of the run are not numbers.
[[nodiscard]] std::vector<double> run_figure_values(const Gauges& gauges, std::span<const RunReading> terms);
/// What the errors of terms make of every figure: each term moved alone, one after the other.
[[nodiscard]] std::vector<ReadingError> run_figure_errors(const Gauges& gauges, std::span<const RunReading> terms);

}  // namespace firnfield
