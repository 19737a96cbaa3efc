/// Bounds on the temperatures of surfaces, from the maximum principle.
///
/// A surface temperature follows from one node by heat flux and signed distance. Where the box centre lies outside the part that
/// continues the field beyond the node, and while the field is not smooth yet (the first moments of a step, a sliver beside a poor
/// conductor) the result may leave the range of everything around. What is reported therefore lies between the *anchors* of its
/// cells: the node itself, the part's nodes within two faces, the nodes that touch the cell, and its surfaces in front of the
/// centre. Where the field is smooth the surface lies among them already, so nothing is cut off and the order of accuracy stays.
#pragma once

#include <firnfield/network.hpp>

#include <optional>
#include <span>
#include <vector>

namespace firnfield {

/// Something beside a surface with a temperature of its own.
struct Anchor {
    enum class Kind : std::uint8_t {
        node,          ///< index of a node
        wall,          ///< index in Network::walls
        known,         ///< index in Network::knowns
        surroundings,  ///< index in Network::walls: everything that wall exchanges heat with, for places in the corner of several
    };
    Kind kind = Kind::node;
    Index index = 0;
};

/// A temperature, and the anchor that it was cut off at, if any.
struct Bounded {
    double temperature = 0.0;  ///< K
    std::optional<Anchor> at{};
};

/// The anchors of some cells.
class SurfaceBounds {
public:
    /// `cells` ascending, each once.
    SurfaceBounds(const Mesh& mesh, const Network& network, std::vector<Index> cells);

    /// The temperature (K) moved between the anchors of one or two cells. Cells that have none leave it as it is.
    [[nodiscard]] Bounded bound(double temperature, std::span<const Index> cells, const Network& network, const NodeReading& nodes) const;
    [[nodiscard]] std::span<const Anchor> anchors(Index cell) const;

private:
    std::vector<Index> cells_;
    std::vector<Index> first_;  // one more than cells
    std::vector<Anchor> anchors_;
};

/// The bounds of every cell with a surface that may need them.
[[nodiscard]] std::shared_ptr<const SurfaceBounds> bounds_of_surfaces(const Mesh& mesh, const Network& network);

/// The temperature of a wall as it is reported, K.
[[nodiscard]] Bounded wall_temperature(const Network& network, Index wall, const NodeReading& nodes);
/// Likewise where the balance of the wall is solved already, at `balanced` (K).
[[nodiscard]] Bounded reported_temperature(const Network& network, Index wall, double balanced, const NodeReading& nodes);

/// The temperature moved between the given anchors.
[[nodiscard]] Bounded bound_between(std::span<const Anchor> anchors, double temperature, const Network& network, const NodeReading& nodes);

}  // namespace firnfield
