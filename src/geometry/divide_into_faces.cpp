// Faces of a surface of which only the triangles are known: flat pieces first, then what curves smoothly from one to the next is taken as a cylinder,
// cone or sphere where such a surface goes through its corners.

#include <firnfield/geometry.hpp>

#include "geometry/name_faces.hpp"
#include "geometry/triangle_tree.hpp"

#include <Eigen/Dense>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <set>

namespace firnfield {
namespace {

constexpr std::uint32_t none = 0xFFFFFFFFU;
constexpr double flat_turn = 0.3;     // degrees between triangles of one plane
constexpr double smooth_turn = 35.0;  // degrees between facets of one curved face: cylinders are drawn with twelve sides and more
constexpr double fit = 0.02;          // of the radius, by which corners may miss a curved face

double cosine(double degrees) { return std::cos(degrees * std::acos(-1.0) / 180.0); }
double sine(double degrees) { return std::sin(degrees * std::acos(-1.0) / 180.0); }

Eigen::Vector3d eigen(Vec3 v) { return {v.x, v.y, v.z}; }

/// Triangles in one plane that hang together.
struct FlatPiece {
    std::vector<std::uint32_t> triangles{};
    Vec3 normal{};
    double area = 0.0, width = 0.0;       // m², m: area over the longest extent
    bool sliver = false;                  // too thin to say where it looks
    std::vector<std::uint32_t> smooth{};  // neighbours to which the surface bends by little, ascending
};

/// A curved face that was recognised.
struct Form {
    FaceKind kind = FaceKind::curved;
    std::optional<double> diameter{};
};

class Divider {
public:
    explicit Divider(ClosedSurface surface) : surface_(std::move(surface)) {}

    ClosedSurface run() {
        measure();
        find_flat_pieces();
        find_smooth_neighbours();
        face_of_.assign(pieces_.size(), none);
        for (std::uint32_t p = 0; p < pieces_.size(); ++p) {
            if (!pieces_[p].sliver && stands_out(p)) enter({p}, {.kind = FaceKind::plane});
        }
        for (const auto& curved : connected(all_left())) divide(curved);
        place_slivers();
        return finish();
    }

private:
    using Pieces = std::vector<std::uint32_t>;

    void measure() {
        const std::size_t count = surface_.triangles.size();
        size_ = length(bounds(surface_).size);
        for (const auto& t : surface_.triangles) {
            const Vec3 doubled = cross(surface_.corners[t[1]] - surface_.corners[t[0]], surface_.corners[t[2]] - surface_.corners[t[0]]);
            const double size = length(doubled);
            area_.push_back(0.5 * size);
            constexpr double thin = 1e-5;
            sliver_.push_back(height_of({surface_.corners[t[0]], surface_.corners[t[1]], surface_.corners[t[2]]}) < thin * size_);
            normal_.push_back(size > 0.0 ? (1.0 / size) * doubled : Vec3{});
        }
        // Triangles on both sides of each edge; more than two leave it an edge between faces.
        struct Side {
            std::uint32_t low, high, triangle;
        };
        std::vector<Side> sides;
        for (std::uint32_t t = 0; t < count; ++t) {
            const auto& c = surface_.triangles[t];
            for (std::size_t k = 0; k < 3; ++k) sides.push_back({std::min(c[k], c[(k + 1) % 3]), std::max(c[k], c[(k + 1) % 3]), t});
        }
        std::sort(sides.begin(), sides.end(),
                  [](const Side& a, const Side& b) { return std::tie(a.low, a.high, a.triangle) < std::tie(b.low, b.high, b.triangle); });
        next_.resize(count);
        for (std::size_t s = 0; s < sides.size();) {
            std::size_t end = s + 1;
            while (end < sides.size() && sides[end].low == sides[s].low && sides[end].high == sides[s].high) ++end;
            if (end - s == 2) {
                next_[sides[s].triangle].push_back(sides[s + 1].triangle);
                next_[sides[s + 1].triangle].push_back(sides[s].triangle);
            }
            if (end - s == 1) join_along(sides[s].low, sides[s].high, sides[s].triangle);
            s = end;
        }
    }

