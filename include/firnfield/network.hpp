/// The heat-conductance network: what the mesh and the model come down to.
///
/// Every cell is a node with an unknown temperature. Whatever carries heat between two nodes, between a node and a known temperature, or into a node
/// stands in *families* of alike elements, each with its law, its channel and its origin in the model, so that every report is a sum over elements.
/// Surfaces that exchange heat with the surroundings are *walls*: their temperatures follow from their nodes'.
#pragma once

#include <firnfield/mesh.hpp>
#include <firnfield/model.hpp>

#include <functional>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace firnfield {

/// What an element comes from.
enum class OriginKind : std::uint8_t { part, joint, resistor, cooling, hold, load };

/// An origin; `index` counts bodies for a part, contact pairs for a joint, and the model's entries otherwise.
struct Origin {
    OriginKind kind = OriginKind::part;
    Index index = 0;
    bool operator==(const Origin&) const = default;
};

/// What carries the heat of an element.
enum class Channel : std::uint8_t {
    conduction,  ///< within a body, also from its node to its wall
    contact,     ///< between bodies that touch, from node to node
    radiation,   ///< grey radiation, between bodies or to the surroundings
    convection,  ///< to the surroundings
    resistor,    ///< of the model, between two nodes or to the ambient
    hold,        ///< to an imposed temperature
    load,        ///< of a power, into a node or onto a wall
};

/// A temperature that is given: of the air, of surroundings that radiate, of a hold.
struct Known {
    double temperature = 0.0;  ///< K
    Origin origin{};
    Channel channel = Channel::hold;
};

class ContactLaw;
class VaryingFilm;
class HeatContent;
class Law;
class SurfaceBounds;
struct Network;

/// Alike elements: heat from one end to the other by one law.
///
/// The first end of each is a node, or the wall of a group of walls. The second ends are nodes, or all of them are one known temperature, or they lie
/// outside: then the heat depends on the first end alone.
struct Family {
    Channel channel = Channel::conduction;
    OriginKind origin = OriginKind::part;
    std::vector<Index> index{};         ///< of the origin: one for all elements, or one each
    std::vector<Index> first{};         ///< nodes; empty on walls, where element i stands on wall WallGroup::begin + i
    std::vector<Index> second{};        ///< nodes; empty where the elements end at `known` or outside
    Index known = no_index;             ///< in Network::knowns; no_index: outside
    std::vector<double> coefficient{};  ///< W/K, and what the law makes of it otherwise
    double scale = 1.0;                 ///< on all coefficients: what varies in time
    std::shared_ptr<const Law> law{};   ///< null: heat is coefficient times difference in temperature
    std::vector<Index> patch{};         ///< of the mesh, where the elements lie on its surface and are no films of walls

    [[nodiscard]] std::size_t size() const { return coefficient.size(); }
    [[nodiscard]] bool between_nodes() const { return !second.empty(); }
    [[nodiscard]] Origin origin_of(std::size_t element) const { return {origin, index[index.size() == 1 ? 0 : element]}; }
};

/// Walls that exchange heat in the same ways.
struct WallGroup {
    Index begin = 0, end = 0;     ///< the walls begin, …, end − 1
    std::vector<Family> films{};  ///< what each of them exchanges heat by
};

/// Surface patches that exchange heat. The wall temperature is not an unknown: it follows from the node's
/// by T_node − T_wall = resistance · Σ films(T_wall).
struct Walls {
    std::vector<Index> node{};
    std::vector<Index> patch{};
    std::vector<double> resistance{};  ///< K/W from the node to the wall; negative when the box centre lies outside the part
    std::vector<WallGroup> groups{};   ///< in the order of the walls
    [[nodiscard]] std::size_t size() const { return node.size(); }
    [[nodiscard]] const WallGroup& group_of(Index wall) const;
};

/// Temperature of a wall and the heat through it, for a node temperature.
struct WallState {
    double temperature = 0.0;  ///< K
    double heat = 0.0;         ///< W leaving the node
    double slope = 0.0;        ///< d heat / d node temperature, W/K
};
/// Solves the wall's heat balance by Newton's method; monotone and convex, so it always settles. The conductivity behind the wall is that at the node's
/// temperature (K).
[[nodiscard]] WallState wall_state(const Network& network, Index wall, double node_temperature);

