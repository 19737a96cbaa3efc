// Flat faces of bodies across the axes, and which of them look at each other.

#include "mesh/flat_faces.hpp"

#include "base/words.hpp"
#include "mesh/symmetry.hpp"

#include <algorithm>
#include <cmath>
#include <tuple>

namespace firnfield {
namespace {

/// A smaller piece of a curved surface that happens to lie across an axis is no face.
constexpr double least_share = 1e-3;

/// A facet of these is no face, wherever it looks.
bool is_round(FaceKind kind) { return kind != FaceKind::plane && kind != FaceKind::curved; }

FlatFace face_of(Index body, const Box& box, int axis, bool upper) {
    FlatFace face{.body = body, .axis = axis, .upper = upper, .extent = box, .area = box.size[(axis + 1) % 3] * box.size[(axis + 2) % 3]};
    if (upper) face.extent.at[axis] = box.upper()[axis];
    face.extent.size[axis] = 0.0;
    return face;
}

Box hull(const Box& a, const Box& b) {
    Extent both;
    both.take(a);
    both.take(b);
    return {.size = both.high - both.low, .at = both.low};
}

class Collector {
public:
    explicit Collector(const Layout& layout) : layout_(layout) {}

    std::vector<FlatFace> collect() {
        for (Index b = 0; b < layout_.bodies.size(); ++b) {
            const Body& body = layout_.bodies[b];
            if (body.surface != no_index) {
                add_surface(b, layout_.surfaces[body.surface]);
                continue;
            }
            add_box(b, body.box, false);
            for (const Box& hole : layout_.holes[b]) add_box(b, hole, true);
            for (const Box& taken : layout_.taken[b]) add_box(b, taken, true);
        }
        return std::move(faces_);
    }

private:
    /// The six faces of a box; of what is taken out of a body when `inward`.
    void add_box(Index body, const Box& box, bool inward) {
        for (int axis = 0; axis < 3; ++axis) {
            for (const bool upper : {false, true}) {
                const double at = upper ? box.upper()[axis] : box.lower()[axis];
                if (on_symmetry(axis, upper, at)) continue;
                // A hole that begins at a face has no wall there.
                const Box& all = layout_.bodies[body].box;
                if (inward && std::abs(at - (upper ? all.upper()[axis] : all.lower()[axis])) <= layout_.tolerance) continue;
                FlatFace face = face_of(body, box, axis, upper);
                face.upper = upper != inward;
                constexpr std::size_t wall_within = 6;
                face.zones = {layout_.box_zones[body][inward ? wall_within : static_cast<std::size_t>(make_side(axis, upper))]};
                faces_.push_back(face);
            }
        }
    }

    [[nodiscard]] bool on_symmetry(int axis, bool upper, double at) const {
        return std::any_of(layout_.planes.begin(), layout_.planes.end(), [&](const SymmetryPlane& plane) {
            if (axis_across(plane) != axis || (plane.outward[axis] > 0.0) != upper) return false;
            return std::abs(at - plane.outward[axis] * plane.offset) <= layout_.tolerance;
        });
    }