    /// An edge with one triangle: the corner of another one may lie on it, as where solids were cut.
    void join_along(std::uint32_t a, std::uint32_t b, std::uint32_t triangle) {
        if (tree_.triangles().empty()) tree_ = TriangleTree(triangles_of(surface_));
        const Vec3 middle = 0.5 * (surface_.corners[a] + surface_.corners[b]);
        const double near = 1e-5 * size_;
        const Vec3 wide{near, near, near};
        tree_.for_each_near(middle - wide, middle + wide, [&](std::uint32_t other) {
            if (other == triangle || length(nearest_point(tree_.triangles()[other], middle) - middle) > near) return;
            next_[triangle].push_back(other);
            next_[other].push_back(triangle);
        });
    }

    void find_flat_pieces() {
        piece_of_.assign(area_.size(), none);
        std::vector<std::uint32_t> order(area_.size());
        std::iota(order.begin(), order.end(), 0U);
        std::stable_sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) { return area_[a] > area_[b]; });
        const double alike = cosine(flat_turn), near = 1e-4 * size_;
        for (const std::uint32_t seed : order) {
            if (piece_of_[seed] != none) continue;
            const auto number = static_cast<std::uint32_t>(pieces_.size());
            FlatPiece piece{.triangles = {seed}};
            piece_of_[seed] = number;
            const Vec3 n = normal_[seed], at = surface_.corners[surface_.triangles[seed][0]];
            for (std::size_t i = 0; i < piece.triangles.size(); ++i) {
                for (const std::uint32_t t : next_[piece.triangles[i]]) {
                    if (piece_of_[t] != none) continue;
                    const auto& c = surface_.triangles[t];
                    const bool in_plane = std::all_of(c.begin(), c.end(), [&](std::uint32_t k) { return std::abs(dot(n, surface_.corners[k] - at)) <= near; });
                    if (!in_plane || (!sliver_[t] && dot(n, normal_[t]) < alike)) continue;
                    piece_of_[t] = number;
                    piece.triangles.push_back(t);
                }
            }
            describe(piece);
            pieces_.push_back(std::move(piece));
        }
    }

    void describe(FlatPiece& piece) const {
        Vec3 low = surface_.corners[surface_.triangles[piece.triangles[0]][0]], high = low, sum;
        for (const std::uint32_t t : piece.triangles) {
            piece.area += area_[t];
            sum = sum + area_[t] * normal_[t];
            for (const std::uint32_t c : surface_.triangles[t]) {
                for (int axis = 0; axis < 3; ++axis) {
                    low[axis] = std::min(low[axis], surface_.corners[c][axis]);
                    high[axis] = std::max(high[axis], surface_.corners[c][axis]);
                }
            }
        }
        if (length(sum) > 0.0) piece.normal = normalized(sum);
        piece.sliver = std::all_of(piece.triangles.begin(), piece.triangles.end(), [&](std::uint32_t t) { return sliver_[t]; });
        const double longest = length(high - low);
        piece.width = longest > 0.0 ? piece.area / longest : 0.0;
    }

    void find_smooth_neighbours() {
        const double smooth = cosine(smooth_turn);
        for (std::uint32_t t = 0; t < next_.size(); ++t) {
            for (const std::uint32_t other : next_[t]) {
                const FlatPiece &own = pieces_[piece_of_[t]], &beside = pieces_[piece_of_[other]];
                if (&own == &beside || own.sliver || beside.sliver) continue;
                if (dot(own.normal, beside.normal) >= smooth) pieces_[piece_of_[t]].smooth.push_back(piece_of_[other]);
            }
        }
        for (FlatPiece& piece : pieces_) {
            std::sort(piece.smooth.begin(), piece.smooth.end());
            piece.smooth.erase(std::unique(piece.smooth.begin(), piece.smooth.end()), piece.smooth.end());
        }
    }

    /// A plane is what bends into nothing, or is much wider than the facets that it bends into.
    [[nodiscard]] bool stands_out(std::uint32_t p) const {
        constexpr double much = 3.0;
        const std::vector<std::uint32_t>& near = pieces_[p].smooth;
        return std::all_of(near.begin(), near.end(), [&](std::uint32_t n) { return pieces_[p].width >= much * pieces_[n].width; });
    }