/// A place with a temperature.
struct End {
    enum class At : std::uint8_t {
        node,
        wall,     ///< index in Network::walls
        known,    ///< index in Network::knowns; no_index: outside of the network
        between,  ///< index in Network::between
    };
    At at = At::known;
    Index index = no_index;
};

/// A surface on the way from a node to another end: neither node nor wall.
struct Between {
    Index node = 0;
    End other{};                    ///< a node or a known temperature
    Index family = 0, element = 0;  ///< what leads from one to the other
    double before = 0.0;            ///< K/W of it that lies before the surface, at the conductivity's own temperature
};

/// What a rule of the model covers, for reports.
struct Coverage {
    std::vector<Index> patches{};
    double area = 0.0;  ///< m², of the kept piece
};

/// See Network::carried_by.
inline constexpr Index carried_by_surface = no_index - 1;

/// Heat that a power sets free on the two faces of a contact. What of it enters the two cells stands in a family of loads; some of it passes the joint
/// before.
struct ContactLoad {
    Index contact = 0;              ///< of the mesh
    Index power = 0;                ///< of the model
    Index family = 0, element = 0;  ///< the load into its first cell; that into its second follows
    double share = 0.5;             ///< of the heat that is set free on the face of the first cell
};

/// A film that is the joint of a contact pair, with a coefficient that varies.
struct JointFilm {
    std::shared_ptr<const VaryingFilm> film{};  ///< null where there is none
    Index fluid = no_index;                     ///< the body that is stirred or held as a whole; no_index where none or both are
};

struct Network {
    Index cells = 0;                 ///< the first nodes are the cells of the mesh
    Index nodes = 0;                 ///< the cells of the mesh, then the model's lumped nodes, then the middles of resistors that are spread at both ends
    std::vector<double> capacity{};  ///< J/K per node; 0 where density or specific heat is unknown
    std::vector<std::shared_ptr<const HeatContent>> heat_content{};  ///< per owner, null where the capacity is constant; empty when it is everywhere
    std::vector<Index> owner{};                                      ///< per node its body; beyond the bodies, one for each node that is no cell
    std::vector<Index> order{};                                      ///< the nodes body by body and in long lines, as linear solvers sweep them best
    std::vector<Known> knowns{};
    /// Of nodes. The first conducts within bodies: its elements are the faces of the mesh. The second conducts between bodies: its elements
    /// are the contacts of the mesh, insulated ones left out.
    std::vector<Family> families{};
    Walls walls{};
    std::vector<Between> between{};
    std::vector<End> surface{};  ///< per patch of the mesh: its wall, the temperature that it is held at, a place between, or its node where it is insulated

    [[nodiscard]] const Family& within_bodies() const { return families[0]; }
    [[nodiscard]] const Family& between_bodies() const { return families[1]; }
    /// Whether no law bends.
    [[nodiscard]] bool is_linear() const;

    /// Factors on the conductivity of each body and on the joint resistance of each contact pair, null where there is none; empty when nothing of them
    /// depends on temperature.
    std::vector<std::shared_ptr<const Curve>> conductivity_factor{}, joint_factor{};
    /// Per contact pair; empty when no joint is a film whose coefficient varies.
    std::vector<JointFilm> joint_film{};
    std::shared_ptr<const ContactLaw> contact_law{};  ///< that of between_bodies(), where it has one
    /// What bodies conduct like: their materials, or next to perfectly where they are stirred or held as a whole.
    std::vector<std::shared_ptr<const Material>> materials{};
    std::vector<ContactLoad> contact_loads{};  ///< by contact, in the order of those
    std::vector<double> contact_resistance{};  ///< K m²/W per contact of the mesh, before its pair's factor, of a film its usual one; infinite when insulated
    std::vector<double> pair_resistance{};     ///< the same per contact pair, in the mean of what its contacts conduct

