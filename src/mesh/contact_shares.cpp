// Contacts of cells, summed up from what single pieces of their surfaces share.

#include "mesh/contact_shares.hpp"

#include <algorithm>

namespace firnfield {
namespace {

void enter(const ContactShare& sum, JointTable& joints, const Mesh& mesh, Contacts& list) {
    const Index index = joints.touch(mesh.cells.body[sum.first], sum.tag_first, mesh.cells.body[sum.second], sum.tag_second, sum.area, sum.gap / sum.area);
    list.first.push_back(sum.first);
    list.second.push_back(sum.second);
    list.pair.push_back(index);
    list.normal.push_back(normalized(sum.vector));
    list.area.push_back(sum.area);
    list.depth_first.push_back(sum.depth_first / sum.area);
    list.depth_second.push_back(sum.depth_second / sum.area);
    list.gap.push_back(sum.gap / sum.area);
}

}  // namespace

void enter_contacts(std::vector<ContactShare>& shares, JointTable& joints, const Mesh& mesh, Contacts& list) {
    std::stable_sort(shares.begin(), shares.end(), [](const ContactShare& a, const ContactShare& b) { return a.key() < b.key(); });
    std::vector<ContactShare> sums;
    for (std::size_t i = 0; i < shares.size();) {
        // Of one pair of cells and faces, pieces about one direction belong together; edges keep their sides apart.
        sums.clear();
        for (const auto key = shares[i].key(); i < shares.size() && shares[i].key() == key; ++i) {
            const ContactShare& r = shares[i];
            const auto alike = std::find_if(sums.begin(), sums.end(), [&](const ContactShare& s) {
                return dot(s.vector, r.vector) > same_direction * length(s.vector) * length(r.vector);
            });
            if (alike == sums.end()) {
                sums.push_back(r);
                continue;
            }
            alike->area += r.area;
            alike->depth_first += r.depth_first;
            alike->depth_second += r.depth_second;
            alike->gap += r.gap;
            alike->vector = alike->vector + r.vector;
        }
        for (const ContactShare& sum : sums) enter(sum, joints, mesh, list);
    }
}

}  // namespace firnfield
