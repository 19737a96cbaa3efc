/// How far a steady solution is off because cells have a size, from one more solve with its own matrix: defect correction (H. J. Stetter, The defect
/// correction principle, Numer. Math. 29 (1978) 425), with what the network's straight lines miss (network/defects.hpp) as the defect. A second round works
/// that out of the heat corrected by the first.
#pragma once

#include <firnfield/progress.hpp>
#include <firnfield/steady.hpp>

#include "findings/extremes.hpp"
#include "network/defects.hpp"
#include "study/linearised.hpp"

#include <array>
#include <span>
#include <vector>

namespace firnfield {

/// What has to be added to a solution, as far as the rounds so far tell; nothing before the first. Model and solution have to outlive it.
class MeshError {
public:
    MeshError(const Model& model, const SteadySolution& solution, ProgressCallback progress = {});

    /// One round more. The second is worth it; later ones drift where temperatures are not smooth. Throws ComputationError where the solve does not settle,
    /// and Cancelled.
    void correct();

    /// At nodes, surfaces and elements.
    [[nodiscard]] const Defects& defects() const { return defects_; }
    /// K, of the hottest or coldest place of a body, which lies somewhere in the cell or on the surface that was found. Nothing in a cut cell: where the
    /// part ends in its box is not known, so its parabolas tell no more than a bound.
    [[nodiscard]] double of_extreme(const Place& place, bool hottest) const;
    /// K, by which that place may be off besides: the bound of a cut cell, and at the rim of a contact once more the estimate.
    [[nodiscard]] double doubt_in_extreme(const Place& place, bool hottest) const;
    /// K, of a sensor's reading.
    [[nodiscard]] double of_reading(const Readout& readout, Index cell, Vec3 point) const;

    /// Adds where the error of a place or of a reading comes from, K times `weight`, by axis and layer of the grid. Throws as correct().
    void add_sources(const Place& place, double weight, std::array<std::vector<double>, 3>& layers);
    void add_sources(const Readout& readout, double weight, std::array<std::vector<double>, 3>& layers);

private:
    /// Where a place is read, and what its temperature there is off.
    struct Reading {
        Index cell = 0;
        Vec3 normal{};  ///< of the surface that it lies on; nothing within a cell
        double change = 0.0;
    };
    [[nodiscard]] Reading reading_at(const Place& place) const;
    void add_sources(std::span<const double> at_nodes, double weight, std::array<std::vector<double>, 3>& layers);
    [[nodiscard]] bool on_rim(const Place& place) const;
    [[nodiscard]] bool is_cut(const Reading& reading) const;
    [[nodiscard]] double extreme_in(Index cell, Vec3 normal, bool hottest) const;
    [[nodiscard]] double bend_in_reading(Index cell, Vec3 point) const;

    const SteadySolution& solution_;
    const Mesh& mesh_;
    ProgressCallback progress_;
    Balance balance_;
    LinearisedSolver solver_;
    Defects defects_;
    std::vector<double> change_;  // K per node
    int rounds_ = 0;
};

}  // namespace firnfield
