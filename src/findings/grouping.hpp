/// Bodies taken together as reports show them, and joints likewise.
#pragma once

#include <firnfield/findings.hpp>

#include <string>
#include <vector>

namespace firnfield {

/// Bodies by part, in the model's order; parts without any body are left out.
struct PartGroup {
    Index part = 0;
    std::vector<Index> bodies;
};
[[nodiscard]] std::vector<PartGroup> group_parts(const Mesh& mesh);

/// Contact pairs of the same joint and the same two parts.
struct JointGroup {
    Index joint = no_index;
    Index first_part = 0, second_part = 0;
    std::vector<Index> pairs;
    std::vector<bool> swapped;  ///< whether the pair's first body belongs to the second part
};
[[nodiscard]] std::vector<JointGroup> group_joints(const Model& model, const Mesh& mesh);

/// The two parts and what the joint is called.
[[nodiscard]] JointInspection name_joint(const Model& model, const JointGroup& group);
[[nodiscard]] JointInspection describe_joint(const Model& model, const Mesh& mesh, const std::vector<double>& resistances, const JointGroup& group);

/// A resistor of the model without what depends on temperatures.
[[nodiscard]] ResistorInspection describe_resistor(const Model& model, const Resistor& resistor);

/// Remarks that need no temperatures: unclaimed surface, unspecified joints, parts one cell thick.
[[nodiscard]] std::vector<Warning> model_warnings(const Model& model, const Mesh& mesh, const Network& network);

/// Adds a remark where a heat balance closes to less than is promised.
void tell_open_ledger(std::vector<Warning>& warnings, double relative_residual);

/// Smallest number of cells through a body along any axis.
struct Thinnest {
    Index cells = no_index;
    double thickness = 0.0;  ///< m, along the same axis
};
[[nodiscard]] Thinnest cells_through(const Mesh& mesh, const Body& body);

}  // namespace firnfield
