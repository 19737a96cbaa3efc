// Set operations on closed triangle surfaces, with a ladder of tolerances.

#include "geometry/solids.hpp"

#include <firnfield/error.hpp>

#include "geometry/polygon.hpp"
#include "geometry/triangle_tree.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace firnfield {
namespace {

/// Where a piece of one surface lies with respect to the other solid.
enum class Place : std::uint8_t { outside, inside, on_same, on_opposite };

/// An extent along the axes.
struct Extent {
    Vec3 low{1e300, 1e300, 1e300}, high{-1e300, -1e300, -1e300};

    void take(Vec3 p) {
        for (int axis = 0; axis < 3; ++axis) {
            low[axis] = std::min(low[axis], p[axis]);
            high[axis] = std::max(high[axis], p[axis]);
        }
    }
    [[nodiscard]] bool meets(const Extent& other) const {
        return low.x <= other.high.x && high.x >= other.low.x && low.y <= other.high.y && high.y >= other.low.y && low.z <= other.high.z &&
               high.z >= other.low.z;
    }
    [[nodiscard]] Extent wider(double by) const { return {low - Vec3{by, by, by}, high + Vec3{by, by, by}}; }
};

template <typename Points>
Extent extent_of(const Points& points) {
    Extent extent;
    for (std::size_t i = 0; i < points.size(); ++i) extent.take(points[i]);
    return extent;
}

/// A convex piece of a triangle.
struct Piece {
    Piece(Polygon p, std::uint32_t t, Place at) : polygon(std::move(p)), triangle(t), place(at), extent(extent_of(polygon)) {}

    Polygon polygon;
    std::uint32_t triangle = 0;
    Place place = Place::outside;
    Extent extent;
};

/// A plane with its unit normal.
struct Plane {
    Vec3 normal;
    double offset = 0.0;
    [[nodiscard]] double height(Vec3 p) const { return dot(normal, p) - offset; }
};

Plane plane_of(const Triangle& t) {
    const Vec3 n = normalized(doubled_area(t));
    return {n, dot(n, t[0])};
}

/// Length of what remains of the line polygon ∩ plane after clipping by the triangle's edges.
double crossing_length(const Polygon& polygon, const Plane& plane, const Triangle& t, double tolerance) {
    Polygon ends;
    for (std::size_t i = 0; i < polygon.size(); ++i) {
        const Vec3 a = polygon[i], b = polygon[(i + 1) % polygon.size()];
        const double ha = plane.height(a), hb = plane.height(b);
        if (std::abs(ha) <= tolerance) ends.push_back(a);
        if ((ha < -tolerance && hb > tolerance) || (ha > tolerance && hb < -tolerance)) ends.push_back(edge_point(a, ha, b, hb));
    }
    if (ends.size() < 2) return 0.0;
    Vec3 from = ends[0], to = ends[1];
    for (std::size_t i = 2; i < ends.size(); ++i) {
        if (length(ends[i] - from) > length(to - from)) to = ends[i];
    }
    const double whole = length(to - from);
    double begin = 0.0, end = 1.0;
    for (std::size_t e = 0; e < 3; ++e) {
        const Vec3 edge = t[(e + 1) % 3] - t[e];
        const Vec3 inward = cross(plane.normal, edge);
        const double scale = length(inward);
        const double hf = dot(inward, from - t[e]) / scale, ht = dot(inward, to - t[e]) / scale;
        if (hf < -tolerance && ht < -tolerance) return 0.0;
        if (std::abs(hf) <= tolerance && std::abs(ht) <= tolerance) continue;  // along the edge: which side is noise
        if (hf < 0.0 && ht > 0.0) begin = std::max(begin, hf / (hf - ht));
        if (hf > 0.0 && ht < 0.0) end = std::min(end, hf / (hf - ht));
        if (hf <= 0.0 && ht <= 0.0 && std::max(hf, ht) < -tolerance) return 0.0;
    }
    return (end - begin) * whole;
}

/// Splits the triangles of one surface where they meet another and tells where every piece lies.
class Overlay {
public:
    Overlay(const std::vector<Triangle>& own, const TriangleTree& other, double tolerance) : own_(own), other_(other), tolerance_(tolerance) {
        for (const Triangle& t : other.triangles()) {
            for (const Vec3& p : t) all_.take(p);
        }
    }

