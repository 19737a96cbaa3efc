// Faces of CAD solids: what they are like, what they are called, and facets of them that enclose the exact volume.

#include "io/step/body.hpp"

#include <firnfield/error.hpp>

#include "base/words.hpp"
#include "geometry/name_faces.hpp"
#include "geometry/near_points.hpp"

#include <BRepAdaptor_Surface.hxx>
#include <BRepGProp.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRepTools.hxx>
#include <BRep_Tool.hxx>
#include <GProp_GProps.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Message_Printer.hxx>
#include <Poly_PolygonOnTriangulation.hxx>
#include <Poly_Triangulation.hxx>
#include <Precision.hxx>
#include <Standard_Failure.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <mutex>
#include <numeric>
#include <utility>

namespace firnfield::step {
namespace {

Vec3 metres(const gp_Pnt& p) { return {millimetre * p.X(), millimetre * p.Y(), millimetre * p.Z()}; }

FaceKind kind_of(const BRepAdaptor_Surface& surface) {
    switch (surface.GetType()) {
        case GeomAbs_Plane:
            return FaceKind::plane;
        case GeomAbs_Cylinder:
            return FaceKind::cylinder;
        case GeomAbs_Cone:
            return FaceKind::cone;
        case GeomAbs_Sphere:
            return FaceKind::sphere;
        case GeomAbs_Torus:
            return FaceKind::torus;
        default:
            return FaceKind::curved;
    }
}

/// Whether the solid lies around a cylinder rather than in it.
bool is_bore(const BRepAdaptor_Surface& surface, const TopoDS_Face& face) {
    gp_Pnt at;
    gp_Vec by_u, by_v;
    surface.D1(0.5 * (surface.FirstUParameter() + surface.LastUParameter()), 0.5 * (surface.FirstVParameter() + surface.LastVParameter()), at, by_u, by_v);
    gp_Vec outward = by_u.Crossed(by_v);
    if (face.Orientation() == TopAbs_REVERSED) outward.Reverse();
    const gp_Ax1 axis = surface.Cylinder().Axis();
    gp_Vec radial(axis.Location(), at);
    radial -= gp_Vec(axis.Direction()) * radial.Dot(gp_Vec(axis.Direction()));
    return outward.Dot(radial) < 0.0;
}

/// Of a face: exact area and centroid, kind and size.
ExactFace describe_face(const TopoDS_Face& face) {
    ExactFace out;
    const BRepAdaptor_Surface surface(face);
    out.kind = kind_of(surface);
    if (out.kind == FaceKind::cylinder) {
        out.diameter = 2.0 * millimetre * surface.Cylinder().Radius();
        if (is_bore(surface, face)) out.kind = FaceKind::bore;
    }
    if (out.kind == FaceKind::sphere) out.diameter = 2.0 * millimetre * surface.Sphere().Radius();
    GProp_GProps properties;
    BRepGProp::SurfaceProperties(face, properties);
    out.area = millimetre * millimetre * std::abs(properties.Mass());
    out.at = metres(properties.CentreOfMass());
    return out;
}

/// Nodes that the facets of several faces share become one.
class Welder {
public:
    std::size_t add(std::size_t count) {
        const std::size_t first = parent_.size();
        parent_.resize(first + count);
        std::iota(parent_.begin() + static_cast<std::ptrdiff_t>(first), parent_.end(), first);
        return first;
    }
    std::size_t root(std::size_t node) {
        while (parent_[node] != node) node = parent_[node] = parent_[parent_[node]];
        return node;
    }
    void join(std::size_t a, std::size_t b) {
        a = root(a);
        b = root(b);
        parent_[std::max(a, b)] = std::min(a, b);
    }
    [[nodiscard]] std::size_t size() const { return parent_.size(); }

private:
    std::vector<std::size_t> parent_;
};

/// Facets with what has to be known to move their corners.
struct Facets {
    std::vector<Vec3> corner;
    std::vector<std::array<std::uint32_t, 3>> triangle;
    std::vector<std::size_t> face;  // per triangle
    std::vector<double> away;       // m, per triangle: mean distance of its face outside of it
};

/// Solves a symmetric 3 × 3 system by Cramer's rule.
Vec3 solve(const std::array<Vec3, 3>& rows, Vec3 right) {
    const double det = dot(rows[0], cross(rows[1], rows[2]));
    return (1.0 / det) * (right.x * cross(rows[1], rows[2]) + right.y * cross(rows[2], rows[0]) + right.z * cross(rows[0], rows[1]));
}

class Body final : public ExactSolid {
public:
    Body(const TopoDS_Shape& solid, const std::string& name, const std::vector<std::string>& names) : solid_(solid), name_(name) {
        TopExp::MapShapes(solid_, TopAbs_FACE, map_);
        GProp_GProps properties;
        BRepGProp::VolumeProperties(solid_, properties);
        volume_ = std::pow(millimetre, 3) * properties.Mass();
        for (int i = 1; i <= map_.Extent(); ++i) {
            faces_.push_back(describe_face(TopoDS::Face(map_(i))));
            faces_.back().name = names.at(static_cast<std::size_t>(i) - 1);
        }
        name_faces(faces_);
        const double size = std::cbrt(std::max(std::abs(volume_), 1e-30));
        constexpr double share = 0.02;  // more, and small holes would vanish
        coarse_chord_ = share * size;
    }

