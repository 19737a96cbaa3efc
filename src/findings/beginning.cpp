// Where a study in time begins.

#include "findings/beginning.hpp"

#include <firnfield/error.hpp>
#include <firnfield/steady.hpp>

#include "base/words.hpp"
#include "findings/mesh_error.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace firnfield {

Beginning start_of(const Model& model, const std::shared_ptr<const Mesh>& mesh, const Study& study, bool errors) {
    if (study.start.study.empty()) return {start_temperatures(model, *mesh, study), {}};
    if (!study.start.results.empty())
        throw ModelError("study",
                         fmt::format("study {} starts from a results folder: read its temperatures and call solve_transient()", in_quotes(study.name)));
    const auto before = std::find_if(model.studies.begin(), model.studies.end(), [&](const Study& s) { return s.name == study.start.study; });
    if (before == model.studies.end())
        throw ModelError("study", fmt::format("study {} starts from {}, which is not there", in_quotes(study.name), in_quotes(study.start.study)));
    if (before->kind == StudyKind::steady) {
        SteadySolution solution = solve_steady(model, mesh, *before);
        NodeErrors of_it = errors ? node_errors(model, solution) : NodeErrors{};
        return {std::move(solution.temperature), std::move(of_it)};
    }
    Beginning before_that = start_of(model, mesh, *before, errors);
    TransientOptions options{.time_constant = false, .errors = errors};
    options.start_errors = std::move(before_that.errors);
    TransientSolution solution = solve_in_time(model, mesh, *before, before_that.temperature, options);
    return {std::move(solution.end.temperature), std::move(solution.errors)};
}

}  // namespace firnfield
