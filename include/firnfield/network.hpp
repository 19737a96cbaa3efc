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

/// Conductances between two nodes. Those within bodies come first, those of joints behind them.
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
    std::vector<Index> patch{};  ///< patch of the mesh
    [[nodiscard]] std::size_t size() const { return node.size(); }
};

/// How a wall exchanges heat with the surroundings.
enum class ExchangeKind : std::uint8_t {
    convection,  ///< W = coefficient · (T_wall − T), coefficient in W/K
    curve,       ///< W = coefficient · curve(|T_wall − T|) · (T_wall − T), coefficient the area in m²
    law,         ///< W = coefficient · h(T_wall, T) · (T_wall − T), coefficient the area in m²
    radiation,   ///< W = coefficient · (T_wall⁴ − T⁴), coefficient in W/K⁴
    flux,        ///< W = −coefficient, times curve(T_wall) where there is one: heat put onto the wall
};

/// One exchange of a wall.
struct Exchange {
    ExchangeKind kind = ExchangeKind::convection;
    Index origin = 0;
    double coefficient = 0.0;
    double temperature = 0.0;            ///< K, of the surroundings
    const ConvectionLaw* law = nullptr;  ///< for ExchangeKind::law; owned by Network::laws
    const Curve* curve = nullptr;        ///< owned by Network::curves

    /// Heat leaving the wall, W.
    [[nodiscard]] double heat(double wall) const;
    /// Derivative of `heat` by the wall temperature, W/K; negative only for heat that grows with temperature.
    [[nodiscard]] double slope(double wall) const;
};

/// Surface patches that exchange heat. The wall temperature is not an unknown: it follows from the node's
/// by T_node − T_wall = resistance · Σ exchanges(T_wall).
struct Walls {
    std::vector<Index> node{};
    std::vector<Index> patch{};
    std::vector<double> resistance{};     ///< K/W from the node to the wall; negative when the box centre lies outside the part
    std::vector<Index> first_exchange{};  ///< one more entry than walls: a wall's exchanges are [n], …, [n + 1] − 1
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

/// How the resistance of a link between bodies is made up: shares of the two bodies; the rest is the joint's.
struct ResistanceShares {
    double first = 0.0, second = 0.0;
};

/// What a rule of the model covers, for reports.
struct Coverage {
    std::vector<Index> patches{};
    double area = 0.0;  ///< m², of the kept piece
};

/// See Network::carried_by.
inline constexpr Index carried_by_surface = no_index - 1;

class HeatContent;
class SurfaceBounds;

struct Network {
    Index nodes = 0;
    std::vector<double> capacity{};                                  ///< J/K per node; 0 where density or specific heat is unknown
    std::vector<std::shared_ptr<const HeatContent>> heat_content{};  ///< per body, null where the capacity is constant; empty when it is everywhere
    std::vector<Index> owner{};                                      ///< body per node
    std::vector<Index> order{};                                      ///< the nodes body by body and in long lines, as linear solvers sweep them best
    Links links{};
    RadiativeLinks radiative_links{};
    Ties ties{};
    Walls walls{};
    Sources sources{};
    std::vector<Origin> origins{};
    std::vector<std::shared_ptr<const ConvectionLaw>> laws{};

    /// Dependence on temperature: factors on the conductances of each body, on the joint resistance of each contact pair of the mesh, on
    /// the heat of each power of the model; null where there is none. Empty when nothing depends on temperature.
    std::vector<std::shared_ptr<const Curve>> curves{};
    std::vector<const Curve*> body_factor{}, pair_factor{}, load_factor{};
    std::vector<ResistanceShares> resistance_shares{};  ///< per link between bodies, where there are factors
    std::size_t links_in_bodies = 0;
    [[nodiscard]] bool varies_in_bodies() const { return !body_factor.empty(); }
    [[nodiscard]] bool varies() const;
    [[nodiscard]] bool is_linear() const;

    /// Per cell: the contact over which it takes the temperature of its better-conducting neighbour, because it is too
    /// thin in its box for a temperature of its own; carried_by_surface when it takes that of its surface instead;
    /// no_index for all others. Empty where no body is cut.
    std::vector<Index> carried_by{};
    std::vector<double> pair_resistance{};                                       ///< K m²/W per contact pair of the mesh; infinite when insulated
    std::vector<Coverage> cooling_coverage{}, hold_coverage{}, load_coverage{};  ///< as in the model; a load inside parts covers none
    std::vector<Index> unclaimed{};                                              ///< exposed patches without cooling, hold and surface heat: insulated
    double lowest_known = 0.0, highest_known = 0.0;                              ///< K, range of all known temperatures
    /// What surfaces may at most and at least read; null where every box centre lies in its part.
    std::shared_ptr<const SurfaceBounds> surface_bounds{};
};

/// Heat through a link and how it changes with the temperatures at its ends.
struct LinkState {
    double flow = 0.0;                             ///< W from first to second
    double slope_first = 0.0, slope_second = 0.0;  ///< d flow / d T_first and −d flow / d T_second, W/K
};
/// `difference` is first − second, with more digits than the temperatures have.
[[nodiscard]] LinkState link_state(const Network& network, std::size_t link, double first, double second, double difference);
[[nodiscard]] LinkState tie_state(const Network& network, std::size_t tie, double temperature, double difference);
/// Like wall_state(), with the conductivity of the body behind the wall at the node's temperature.
[[nodiscard]] WallState network_wall_state(const Network& network, std::size_t wall, double temperature);
/// Heat of a source at the temperature of its node, W, and its derivative, W/K.
[[nodiscard]] double source_heat(const Network& network, std::size_t source, double temperature);
[[nodiscard]] double source_slope(const Network& network, std::size_t source, double temperature);

/// Rise of a node above the reference for its heat content (K, nothing at the reference).
[[nodiscard]] double rise_of_content(const Network& network, double reference, std::size_t node, double content);

/// The network with every conductance and source as it is at these temperatures: what reports sum over.
[[nodiscard]] Network frozen(const Network& network, std::span<const double> temperature, std::span<const double> rise);

/// Heat by the model's entries, W: of powers entering, of coolings and holds leaving. Of the kept piece.
struct HeatFlows {
    std::vector<double> loads{}, convection{}, radiation{}, holds{};
    /// Adds `times` the other.
    void add(double times, const HeatFlows& other);
    [[nodiscard]] double net() const;         ///< entering less leaving
    [[nodiscard]] double throughput() const;  ///< all that enters
};
[[nodiscard]] HeatFlows heat_flows(const Network& network, double reference, std::span<const double> rise);

/// Heat through every contact of the mesh, and the temperatures of its two surfaces.
struct ContactTemperatures {
    std::vector<double> flow{};             ///< W from the first cell to the second; nothing where the joint is insulated
    std::vector<double> first{}, second{};  ///< K
};

/// Surface temperatures, K, per patch of the mesh: between those of what lies around, whatever the field is like.
[[nodiscard]] std::vector<double> patch_temperatures(const Mesh& mesh, const Network& network, double reference, std::span<const double> rise);

/// Builds the network of one study. Throws ModelError for rules that pick nothing, surfaces claimed twice,
/// powers into parts that are not there, and, where the study is not a transient, parts without any path to a known temperature.
[[nodiscard]] Network build_network(const Model& model, const Mesh& mesh, const Study& study);

}  // namespace firnfield