    ClosedSurface facets(double chord) const override {
        const std::lock_guard lock(busy_);
        const bool coarse = chord >= coarse_chord_;
        if (coarse ? !coarse_.triangles.empty() : made_chord_ == chord) return coarse ? coarse_ : made_;
        try {
            (coarse ? coarse_ : made_) = make(coarse ? coarse_chord_ : chord);
        } catch (const Error& error) {
            throw Error(fmt::format("solid {} of a CAD file cannot be cut{}: {}", in_quotes(name_), coarse ? "" : " this finely", error.what()));
        }
        if (!coarse) made_chord_ = chord;
        return coarse ? coarse_ : made_;
    }
    std::span<const ExactFace> faces() const override { return faces_; }
    double volume() const override { return volume_; }
    const TopoDS_Shape& shape() const { return solid_; }

private:
    /// The facets of all faces, joined where faces meet.
    Facets mesh(double chord) const {
        constexpr double coarsest_turn = 0.35;  // radians from one facet to the next
        BRepTools::Clean(solid_);
        const BRepMesh_IncrementalMesh mesher(solid_, chord / millimetre, false, coarsest_turn, false);
        Welder welder;
        std::vector<std::size_t> first(faces_.size());
        std::vector<Vec3> point;
        // By edge: the nodes along it in each face that it bounds.
        std::map<const void*, std::vector<std::size_t>> along;
        for (std::size_t f = 0; f < faces_.size(); ++f) {
            const TopoDS_Face face = TopoDS::Face(map_(static_cast<int>(f) + 1));
            TopLoc_Location location;
            const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(face, location);
            if (mesh.IsNull()) continue;  // the surface stays open there, which is told below
            first[f] = welder.add(static_cast<std::size_t>(mesh->NbNodes()));
            for (int n = 1; n <= mesh->NbNodes(); ++n) point.push_back(metres(mesh->Node(n).Transformed(location.Transformation())));
            for (TopExp_Explorer edge(face, TopAbs_EDGE); edge.More(); edge.Next()) {
                const TopoDS_Edge& e = TopoDS::Edge(edge.Current());
                const Handle(Poly_PolygonOnTriangulation) line = BRep_Tool::PolygonOnTriangulation(e, mesh, location);
                if (line.IsNull()) continue;
                std::vector<std::size_t> nodes;
                for (int n = 1; n <= line->NbNodes(); ++n) nodes.push_back(first[f] + static_cast<std::size_t>(line->Node(n)) - 1);
                if (BRep_Tool::Degenerated(e)) {
                    for (const std::size_t node : nodes) welder.join(nodes.front(), node);
                    continue;
                }
                std::vector<std::size_t>& known = along[e.TShape().get()];
                if (known.empty()) known = nodes;
                for (std::size_t n = 0; n < std::min(known.size(), nodes.size()); ++n) welder.join(known[n], nodes[n]);
            }
        }
        weld_near(welder, point);
        return collect(welder, point, first);
    }

