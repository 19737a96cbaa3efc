/// Reads what the mesh makes wrong of the temperatures that findings tell: of hottest and coldest places.
#pragma once

#include "findings/extremes.hpp"
#include "network/defects.hpp"
#include "network/readout.hpp"

#include <span>

namespace firnfield {

/// Reads it from what has to be added to the temperatures of one moment.
class ErrorReader {
public:
    /// All of it has to outlive it. `rise`: of the temperatures that `defects` were found for.
    ErrorReader(const Mesh& mesh, const Network& network, std::span<const double> rise, const Defects& defects)
        : mesh_(mesh), network_(network), rise_(rise), defects_(defects) {}

    /// At nodes, surfaces and elements.
    [[nodiscard]] const Defects& defects() const { return defects_; }
    /// K, of the hottest or coldest place of a body, which lies somewhere in the cell or on the surface that was found. Nothing in a cut cell: where the
    /// part ends in its box is not known, so its parabolas tell no more than a bound.
    [[nodiscard]] double of_extreme(const Place& place, bool hottest) const;
    /// K, by which that place may be off besides: the bound of a cut cell, and at the rim of a contact once more the estimate.
    [[nodiscard]] double doubt_in_extreme(const Place& place, bool hottest) const;

    /// Where a place is read, and what its temperature there is off.
    struct Reading {
        Index cell = 0;
        Vec3 normal{};  ///< of the surface that it lies on; nothing within a cell
        double change = 0.0;
    };
    [[nodiscard]] Reading reading_at(const Place& place) const;

private:
    [[nodiscard]] bool on_rim(const Place& place) const;
    [[nodiscard]] bool is_cut(const Reading& reading) const;
    [[nodiscard]] double extreme_in(Index cell, Vec3 normal, bool hottest) const;

    const Mesh& mesh_;
    const Network& network_;
    std::span<const double> rise_;
    const Defects& defects_;
};

}  // namespace firnfield
