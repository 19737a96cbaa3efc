// Surfaces of shapes in triangles that enclose the exact volume.

#include <firnfield/geometry.hpp>

#include "geometry/outline.hpp"
#include "geometry/placement.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

namespace firnfield {
namespace {

constexpr double turn = 2.0 * std::numbers::pi;

/// Collects corners and triangles in a local frame: z along the axis of the shape.
class SurfaceBuilder {
public:
    SurfaceBuilder(Vec3 at, int along) : at_(at), along_(along) {}

    std::uint32_t corner(double x, double y, double z) {
        Vec3 p;
        p[(along_ + 1) % 3] = x;
        p[(along_ + 2) % 3] = y;
        p[along_] = z;
        surface.corners.push_back(at_ + p);
        return static_cast<std::uint32_t>(surface.corners.size() - 1);
    }

    /// The face of that name, made of `face` where there is none yet.
    std::uint16_t face(const SurfaceFace& face) {
        const auto found = std::find_if(surface.faces.begin(), surface.faces.end(), [&](const SurfaceFace& f) { return f.name == face.name; });
        if (found != surface.faces.end()) return static_cast<std::uint16_t>(found - surface.faces.begin());
        surface.faces.push_back(face);
        return static_cast<std::uint16_t>(surface.faces.size() - 1);
    }

    void triangle(std::uint32_t a, std::uint32_t b, std::uint32_t c, std::uint16_t face) {
        if (a == b || b == c || c == a) return;
        surface.triangles.push_back({a, b, c});
        surface.face.push_back(face);
    }

    void quad(std::uint32_t a, std::uint32_t b, std::uint32_t c, std::uint32_t d, std::uint16_t face) {
        triangle(a, b, c, face);
        triangle(a, c, d, face);
    }

