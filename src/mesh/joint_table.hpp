/// Which joint of the model rules a pair of bodies.
#pragma once

#include <firnfield/mesh.hpp>

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
    /// The joint between two bodies, or no_index.
    [[nodiscard]] Index joint(Index first, Index second);
    /// The pair of two bodies, entered when new.
    Index pair(Index first, Index second);
    [[nodiscard]] std::vector<ContactPair>& pairs() { return pairs_; }
    /// Throws ModelError for pairs that two joints claim and for joints that found nothing to join.
    void require_every_joint_used() const;

private:
    const Model& model_;
    const std::vector<Body>& bodies_;
    std::vector<std::array<std::vector<bool>, 2>> named_;  // joint, side → bodies
    std::vector<double> reach_;
    std::unordered_map<std::uint64_t, Index> joints_;      // by body pair
    std::unordered_map<std::uint64_t, Index> pair_index_;
    std::vector<ContactPair> pairs_;
    std::vector<Problem> problems_;
};

}  // namespace firnfield
