// Bodies cut by the grid: volumes of cells, faces between them, surface in each box.

#include "mesh/cut.hpp"

#include "mesh/clip.hpp"
#include "mesh/components.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace firnfield {
namespace {

class Cutter {
public:
    Cutter(const Grid& grid, const CutSurface& input) : grid_(grid), input_(input) {}

    CutBody run() {
        out_.quality.surface_volume = volume(input_.surface);
        clip();
        fill();
        for (std::size_t axis = 0; axis < 3; ++axis) open_faces(axis);
        measure_volumes();
        return std::move(out_);
    }

private:
    /// Sums of a cut box that only this file needs.
    struct Sums {
        Vec3 vector;  // ∫ n dS
        Vec3 moment;  // ∫ (x − lower corner)_a n_a dS
        double area = 0.0;
    };

    void clip() {
        const std::vector<Vec3> corners = snap_to_grid(grid_, input_.surface.corners);
        Vec3 low = corners.front(), high = low;
        for (const Vec3& p : corners) {
            for (int axis = 0; axis < 3; ++axis) {
                low[axis] = std::min(low[axis], p[axis]);
                high[axis] = std::max(high[axis], p[axis]);
            }
        }
        for (std::size_t axis = 0; axis < 3; ++axis) {
            const std::vector<double>& lines = grid_.lines[axis];
            const int a = static_cast<int>(axis);
            const auto first = std::upper_bound(lines.begin(), lines.end(), low[a]) - lines.begin();
            const auto last = std::lower_bound(lines.begin(), lines.end(), high[a]) - lines.begin();
            out_.range[axis].first = static_cast<Index>(std::max<std::ptrdiff_t>(first - 1, 0));
            out_.range[axis].last = static_cast<Index>(std::clamp<std::ptrdiff_t>(last, out_.range[axis].first + 1, std::ssize(lines) - 1));
            // A flat face in a plane may belong to the box below or above.
            if (out_.range[axis].first > 0 && lines[out_.range[axis].first] == low[a]) --out_.range[axis].first;
            if (out_.range[axis].last + 1 < lines.size() && lines[out_.range[axis].last] == high[a]) ++out_.range[axis].last;
        }
        out_.state.assign(std::size_t{out_.count(0)} * out_.count(1) * out_.count(2), CutBody::outside);
        for_each_piece(grid_, whole(grid_), corners, input_.surface,
                       [&](const BoxPolygon& piece, const std::array<Index, 3>& place, std::size_t t, Vec3 normal) { add_piece(piece, place, t, normal); });
        sort_boxes();
    }

    void add_piece(const BoxPolygon& piece, const std::array<Index, 3>& place, std::size_t triangle, Vec3 normal) {
        const Vec3 vector = area_vector(piece);
        const double size = dot(vector, normal);
        if (!(size > 0.0)) return;
        const Vec3 middle = centroid(piece, vector);
        std::int32_t& state = out_.state[out_.local(place[0] - out_.range[0].first, place[1] - out_.range[1].first, place[2] - out_.range[2].first)];
        if (state < 0) {
            state = static_cast<std::int32_t>(out_.cut.size());
            CutBox box;
            box.box = static_cast<Index>((std::size_t{place[2]} * grid_.count(1) + place[1]) * grid_.count(0) + place[0]);
            out_.cut.push_back(box);
            sums_.emplace_back();
        }
        CutBox& box = out_.cut[static_cast<std::size_t>(state)];
        Sums& sums = sums_[static_cast<std::size_t>(state)];
        Vec3 from_low, from_centre;
        for (int axis = 0; axis < 3; ++axis) {
            const Index at = place[static_cast<std::size_t>(axis)];
            from_low[axis] = middle[axis] - grid_.lower(axis, at);
            from_centre[axis] = middle[axis] - grid_.middle(axis, at);
            sums.moment[axis] += from_low[axis] * vector[axis];
        }
        sums.vector = sums.vector + vector;
        sums.area += size;
        out_.add_to_patch(box, input_.surface.face[triangle], input_.zone.empty() ? std::uint16_t{0} : input_.zone[triangle], normal, vector, from_centre);
    }

    /// Brings cut boxes into the order of the grid.
    void sort_boxes() {
        std::vector<CutBox> cut;
        std::vector<Sums> sums;
        cut.reserve(out_.cut.size());
        sums.reserve(out_.cut.size());
        for (std::int32_t& state : out_.state) {
            if (state < 0) continue;
            cut.push_back(out_.cut[static_cast<std::size_t>(state)]);
            sums.push_back(sums_[static_cast<std::size_t>(state)]);
            state = static_cast<std::int32_t>(cut.size() - 1);
        }
        out_.cut = std::move(cut);
        sums_ = std::move(sums);
    }