    /// Pieces of all triangles, or of those only that come near the other surface when `all` is false.
    std::vector<Piece> run() {
        for (std::uint32_t t = 0; t < own_.size(); ++t) cut(t);
        return std::move(pieces_);
    }
    [[nodiscard]] bool touched() const { return touched_; }

private:
    void cut(std::uint32_t index) {
        const Triangle& t = own_[index];
        if (length(doubled_area(t)) == 0.0) return;
        const Plane own_plane = plane_of(t);
        const Extent around = extent_of(t).wider(tolerance_);
        if (!around.meets(all_)) {
            pieces_.push_back({Polygon{t[0], t[1], t[2]}, index, Place::outside});
            return;
        }
        std::vector<std::uint32_t> near;
        other_.for_each_near(around.low, around.high, [&](std::uint32_t b) { near.push_back(b); });
        std::sort(near.begin(), near.end());
        cut_piece({Polygon{t[0], t[1], t[2]}, index, Place::outside}, t, own_plane, near, 0);
    }

    /// A large triangle that much of the other surface comes near, such as a plate with hundreds of holes, is halved first: else every piece
    /// would have to be held against every triangle.
    void cut_piece(Piece whole, const Triangle& t, const Plane& own_plane, const std::vector<std::uint32_t>& near, int depth) {
        constexpr std::size_t many = 200;
        constexpr int deepest = 24;
        if (near.size() > many && depth < deepest) {
            const Vec3 size = whole.extent.high - whole.extent.low;
            const int axis = size.x >= size.y && size.x >= size.z ? 0 : size.y >= size.z ? 1 : 2;
            const double middle = 0.5 * (whole.extent.low[axis] + whole.extent.high[axis]);
            Polygon below, above;
            split(
                whole.polygon, [&](Vec3 p) { return p[axis] - middle; }, tolerance_, below, above);
            if (!below.empty() && !above.empty()) {
                for (Polygon* half : {&below, &above}) {
                    Piece piece(std::move(*half), whole.triangle, Place::outside);
                    const Extent around = piece.extent.wider(tolerance_);
                    std::vector<std::uint32_t> nearer;
                    for (const std::uint32_t b : near) {
                        if (extent_of(other_.triangles()[b]).meets(around)) nearer.push_back(b);
                    }
                    cut_piece(std::move(piece), t, own_plane, nearer, depth + 1);
                }
                return;
            }
        }
        std::vector<Piece> work{std::move(whole)};
        std::vector<Piece> marked;
        for (const std::uint32_t b : near) {
            const Triangle& other = other_.triangles()[b];
            if (length(doubled_area(other)) == 0.0) continue;
            const Plane plane = plane_of(other);
            const double side = dot(plane.normal, own_plane.normal);
            const bool parallel = std::abs(side) > 0.5 && std::all_of(t.begin(), t.end(), [&](Vec3 p) { return std::abs(plane.height(p)) <= tolerance_; });
            if (parallel) {
                take_coplanar(other, plane, side > 0.0 ? Place::on_same : Place::on_opposite, work, marked);
            } else {
                take_crossing(other, plane, work);
            }
        }
        for (Piece& piece : work) {
            const Vec3 middle = centroid(piece.polygon, area_vector(piece.polygon));
            piece.place = other_.inside(middle) ? Place::inside : Place::outside;
            if (piece.place == Place::inside) touched_ = true;
            pieces_.push_back(std::move(piece));
        }
        touched_ = touched_ || !marked.empty();
        std::move(marked.begin(), marked.end(), std::back_inserter(pieces_));
    }

