/// Which joint of the model rules a pair of bodies.
#pragma once

#include <firnfield/mesh.hpp>

#include "mesh/cell_map.hpp"

#include <cstdint>
#include <unordered_map>
#include <vector>

namespace firnfield {

/// Looks up joints by body pairs and collects the pairs that were found to touch.
class JointTable {
public:
    JointTable(const Model& model, const std::vector<Body>& bodies);

    /// Largest gap that any joint bridges from this body, m; negative when none names it.
    [[nodiscard]] double reach(Index body) const { return reach_[body]; }
    /// The joint between two bodies, or no_index: the first one that names them.
    [[nodiscard]] Index joint(Index first, Index second) const;
    /// Books one piece of contact and returns its pair, entered when new. Tags are the faces of the two bodies.
    Index touch(Index first, std::uint16_t first_tag, Index second, std::uint16_t second_tag, double area, double gap);
    /// Joint of a pair, or no_index.
    [[nodiscard]] Index joint_of_pair(Index pair) const { return pairs_[pair].joint; }
    /// The pairs with mean gaps and nominal areas; `exposed` are the surfaces that contacts left over.
    [[nodiscard]] std::vector<ContactPair> settle(const Cells& cells, const std::vector<SurfacePatch>& exposed);
    /// Joints that found nothing to join and may be open. Throws ModelError for others, and for pairs that two joints claim.
    [[nodiscard]] std::vector<OpenJoint> open_joints() const;

private:
    /// Area of one face of a body.
    struct FaceArea {
        Index body = 0;
        std::uint16_t tag = 0;
        double area = 0.0;
    };
    static void add(std::vector<FaceArea>& faces, Index body, std::uint16_t tag, double area);
    Index pair(Index first, Index second);
    [[nodiscard]] bool names(std::size_t joint, Index first, Index second) const;
    void note_second_claim(Index first, Index second, Index joint);

    const Model& model_;
    const std::vector<Body>& bodies_;
    std::vector<std::array<std::vector<bool>, 2>> named_;  // joint, side → bodies
    std::vector<double> reach_;
    std::unordered_map<std::uint64_t, Index> pair_index_;
    std::vector<ContactPair> pairs_;
    std::vector<std::vector<FaceArea>> faces_;  // per pair: which faces touch
    std::vector<Problem> problems_;
};

}  // namespace firnfield
