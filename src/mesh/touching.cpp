// Which surfaces of cut bodies touch: each looks straight ahead onto the others, from both sides.

#include "mesh/touching.hpp"

#include "geometry/triangle_tree.hpp"
#include "mesh/clip.hpp"
#include "mesh/contact_shares.hpp"
#include "mesh/facing.hpp"
#include "mesh/triangle_bins.hpp"

#include <algorithm>
#include <cmath>
#include <map>

namespace firnfield {
namespace {

/// Surfaces count as facing each other when their normals differ from opposite by at most this.
constexpr double facing = -0.9;

/// A triangle of the pool and whose it is.
struct Candidate {
    Index body = 0;
    Index patch = no_index;  // of a body built of boxes: the patch; cut bodies find theirs by box
    std::uint16_t tag = 0, zone = 0;
    Vec3 normal{};  // unit
};

/// A piece of a surface that lies in one box.
struct Piece {
    Polygon polygon;
    Index body = 0, cell = 0, patch = 0;
    std::uint16_t tag = 0;
    Vec3 normal{};
};

class Toucher {
public:
    Toucher(const Model& model, const Layout& layout, const CellMap& map, JointTable& joints, SurfacePatches& patches, Mesh& mesh)
        : model_(model), layout_(layout), map_(map), joints_(joints), patches_(patches), mesh_(mesh), tolerance_(1e-7 * layout.target) {}

    void run() {
        if (layout_.surfaces.empty()) return;
        for (const SurfacePatch& patch : patches_.list) {
            direction_.push_back(normalized(patch.vector));
            depth_.push_back(patch.depth / patch.area);
        }
        for (const double chord : layout_.chord) coarsest_chord_ = std::max(coarsest_chord_, chord);
        find_windows();
        gather();
        for (Index b = 0; b < mesh_.bodies.size(); ++b) {
            if (mesh_.bodies[b].surface != no_index) collect_cut(b);
        }
        collect_boxes();
        look_from_all();
        enter_contacts(records_, joints_, mesh_, mesh_.contacts);
        enter_contacts(open_records_, joints_, mesh_, mesh_.gaps);
    }

private:
    /// Where each cut body is near any other: only there is its surface looked at.
    void find_windows() {
        const std::size_t count = mesh_.bodies.size();
        window_.assign(count, Window{});
        for (Index b = 0; b < count; ++b) {
            if (mesh_.bodies[b].surface == no_index) continue;
            const Box& own = mesh_.bodies[b].box;
            Vec3 low = own.upper(), high = own.lower();
            bool alone = true;
            for (Index other = 0; other < count; ++other) {
                if (other == b) continue;
                // Twice the distance, so that own surfaces which hide another body are there too.
                const double margin = 2.0 * (std::max(search_distance(b), search_distance(other)) + touch_distance(b, other) + 1.5 * coarsest_chord_);
                Vec3 from, to;
                bool meets = true;
                for (int axis = 0; axis < 3; ++axis) {
                    from[axis] = std::max(own.lower()[axis], mesh_.bodies[other].box.lower()[axis] - margin) - margin;
                    to[axis] = std::min(own.upper()[axis], mesh_.bodies[other].box.upper()[axis] + margin) + margin;
                    meets = meets && to[axis] - from[axis] >= 2.0 * margin;
                }
                if (!meets) continue;
                alone = false;
                for (int axis = 0; axis < 3; ++axis) {
                    low[axis] = std::min(low[axis], from[axis]);
                    high[axis] = std::max(high[axis], to[axis]);
                }
            }
            if (alone) continue;
            for (std::size_t axis = 0; axis < 3; ++axis) {
                const std::vector<double>& lines = mesh_.grid.lines[axis];
                const int a = static_cast<int>(axis);
                const auto first = std::upper_bound(lines.begin(), lines.end(), low[a]) - lines.begin() - 1;
                const auto last = std::lower_bound(lines.begin(), lines.end(), high[a]) - lines.begin();
                window_[b][axis] = {static_cast<Index>(std::max<std::ptrdiff_t>(first, 0)),
                                    static_cast<Index>(std::min<std::ptrdiff_t>(last, std::ssize(lines) - 1))};
            }
        }
    }