    /// What of the pieces lies on the coplanar triangle leaves the work list.
    void take_coplanar(const Triangle& other, const Plane& plane, Place place, std::vector<Piece>& work, std::vector<Piece>& marked) {
        const Extent near = extent_of(other).wider(tolerance_);
        const std::size_t count = work.size();
        bool used_up = false;
        for (std::size_t i = 0; i < count; ++i) {
            if (!work[i].extent.meets(near)) continue;
            Polygon inside = work[i].polygon;
            std::vector<Polygon> outside;
            for (std::size_t e = 0; e < 3 && !inside.empty(); ++e) {
                const Vec3 inward = normalized(cross(plane.normal, other[(e + 1) % 3] - other[e]));
                Polygon below, above;
                const auto height = [&](Vec3 p) { return dot(inward, p - other[e]); };
                split(inside, height, tolerance_, below, above);
                if (!below.empty()) outside.push_back(std::move(below));
                inside = std::move(above);
            }
            if (inside.empty()) continue;
            const std::uint32_t triangle = work[i].triangle;
            marked.push_back({std::move(inside), triangle, place});
            work[i].polygon.clear();
            used_up = true;
            for (Polygon& p : outside) work.push_back({std::move(p), triangle, Place::outside});
        }
        if (used_up) std::erase_if(work, [](const Piece& piece) { return piece.polygon.empty(); });
    }

    void take_crossing(const Triangle& other, const Plane& plane, std::vector<Piece>& work) {
        const Extent near = extent_of(other).wider(tolerance_);
        const std::size_t count = work.size();
        for (std::size_t i = 0; i < count; ++i) {
            if (!work[i].extent.meets(near)) continue;
            if (crossing_length(work[i].polygon, plane, other, tolerance_) <= tolerance_) continue;
            Polygon below, above;
            split(
                work[i].polygon, [&](Vec3 p) { return plane.height(p); }, tolerance_, below, above);
            if (below.empty() || above.empty()) continue;
            const std::uint32_t triangle = work[i].triangle;
            work[i] = Piece(std::move(below), triangle, Place::outside);
            work.push_back({std::move(above), triangle, Place::outside});
        }
    }

    const std::vector<Triangle>& own_;
    const TriangleTree& other_;
    double tolerance_;
    Extent all_;  // of the other solid
    std::vector<Piece> pieces_;
    bool touched_ = false;
};

/// Its place in a list, at the end where it is new. Of too many faces those that differ by where they come from alone become one.
std::uint16_t number_of(const SurfaceFace& face, std::vector<SurfaceFace>& faces) {
    auto found = std::find(faces.begin(), faces.end(), face);
    if (found == faces.end() && faces.size() >= most_faces) {
        const auto alike = [&](const SurfaceFace& f) { return f.name == face.name && f.kind == face.kind && f.area_factor == face.area_factor; };
        found = std::find_if(faces.begin(), faces.end(), alike);
        if (found == faces.end()) throw Error(fmt::format("a part has more than {} faces", most_faces));
    }
    if (found == faces.end()) found = faces.insert(found, face);
    return static_cast<std::uint16_t>(found - faces.begin());
}

/// The face as the wall of what it was cut out of.
SurfaceFace seen_from_outside(SurfaceFace face, const std::string& name) {
    if (!name.empty()) face.name = name;
    if (face.kind == FaceKind::cylinder) {
        face.kind = FaceKind::bore;
    } else if (face.kind == FaceKind::bore) {
        face.kind = FaceKind::cylinder;
    }
    return face;
}

/// Collects pieces as triangles.
class Soup {
public:
    explicit Soup(const ClosedSurface& like) { out_.faces = like.faces; }

    std::uint16_t face(const SurfaceFace& face) { return number_of(face, out_.faces); }

    void add(const Polygon& polygon, std::uint16_t face, bool reversed) {
        std::vector<std::uint32_t> corner;
        for (const Vec3& p : polygon) {
            out_.corners.push_back(p);
            corner.push_back(static_cast<std::uint32_t>(out_.corners.size() - 1));
        }
        if (reversed) std::reverse(corner.begin(), corner.end());
        for (std::size_t i = 1; i + 1 < corner.size(); ++i) {
            out_.triangles.push_back({corner[0], corner[i], corner[i + 1]});
            out_.face.push_back(face);
        }
    }