    ClosedSurface surface;

private:
    Vec3 at_;
    int along_;
};

/// Name of an edge of an outline, and which of its faces are curved.
struct EdgeTag {
    std::string name;
    double length_factor = 1.0;
};

SurfaceFace plane_face(std::string name) {
    SurfaceFace face;
    face.name = std::move(name);
    return face;
}

/// The face that an edge of an outline leaves when it is moved along an axis.
SurfaceFace swept_face(const EdgeTag& edge, const OutlineArc& arc, bool of_hole) {
    SurfaceFace face{.name = edge.name, .area_factor = edge.length_factor};
    if (arc.radius == 0.0) return face;
    face.kind = arc.bulges != of_hole ? FaceKind::cylinder : FaceKind::bore;
    face.diameter = 2.0 * arc.radius;
    return face;
}

/// The face that the edge from `a` to `b` of an outline of (radius, height) leaves when it is turned about the axis.
SurfaceFace turned_face(const std::string& name, Point2 a, Point2 b, const OutlineArc& arc, double widest) {
    SurfaceFace face{.name = name};
    const double near = 1e-9 * widest;
    if (arc.radius != 0.0) {
        face.kind = std::abs(arc.centre[0]) <= near ? FaceKind::sphere : FaceKind::torus;
        if (face.kind == FaceKind::sphere) face.diameter = 2.0 * arc.radius;
    } else if (std::abs(b[0] - a[0]) <= near) {
        face.kind = b[1] > a[1] ? FaceKind::cylinder : FaceKind::bore;
        face.diameter = a[0] + b[0];
    } else if (std::abs(b[1] - a[1]) > near) {
        face.kind = FaceKind::cone;
    }
    return face;
}

/// Turns a counter-clockwise polygon of (radius, height) about the axis. Corners lie a little outside of the circle, so
/// that every cross-section has the exact area; faces know by how much their facets are too large or too small.
/// A `wedge` is one facet wide, and that facet lies exactly at its radius: all its areas and volumes are then those of a true sector times
/// tan(half the angle) over half the angle.
ClosedSurface revolve(const FlatOutline& outline, const std::vector<EdgeTag>& edges, double degrees, Vec3 at, int along, double chord, bool wedge = false) {
    SurfaceBuilder out(at, along);
    double widest = 0.0;
    for (const Point2& p : outline.corner) widest = std::max(widest, p[0]);
    const bool full = degrees >= 360.0;
    const double angle = full ? turn : degrees * std::numbers::pi / 180.0;
    int slices = facets_of_turn(widest, chord);
    if (!full) slices = std::max(1, static_cast<int>(std::ceil(slices * angle / turn)));
    const double step = angle / slices;
    const double outward = wedge ? 1.0 / std::cos(0.5 * step) : std::sqrt(step / std::sin(step));
    const std::size_t n = outline.corner.size();
    std::vector<std::vector<std::uint32_t>> ring(n);  // corner of the outline → one per slice
    for (std::size_t i = 0; i < n; ++i) {
        const double r = outline.corner[i][0] * outward, z = outline.corner[i][1];
        const bool on_axis = outline.corner[i][0] <= 1e-12 * widest;
        for (int s = 0; s < (full ? slices : slices + 1); ++s) {
            if (on_axis && s > 0) {
                ring[i].push_back(ring[i][0]);
                continue;
            }
            // Quarter turns come out exact.
            const bool quarter = full && s % (slices / 4) == 0;
            const int q = quarter ? s / (slices / 4) : 0;
            const double c = quarter ? (q == 0 ? 1.0 : q == 2 ? -1.0 : 0.0) : std::cos(s * step);
            const double d = quarter ? (q == 1 ? 1.0 : q == 3 ? -1.0 : 0.0) : std::sin(s * step);
            ring[i].push_back(on_axis ? out.corner(0.0, 0.0, z) : out.corner(r * c, r * d, z));
        }
        if (full) ring[i].push_back(ring[i][0]);
    }
    for (std::size_t i = 0; i < n; ++i) {
        const std::size_t j = (i + 1) % n;
        const Point2 a = outline.corner[i], b = outline.corner[j];
        if (a[0] + b[0] <= 2e-12 * widest) continue;  // on the axis
        const double slant = std::hypot(b[0] - a[0], b[1] - a[1]), rise = std::abs(b[1] - a[1]);
        // Height of a facet over its width grows when corners move outward; flat rings keep their exact area.
        const double inner = outward * std::cos(0.5 * step);
        const double facet = 0.5 * std::sin(0.5 * step) * 2.0 * outward * (a[0] + b[0]) * std::hypot(inner * (b[0] - a[0]), rise);
        const double exact = 0.5 * step * (a[0] + b[0]) * slant;
        const EdgeTag& edge = edges[outline.piece[i]];
        const OutlineArc arc = outline.arc.empty() ? OutlineArc{} : outline.arc[outline.piece[i]];
        SurfaceFace turned = turned_face(edge.name, a, b, arc, widest);
        turned.area_factor = wedge ? edge.length_factor : edge.length_factor * exact / facet;
        const std::uint16_t face = out.face(turned);
        for (int s = 0; s < slices; ++s) {
            const auto t = static_cast<std::size_t>(s);
            out.quad(ring[i][t], ring[i][t + 1], ring[j][t + 1], ring[j][t], face);
        }
    }
    if (!full) {
        const std::uint16_t start = out.face(plane_face("start")), end = out.face(plane_face("end"));
        for (const auto& t : triangulate_polygon({outline.corner})) {
            // The start looks against the sense of turning.
            out.triangle(ring[t[0]].front(), ring[t[1]].front(), ring[t[2]].front(), start);
            out.triangle(ring[t[0]].back(), ring[t[2]].back(), ring[t[1]].back(), end);
        }
    }
    return std::move(out.surface);
}

FlatOutline polygon_outline(std::vector<Point2> corners) {
    FlatOutline flat;
    flat.corner = std::move(corners);
    for (std::size_t i = 0; i < flat.corner.size(); ++i) flat.piece.push_back(static_cast<std::uint16_t>(i));
    return flat;
}

std::vector<EdgeTag> numbered_edges(std::string_view name, const FlatOutline& flat) {
    std::vector<EdgeTag> edges;
    for (std::size_t i = 0; i < flat.length_factor.size(); ++i) edges.push_back({fmt::format("{} {}", name, i + 1), flat.length_factor[i]});
    return edges;
}

/// A sphere as a geodesic: the faces of an icosahedron divided evenly and pushed outward, scaled to the exact volume.
ClosedSurface geodesic(const Sphere& sphere, double chord) {
    const double golden = 0.5 * (1.0 + std::sqrt(5.0));
    std::vector<Vec3> seed;
    for (const double a : {-1.0, 1.0}) {
        for (const double b : {-golden, golden}) {
            seed.push_back({0.0, a, b});
            seed.push_back({a, b, 0.0});
            seed.push_back({b, 0.0, a});
        }
    }
    const double edge = 2.0;
    std::vector<std::array<std::size_t, 3>> faces;
    for (std::size_t a = 0; a < 12; ++a) {
        for (std::size_t b = a + 1; b < 12; ++b) {
            for (std::size_t c = b + 1; c < 12; ++c) {
                const auto near = [&](std::size_t i, std::size_t j) { return std::abs(length(seed[i] - seed[j]) - edge) < 1e-9; };
                if (!near(a, b) || !near(b, c) || !near(c, a)) continue;
                const bool outward = dot(cross(seed[b] - seed[a], seed[c] - seed[a]), seed[a]) > 0.0;
                faces.push_back(outward ? std::array{a, b, c} : std::array{a, c, b});
            }
        }
    }
    // The largest facets lie in the middle of the icosahedron's faces: circumradius about 0.76 r / divisions.
    const int divisions = std::clamp(static_cast<int>(std::ceil(0.76 * std::sqrt(sphere.radius / (2.0 * chord)))), 3, 200);
    ClosedSurface surface;
    surface.faces = {{.name = "side", .kind = FaceKind::sphere, .diameter = 2.0 * sphere.radius}};
    std::map<std::array<long long, 3>, std::uint32_t> known;  // faces share the corners on their common edges
    for (const auto& face : faces) {
        std::map<std::pair<int, int>, std::uint32_t> corner;
        for (int i = 0; i <= divisions; ++i) {
            for (int j = 0; i + j <= divisions; ++j) {
                const double u = static_cast<double>(i) / divisions, v = static_cast<double>(j) / divisions;
                const Vec3 p = normalized((1.0 - u - v) * seed[face[0]] + u * seed[face[1]] + v * seed[face[2]]);
                const std::array<long long, 3> key{std::llround(1e9 * p.x), std::llround(1e9 * p.y), std::llround(1e9 * p.z)};
                const auto [at, is_new] = known.try_emplace(key, static_cast<std::uint32_t>(surface.corners.size()));
                if (is_new) surface.corners.push_back(p);
                corner[{i, j}] = at->second;
            }
        }
        for (int i = 0; i < divisions; ++i) {
            for (int j = 0; i + j < divisions; ++j) {
                surface.triangles.push_back({corner[{i, j}], corner[{i + 1, j}], corner[{i, j + 1}]});
                if (i + j + 1 < divisions) surface.triangles.push_back({corner[{i + 1, j}], corner[{i + 1, j + 1}], corner[{i, j + 1}]});
            }
        }
    }
    surface.face.assign(surface.triangles.size(), 0);
    const double outward = std::cbrt(2.0 / 3.0 * turn / volume(surface));
    for (Vec3& p : surface.corners) p = sphere.at + sphere.radius * outward * p;
    surface.faces[0].area_factor = 2.0 * turn * sphere.radius * sphere.radius / area(surface);
    return surface;
}

struct Triangulator {
    double chord;