    [[nodiscard]] Pieces all_left() const {
        Pieces left;
        for (std::uint32_t p = 0; p < pieces_.size(); ++p) {
            if (face_of_[p] == none && !pieces_[p].sliver) left.push_back(p);
        }
        return left;
    }

    /// What of these pieces hangs together smoothly.
    [[nodiscard]] std::vector<Pieces> connected(const Pieces& pieces) const {
        std::set<std::uint32_t> left(pieces.begin(), pieces.end());
        std::vector<Pieces> out;
        for (const std::uint32_t first : pieces) {
            if (left.erase(first) == 0) continue;
            Pieces together{first};
            for (std::size_t i = 0; i < together.size(); ++i) {
                for (const std::uint32_t n : pieces_[together[i]].smooth) {
                    if (left.erase(n) > 0) together.push_back(n);
                }
            }
            std::sort(together.begin(), together.end());
            out.push_back(std::move(together));
        }
        return out;
    }

    void enter(const Pieces& pieces, const Form& form) {
        for (const std::uint32_t p : pieces) face_of_[p] = static_cast<std::uint32_t>(forms_.size());
        forms_.push_back(form);
    }

    /// Slivers go with what lies beside them.
    void place_slivers() {
        for (bool again = true; again;) {
            again = false;
            for (std::uint32_t p = 0; p < pieces_.size(); ++p) {
                if (face_of_[p] != none) continue;
                for (const std::uint32_t t : pieces_[p].triangles) {
                    for (const std::uint32_t other : next_[t]) {
                        if (face_of_[p] == none && face_of_[piece_of_[other]] != none) face_of_[p] = face_of_[piece_of_[other]];
                    }
                }
                again = again || face_of_[p] != none;
            }
        }
        for (std::uint32_t p = 0; p < pieces_.size(); ++p) {
            if (face_of_[p] == none) enter({p}, {.kind = FaceKind::plane});
        }
    }

    /// Too few facets to say that they are a curved face.
    static bool too_few(const Pieces& pieces) { return pieces.size() < 3; }

    void divide(const Pieces& pieces) {
        if (take_whole(pieces)) return;
        take_cylinders(pieces);
        Pieces left;
        std::copy_if(pieces.begin(), pieces.end(), std::back_inserter(left), [&](std::uint32_t p) { return face_of_[p] == none; });
        for (const Pieces& part : connected(left)) {
            if (!take_whole(part)) enter(part, {.kind = FaceKind::curved});
        }
    }

    bool take_whole(const Pieces& pieces) {
        if (too_few(pieces)) {
            for (const std::uint32_t p : pieces) enter({p}, {.kind = FaceKind::plane});
            return true;
        }
        // A ring of a cone goes through a sphere, too.
        std::optional<Form> form = as_cylinder(pieces);
        if (!form) form = as_cone(pieces);
        if (!form) form = as_sphere(pieces);
        if (form) enter(pieces, *form);
        return form.has_value();
    }

    [[nodiscard]] std::vector<Vec3> corners_of(const Pieces& pieces) const {
        std::set<std::uint32_t> used;
        for (const std::uint32_t p : pieces) {
            for (const std::uint32_t t : pieces_[p].triangles) used.insert(surface_.triangles[t].begin(), surface_.triangles[t].end());
        }
        std::vector<Vec3> out;
        for (const std::uint32_t c : used) out.push_back(surface_.corners[c]);
        return out;
    }

    /// Directions of the normals, about `middle`: the axes of their scatter, the one with the least first.
    [[nodiscard]] Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> scatter(const Pieces& pieces, Vec3 middle) const {
        Eigen::Matrix3d sum = Eigen::Matrix3d::Zero();
        for (const std::uint32_t p : pieces) {
            const Eigen::Vector3d n = eigen(pieces_[p].normal - middle);
            sum += pieces_[p].area * n * n.transpose();
        }
        return Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d>(sum);
    }