    /// Corners that edges of different faces have in common.
    void weld_near(Welder& welder, const std::vector<Vec3>& point) const {
        if (point.empty()) return;
        Vec3 low = point[0], high = point[0];
        for (const Vec3& p : point) {
            for (int axis = 0; axis < 3; ++axis) {
                low[axis] = std::min(low[axis], p[axis]);
                high[axis] = std::max(high[axis], p[axis]);
            }
        }
        const double near = std::max(1e-7 * length(high - low), 1e-9);
        NearPoints places(low, near);
        std::vector<std::size_t> node_at;  // by place: the first
        for (std::size_t n = 0; n < point.size(); ++n) {
            if (welder.root(n) != n) continue;
            const std::uint32_t place = places.number_of(point[n]);
            if (place == node_at.size()) {
                node_at.push_back(n);
            } else {
                welder.join(node_at[place], n);
            }
        }
    }

    Facets collect(Welder& welder, const std::vector<Vec3>& point, const std::vector<std::size_t>& first) const {
        Facets out;
        constexpr auto none = static_cast<std::uint32_t>(-1);
        std::vector<std::uint32_t> corner(welder.size(), none);
        const auto corner_of = [&](std::size_t node) {
            const std::size_t root = welder.root(node);
            if (corner[root] == none) {
                corner[root] = static_cast<std::uint32_t>(out.corner.size());
                out.corner.push_back(point[root]);
            }
            return corner[root];
        };
        for (std::size_t f = 0; f < faces_.size(); ++f) {
            const TopoDS_Face face = TopoDS::Face(map_(static_cast<int>(f) + 1));
            TopLoc_Location location;
            const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(face, location);
            if (mesh.IsNull()) continue;
            const bool turned = face.Orientation() == TopAbs_REVERSED;
            const bool bent = faces_[f].kind != FaceKind::plane && mesh->HasUVNodes();
            const BRepAdaptor_Surface surface(face);
            for (int t = 1; t <= mesh->NbTriangles(); ++t) {
                std::array<int, 3> node{};
                mesh->Triangle(t).Get(node[0], node[1], node[2]);
                if (turned) std::swap(node[1], node[2]);
                std::array<std::uint32_t, 3> corners{};
                std::array<Vec3, 3> at{};
                for (std::size_t k = 0; k < 3; ++k) {
                    corners[k] = corner_of(first[f] + static_cast<std::size_t>(node[k]) - 1);
                    at[k] = point[first[f] + static_cast<std::size_t>(node[k]) - 1];
                }
                if (corners[0] == corners[1] || corners[1] == corners[2] || corners[2] == corners[0]) continue;
                out.triangle.push_back(corners);
                out.face.push_back(f);
                out.away.push_back(bent ? distance_to(surface, *mesh, node, at) : 0.0);
            }
        }
        return out;
    }

    /// Mean over a triangle of how far its face lies outside of it: that of a quadric which meets it in the corners, by its values in the middles of the sides.
    static double distance_to(const BRepAdaptor_Surface& surface, const Poly_Triangulation& mesh, const std::array<int, 3>& node,
                              const std::array<Vec3, 3>& at) {
        const Vec3 doubled = cross(at[1] - at[0], at[2] - at[0]);
        const double size = length(doubled);
        if (size == 0.0) return 0.0;
        double sum = 0.0;
        for (std::size_t k = 0; k < 3; ++k) {
            const gp_Pnt2d a = mesh.UVNode(node[k]), b = mesh.UVNode(node[(k + 1) % 3]);
            const Vec3 true_middle = metres(surface.Value(0.5 * (a.X() + b.X()), 0.5 * (a.Y() + b.Y())));
            const Vec3 middle = 0.5 * (at[k] + at[(k + 1) % 3]);
            sum += dot(true_middle - middle, (1.0 / size) * doubled) / 3.0;
        }
        // Where the parameters run together, as at a pole, their middle is none of the side.
        const double side = std::sqrt(size);
        return std::abs(sum) < 0.2 * side ? sum : 0.0;
    }