    double face_area(std::size_t axis, const std::array<Index, 3>& local) const {
        const std::size_t u = (axis + 1) % 3, v = (axis + 2) % 3;
        return grid_.width(static_cast<int>(u), out_.range[u].first + local[u]) * grid_.width(static_cast<int>(v), out_.range[v].first + local[v]);
    }

    /// Uncut boxes lie inside or outside as a whole, and so do connected sets of them: each set takes a vote.
    void fill() {
        struct Run {
            Index begin, end;
            std::size_t parent;
            double inside_votes, votes;
        };
        std::vector<Run> runs;
        const Index nx = out_.count(0), ny = out_.count(1), nz = out_.count(2);
        std::vector<std::size_t> first_run{0};
        const auto find = [&](std::size_t r) {
            while (runs[r].parent != r) r = runs[r].parent = runs[runs[r].parent].parent;
            return r;
        };
        const auto join_row = [&](std::size_t row, std::size_t other) {
            std::size_t a = first_run[row], b = first_run[other];
            while (a < first_run[row + 1] && b < first_run[other + 1]) {
                if (runs[a].begin < runs[b].end && runs[b].begin < runs[a].end) {
                    const std::size_t x = find(a), y = find(b);
                    runs[std::max(x, y)].parent = std::min(x, y);
                }
                (runs[a].end < runs[b].end ? a : b) += 1;
            }
        };
        for (Index k = 0; k < nz; ++k) {
            for (Index j = 0; j < ny; ++j) {
                const std::size_t row = std::size_t{k} * ny + j, start = row * nx;
                const double full = face_area(0, {0, j, k});
                const std::size_t first = runs.size();
                double open = 0.0;  // solid area in the plane before box i, looking from the left
                std::vector<double> left;
                for (Index i = 0; i < nx;) {
                    if (out_.state[start + i] >= 0) {
                        open -= sums_[static_cast<std::size_t>(out_.state[start + i])].vector.x;
                        ++i;
                        continue;
                    }
                    Index end = i;
                    while (end < nx && out_.state[start + end] < 0) ++end;
                    runs.push_back({i, end, runs.size(), 0.0, 2.0 * (end - i)});
                    left.push_back(open);
                    i = end;
                }
                // `open` is now what does not close; from the right every area is smaller by it.
                for (std::size_t r = first; r < runs.size(); ++r) {
                    const double both = std::clamp(left[r - first] / full, 0.0, 1.0) + std::clamp((left[r - first] - open) / full, 0.0, 1.0);
                    runs[r].inside_votes = both * (runs[r].end - runs[r].begin);
                }
                first_run.push_back(runs.size());
                if (j > 0) join_row(row, row - 1);
                if (k > 0) join_row(row, row - ny);
            }
        }
        for (std::size_t r = 0; r < runs.size(); ++r) {
            const std::size_t root = find(r);
            if (root == r) continue;
            runs[root].inside_votes += runs[r].inside_votes;
            runs[root].votes += runs[r].votes;
        }
        bool doubtful = false;
        for (std::size_t row = 0; row + 1 < first_run.size(); ++row) {
            for (std::size_t r = first_run[row]; r < first_run[row + 1]; ++r) {
                const Run& root = runs[find(r)];
                const double share = root.inside_votes / root.votes;
                doubtful = doubtful || (share > 0.02 && share < 0.98);
                if (share <= 0.5) continue;
                for (Index i = runs[r].begin; i < runs[r].end; ++i) out_.state[row * nx + i] = CutBody::inside;
            }
        }
        if (doubtful) vote_box_by_box();
    }

    /// For surfaces with holes larger than a box: every uncut box asks along all three axes, from both ends.
    void vote_box_by_box() {
        std::vector<float> votes(out_.state.size(), 0.0F);
        const std::array<std::size_t, 3> stride{1, out_.count(0), std::size_t{out_.count(0)} * out_.count(1)};
        for (std::size_t axis = 0; axis < 3; ++axis) {
            const std::size_t u = (axis + 1) % 3, v = (axis + 2) % 3;
            for (Index a = 0; a < out_.count(u); ++a) {
                for (Index b = 0; b < out_.count(v); ++b) {
                    std::array<Index, 3> local{};
                    local[u] = a;
                    local[v] = b;
                    const double full = face_area(axis, local);
                    const std::size_t start = a * stride[u] + b * stride[v];
                    double leak = 0.0;
                    for (Index i = 0; i < out_.count(axis); ++i) {
                        const std::int32_t state = out_.state[start + i * stride[axis]];
                        if (state >= 0) leak -= sums_[static_cast<std::size_t>(state)].vector[static_cast<int>(axis)];
                    }
                    double open = 0.0;
                    for (Index i = 0; i < out_.count(axis); ++i) {
                        const std::size_t at = start + i * stride[axis];
                        const std::int32_t state = out_.state[at];
                        if (state >= 0) {
                            open -= sums_[static_cast<std::size_t>(state)].vector[static_cast<int>(axis)];
                        } else {
                            votes[at] += static_cast<float>(std::clamp(open / full, 0.0, 1.0) + std::clamp((open - leak) / full, 0.0, 1.0));
                        }
                    }
                }
            }
        }
        for (std::size_t at = 0; at < votes.size(); ++at) {
            if (out_.state[at] < 0) out_.state[at] = votes[at] > 3.0F ? CutBody::inside : CutBody::outside;
        }
    }

