// Transients from start temperatures, and moments of them.

#include <firnfield/error.hpp>
#include <firnfield/transient.hpp>

#include "base/words.hpp"
#include "study/run.hpp"

#include <algorithm>

namespace firnfield {

std::vector<double> start_temperatures(const Model& model, const Mesh& mesh, const Study& study) {
    const Start& start = study.start;
    const double everywhere = start.temperature               ? *start.temperature
                              : study.ambient_profile.empty() ? study.ambient.value_or(0.0)
                                                              : value_at(*find_profile(model, study.ambient_profile), 0.0);
    std::vector<double> of_body(mesh.bodies.size(), everywhere);
    for (std::size_t b = 0; b < mesh.bodies.size(); ++b) {
        for (const auto& [part, t] : start.parts) {
            if (matches_wildcard(part, mesh.bodies[b].name) || matches_wildcard(part, model.parts[mesh.bodies[b].part].name)) of_body[b] = t;
        }
    }
    std::vector<double> temperature(node_count(model, mesh), everywhere);
    for (std::size_t i = 0; i < mesh.cells.size(); ++i) temperature[i] = of_body[mesh.cells.body[i]];
    for (std::size_t n = 0; n < model.nodes.size(); ++n) {
        for (const auto& [name, t] : start.parts) {
            if (matches_wildcard(name, model.nodes[n].name)) temperature[mesh.cells.size() + n] = t;
        }
    }
    return temperature;
}

TransientSolution solve_transient(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const std::vector<double>& start,
                                  const TransientOptions& options) {
    TimeRun run(model, std::move(mesh), study, start, options);
    if (options.resume) {
        run.resume(*options.resume);
    } else {
        run.begin(0.0);
    }
    return run_transient(run, study, options);
}

}  // namespace firnfield