    /// Bodies built of boxes take part with the faces that no other such body covers, where a cut body is near.
    void gather() {
        std::vector<Box> near;
        for (Index b = 0; b < mesh_.bodies.size(); ++b) {
            const Body& body = mesh_.bodies[b];
            if (body.surface == no_index) continue;
            Box around = body.box;
            const double margin = search_distance(b) + layout_.target * 1e-6;
            around.at = around.at - Vec3{margin, margin, margin};
            around.size = around.size + 2.0 * Vec3{margin, margin, margin};
            near.push_back(around);
            const ClosedSurface& surface = layout_.surfaces[body.surface].surface;
            for (std::size_t t = 0; t < surface.triangles.size(); ++t) {
                const auto& c = surface.triangles[t];
                Candidate candidate;
                const Triangle triangle{surface.corners[c[0]], surface.corners[c[1]], surface.corners[c[2]]};
                const Vec3 doubled = doubled_area(triangle);
                if (length(doubled) == 0.0 || surface.faces[surface.face[t]].name.starts_with(symmetry_tag)) continue;
                candidate.body = b;
                candidate.tag = surface.face[t];
                candidate.zone = layout_.surfaces[body.surface].zone[t];
                candidate.normal = normalized(doubled);
                candidates_.push_back(candidate);
                triangles_.push_back(triangle);
            }
        }
        for (Index p = 0; p < patches_.list.size(); ++p) {
            const SurfacePatch& patch = patches_.list[p];
            const Index body = mesh_.cells.body[patch.cell];
            if (mesh_.bodies[body].surface != no_index) continue;
            const Polygon face = box_face(p);
            const Box box{.size = {std::abs(face[2].x - face[0].x), std::abs(face[2].y - face[0].y), std::abs(face[2].z - face[0].z)},
                          .at = {std::min(face[0].x, face[2].x), std::min(face[0].y, face[2].y), std::min(face[0].z, face[2].z)}};
            const auto meets = [&](const Box& other) {
                for (int axis = 0; axis < 3; ++axis) {
                    if (box.lower()[axis] > other.upper()[axis] || other.lower()[axis] > box.upper()[axis]) return false;
                }
                return true;
            };
            if (std::none_of(near.begin(), near.end(), meets)) continue;
            box_patches_.push_back(p);
            for (const std::size_t corner : {std::size_t{1}, std::size_t{2}}) {
                candidates_.push_back({body, p, patch.tag, patch.zone, direction_[p]});
                triangles_.push_back({face[0], face[corner], face[corner + 1]});
            }
        }
        bins_ = TriangleBins(mesh_.grid, triangles_,
                             [&](std::uint32_t t) { return candidates_[t].patch == no_index ? window_[candidates_[t].body] : whole(mesh_.grid); });
    }

    [[nodiscard]] std::size_t box_at(const std::array<Index, 3>& place) const {
        return (std::size_t{place[2]} * mesh_.grid.count(1) + place[1]) * mesh_.grid.count(0) + place[0];
    }

    /// Triangles that face the piece in the boxes which meet the given one, each once, ascending; nothing when all are the body's own.
    void find_near(const Piece& piece, Vec3 low, Vec3 high, std::vector<std::uint32_t>& found) const {
        found.clear();
        bool others = false;
        const bool of_boxes = mesh_.bodies[piece.body].surface == no_index;
        bins_.for_each_near(low, high, [&](std::uint32_t t) {
            const Candidate& candidate = candidates_[t];
            if (dot(candidate.normal, piece.normal) > facing || candidate.patch == piece.patch) return;
            if (of_boxes && candidate.patch != no_index) return;  // boxes among themselves are settled
            others = others || candidate.body != piece.body;
            found.push_back(t);
        });
        if (!others) found.clear();
        std::sort(found.begin(), found.end());
        found.erase(std::unique(found.begin(), found.end()), found.end());
    }