    /// Closed, or an Error that says where not.
    void require_closed(const Facets& facets) const {
        std::map<std::pair<std::uint32_t, std::uint32_t>, int> sides;
        for (const auto& t : facets.triangle) {
            for (std::size_t k = 0; k < 3; ++k) {
                const std::uint32_t a = t[k], b = t[(k + 1) % 3];
                sides[{std::min(a, b), std::max(a, b)}] += a < b ? 1 : -1;
            }
        }
        std::size_t open = 0;
        double longest = 0.0;
        Vec3 at;
        for (const auto& [side, balance] : sides) {
            if (balance == 0) continue;
            ++open;
            if (const double l = length(facets.corner[side.first] - facets.corner[side.second]); l > longest) {
                longest = l;
                at = 0.5 * (facets.corner[side.first] + facets.corner[side.second]);
            }
        }
        if (open > 0)
            throw Error(fmt::format("its surface stays open along {} edges, as at ({:.4g}, {:.4g}, {:.4g}) mm", open, at.x / millimetre, at.y / millimetre,
                                    at.z / millimetre));
        if (facets.triangle.empty()) throw Error("it has no surface");
    }

    /// Moves the corners of curved faces so that they lie on both sides of their facets and the volume is the exact one. Plane faces stay plane.
    void widen(Facets& facets) const {
        struct Side {
            Vec3 normal{};  // sum over its triangles of area times normal
            double away = 0.0, area = 0.0;
        };
        std::vector<std::map<std::size_t, Side>> sides(facets.corner.size());
        bool any = false;
        for (std::size_t t = 0; t < facets.triangle.size(); ++t) {
            const auto& c = facets.triangle[t];
            const Vec3 n = 0.5 * cross(facets.corner[c[1]] - facets.corner[c[0]], facets.corner[c[2]] - facets.corner[c[0]]);
            const double size = length(n);
            any = any || facets.away[t] != 0.0;
            for (const std::uint32_t corner : c) {
                Side& side = sides[corner][facets.face[t]];
                side.normal = side.normal + n;
                side.away += size * facets.away[t];
                side.area += size;
            }
        }
        if (!any) return;
        std::vector<Vec3> step(facets.corner.size());
        for (std::size_t c = 0; c < sides.size(); ++c) {
            std::vector<Vec3> flat;  // orthonormal directions that the corner may not move along
            for (const auto& [face, side] : sides[c]) {
                if (faces_[face].kind != FaceKind::plane || length(side.normal) == 0.0) continue;
                Vec3 n = normalized(side.normal);
                for (const Vec3& other : flat) n = n - dot(n, other) * other;
                if (flat.size() < 3 && length(n) > 1e-6) flat.push_back(normalized(n));
            }
            constexpr double steady = 1e-3;
            std::array<Vec3, 3> rows{Vec3{steady, 0.0, 0.0}, Vec3{0.0, steady, 0.0}, Vec3{0.0, 0.0, steady}};
            Vec3 right;
            bool moves = false;
            for (const auto& [face, side] : sides[c]) {
                if (faces_[face].kind == FaceKind::plane || side.area == 0.0 || length(side.normal) == 0.0) continue;
                Vec3 n = normalized(side.normal);
                for (const Vec3& other : flat) n = n - dot(n, other) * other;
                constexpr double tangent = 0.3;
                if (length(n) < tangent) continue;
                for (int axis = 0; axis < 3; ++axis) rows[static_cast<std::size_t>(axis)] = rows[static_cast<std::size_t>(axis)] + n[axis] * n;
                right = right + (side.away / side.area) * n;
                moves = true;
            }
            if (moves) step[c] = solve(rows, right);
        }
        scale_to_volume(facets, step);
    }