    [[nodiscard]] ClosedSurface take() { return std::move(out_); }

private:
    ClosedSurface out_;
};

/// Of faces of another solid: where they went, so that each is looked for once.
class Entered {
public:
    explicit Entered(std::size_t count) : number_(count, none) {}
    template <typename Make>
    std::uint16_t of(std::uint16_t face, Soup& soup, const Make& make) {
        if (number_[face] == none) number_[face] = soup.face(make());
        return static_cast<std::uint16_t>(number_[face]);
    }

private:
    static constexpr std::uint32_t none = 0xFFFFFFFFU;
    std::vector<std::uint32_t> number_;
};

bool apart(const Box& a, const Box& b, double tolerance) {
    for (int axis = 0; axis < 3; ++axis) {
        if (a.lower()[axis] > b.upper()[axis] + tolerance || b.lower()[axis] > a.upper()[axis] + tolerance) return true;
    }
    return false;
}

double extent(const Box& box) { return std::max({box.size.x, box.size.y, box.size.z}); }

/// Does `operate(tolerance)` for growing tolerances until its result is closed; returns the best.
template <typename Operate>
SolidResult with_tolerance(double size, const Operate& operate) {
    SolidResult best;
    best.defect = 2.0;
    for (const double relative : {1e-9, 1e-7, 1e-6, 1e-5, 1e-4, 1e-3}) {
        SolidResult result = operate(relative * size);
        if (result.surface.triangles.empty()) return result;
        result.defect = closure_defect(result.surface);
        if (result.defect < best.defect) best = std::move(result);
        if (best.defect <= 10.0 * relative) break;
    }
    return best;
}

double polygon_area(const Polygon& polygon) { return length(area_vector(polygon)); }

}  // namespace

std::vector<ClosedSurface> together_where_apart(const std::vector<ClosedSurface>& solids) {
    struct Group {
        ClosedSurface surface;
        std::vector<Extent> members;
    };
    std::vector<Group> groups;
    for (const ClosedSurface& solid : solids) {
        const Extent own = extent_of(solid.corners);
        const Extent around = own.wider(1e-6 * length(own.high - own.low));
        auto group = std::find_if(groups.begin(), groups.end(), [&](const Group& g) {
            return std::none_of(g.members.begin(), g.members.end(), [&](const Extent& e) { return e.meets(around); });
        });
        if (group == groups.end()) group = groups.insert(groups.end(), Group{});
        group->members.push_back(own);
        ClosedSurface& all = group->surface;
        std::vector<std::uint16_t> face;
        for (const SurfaceFace& f : solid.faces) face.push_back(number_of(f, all.faces));
        const auto first = static_cast<std::uint32_t>(all.corners.size());
        all.corners.insert(all.corners.end(), solid.corners.begin(), solid.corners.end());
        for (const auto& t : solid.triangles) all.triangles.push_back({first + t[0], first + t[1], first + t[2]});
        for (const std::uint16_t f : solid.face) all.face.push_back(face[f]);
    }
    std::vector<ClosedSurface> out;
    for (Group& group : groups) out.push_back(std::move(group.surface));
    return out;
}

double closure_defect(const ClosedSurface& surface) {
    Vec3 sum;
    double all = 0.0;
    std::array<double, 3> by_axis{};
    const Box box = bounds(surface);
    const Vec3 origin = box.at + 0.5 * box.size;
    for (const auto& t : surface.triangles) {
        const Vec3 a = surface.corners[t[0]], b = surface.corners[t[1]], c = surface.corners[t[2]];
        const Vec3 normal = 0.5 * cross(b - a, c - a);
        sum = sum + normal;
        all += length(normal);
        const Vec3 middle = (1.0 / 3.0) * (a + b + c) - origin;
        for (int axis = 0; axis < 3; ++axis) by_axis[static_cast<std::size_t>(axis)] += middle[axis] * normal[axis];
    }
    if (all == 0.0) return 0.0;
    const auto [low, high] = std::minmax_element(by_axis.begin(), by_axis.end());
    return length(sum) / all + (*high - *low) / (all * std::max(extent(box), 1e-300));
}