    void add_surface(Index body, const CutSurface& cut) {
        const ClosedSurface& surface = cut.surface;
        std::vector<FlatFace> pieces;
        for (std::size_t t = 0; t < surface.triangles.size(); ++t) {
            if (is_round(surface.faces[surface.face[t]].kind)) continue;
            const auto& corners = surface.triangles[t];
            const Vec3 p = surface.corners[corners[0]], q = surface.corners[corners[1]], r = surface.corners[corners[2]];
            const Vec3 normal = cross(q - p, r - p);
            for (int axis = 0; axis < 3; ++axis) {
                if (std::max(std::abs(p[axis] - q[axis]), std::abs(p[axis] - r[axis])) > layout_.tolerance) continue;
                if (surface.faces[surface.face[t]].name.starts_with(symmetry_tag)) continue;
                Extent extent;
                for (const Vec3& corner : {p, q, r}) extent.take({.size = {}, .at = corner});
                extent.low[axis] = extent.high[axis] = p[axis];
                pieces.push_back({body, axis, normal[axis] > 0.0, {.size = extent.high - extent.low, .at = extent.low}, 0.5 * length(normal), {cut.zone[t]}});
            }
        }
        std::sort(pieces.begin(), pieces.end(), [](const FlatFace& a, const FlatFace& b) {
            return std::tuple(a.axis, a.upper, a.at(), a.extent.at.x, a.extent.at.y) < std::tuple(b.axis, b.upper, b.at(), b.extent.at.x, b.extent.at.y);
        });
        std::vector<FlatFace> faces;
        for (const FlatFace& piece : pieces) {
            const bool same_face = !faces.empty() && faces.back().axis == piece.axis && faces.back().upper == piece.upper &&
                                   piece.at() - faces.back().at() <= 2.0 * layout_.tolerance;
            if (!same_face) {
                faces.push_back(piece);
                continue;
            }
            const double at = faces.back().at();
            faces.back().extent = hull(faces.back().extent, piece.extent);
            faces.back().extent.at[piece.axis] = at;
            faces.back().extent.size[piece.axis] = 0.0;
            faces.back().area += piece.area;
            std::vector<std::uint16_t>& zones = faces.back().zones;
            if (std::find(zones.begin(), zones.end(), piece.zones.front()) == zones.end()) zones.push_back(piece.zones.front());
        }
        const Vec3 size = layout_.bodies[body].box.size;
        for (const FlatFace& face : faces) {
            if (face.area > least_share * size[(face.axis + 1) % 3] * size[(face.axis + 2) % 3]) faces_.push_back(face);
        }
    }

    const Layout& layout_;
    std::vector<FlatFace> faces_;
};

}  // namespace

std::vector<FlatFace> flat_faces(const Layout& layout) { return Collector(layout).collect(); }

void for_each_meeting(const Layout& layout, const std::vector<FlatFace>& faces, const std::function<double(Index, Index)>& reach, double longest_reach,
                      const std::function<void(const FlatFace& below, const FlatFace& above, const Box& common)>& meet) {
    double chord = 0.0;  // where facets stand for round faces, they may be a little apart
    for (const double c : layout.chord) chord = std::max(chord, c);
    const double near = 10.0 * layout.tolerance + 2.0 * chord;
    for (int axis = 0; axis < 3; ++axis) {
        const int u = (axis + 1) % 3;
        std::vector<const FlatFace*> below, above;
        double widest = 0.0;
        for (const FlatFace& face : faces) {
            if (face.axis != axis) continue;
            (face.upper ? below : above).push_back(&face);
            if (!face.upper) widest = std::max(widest, face.extent.size[u]);
        }
        // In the order of planes, and within a plane along u: few faces are looked at in vain.
        const auto plane = [&](const FlatFace& face) { return std::llround(face.at() / std::max(near, 1e-300)); };
        std::sort(above.begin(), above.end(), [&](const FlatFace* a, const FlatFace* b) {
            return std::tuple(plane(*a), a->extent.at[u], a->body) < std::tuple(plane(*b), b->extent.at[u], b->body);
        });
        for (const FlatFace* lower : below) {
            const long long last = std::llround((lower->at() + longest_reach) / std::max(near, 1e-300)) + 1;
            auto it = std::lower_bound(above.begin(), above.end(), plane(*lower) - 1, [&](const FlatFace* f, long long p) { return plane(*f) < p; });
            while (it != above.end() && plane(**it) <= last) {
                const long long here = plane(**it);
                const auto end = std::upper_bound(it, above.end(), here, [&](long long p, const FlatFace* f) { return p < plane(*f); });
                const double from = lower->extent.lower()[u] - widest, to = lower->extent.upper()[u];
                auto at = std::lower_bound(it, end, from, [&](const FlatFace* f, double x) { return f->extent.at[u] < x; });
                for (; at != end && (*at)->extent.at[u] < to; ++at) {
                    const FlatFace& upper = **at;
                    if (upper.body == lower->body) continue;
                    const double gap = upper.at() - lower->at();
                    if (gap < -near || gap > near + std::max(0.0, reach(lower->body, upper.body))) continue;
                    const Box common = intersection(lower->extent, upper.extent);
                    if (std::min(common.size[u], common.size[(axis + 2) % 3]) > layout.tolerance) meet(*lower, upper, common);
                }
                it = end;
            }
        }
    }
}

}  // namespace firnfield
