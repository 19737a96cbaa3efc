/// The heat-conductance network: what the mesh and the model come down to.
///
/// Every cell is a node with an unknown temperature. *Links* conduct between nodes, *ties* conduct between a node and
/// a known temperature, *walls* stand between a node and several exchanges with the surroundings at once, *sources*
/// put heat into nodes. Each of them knows its origin in the model, so every report is a sum over origins.
#pragma once

#include <firnfield/mesh.hpp>
#include <firnfield/model.hpp>

#include <memory>
#include <span>
#include <string>
#include <vector>

namespace firnfield {

/// What a conductance or source comes from.
enum class OriginKind : std::uint8_t { part, joint, cooling, hold, load };

/// An origin; `index` counts bodies for a part, contact pairs for a joint, and the model's entries otherwise.
struct Origin {
    OriginKind kind = OriginKind::part;
    Index index = 0;
    bool operator==(const Origin&) const = default;
};

/// Constant conductances between two nodes.
struct Links {
    std::vector<Index> first{}, second{};
    std::vector<double> conductance{};  ///< W/K
    std::vector<Index> origin{};        ///< index in Network::origins
    [[nodiscard]] std::size_t size() const { return first.size(); }
};

/// Radiation between two nodes, W = coefficient · (T₁⁴ − T₂⁴).
struct RadiativeLinks {
    std::vector<Index> first{}, second{};
    std::vector<double> coefficient{};  ///< W/K⁴
    std::vector<Index> origin{};
    [[nodiscard]] std::size_t size() const { return first.size(); }
};

/// Constant conductances to a known temperature.
struct Ties {
    std::vector<Index> node{};
    std::vector<double> conductance{};  ///< W/K
    std::vector<double> temperature{};  ///< K
    std::vector<Index> origin{};
    std::vector<Index> patch{};         ///< patch of the mesh
    [[nodiscard]] std::size_t size() const { return node.size(); }
};

/// How a wall exchanges heat with the surroundings.
enum class ExchangeKind : std::uint8_t {
    convection,  ///< W = coefficient · (T_wall − T), coefficient in W/K
    law,         ///< W = coefficient · h(T_wall, T) · (T_wall − T), coefficient the area in m²
    radiation,   ///< W = coefficient · (T_wall⁴ − T⁴), coefficient in W/K⁴
    flux,        ///< W = −coefficient: heat put onto the wall
};

/// One exchange of a wall.
struct Exchange {
    ExchangeKind kind = ExchangeKind::convection;
    Index origin = 0;
    double coefficient = 0.0;
    double temperature = 0.0;  ///< K, of the surroundings
    const ConvectionLaw* law = nullptr;  ///< for ExchangeKind::law; owned by Network::laws

    /// Heat leaving the wall, W.
    [[nodiscard]] double heat(double wall) const;
    /// Derivative of `heat` by the wall temperature, W/K; never negative.
    [[nodiscard]] double slope(double wall) const;
};

/// Surface patches that exchange heat. The wall temperature is not an unknown: it follows from the node's
/// by T_node − T_wall = resistance · Σ exchanges(T_wall).
struct Walls {
    std::vector<Index> node{};
    std::vector<Index> patch{};
    std::vector<double> resistance{};          ///< K/W from the node to the wall; negative when the box centre lies outside the part
    std::vector<Index> first_exchange{};       ///< one more entry than walls: a wall's exchanges are [n], …, [n + 1] − 1
    std::vector<Exchange> exchanges{};
    [[nodiscard]] std::size_t size() const { return node.size(); }
    [[nodiscard]] std::span<const Exchange> of(std::size_t wall) const {
        return std::span(exchanges).subspan(first_exchange[wall], first_exchange[wall + 1] - first_exchange[wall]);
    }
};

/// Temperature of a wall and the heat through it, for a node temperature.
struct WallState {
    double temperature = 0.0;  ///< K
    double heat = 0.0;         ///< W leaving the node
    double slope = 0.0;        ///< d heat / d node temperature, W/K
};
/// Solves the wall's heat balance by Newton's method; monotone and convex, so it always settles.
[[nodiscard]] WallState wall_state(double resistance, std::span<const Exchange> exchanges, double node_temperature);

/// Heat put into nodes.
struct Sources {
    std::vector<Index> node{};
    std::vector<double> heat{};  ///< W
    std::vector<Index> origin{};
    [[nodiscard]] std::size_t size() const { return node.size(); }
};

/// What a rule of the model covers, for reports.
struct Coverage {
    std::vector<Index> patches{};
    double area = 0.0;  ///< m², of the kept piece
};

/// See Network::carried_by.
inline constexpr Index carried_by_surface = no_index - 1;

struct Network {
    Index nodes = 0;
    std::vector<double> capacity{};  ///< J/K per node; 0 where density or specific heat is unknown
    std::vector<Index> owner{};      ///< body per node
    Links links{};
    RadiativeLinks radiative_links{};
    Ties ties{};
    Walls walls{};
    Sources sources{};
    std::vector<Origin> origins{};
    std::vector<std::shared_ptr<const ConvectionLaw>> laws{};

    /// Per cell: the contact over which it takes the temperature of its better-conducting neighbour, because it is too
    /// thin in its box for a temperature of its own; carried_by_surface when it takes that of its surface instead;
    /// no_index for all others. Empty where no body is cut.
    std::vector<Index> carried_by{};
    std::vector<double> pair_resistance{};   ///< K m²/W per contact pair of the mesh; infinite when insulated
    std::vector<Coverage> cooling_coverage{}, hold_coverage{}, load_coverage{};  ///< as in the model; a load inside parts covers none
    std::vector<Index> unclaimed{};          ///< exposed patches without cooling and hold: insulated
    double lowest_known = 0.0, highest_known = 0.0;  ///< K, range of all known temperatures
};

/// Builds the network of one study. Throws ModelError for rules that pick nothing, surfaces claimed twice,
/// powers into parts that are not there, and parts without any path to a known temperature.
[[nodiscard]] Network build_network(const Model& model, const Mesh& mesh, const Study& study);

}  // namespace firnfield