    ClosedSurface operator()(const Box& box) const {
        ClosedSurface surface;
        for (int n = 0; n < 8; ++n) {
            surface.corners.push_back(
                {(n & 1) != 0 ? box.upper().x : box.lower().x, (n & 2) != 0 ? box.upper().y : box.lower().y, (n & 4) != 0 ? box.upper().z : box.lower().z});
        }
        constexpr std::array<std::array<std::uint32_t, 4>, 6> quads{{{0, 4, 6, 2}, {1, 3, 7, 5}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 2, 3, 1}, {4, 5, 7, 6}}};
        for (const Side side : all_sides) {
            const auto& q = quads[static_cast<std::size_t>(side)];
            surface.faces.push_back(plane_face(std::string(name_of(side))));
            for (const auto& t : {std::array{q[0], q[1], q[2]}, std::array{q[0], q[2], q[3]}}) {
                surface.triangles.push_back(t);
                surface.face.push_back(static_cast<std::uint16_t>(side));
            }
        }
        return surface;
    }

    ClosedSurface operator()(const Cylinder& c) const {
        return revolve(polygon_outline({{0.0, 0.0}, {c.radius, 0.0}, {c.radius, c.length}, {0.0, c.length}}), {{"bottom"}, {"side"}, {"top"}, {"axis"}}, 360.0,
                       c.at, c.along, chord);
    }

