/// A model as tables for a report: what was computed, not how it is written.
#pragma once

#include <firnfield/model.hpp>

#include "report/finding_tables.hpp"

#include <vector>

namespace firnfield {

/// Parts, materials, joints, nodes and resistors, heat, cooling, thermostats, studies; those without rows are left out. `parts` tell copies and masses.
[[nodiscard]] std::vector<FindingTable> model_tables(const Model& model, const std::vector<PartFinding>& parts, const Units& units);

}  // namespace firnfield