    /// The grid face that a patch of a body built of boxes covers, counter-clockwise seen from outside.
    Polygon box_face(Index p) const {
        const Grid& grid = mesh_.grid;
        const SurfacePatch& patch = patches_.list[p];
        const auto place = grid.place(mesh_.cells.box[patch.cell]);
        const auto side = nearest_side(direction_[p]);
        const int axis = axis_of(side), u = (axis + 1) % 3, v = (axis + 2) % 3;
        Polygon face;
        for (const auto& [du, dv] : {std::pair{0, 0}, {1, 0}, {1, 1}, {0, 1}}) {
            Vec3 corner;
            corner[axis] = is_plus(side) ? grid.upper(axis, place[static_cast<std::size_t>(axis)]) : grid.lower(axis, place[static_cast<std::size_t>(axis)]);
            corner[u] = du == 1 ? grid.upper(u, place[static_cast<std::size_t>(u)]) : grid.lower(u, place[static_cast<std::size_t>(u)]);
            corner[v] = dv == 1 ? grid.upper(v, place[static_cast<std::size_t>(v)]) : grid.lower(v, place[static_cast<std::size_t>(v)]);
            face.push_back(corner);
        }
        if (!is_plus(side)) std::reverse(face.begin(), face.end());
        return face;
    }

    /// Gap at which surfaces still touch without a joint that reaches farther: what facets may be off.
    double touch_distance(Index a, Index b) const { return 1e-6 * layout_.target + 1.5 * (layout_.chord[a] + layout_.chord[b]); }
    /// Gap up to which a near miss is told.
    double miss_distance() const { return 0.25 * layout_.target; }
    double search_distance(Index body) const { return std::max(joints_.reach(body), miss_distance()); }

    void collect_cut(Index b) {
        const ClosedSurface& surface = layout_.surfaces[mesh_.bodies[b].surface].surface;
        const std::vector<std::uint16_t>& zone = layout_.surfaces[mesh_.bodies[b].surface].zone;
        const std::vector<Vec3> corners = snap_to_grid(mesh_.grid, surface.corners);
        for_each_piece(mesh_.grid, window_[b], corners, surface, [&](const BoxPolygon& polygon, const std::array<Index, 3>& place, std::size_t t, Vec3 normal) {
            if (surface.faces[surface.face[t]].name.starts_with(symmetry_tag)) return;
            const std::size_t box = box_at(place);
            const Polygon corners_here(polygon.corner.begin(), polygon.corner.begin() + polygon.count);
            const Index patch = find_patch(box, b, surface.face[t], zone[t], normal, corners_here);
            if (patch == no_index) return;
            pieces_.push_back({corners_here, b, patches_.list[patch].cell, patch, surface.face[t], normal});
        });
    }

    void collect_boxes() {
        for (const Index p : box_patches_) {
            const SurfacePatch& patch = patches_.list[p];
            pieces_.push_back({box_face(p), mesh_.cells.body[patch.cell], patch.cell, p, patch.tag, direction_[p]});
        }
    }

    /// What one block of pieces found. Blocks are worked on in any order and put together in theirs, so that the result does
    /// not depend on the number of threads.
    struct Finds {
        std::vector<ContactShare> records{}, open{};
        struct Covered {
            Index patch = 0;
            double area = 0.0, depth = 0.0;
            Vec3 normal{};
        };
        std::vector<Covered> covered{};
        std::map<std::pair<Index, Index>, NearMiss> misses{};
        std::vector<std::uint32_t> near{};  // working space
    };