    /// Goes as far along `step` as the exact volume asks for.
    void scale_to_volume(Facets& facets, const std::vector<Vec3>& step) const {
        const auto moved = [&](double times) {
            ClosedSurface surface;
            surface.triangles = facets.triangle;
            surface.corners = facets.corner;
            for (std::size_t c = 0; c < step.size(); ++c) surface.corners[c] = surface.corners[c] + times * step[c];
            return surface;
        };
        double before = 0.0, at_before = firnfield::volume(moved(before)) - volume_;
        double times = 1.0, at = firnfield::volume(moved(times)) - volume_;
        constexpr double furthest = 3.0;
        for (int i = 0; i < 20 && std::abs(at) > 1e-14 * std::abs(volume_) && at != at_before; ++i) {
            const double next = std::clamp(times - at * (times - before) / (at - at_before), -furthest, furthest);
            before = std::exchange(times, next);
            at_before = std::exchange(at, firnfield::volume(moved(next)) - volume_);
        }
        // Where that would lead far the volume has other reasons to be off.
        if (std::abs(times) >= furthest) times = 1.0;
        facets.corner = moved(times).corners;
    }

    /// Facets that close; finer ones where the kernel loses small wires in those that were asked for. Throws Error.
    Facets closed(double chord) const {
        constexpr int tries = 3;
        constexpr double finer = 0.1;
        for (int n = 1;; ++n, chord *= finer) {
            Facets facets = mesh(chord);
            try {
                require_closed(facets);
                return facets;
            } catch (const Error&) {
                if (n == tries) throw;
            }
        }
    }

    ClosedSurface make(double chord) const {
        Facets facets = closed(chord);
        widen(facets);
        ClosedSurface out;
        out.corners = std::move(facets.corner);
        out.triangles = std::move(facets.triangle);
        for (const ExactFace& face : faces_) {
            const auto number = static_cast<std::uint32_t>(out.faces.size());
            out.faces.push_back({.number = number, .name = face.name, .kind = face.kind, .diameter = face.diameter});
        }
        for (const std::size_t face : facets.face) out.face.push_back(static_cast<std::uint16_t>(face));
        const std::vector<ExactFace> flat = list_faces(out);
        for (std::size_t f = 0; f < faces_.size(); ++f) {
            const double factor = flat[f].area > 0.0 ? faces_[f].area / flat[f].area : 1.0;
            constexpr double rounding = 1e-9;
            if (std::abs(factor - 1.0) >= rounding) out.faces[f].area_factor = factor;
        }
        return out;
    }

    TopoDS_Shape solid_;
    std::string name_;
    TopTools_IndexedMapOfShape map_;
    std::vector<ExactFace> faces_;
    double volume_ = 0.0;        // m³
    double coarse_chord_ = 0.0;  // m
    // The CAD kernel keeps facets in the solid, so only one is made at a time; the coarse and the last ones serve all copies.
    mutable std::mutex busy_;
    mutable ClosedSurface coarse_, made_;
    mutable double made_chord_ = 0.0;
};

}  // namespace

std::vector<TopoDS_Shape> faces_of(const TopoDS_Shape& solid) {
    TopTools_IndexedMapOfShape faces;
    TopExp::MapShapes(solid, TopAbs_FACE, faces);
    std::vector<TopoDS_Shape> out;
    for (int i = 1; i <= faces.Extent(); ++i) out.push_back(faces(i));
    return out;
}

bool share_nothing(const std::vector<std::vector<TopoDS_Shape>>& sets) {
    std::map<const void*, std::size_t> set_of;
    for (std::size_t n = 0; n < sets.size(); ++n) {
        for (const TopoDS_Shape& shape : sets[n]) {
            for (TopExp_Explorer edge(shape, TopAbs_EDGE); edge.More(); edge.Next()) {
                if (set_of.try_emplace(edge.Current().TShape().get(), n).first->second != n) return false;
            }
        }
    }
    return true;
}

std::shared_ptr<const ExactSolid> make_body(const TopoDS_Shape& solid, const std::string& name, const std::vector<std::string>& names) {
    if (names.size() > most_faces) throw Error(fmt::format("it has {} faces, more than {}", names.size(), most_faces));
    return std::make_shared<const Body>(solid, name, names);
}

TopoDS_Shape shape_of(const ExactSolid& solid) {
    const Body* body = dynamic_cast<const Body*>(&solid);
    return body == nullptr ? TopoDS_Shape() : body->shape();
}

void be_quiet() {
    static const bool done = [] {
        Message::DefaultMessenger()->RemovePrinters(STANDARD_TYPE(Message_Printer));
        return true;
    }();
    static_cast<void>(done);
}

}  // namespace firnfield::step