SolidResult subtract(const ClosedSurface& first, const ClosedSurface& second, const std::string& one_name) {
    const Box a = bounds(first), b = bounds(second);
    const double size = std::max(extent(a), extent(b));
    SolidResult untouched;
    untouched.surface = first;
    if (apart(a, b, 1e-9 * size)) return untouched;
    const std::vector<Triangle> first_triangles = triangles_of(first), second_triangles = triangles_of(second);
    const TriangleTree first_tree(first_triangles), second_tree(second_triangles);
    const double before = volume(first);
    SolidResult result = with_tolerance(std::min(extent(a), size), [&](double tolerance) {
        SolidResult out;
        Overlay of_first(first_triangles, second_tree, tolerance), of_second(second_triangles, first_tree, tolerance);
        Soup soup(first);
        Entered entered(second.faces.size());
        double inside_area = 0.0;
        for (const Piece& piece : of_first.run()) {
            if (piece.place == Place::outside || piece.place == Place::on_opposite) {
                soup.add(piece.polygon, first.face[piece.triangle], false);
            } else {
                inside_area += polygon_area(piece.polygon);
            }
        }
        for (const Piece& piece : of_second.run()) {
            if (piece.place != Place::inside) continue;
            const std::uint16_t from = second.face[piece.triangle];
            soup.add(piece.polygon, entered.of(from, soup, [&] { return seen_from_outside(second.faces[from], one_name); }), true);
            inside_area += polygon_area(piece.polygon);
        }
        out.changed = inside_area > 0.0;
        out.surface = soup.take();
        out.common_volume = before - volume(out.surface);
        out.common_depth = inside_area > 0.0 ? 2.0 * out.common_volume / inside_area : 0.0;
        return out;
    });
    if (!result.changed) return untouched;
    return result;
}

SolidResult unite(const ClosedSurface& first, const ClosedSurface& second) {
    const Box a = bounds(first), b = bounds(second);
    const double size = std::max(extent(a), extent(b));
    const std::vector<Triangle> first_triangles = triangles_of(first), second_triangles = triangles_of(second);
    const TriangleTree first_tree(first_triangles), second_tree(second_triangles);
    return with_tolerance(size, [&](double tolerance) {
        SolidResult out;
        Overlay of_first(first_triangles, second_tree, tolerance), of_second(second_triangles, first_tree, tolerance);
        Soup soup(first);
        Entered entered(second.faces.size());
        for (const Piece& piece : of_first.run()) {
            if (piece.place == Place::outside || piece.place == Place::on_same) soup.add(piece.polygon, first.face[piece.triangle], false);
        }
        for (const Piece& piece : of_second.run()) {
            if (piece.place != Place::outside) continue;
            const std::uint16_t from = second.face[piece.triangle];
            soup.add(piece.polygon, entered.of(from, soup, [&] { return second.faces[from]; }), false);
        }
        out.changed = true;
        out.surface = soup.take();
        out.common_volume = volume(first) + volume(second) - volume(out.surface);
        return out;
    });
}

ClosedSurface imprint(const ClosedSurface& surface, const ClosedSurface& region, std::vector<bool>& inside, std::vector<std::uint32_t>& origin) {
    const std::vector<Triangle> triangles = triangles_of(surface);
    const TriangleTree tree(triangles_of(region));
    Soup soup(surface);
    inside.clear();
    origin.clear();
    for (const Piece& piece : Overlay(triangles, tree, 1e-9 * extent(bounds(surface))).run()) {
        soup.add(piece.polygon, surface.face[piece.triangle], false);
        // A face that lies on the region's surface counts as inside.
        inside.insert(inside.end(), piece.polygon.size() - 2, piece.place != Place::outside);
        origin.insert(origin.end(), piece.polygon.size() - 2, piece.triangle);
    }
    return soup.take();
}

}  // namespace firnfield
