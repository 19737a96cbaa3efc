/// Contacts of cells, summed up from what single pieces of their surfaces share.
#pragma once

#include <firnfield/mesh.hpp>

#include "mesh/joint_table.hpp"

#include <cstdint>
#include <tuple>
#include <vector>

namespace firnfield {

/// One pass's share of the contact of two cells, ready to be summed.
struct ContactShare {
    Index first = 0, second = 0;  // cells; the first belongs to the body that stands first
    std::uint16_t tag_first = 0, tag_second = 0;
    double area = 0.0, depth_first = 0.0, depth_second = 0.0, gap = 0.0;
    Vec3 vector{};

    [[nodiscard]] auto key() const { return std::tie(first, second, tag_first, tag_second); }
};

/// Sums up the shares of each pair of cells and faces, tells the joints' table of them, and enters them into the list.
void enter_contacts(std::vector<ContactShare>& shares, JointTable& joints, const Mesh& mesh, Contacts& list);

}  // namespace firnfield