    /// Open areas along one axis: running sums over stretches of cut boxes between uncut ones. What does not close is
    /// spread over the stretch by surface area.
    void open_faces(std::size_t axis) {
        const std::array<std::size_t, 3> stride{1, out_.count(0), std::size_t{out_.count(0)} * out_.count(1)};
        const int a = static_cast<int>(axis);
        std::size_t at = 0;
        std::array<Index, 3> local{};
        for (local[2] = 0; local[2] < out_.count(2); ++local[2]) {
            for (local[1] = 0; local[1] < out_.count(1); ++local[1]) {
                for (local[0] = 0; local[0] < out_.count(0); ++local[0], ++at) {
                    if (out_.state[at] < 0) continue;
                    if (local[axis] > 0 && out_.state[at - stride[axis]] >= 0) continue;  // inside a stretch
                    const double full = face_area(axis, local);
                    const double before = local[axis] > 0 && out_.state[at - stride[axis]] == CutBody::inside ? full : 0.0;
                    double sum = 0.0, surface = 0.0;
                    std::size_t end = at;
                    Index place = local[axis];
                    for (; place < out_.count(axis) && out_.state[end] >= 0; ++place, end += stride[axis]) {
                        const Sums& s = sums_[static_cast<std::size_t>(out_.state[end])];
                        sum += s.vector[a];
                        surface += s.area;
                    }
                    const double after = place < out_.count(axis) && out_.state[end] == CutBody::inside ? full : 0.0;
                    const double leak = before - sum - after;
                    out_.quality.leak = std::max(out_.quality.leak, std::abs(leak) / full);
                    double open = before;
                    for (std::size_t b = at; b != end; b += stride[axis]) {
                        CutBox& box = out_.cut[static_cast<std::size_t>(out_.state[b])];
                        const Sums& s = sums_[static_cast<std::size_t>(out_.state[b])];
                        box.low_area[axis] = clean(open, full);
                        open -= s.vector[a] + leak * s.area / surface;
                        box.high_area[axis] = clean(open, full);
                    }
                }
            }
        }
    }

    /// Within [0, full], and exactly at the ends when only rounding is off.
    static double clean(double open, double full) {
        if (open < 1e-13 * full) return 0.0;
        return open > (1.0 - 1e-13) * full ? full : open;
    }

    void measure_volumes() {
        for (std::size_t c = 0; c < out_.cut.size(); ++c) {
            CutBox& box = out_.cut[c];
            const auto place = grid_.place(box.box);
            double whole = 1.0;
            for (int axis = 0; axis < 3; ++axis) whole *= grid_.width(axis, place[static_cast<std::size_t>(axis)]);
            std::array<double, 3> by_axis{};
            for (std::size_t axis = 0; axis < 3; ++axis) {
                by_axis[axis] = sums_[c].moment[static_cast<int>(axis)] + box.high_area[axis] * grid_.width(static_cast<int>(axis), place[axis]);
            }
            std::sort(by_axis.begin(), by_axis.end());
            box.volume = std::clamp(by_axis[1], 0.0, whole);
            out_.quality.volume_spread = std::max(out_.quality.volume_spread, (by_axis[2] - by_axis[0]) / whole);
        }
    }

    const Grid& grid_;
    const CutSurface& input_;
    CutBody out_;
    std::vector<Sums> sums_;  // per cut box
};

}  // namespace

void CutBody::add_to_patch(CutBox& box, std::uint16_t tag, std::uint16_t zone, Vec3 normal, Vec3 vector, Vec3 from_centre) {
    Index found = box.first_patch;
    while (found != no_index) {
        const CutPatch& p = patches[found];
        if (p.tag == tag && p.zone == zone && dot(p.vector, normal) > same_direction * length(p.vector)) break;
        found = p.next;
    }
    if (found == no_index) {
        CutPatch patch;
        patch.tag = tag;
        patch.zone = zone;
        patch.next = box.first_patch;
        found = box.first_patch = static_cast<Index>(patches.size());
        patches.push_back(patch);
    }
    CutPatch& patch = patches[found];
    patch.vector = patch.vector + vector;
    patch.area += dot(vector, normal);
    patch.depth += dot(from_centre, vector);
    patch.nearest = std::min(patch.nearest, dot(from_centre, normal));
}

CutBody cut_by_grid(const Grid& grid, const CutSurface& surface) {
    CutBody body = Cutter(grid, surface).run();
    split_components(grid, surface, body);
    return body;
}

}  // namespace firnfield
