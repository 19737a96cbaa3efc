/// The error that the mesh makes in every figure of a steady study.
#pragma once

#include <firnfield/findings.hpp>
#include <firnfield/history.hpp>
#include <firnfield/progress.hpp>

#include "findings/mesh_error.hpp"

#include <algorithm>
#include <functional>
#include <limits>
#include <optional>
#include <string>
#include <vector>

namespace firnfield {

/// Between which temperatures can lie, K.
struct PossibleRange {
    double lowest = -std::numeric_limits<double>::infinity(), highest = std::numeric_limits<double>::infinity();
    [[nodiscard]] double moved_into(double temperature) const { return std::max(lowest, std::min(highest, temperature)); }
};

/// Findings without errors, of the solution as it is or corrected by what `error` says it is off; in the latter case hottest and coldest places
/// may be moved by what is in doubt of them besides. Corrected temperatures lie in `range`, which a steady study knows itself.
[[nodiscard]] Findings evaluate(const Model& model, const SteadySolution& solution, const ErrorReader* error = nullptr, bool doubted = false,
                                const std::optional<PossibleRange>& range = {});

/// The findings that evaluate() made of a steady solution, corrected, with Figure::bar and Figure::solved; as they were where that fails, and a
/// remark says so. In the former case `then` may look at them, and where the errors come from. Throws Cancelled.
[[nodiscard]] Findings with_errors(const Model& model, const SteadySolution& solution, Findings solved, const ProgressCallback& progress = {},
                                   const std::function<void(MeshError&, const Findings&)>& then = {});

/// Parts with one cell through somewhere: how the temperature bends there does not show.
[[nodiscard]] std::vector<std::string> parts_too_thin(const Model& model, const Mesh& mesh);

/// What a correction by `added` leaves open, of which `unsettled` came with the second round.
[[nodiscard]] double left_open(double unsettled, double added);
/// What any figure leaves open, being what it is next to the coldest surroundings (K).
[[nodiscard]] double least_open(const Figure& figure, double coldest);

/// What an error is seen next to: of a temperature its rise above the coldest surroundings (K), of the rest the value itself.
[[nodiscard]] double scale_of(const Figure& figure, double coldest);

/// Remarks on what the errors of figures leave open: limits that cannot be decided, and temperatures that are not known well next to their rise above
/// the coldest surroundings (K).
void tell_uncertain(Findings& findings, double coldest, const Units& units);
void tell_uncertain(TimeFindings& findings, double coldest, const Units& units);

/// A remark that errors are not known, and why.
void tell_no_errors(std::vector<Warning>& warnings, const std::string& reason);

}  // namespace firnfield
