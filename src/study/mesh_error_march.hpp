/// What the mesh makes wrong of temperatures over time, by defect correction: with r the heat that is missed at a moment (network/defects.hpp), C the heat
/// capacities and J the derivative of the network, the error e follows C de/dt + J e = r. It is marched beside the temperatures, by one cheap step for each
/// of theirs, in two rounds as for a steady solution (findings/mesh_error.hpp): the second from the heat corrected by the first.
#pragma once

#include <firnfield/transient.hpp>

#include "network/defects.hpp"
#include "study/integrator.hpp"

#include <array>
#include <memory>
#include <optional>
#include <span>
#include <vector>

namespace firnfield {

/// What has to be added to the temperatures of a moment, after each of the two rounds. Valid while the network is as it was at that moment.
class MeshErrors {
public:
    /// The defects at `nodes`, with nothing added yet. All of it has to outlive it; `alike`, of the same mesh, saves working out what depends on that.
    MeshErrors(const Model& model, const Mesh& mesh, const Network& network, const NodeTemperatures& nodes, const ContactReader& contacts,
               const MeshErrors* alike = nullptr);
    MeshErrors(const MeshErrors&) = delete;
    MeshErrors& operator=(const MeshErrors&) = delete;

    /// Takes what has to be added to every node after the first round, and then after the second.
    void correct_first(std::span<const double> change);
    void correct_second(std::span<const double> change) { second_->correct(change); }

    [[nodiscard]] const Defects& first() const { return first_; }
    /// Once the first round is corrected.
    [[nodiscard]] const Defects& second() const { return *second_; }

private:
    std::vector<double> patch_temperature_;  // K, as the network gives them
    ContactTemperatures contacts_;
    Defects first_;
    std::optional<Defects> second_;
};

class MeshErrorMarch {
public:
    /// What it is made of has to outlive it.
    MeshErrorMarch(const Model& model, const Mesh& mesh, const Network& network, const ContactReader& contacts);

    /// Goes on from these errors of the heat content.
    void go_on_from(NodeErrors content) { content_ = std::move(content); }
    [[nodiscard]] const NodeErrors& content() const { return content_; }

    /// What has to be added at the beginning of a step, where that does not follow from the step before: after a jump. The network has to be set to it, the
    /// temperatures to stay until the step is over.
    void look_at_beginning(const Integrator& integrator, const NodeTemperatures& nodes);
    /// Goes on over a step that was taken. The network has to be set to its end.
    void advance(Integrator& integrator);

    /// At the beginning of the last step, where that was looked at, and at its end.
    [[nodiscard]] const MeshErrors* beginning() const { return beginning_.get(); }
    [[nodiscard]] const MeshErrors* end() const { return end_.get(); }
    /// Likewise for every node, K.
    [[nodiscard]] const NodeErrors& of_nodes() const { return change_; }

private:
    const Model& model_;
    const Mesh& mesh_;
    const Network& network_;
    const ContactReader& contacts_;
    NodeErrors content_, change_;
    NodeErrors driven_;  // W per node, at the end of the last step
    bool looked_ = false;
    std::unique_ptr<MeshErrors> beginning_, end_;
};

}  // namespace firnfield
