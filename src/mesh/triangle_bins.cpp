#include "mesh/triangle_bins.hpp"

#include "mesh/clip.hpp"

#include <numeric>

namespace firnfield {

TriangleBins::TriangleBins(const Grid& grid, const std::vector<Triangle>& triangles) : grid_(&grid), first_(grid.boxes() + 1, 0) {
    struct Entry {
        std::size_t box;
        std::uint32_t triangle;
    };
    std::vector<Entry> entries;
    for (std::uint32_t t = 0; t < triangles.size(); ++t) {
        BoxPolygon polygon;
        for (const Vec3& p : triangles[t]) polygon.push_back(snapped(grid, p, 1e-7));
        for_each_box_piece(grid, doubled_area(triangles[t]), polygon, [&](const BoxPolygon&, const std::array<Index, 3>& place) {
            entries.push_back({(std::size_t{place[2]} * grid.count(1) + place[1]) * grid.count(0) + place[0], t});
        });
    }
    for (const Entry& e : entries) ++first_[e.box + 1];
    std::partial_sum(first_.begin(), first_.end(), first_.begin());
    triangles_.resize(entries.size());
    std::vector<Index> next(first_.begin(), first_.end() - 1);
    for (const Entry& e : entries) triangles_[next[e.box]++] = e.triangle;
}

}  // namespace firnfield
