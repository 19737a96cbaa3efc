/// What a study in time starts from: temperatures that are given, or where another study ends.
#pragma once

#include <firnfield/transient.hpp>

#include <memory>
#include <vector>

namespace firnfield {

/// The beginning of a study in time: K per node, and what the mesh makes wrong of it.
struct Beginning {
    std::vector<double> temperature{};
    NodeErrors errors{};
};

/// Solves the studies that it starts from. Throws ModelError for one that is not there, or that starts from a results folder.
[[nodiscard]] Beginning start_of(const Model& model, const std::shared_ptr<const Mesh>& mesh, const Study& study, bool errors);

}  // namespace firnfield
