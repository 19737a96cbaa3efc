/// What straight lines between cells and faces miss, and what follows from it at walls, contacts and elements.
///
/// A finite volume knows the heat through its faces, and the temperature only as a mean. Between two of them the network lets temperature fall in a
/// straight line; where heat enters or leaves on the way it does not. How much the drop to a face is off follows from the *gain*, the heat that leaves a
/// cell along one axis less what enters: *shifts*. Put into the network as what drives it, they give what has to be added to every temperature.
#pragma once

#include "network/contact_temperatures.hpp"
#include "network/readout.hpp"
#include "network/reduce.hpp"

#include <array>
#include <memory>
#include <span>
#include <vector>

namespace firnfield {

/// The shifts at given temperatures, which have to outlive it as model, mesh and network have. `alike`: those at others on the same mesh.
class Defects {
public:
    Defects(const Model& model, const Mesh& mesh, const Network& network, const NodeTemperatures& nodes, std::span<const double> patch_temperature,
            const ContactTemperatures& surfaces, const Defects* alike = nullptr);

    /// What the shifts drive into every node, W: with the derivative J of the network, J x = this gives what has to be added to the temperatures.
    [[nodiscard]] std::vector<double> driven_heat() const;
    /// Takes what has to be added to every node, K.
    void correct(std::span<const double> change);
    /// Works the shifts out of the heat as corrected so far.
    void find_anew();

    // What has to be added, as far as it was taken:
    [[nodiscard]] double of_node(Index node) const { return change_[node]; }  ///< K, to the mean of a cell, or to a lumped node
    [[nodiscard]] double of_patch(Index patch) const;                         ///< K, to a surface
    [[nodiscard]] std::array<double, 2> of_contact(Index contact) const;      ///< K, to the two surfaces of a contact
    [[nodiscard]] double of_term(const Readout::Term& term) const;            ///< K
    [[nodiscard]] double of_heat(const Leg& leg) const;                       ///< W
    /// K, of a sensor's reading. `cell`: that of the point; no_index for a node.
    [[nodiscard]] double of_reading(const Readout& readout, Index cell, Vec3 point) const;

    /// Adds, by axis and layer of the grid, what each shift drives times what a watt there would do (`adjoint`, K/W per node), all as magnitudes, times
    /// `weight`: where the error of the temperature that the adjoint is of comes from.
    void add_sources(std::span<const double> adjoint, double weight, std::array<std::vector<double>, 3>& layers) const;
    /// Likewise for a drop (K) from a cell to its surface of this normal.
    void add_source(Index cell, Vec3 normal, double drop, std::array<std::vector<double>, 3>& layers) const;

    /// m, of a cell's box.
    [[nodiscard]] double width(Index cell, int axis) const { return static_cast<double>(frame_->width[static_cast<std::size_t>(axis)][cell]); }
    /// The next cell of the same body; no_index where there is none.
    [[nodiscard]] Index neighbour(Index cell, int axis, bool upward) const {
        return frame_->neighbours[2 * static_cast<std::size_t>(axis) + (upward ? 1 : 0)][cell];
    }
    /// Second derivative of the temperature in a cell, K/m².
    [[nodiscard]] double bend(Index cell, int axis) const { return -gain(cell, axis) / conductivity(cell, axis); }

private:
    /// What depends on the mesh and its materials alone; copies share it.
    struct Frame {
        Frame(const Model& model, const Mesh& mesh, const Network& network);

        ContactReader contacts;
        std::vector<std::shared_ptr<const Material>> materials;  // per body
        std::vector<std::array<double, 3>> conductivity;         // W/(m K) per body and axis, where its factor is 1
        std::array<std::vector<float>, 3> width{};               // m per cell, of its box
        std::array<std::vector<Index>, 6> neighbours{};          // per cell, of its own body
    };

    /// Of the elements of a family: what the temperatures of their two ends are off, for the heat between them. Empty: nothing.
    struct Shifts {
        std::vector<float> first{}, second{};
    };

    [[nodiscard]] double conductivity(Index cell, int axis) const;
    [[nodiscard]] double conductivity(Index cell, Vec3 direction) const;
    [[nodiscard]] double gain(Index cell, int axis) const { return gain_[static_cast<std::size_t>(axis)][cell]; }
    [[nodiscard]] bool carried(Index cell) const { return !network_.carried_by.empty() && network_.carried_by[cell] != no_index; }

    [[nodiscard]] double bend_in_reading(Index cell, Vec3 point) const;
    /// Calls `drives(family, element, from its first end, from its second)` with what shifts drive through each element, W.
    template <typename Sink>
    void each_driven(const Sink& drives) const;
    void find_gains();
    void add_heat_along_surfaces(std::array<std::vector<double>, 3>& heat) const;
    void find_shifts();
    [[nodiscard]] double spread(Index cell, double distance, double drop) const;
    [[nodiscard]] double spread_across(std::size_t face) const;
    [[nodiscard]] double shift_to_surface(Index cell, Vec3 normal, double depth, double drop) const;
    [[nodiscard]] double shift_to_patch(Index patch) const;
    [[nodiscard]] double shift_across_face(std::size_t face) const;
    [[nodiscard]] double shift_from_face(Index cell, int axis, bool upward) const;

    const Mesh& mesh_;
    const Network& network_;
    NodeTemperatures nodes_;
    std::span<const double> patch_temperature_;
    const ContactTemperatures& surfaces_;
    bool revolved_;
    std::shared_ptr<const Frame> frame_;
    std::vector<double> change_;                    // K per node
    std::array<std::vector<float>, 3> gain_{};      // W/m³ per cell
    std::vector<Shifts> shifts_;                    // per family
    std::vector<float> wall_shift_, wall_slope_{};  // K and W/K per wall
    bool corrected_ = false;
};

}  // namespace firnfield