    struct Circle {
        Vec3 centre{};  // on the axis
        double radius = 0.0;
    };

    /// The circle through points seen along an axis, by least squares (Kåsa, "A circle fitting procedure and its error analysis", 1976).
    static std::optional<Circle> circle_through(const std::vector<Vec3>& points, Vec3 axis) {
        const Vec3 u = perpendicular(axis), v = cross(axis, u);
        Vec3 middle;
        for (const Vec3& p : points) middle = middle + (1.0 / static_cast<double>(points.size())) * p;
        Eigen::Matrix3d left = Eigen::Matrix3d::Zero();
        Eigen::Vector3d right = Eigen::Vector3d::Zero();
        double scale = 0.0;
        for (const Vec3& p : points) scale = std::max(scale, length(p - middle));
        if (!(scale > 0.0)) return std::nullopt;
        for (const Vec3& p : points) {
            const double x = dot(p - middle, u) / scale, y = dot(p - middle, v) / scale;
            const Eigen::Vector3d row(x, y, 1.0);
            left += row * row.transpose();
            right += (x * x + y * y) * row;
        }
        const Eigen::Vector3d a = left.colPivHouseholderQr().solve(right);
        const double square = a[2] + 0.25 * (a[0] * a[0] + a[1] * a[1]);
        if (!std::isfinite(square) || square <= 0.0) return std::nullopt;
        return Circle{middle + (0.5 * scale * a[0]) * u + (0.5 * scale * a[1]) * v, scale * std::sqrt(square)};
    }

    static double from_axis(Vec3 p, const Circle& circle, Vec3 axis) {
        const Vec3 r = p - circle.centre;
        return length(r - dot(r, axis) * axis);
    }

    /// Whether the solid lies around what curves about this axis or point.
    template <typename Radial>
    [[nodiscard]] bool around(const Pieces& pieces, const Radial& radial) const {
        double sum = 0.0;
        for (const std::uint32_t p : pieces) {
            for (const std::uint32_t t : pieces_[p].triangles) {
                const auto& c = surface_.triangles[t];
                const Vec3 middle = (1.0 / 3.0) * (surface_.corners[c[0]] + surface_.corners[c[1]] + surface_.corners[c[2]]);
                sum += area_[t] * dot(normal_[t], radial(middle));
            }
        }
        return sum < 0.0;
    }

    [[nodiscard]] Form cylinder(const Pieces& pieces, const Circle& circle, Vec3 axis) const {
        const bool bore = around(pieces, [&](Vec3 p) { return (p - circle.centre) - dot(p - circle.centre, axis) * axis; });
        return {.kind = bore ? FaceKind::bore : FaceKind::cylinder, .diameter = 2.0 * circle.radius};
    }

    [[nodiscard]] std::optional<Form> as_cylinder(const Pieces& pieces) const {
        const Eigen::Vector3d least = scatter(pieces, {}).eigenvectors().col(0);
        const Vec3 axis{least[0], least[1], least[2]};
        constexpr double leaning = 2.0;  // degrees
        for (const std::uint32_t p : pieces) {
            if (std::abs(dot(axis, pieces_[p].normal)) > sine(leaning)) return std::nullopt;
        }
        const std::vector<Vec3> corners = corners_of(pieces);
        const std::optional<Circle> circle = circle_through(corners, axis);
        if (!circle) return std::nullopt;
        for (const Vec3& p : corners) {
            if (std::abs(from_axis(p, *circle, axis) - circle->radius) > fit * circle->radius) return std::nullopt;
        }
        return cylinder(pieces, *circle, axis);
    }