    ClosedSurface operator()(const Tube& t) const {
        return revolve(polygon_outline({{t.inner_radius, 0.0}, {t.outer_radius, 0.0}, {t.outer_radius, t.length}, {t.inner_radius, t.length}}),
                       {{"bottom"}, {"side"}, {"top"}, {"bore"}}, t.angle, t.at, t.along, chord);
    }

    ClosedSurface operator()(const Sphere& s) const { return geodesic(s, chord); }

    ClosedSurface operator()(const Cone& c) const {
        return revolve(polygon_outline({{0.0, 0.0}, {c.lower_radius, 0.0}, {c.upper_radius, c.length}, {0.0, c.length}}),
                       {{"bottom"}, {"side"}, {"top"}, {"axis"}}, 360.0, c.at, c.along, chord);
    }

    ClosedSurface operator()(const Revolution& r) const {
        const FlatOutline flat = flatten(r.outline, chord);
        return revolve(flat, numbered_edges("side", flat), r.angle, r.at, r.along, chord);
    }

    ClosedSurface operator()(const Prism& p) const {
        SurfaceBuilder out(p.at, p.along);
        const std::uint16_t bottom = out.face(plane_face("bottom")), top = out.face(plane_face("top"));
        std::vector<std::vector<Point2>> loops;
        std::vector<std::uint32_t> low, high;
        const auto add_walls = [&](const FlatOutline& flat, const std::vector<EdgeTag>& edges, bool hole) {
            const auto first = static_cast<std::uint32_t>(low.size());
            const auto n = static_cast<std::uint32_t>(flat.corner.size());
            for (const Point2& c : flat.corner) {
                low.push_back(out.corner(c[0], c[1], 0.0));
                high.push_back(out.corner(c[0], c[1], p.length));
            }
            for (std::uint32_t i = 0; i < n; ++i) {
                const std::uint32_t a = first + i, b = first + (i + 1) % n;
                const EdgeTag& edge = edges[flat.piece[i]];
                const std::uint16_t face = out.face(swept_face(edge, flat.arc[flat.piece[i]], hole));
                if (hole) {
                    out.quad(low[b], low[a], high[a], high[b], face);
                } else {
                    out.quad(low[a], low[b], high[b], high[a], face);
                }
            }
            loops.push_back(flat.corner);
        };
        const FlatOutline outer = flatten(p.outline, chord);
        add_walls(outer, numbered_edges("side", outer), false);
        for (std::size_t h = 0; h < p.holes.size(); ++h) {
            const FlatOutline flat = flatten(p.holes[h], chord);
            add_walls(flat, numbered_edges(fmt::format("hole {} side", h + 1), flat), true);
        }
        for (const auto& t : triangulate_polygon(loops)) {
            out.triangle(low[t[0]], low[t[2]], low[t[1]], bottom);
            out.triangle(high[t[0]], high[t[1]], high[t[2]], top);
        }
        return std::move(out.surface);
    }

    ClosedSurface operator()(const Solid& s) const {
        ClosedSurface surface = *s.surface;
        for (Vec3& p : surface.corners) p = p + s.at;
        return surface;
    }

    /// Where the file has it several times, in the place of the solid itself: its copies are placed like others.
    ClosedSurface operator()(const CadSolid& s) const {
        ClosedSurface surface = s.geometry->facets(chord);
        if (s.copies.size() == 1) surface = place(std::move(surface), s.copies.front().place);
        for (Vec3& p : surface.corners) p = p + s.at;
        return surface;
    }
};

}  // namespace