    void look_from_all() {
        constexpr std::size_t block = 1024;
        std::vector<Finds> finds((pieces_.size() + block - 1) / block);
        const auto blocks = static_cast<std::ptrdiff_t>(finds.size());
#pragma omp parallel for schedule(dynamic)
        for (std::ptrdiff_t b = 0; b < blocks; ++b) {
            const std::size_t first = static_cast<std::size_t>(b) * block, last = std::min(pieces_.size(), first + block);
            for (std::size_t p = first; p < last; ++p) look(pieces_[p], finds[static_cast<std::size_t>(b)]);
        }
        std::map<std::pair<Index, Index>, NearMiss> misses;
        for (const Finds& f : finds) {
            records_.insert(records_.end(), f.records.begin(), f.records.end());
            open_records_.insert(open_records_.end(), f.open.begin(), f.open.end());
            for (const auto& c : f.covered) {
                SurfacePatch& patch = patches_.list[c.patch];
                patch.area -= c.area;
                patch.vector = patch.vector - c.area * c.normal;
                patch.depth -= c.depth;
            }
            for (const auto& [bodies, miss] : f.misses) {
                NearMiss& sum = misses.try_emplace(bodies, NearMiss{miss.first, miss.second, miss.gap, 0.0}).first->second;
                sum.gap = std::min(sum.gap, miss.gap);
                sum.area += miss.area;
            }
        }
        for (const auto& [bodies, miss] : misses) mesh_.near_misses.push_back(miss);
    }

    /// The patch of a body in a box that a piece of its surface went into. Pieces of split boxes are told apart by where they lie.
    template <typename P>
    Index find_patch(std::size_t box, Index body, std::uint16_t tag, std::uint16_t zone, Vec3 normal, const P& polygon) const {
        Index best = no_index;
        double closest = -1e30;
        const Vec3 middle = centroid(polygon, area_vector(polygon)) - mesh_.grid.centre(static_cast<Index>(box));
        const auto place = mesh_.grid.place(static_cast<Index>(box));
        for (Index cell = map_.first[box]; cell < map_.first[box + 1]; ++cell) {
            if (mesh_.cells.body[cell] != body) continue;
            for (Index p = patches_.first[cell]; p < patches_.first[cell + 1]; ++p) {
                const SurfacePatch& patch = patches_.list[p];
                if (patch.tag != tag || patch.zone != zone) continue;
                const double off = std::abs(dot(middle, direction_[p]) - depth_[p]) / mesh_.grid.width(0, place[0]);
                const double alike = dot(direction_[p], normal) - off;
                if (alike > closest) {
                    closest = alike;
                    best = p;
                }
            }
        }
        return best;
    }

    /// Finds what is straight in front of a piece and books it.
    void look(const Piece& piece, Finds& out) const {
        const double search = search_distance(piece.body) + touch_distance(piece.body, piece.body);
        Vec3 low = piece.polygon[0], high = low;
        for (const Vec3& p : piece.polygon) {
            for (int axis = 0; axis < 3; ++axis) {
                low[axis] = std::min(low[axis], p[axis]);
                high[axis] = std::max(high[axis], p[axis]);
            }
        }
        const double back = touch_distance(piece.body, piece.body) + 1.5 * coarsest_chord_;
        for (int axis = 0; axis < 3; ++axis) {
            low[axis] -= back + (piece.normal[axis] < 0.0 ? -piece.normal[axis] * search : 0.0);
            high[axis] += back + (piece.normal[axis] > 0.0 ? piece.normal[axis] * search : 0.0);
        }
        std::vector<Facing> found;
        find_near(piece, low, high, out.near);
        for (const std::uint32_t c : out.near) {
            const double least = candidates_[c].body == piece.body ? tolerance_ : -touch_distance(piece.body, candidates_[c].body);
            if (auto seen = see(piece.polygon, piece.normal, target(c), least, search, tolerance_)) {
                seen->candidate = c;
                found.push_back(*std::move(seen));
            }
        }
        if (found.empty()) return;
        keep_nearest(piece.polygon, piece.normal, found, 0.05 * miss_distance(), tolerance_);
        for (const Facing& f : found) {
            const Index other = candidates_[f.candidate].body;
            if (other != piece.body) book(piece, f, other, out);
        }
    }

    Target target(std::uint32_t c) const { return {triangles_[c], candidates_[c].normal}; }

