/// How far a steady solution is off because cells have a size, from one more solve with its own matrix: defect correction (H. J. Stetter, The defect
/// correction principle, Numer. Math. 29 (1978) 425), with what the network's straight lines miss (network/defects.hpp) as the defect. A second round works
/// that out of the heat corrected by the first.
#pragma once

#include <firnfield/progress.hpp>
#include <firnfield/steady.hpp>
#include <firnfield/transient.hpp>

#include "findings/error_reader.hpp"
#include "study/linearised.hpp"

#include <array>
#include <span>
#include <vector>

namespace firnfield {

/// What has to be added to a solution, as far as the rounds so far tell; nothing before the first. Model and solution have to outlive it.
class MeshError {
public:
    /// `solver`: of the solution's matrix, where that is at hand.
    MeshError(const Model& model, const SteadySolution& solution, ProgressCallback progress = {}, std::shared_ptr<LinearisedSolver> solver = {});

    /// One round more. The second is worth it; later ones drift where temperatures are not smooth. Throws ComputationError where the solve does not settle,
    /// and Cancelled.
    void correct();

    /// What that says of findings.
    [[nodiscard]] const ErrorReader& reader() const { return reader_; }
    /// K, of every node.
    [[nodiscard]] const std::vector<double>& of_nodes() const { return change_; }

    /// Adds where the error of a place or of a reading comes from, K times `weight`, by axis and layer of the grid. Throws as correct().
    void add_sources(const Place& place, double weight, std::array<std::vector<double>, 3>& layers);
    void add_sources(const Readout& readout, double weight, std::array<std::vector<double>, 3>& layers);

private:
    void add_sources(std::span<const double> at_nodes, double weight, std::array<std::vector<double>, 3>& layers);

    const SteadySolution& solution_;
    const Mesh& mesh_;
    ProgressCallback progress_;
    std::shared_ptr<LinearisedSolver> solver_;
    Defects defects_;
    ErrorReader reader_;
    std::vector<double> change_;  // K per node
    int rounds_ = 0;
};

/// What has to be added to the temperatures of all nodes of a steady solution; empty where that cannot be worked out. Throws Cancelled.
[[nodiscard]] NodeErrors node_errors(const Model& model, const SteadySolution& solution, const ProgressCallback& progress = {});
/// Likewise of temperatures (K) of unknown history that a study in time starts from: as if they had settled.
[[nodiscard]] NodeErrors start_errors(const Model& model, const std::shared_ptr<const Mesh>& mesh, const Study& study, std::vector<double> temperature,
                                      const ProgressCallback& progress = {});

}  // namespace firnfield