ClosedSurface wedge_of(const Shape& shape, double degrees, double chord) {
    // The coarsest facets around the axis: one for the whole wedge. Arcs in the outline stay fine.
    constexpr double coarse = 1e30;
    ClosedSurface wedge;
    if (const Sphere* s = std::get_if<Sphere>(&shape)) {
        const Outline half{{.x = 0.0, .y = -s->radius, .through = std::nullopt}, {.x = 0.0, .y = s->radius, .through = std::array{s->radius, 0.0}}};
        FlatOutline flat = flatten(half, chord);
        // Chords of the circle enclose less than the circle: widened to the exact volume.
        double chords = 0.0;
        for (std::size_t i = 0; i < flat.corner.size(); ++i) {
            const Point2 a = flat.corner[i], b = flat.corner[(i + 1) % flat.corner.size()];
            chords += (b[1] - a[1]) * (a[0] * a[0] + a[0] * b[0] + b[0] * b[0]) / 3.0;
        }
        const double wider = std::sqrt(4.0 / 3.0 * s->radius * s->radius * s->radius / chords);
        for (Point2& p : flat.corner) p[0] *= wider;
        wedge = revolve(flat, {{"side"}, {"side", flat.length_factor[1]}}, degrees, s->at, 2, coarse, true);
    } else if (const Revolution* r = std::get_if<Revolution>(&shape)) {
        const FlatOutline flat = flatten(r->outline, chord);
        wedge = revolve(flat, numbered_edges("side", flat), degrees, r->at, 2, coarse, true);
    } else if (const Cone* c = std::get_if<Cone>(&shape)) {
        wedge = revolve(polygon_outline({{0.0, 0.0}, {c->lower_radius, 0.0}, {c->upper_radius, c->length}, {0.0, c->length}}),
                        {{"bottom"}, {"side"}, {"top"}, {"axis"}}, degrees, c->at, 2, coarse, true);
    } else if (const Tube* t = std::get_if<Tube>(&shape)) {
        wedge = revolve(polygon_outline({{t->inner_radius, 0.0}, {t->outer_radius, 0.0}, {t->outer_radius, t->length}, {t->inner_radius, t->length}}),
                        {{"bottom"}, {"side"}, {"top"}, {"bore"}}, degrees, t->at, 2, coarse, true);
    } else if (const Cylinder* rod = std::get_if<Cylinder>(&shape)) {
        wedge = revolve(polygon_outline({{0.0, 0.0}, {rod->radius, 0.0}, {rod->radius, rod->length}, {0.0, rod->length}}),
                        {{"bottom"}, {"side"}, {"top"}, {"axis"}}, degrees, rod->at, 2, coarse, true);
    }
    const double half = -0.5 * degrees * std::numbers::pi / 180.0, c = std::cos(half), s = std::sin(half);
    for (Vec3& p : wedge.corners) p = {p.x * c - p.y * s, p.x * s + p.y * c, p.z};
    return wedge;
}

ClosedSurface triangulate(const Shape& shape, double chord) { return std::visit(Triangulator{chord}, shape); }

std::vector<std::string> face_names(const Shape& shape) {
    std::vector<std::string> names;
    const auto take = [&](const auto& faces) {
        for (const auto& face : faces) names.push_back(face.name);
    };
    if (const CadSolid* cad = std::get_if<CadSolid>(&shape)) {
        take(cad->geometry->faces());
    } else if (const Solid* solid = std::get_if<Solid>(&shape)) {
        if (solid->surface) take(solid->surface->faces);
        for (const auto& body : solid->bodies) take(body->faces);
    } else {
        take(triangulate(shape, 1e30).faces);  // the coarsest facets have all faces
    }
    return names;
}

std::string_view name_of(const Shape& shape) {
    constexpr std::array<std::string_view, 9> names{"box", "cylinder", "tube", "sphere", "cone", "prism", "revolution", "stl", "step"};
    static_assert(std::variant_size_v<Shape> == names.size());
    return names[shape.index()];
}

Vec3 origin_of(const Shape& shape) {
    return std::visit([](const auto& s) { return s.at; }, shape);
}

}  // namespace firnfield