    /// Enters what a piece sees of another body as contact, or as a near miss when it is too far away.
    void book(const Piece& piece, const Facing& seen, Index other, Finds& out) const {
        const double touch = touch_distance(piece.body, other);
        double reach = touch;
        Index joint = no_index;
        if (joints_.reach(piece.body) > 0.0 && joints_.reach(other) > 0.0) {
            joint = joints_.joint(piece.body, other);
            if (joint != no_index) reach = std::max(reach, model_.joints[joint].reach + layout_.tolerance);
        }
        Polygon near, far;
        split(
            seen.polygon, [&](Vec3 p) { return gap_along(piece.normal, p, target(seen.candidate)) - reach; }, 0.0, near, far);
        if (far.size() > 2) {
            const double area = dot(area_vector(far), piece.normal);
            double gap = seen.gap;
            for (const Vec3& p : far) gap = std::min(gap, gap_along(piece.normal, p, target(seen.candidate)));
            NearMiss& miss =
                out.misses.try_emplace(std::minmax(piece.body, other), NearMiss{std::min(piece.body, other), std::max(piece.body, other), gap, 0.0})
                    .first->second;
            miss.gap = std::min(miss.gap, std::max(gap, reach));
            miss.area += 0.5 * area;  // the other pass sees the same gap
        }
        if (near.size() < 3) return;
        const Candidate& candidate = candidates_[seen.candidate];
        // Shifted along the normal onto the candidate, and divided by the boxes there.
        Polygon image;
        for (const Vec3& p : near) image.push_back(p + gap_along(piece.normal, p, target(seen.candidate)) * piece.normal);
        if (candidate.patch != no_index) {
            record(piece, image, seen.candidate, patches_.list[candidate.patch].cell, out);
            return;
        }
        // Images carry rounding; without snapping they would miss the boxes that the surface itself was given to.
        for (Vec3& p : image) p = snapped(mesh_.grid, p, 1e-7);
        for_each_box_piece(mesh_.grid, whole(mesh_.grid), candidate.normal, image, [&](const Polygon& part, const std::array<Index, 3>& place) {
            const std::size_t box = box_at(place);
            const Index patch = find_patch(box, other, candidate.tag, candidate.zone, candidate.normal, part);
            Index cell = patch != no_index ? patches_.list[patch].cell : map_.cell(mesh_, box, other);
            if (cell == no_index) cell = nearest_cell(place, other);
            if (cell != no_index) record(piece, part, seen.candidate, cell, out);
        });
    }

    /// A cell of the body next to a box in which it has none: pieces by the rim of a surface may end up there.
    Index nearest_cell(const std::array<Index, 3>& place, Index body) const {
        for (std::size_t axis = 0; axis < 3; ++axis) {
            for (const int step : {-1, 1}) {
                std::array<Index, 3> next = place;
                if (step < 0 ? next[axis] == 0 : next[axis] + 1 >= mesh_.grid.count(static_cast<int>(axis))) continue;
                next[axis] += static_cast<Index>(step);
                const Index cell = map_.cell(mesh_, (std::size_t{next[2]} * mesh_.grid.count(1) + next[1]) * mesh_.grid.count(0) + next[0], body);
                if (cell != no_index) return cell;
            }
        }
        return no_index;
    }