    [[nodiscard]] std::optional<Form> as_sphere(const Pieces& pieces) const {
        const std::vector<Vec3> corners = corners_of(pieces);
        const Vec3 middle = corners.front();
        Eigen::Matrix4d left = Eigen::Matrix4d::Zero();
        Eigen::Vector4d right = Eigen::Vector4d::Zero();
        for (const Vec3& p : corners) {
            const Vec3 x = (1.0 / size_) * (p - middle);
            const Eigen::Vector4d row(x.x, x.y, x.z, 1.0);
            left += row * row.transpose();
            right += dot(x, x) * row;
        }
        const Eigen::Vector4d a = left.colPivHouseholderQr().solve(right);
        const double square = a[3] + 0.25 * (a[0] * a[0] + a[1] * a[1] + a[2] * a[2]);
        if (!std::isfinite(square) || square <= 0.0) return std::nullopt;
        const double radius = size_ * std::sqrt(square);
        const Vec3 centre = middle + (0.5 * size_) * Vec3{a[0], a[1], a[2]};
        for (const Vec3& p : corners) {
            if (std::abs(length(p - centre) - radius) > fit * radius) return std::nullopt;
        }
        // What is nearly flat fits a sphere of any size.
        const double spread = scatter(pieces, mean_normal(pieces)).eigenvalues()[1] / area_of(pieces);
        constexpr double little = 1e-3;
        if (spread < little) return std::nullopt;
        return Form{.kind = FaceKind::sphere, .diameter = 2.0 * radius};
    }

    [[nodiscard]] double area_of(const Pieces& pieces) const {
        return std::accumulate(pieces.begin(), pieces.end(), 0.0, [&](double sum, std::uint32_t p) { return sum + pieces_[p].area; });
    }
    [[nodiscard]] Vec3 mean_normal(const Pieces& pieces) const {
        Vec3 sum;
        for (const std::uint32_t p : pieces) sum = sum + pieces_[p].area * pieces_[p].normal;
        return (1.0 / area_of(pieces)) * sum;
    }

    /// All facets lean alike against an axis, and their planes meet in one point.
    [[nodiscard]] std::optional<Form> as_cone(const Pieces& pieces) const {
        const Vec3 mean = mean_normal(pieces);
        const Eigen::Vector3d least = scatter(pieces, mean).eigenvectors().col(0);
        const Vec3 axis{least[0], least[1], least[2]};
        constexpr double leaning = 2.0;  // degrees
        Eigen::Matrix3d left = Eigen::Matrix3d::Zero();
        Eigen::Vector3d right = Eigen::Vector3d::Zero();
        for (const std::uint32_t p : pieces) {
            const Vec3 n = pieces_[p].normal;
            if (std::abs(dot(axis, n) - dot(axis, mean)) > sine(leaning)) return std::nullopt;
            left += eigen(n) * eigen(n).transpose();
            right += dot(n, surface_.corners[surface_.triangles[pieces_[p].triangles[0]][0]]) * eigen(n);
        }
        const Eigen::Vector3d apex = left.colPivHouseholderQr().solve(right);
        for (const std::uint32_t p : pieces) {
            const Vec3 away = surface_.corners[surface_.triangles[pieces_[p].triangles[0]][0]] - Vec3{apex[0], apex[1], apex[2]};
            if (!(std::abs(dot(pieces_[p].normal, away)) <= fit * size_)) return std::nullopt;
        }
        return Form{.kind = FaceKind::cone};
    }

    /// Cylinders that bend on into other faces, as into fillets: two facets beside each other say where the axis lies.
    void take_cylinders(const Pieces& pieces) {
        Pieces seeds = pieces;
        std::stable_sort(seeds.begin(), seeds.end(), [&](std::uint32_t a, std::uint32_t b) { return pieces_[a].area > pieces_[b].area; });
        constexpr std::size_t most_tries = 2000;
        std::size_t tries = 0;
        for (const std::uint32_t seed : seeds) {
            for (const std::uint32_t other : pieces_[seed].smooth) {
                if (face_of_[seed] != none) break;
                if (face_of_[other] != none) continue;
                if (++tries > most_tries) return;
                grow_cylinder(seed, other);
            }
        }
    }

