/// Steady temperatures: problem in, solution and a summary that says what happened out.
#pragma once

#include <firnfield/error.hpp>
#include <firnfield/mesh.hpp>
#include <firnfield/model.hpp>
#include <firnfield/network.hpp>
#include <firnfield/progress.hpp>

#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace firnfield {

struct SteadyOptions {
    double tolerance = 1e-10;  ///< on the norm of the heat residuals, relative to the heat throughput
    int max_iterations = 60;   ///< Newton steps
    ProgressCallback progress{};
};

/// What a steady solve did.
struct SolveSummary {
    bool converged = false;
    bool rounding_limited = false;  ///< converged as far as double precision goes, short of the asked tolerance
    int newton_iterations = 0;
    int linear_iterations = 0;
    std::string linear_method{};
    double throughput = 0.0;        ///< W entering the kept piece
    double residual = 0.0;          ///< norm of the heat residuals over the throughput
    std::vector<double> history{};  ///< that residual before every Newton step, and at the end
    double mesh_seconds = 0.0, network_seconds = 0.0, solve_seconds = 0.0;

    /// One line: "converged in 4 Newton steps (…), residual 3e-12 of 62.0 W".
    [[nodiscard]] std::string text() const;
};

/// Newton's method did not settle; the message says what kept it from doing so.
class NotConverged : public ComputationError {
public:
    NotConverged(const std::string& message, std::vector<double> best) : ComputationError(message), temperature(std::move(best)) {}
    std::vector<double> temperature;  ///< K per cell, of the iterate with the smallest residual
};

class LinearisedSolver;

/// Temperatures of every cell, and the network that they balance; of a run in time those of a moment.
struct SteadySolution {
    Study study{};
    std::shared_ptr<const Mesh> mesh{};
    std::shared_ptr<const Network> network{};
    std::vector<double> temperature{};        ///< K, per cell
    double reference = 0.0;                   ///< K
    std::vector<double> rise{};               ///< K above `reference`, per cell: the same with more digits
    std::vector<double> patch_temperature{};  ///< K, of the surface, per patch of the mesh
    ContactTemperatures contacts{};           ///< per contact of the mesh
    std::optional<double> time{};             ///< s, where this is a moment of a run in time
    SolveSummary summary{};
    /// The matrix of the last step, ready for other right-hand sides: findings() needs it, and it takes memory as long as it is kept. Null: not known.
    std::shared_ptr<LinearisedSolver> solver{};

    /// Temperatures of the nodes as far as `reference` and `rise` go; refers to them.
    [[nodiscard]] NodeTemperatures nodes() const { return {reference, rise}; }
};

/// Solves the model's first study. Throws ModelError for a model that cannot be used, ComputationError when the
/// iteration does not settle.
[[nodiscard]] SteadySolution solve_steady(const Model& model, const SteadyOptions& options = {});

/// Meshes the model and solves one study.
[[nodiscard]] SteadySolution solve_steady(const Model& model, const Study& study, const SteadyOptions& options = {});

/// Solves one study on a mesh that exists already.
[[nodiscard]] SteadySolution solve_steady(const Model& model, std::shared_ptr<const Mesh> mesh, const Study& study, const SteadyOptions& options = {});

}  // namespace firnfield
