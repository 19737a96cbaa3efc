// Triangles by the boxes of the grid that they pass.

#include "mesh/triangle_bins.hpp"

#include <numeric>

namespace firnfield {

void TriangleBins::sort_into_boxes(const std::vector<Entry>& entries) {
    first_.assign(grid_->boxes() + 1, 0);
    for (const Entry& e : entries) ++first_[e.box + 1];
    std::partial_sum(first_.begin(), first_.end(), first_.begin());
    triangles_.resize(entries.size());
    std::vector<Index> next(first_.begin(), first_.end() - 1);
    for (const Entry& e : entries) triangles_[next[e.box]++] = e.triangle;
}

}  // namespace firnfield