    /// Per cell: the contact over which it takes the temperature of its better-conducting neighbour, because it is too
    /// thin in its box for a temperature of its own; carried_by_surface when it takes that of its surface instead;
    /// no_index for all others. Empty where no body is cut.
    std::vector<Index> carried_by{};
    std::vector<Coverage> cooling_coverage{}, hold_coverage{}, load_coverage{};  ///< as in the model; a load inside parts covers none
    std::vector<std::array<Coverage, 2>> resistor_coverage{};                    ///< of the ends that are surfaces, as in the model
    std::vector<Index> unclaimed{};                                              ///< exposed patches without cooling, hold and surface heat: insulated
    double lowest_known = 0.0, highest_known = 0.0;                              ///< K, range of all known temperatures
    /// What surfaces may at most and at least read; null where every box centre lies in its part.
    std::shared_ptr<const SurfaceBounds> surface_bounds{};
};

/// Calls `use` with every family, those on walls included.
template <typename AnyNetwork, typename Use>
void each_family(AnyNetwork& network, const Use& use) {
    for (auto& family : network.families) use(family);
    for (auto& group : network.walls.groups) {
        for (auto& film : group.films) use(film);
    }
}

/// Temperatures of all nodes: rises (K) above a reference, apart from it so that small differences keep their digits.
struct NodeTemperatures {
    double reference = 0.0;  ///< K
    std::span<const double> rise{};

    [[nodiscard]] double at(std::size_t node) const { return reference + rise[node]; }  ///< K
};

/// The same for reading a few nodes, which may be worked out when they are asked for, as at a moment within a step in time.
struct NodeReading {
    double reference = 0.0;  ///< K
    std::function<double(Index)> rise{};

    NodeReading(double above, std::function<double(Index)> rise_of) : reference(above), rise(std::move(rise_of)) {}
    /// What `nodes` refers to has to outlive it.
    NodeReading(const NodeTemperatures& nodes) : reference(nodes.reference), rise([all = nodes.rise](Index node) { return all[node]; }) {}  // NOLINT

    [[nodiscard]] double at(Index node) const { return reference + rise(node); }  ///< K
};

/// Resistance of the joint of each contact pair, K m²/W, at the mean temperature of what it conducts between; of a film that varies the mean drop over
/// the mean flux, and not a number where nothing flows.
[[nodiscard]] std::vector<double> joint_resistances(const Mesh& mesh, const Network& network, const NodeTemperatures& nodes);

/// Rise of a node above the reference for its heat content (K, nothing at the reference).
[[nodiscard]] double rise_of_content(const Network& network, double reference, std::size_t node, double content);

/// Heat by the model's entries, W: of powers entering, of coolings, holds and resistors that lead to the ambient leaving. Of the kept piece.
struct HeatFlows {
    std::vector<double> loads{}, convection{}, radiation{}, holds{}, resistors{};
    /// Adds `times` the other.
    void add(double times, const HeatFlows& other);
    [[nodiscard]] double net() const;         ///< entering less leaving
    [[nodiscard]] double throughput() const;  ///< all that enters
};
[[nodiscard]] HeatFlows heat_flows(const Network& network, const NodeTemperatures& nodes);

/// Heat through every contact of the mesh, and the temperatures of its two surfaces.
struct ContactTemperatures {
    std::vector<double> flow{};             ///< W from the first cell to the second; nothing where the joint is insulated
    std::vector<double> first{}, second{};  ///< K
};

/// Surface temperatures, K, per patch of the mesh: between those of what lies around, whatever the field is like.
[[nodiscard]] std::vector<double> patch_temperatures(const Mesh& mesh, const Network& network, const NodeTemperatures& nodes);

/// As many nodes as a network of the model on a mesh has.
[[nodiscard]] Index node_count(const Model& model, const Mesh& mesh);

/// Builds the network of one study. Throws ModelError for rules that pick nothing, surfaces claimed twice,
/// powers into parts that are not there, and, where the study is not a transient, parts without any path to a known temperature.
[[nodiscard]] Network build_network(const Model& model, const Mesh& mesh, const Study& study);

}  // namespace firnfield