    void grow_cylinder(std::uint32_t seed, std::uint32_t other) {
        const Vec3 across = cross(pieces_[seed].normal, pieces_[other].normal);
        if (length(across) < sine(flat_turn)) return;
        const Vec3 axis = normalized(across);
        const std::optional<Circle> circle = circle_through(corners_of({seed, other}), axis);
        if (!circle) return;
        const auto lies_on = [&](std::uint32_t p) {
            constexpr double leaning = 1.0;  // degrees
            if (std::abs(dot(axis, pieces_[p].normal)) > sine(leaning)) return false;
            const std::vector<Vec3> corners = corners_of({p});
            return std::all_of(corners.begin(), corners.end(),
                               [&](Vec3 c) { return std::abs(from_axis(c, *circle, axis) - circle->radius) <= fit * circle->radius; });
        };
        if (!lies_on(seed) || !lies_on(other)) return;
        Pieces grown{seed};
        std::set<std::uint32_t> seen{seed};
        double beside = 0.0;  // m² that the surface bends on into
        for (std::size_t i = 0; i < grown.size(); ++i) {
            for (const std::uint32_t n : pieces_[grown[i]].smooth) {
                if (face_of_[n] != none || !seen.insert(n).second) continue;
                if (lies_on(n)) {
                    grown.push_back(n);
                } else {
                    beside += pieces_[n].area;
                }
            }
        }
        // A band of a torus is a cylinder too, with bands as large on both sides.
        constexpr double little = 0.5;
        if (beside > little * area_of(grown)) return;
        // Facets of a cylinder are strips along it; a ring of a ball has squarer ones.
        double along = 0.0, around_it = 0.0;
        for (const std::uint32_t p : grown) {
            double low = std::numeric_limits<double>::max(), high = -low;
            for (const Vec3& c : corners_of({p})) {
                low = std::min(low, dot(axis, c));
                high = std::max(high, dot(axis, c));
            }
            along += high - low;
            around_it += pieces_[p].area / std::max(high - low, 1e-300);
        }
        constexpr double strip = 1.5;
        if (too_few(grown) || along < strip * around_it) return;
        std::sort(grown.begin(), grown.end());
        enter(grown, as_cylinder(grown).value_or(cylinder(grown, *circle, axis)));
    }

    /// Names the faces and marks the triangles. Of very many the smallest are one.
    ClosedSurface finish() {
        surface_.face.assign(surface_.triangles.size(), 0);
        surface_.faces.clear();
        std::vector<double> size(forms_.size(), 0.0);
        for (std::uint32_t p = 0; p < pieces_.size(); ++p) size[face_of_[p]] += pieces_[p].area;
        std::vector<std::uint32_t> order(forms_.size());
        std::iota(order.begin(), order.end(), 0U);
        std::stable_sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) { return size[a] > size[b]; });
        constexpr std::size_t most = 2000;
        std::vector<std::uint16_t> number(forms_.size());
        for (std::size_t i = 0; i < order.size(); ++i) {
            number[order[i]] = static_cast<std::uint16_t>(std::min(i, most));
            if (i > most) continue;
            const Form& form = forms_[order[i]];
            const bool rest = i == most && order.size() > most + 1;
            surface_.faces.push_back(
                {.number = static_cast<std::uint32_t>(i), .kind = rest ? FaceKind::curved : form.kind, .diameter = rest ? std::nullopt : form.diameter});
            if (rest) surface_.faces.back().name = "small faces";
        }
        for (std::size_t t = 0; t < surface_.face.size(); ++t) surface_.face[t] = number[face_of_[piece_of_[t]]];
        std::vector<ExactFace> listed = list_faces(surface_);
        name_faces(listed);
        for (std::size_t f = 0; f < listed.size(); ++f) surface_.faces[f].name = listed[f].name;
        return std::move(surface_);
    }

    ClosedSurface surface_;
    double size_ = 0.0;  // m
    std::vector<double> area_;
    std::vector<Vec3> normal_;
    std::vector<bool> sliver_;
    TriangleTree tree_;
    std::vector<std::vector<std::uint32_t>> next_;
    std::vector<std::uint32_t> piece_of_;  // per triangle
    std::vector<FlatPiece> pieces_;
    std::vector<std::uint32_t> face_of_;  // per piece
    std::vector<Form> forms_;             // per face
};

}  // namespace

ClosedSurface divide_into_faces(ClosedSurface surface) {
    if (surface.triangles.empty()) return surface;
    return Divider(std::move(surface)).run();
}

}  // namespace firnfield