    void record(const Piece& piece, const Polygon& image, std::uint32_t c, Index other_cell, Finds& out) const {
        const Candidate& candidate = candidates_[c];
        const Vec3 image_vector = area_vector(image);
        const double slant = std::abs(dot(piece.normal, candidate.normal));
        const double area = length(image_vector) * slant;
        if (!(area > 0.0)) return;
        const Vec3 there = centroid(image, image_vector);
        const double gap = dot(there - piece.polygon[0], piece.normal);
        const Vec3 here = there - gap * piece.normal;
        Index own_cell = piece.cell, far_cell = other_cell;
        choose_common_box(piece, candidate, gap, own_cell, far_cell);

        const Joint* joint = nullptr;
        const Index joint_index = joints_.joint(piece.body, candidate.body);
        if (joint_index != no_index) joint = &model_.joints[joint_index];
        const bool open = joint != nullptr && joint->exchange_factor.has_value();
        const double own_depth = dot(here - mesh_.centre(own_cell), piece.normal);
        const double far_depth = dot(there - mesh_.centre(far_cell), candidate.normal);
        if (!open) {
            // Each side gives up what its own pass found covered.
            out.covered.push_back({piece.patch, area, area * dot(here - mesh_.centre(piece.cell), piece.normal), piece.normal});
        }
        ContactShare r;
        const bool first = piece.body < candidate.body;
        r.first = first ? own_cell : far_cell;
        r.second = first ? far_cell : own_cell;
        r.tag_first = first ? piece.tag : candidate.tag;
        r.tag_second = first ? candidate.tag : piece.tag;
        const Vec3 normal = first ? piece.normal : candidate.normal;
        r.area = 0.5 * area * 0.5 * (factor(piece.body, piece.tag) + factor(candidate.body, candidate.tag));
        r.depth_first = r.area * (first ? own_depth : far_depth);
        r.depth_second = r.area * (first ? far_depth : own_depth);
        r.gap = r.area * std::max(gap, 0.0);
        r.vector = r.area * normal;
        (open ? out.open : out.records).push_back(r);
    }

    double factor(Index body, std::uint16_t tag) const {
        return mesh_.bodies[body].surface == no_index ? 1.0 : layout_.surfaces[mesh_.bodies[body].surface].surface.faces[tag].area_factor;
    }

    /// Where the two sides nearly coincide, cells of the same box see them from the same point: then the signed distances
    /// cancel, and with them the error of either.
    void choose_common_box(const Piece& piece, const Candidate& candidate, double gap, Index own, Index& other) const {
        const Index own_box = mesh_.cells.box[own], other_box = mesh_.cells.box[other];
        if (own_box == other_box) return;
        const auto place = mesh_.grid.place(own_box);
        double width = 1e30;
        for (int axis = 0; axis < 3; ++axis) width = std::min(width, mesh_.grid.width(axis, place[static_cast<std::size_t>(axis)]));
        if (std::abs(gap) > 0.02 * width) return;
        // Sides in a grid plane have their boxes for good.
        for (int axis = 0; axis < 3; ++axis) {
            if (std::abs(piece.normal[axis]) > 1.0 - 1e-12 && std::abs(candidate.normal[axis]) > 1.0 - 1e-12) return;
        }
        for (Index cell = map_.first[own_box]; cell < map_.first[own_box + 1]; ++cell) {
            if (mesh_.cells.body[cell] != candidate.body) continue;
            // Only a piece that has this surface itself, not another one that happens to share the box.
            for (Index p = patches_.first[cell]; p < patches_.first[cell + 1]; ++p) {
                if (patches_.list[p].tag == candidate.tag && dot(direction_[p], candidate.normal) > same_direction) other = cell;
            }
        }
    }

    const Model& model_;
    const Layout& layout_;
    const CellMap& map_;
    JointTable& joints_;
    SurfacePatches& patches_;
    Mesh& mesh_;
    double tolerance_;
    double coarsest_chord_ = 0.0;
    std::vector<Window> window_;         // per body: empty for those that are near no other, or built of boxes
    std::vector<Triangle> triangles_;    // of all surfaces that may touch
    std::vector<Candidate> candidates_;  // per triangle
    TriangleBins bins_;
    std::vector<Piece> pieces_;       // that look for others
    std::vector<Index> box_patches_;  // patches of bodies built of boxes that are near a cut body
    std::vector<Vec3> direction_;     // per patch, before contacts were taken from it
    std::vector<double> depth_;       // likewise: m from the box centre
    std::vector<ContactShare> records_, open_records_;
};

}  // namespace

void find_touching(const Model& model, const Layout& layout, const CellMap& map, JointTable& joints, SurfacePatches& patches, Mesh& mesh) {
    Toucher(model, layout, map, joints, patches, mesh).run();
}

}  // namespace firnfield
