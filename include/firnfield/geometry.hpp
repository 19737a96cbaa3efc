/// Points, the six directions of the axes, solids and their surfaces.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <variant>
#include <vector>

namespace firnfield {

/// A point or a direction, in metres where it is a length.
struct Vec3 {
    double x = 0.0, y = 0.0, z = 0.0;

    [[nodiscard]] constexpr double operator[](int axis) const { return axis == 0 ? x : axis == 1 ? y : z; }
    [[nodiscard]] constexpr double& operator[](int axis) { return axis == 0 ? x : axis == 1 ? y : z; }
    bool operator==(const Vec3&) const = default;

    friend constexpr Vec3 operator+(Vec3 a, Vec3 b) { return {a.x + b.x, a.y + b.y, a.z + b.z}; }
    friend constexpr Vec3 operator-(Vec3 a, Vec3 b) { return {a.x - b.x, a.y - b.y, a.z - b.z}; }
    friend constexpr Vec3 operator*(double s, Vec3 a) { return {s * a.x, s * a.y, s * a.z}; }
};

[[nodiscard]] constexpr double dot(Vec3 a, Vec3 b) { return a.x * b.x + a.y * b.y + a.z * b.z; }
[[nodiscard]] constexpr Vec3 cross(Vec3 a, Vec3 b) { return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x}; }
[[nodiscard]] double length(Vec3 a);
[[nodiscard]] Vec3 normalized(Vec3 a);
/// A unit vector across `n`, which is one itself.
[[nodiscard]] Vec3 perpendicular(Vec3 n);

/// One of the six directions along an axis; also names the side of a box that faces that way.
enum class Side : std::uint8_t { minus_x, plus_x, minus_y, plus_y, minus_z, plus_z };

inline constexpr std::array all_sides{Side::minus_x, Side::plus_x, Side::minus_y, Side::plus_y, Side::minus_z, Side::plus_z};

[[nodiscard]] constexpr int axis_of(Side side) { return static_cast<int>(side) / 2; }
[[nodiscard]] constexpr bool is_plus(Side side) { return static_cast<int>(side) % 2 == 1; }
[[nodiscard]] constexpr Side make_side(int axis, bool plus) { return static_cast<Side>(2 * axis + (plus ? 1 : 0)); }
[[nodiscard]] constexpr Side opposite(Side side) { return static_cast<Side>(static_cast<int>(side) ^ 1); }
/// "-x", "+x", … "+z".
[[nodiscard]] std::string_view name_of(Side side);
/// The unit vector of a direction.
[[nodiscard]] constexpr Vec3 outward(Side side) {
    Vec3 n;
    n[axis_of(side)] = is_plus(side) ? 1.0 : -1.0;
    return n;
}
/// The direction of the axes that comes nearest; of equal ones the first.
[[nodiscard]] constexpr Side nearest_side(Vec3 n) {
    const auto size = [](double x) { return x < 0.0 ? -x : x; };
    int axis = 0;
    for (int a = 1; a < 3; ++a) {
        if (size(n[a]) > size(n[axis]) * (1.0 + 1e-9)) axis = a;
    }
    return make_side(axis, n[axis] > 0.0);
}

/// An axis-aligned box.
struct Box {
    Vec3 size{};  ///< edge lengths, m, all positive
    Vec3 at{};    ///< lower corner, m

    [[nodiscard]] Vec3 lower() const { return at; }
    [[nodiscard]] Vec3 upper() const { return at + size; }
    [[nodiscard]] double volume() const { return size.x * size.y * size.z; }
    [[nodiscard]] bool contains(Vec3 point, double tolerance = 0.0) const;
    bool operator==(const Box&) const = default;
};

/// Like all solids of revolution and prisms it stands on its `at` along the axis `along` (0, 1, 2 for x, y, z).
struct Cylinder {
    double radius = 0.0, length = 0.0;  ///< m
    Vec3 at{};                          ///< centre of the lower end
    int along = 2;
    bool operator==(const Cylinder&) const = default;
};

/// A hollow cylinder; with `angle` below 360 a wedge-shaped sector of one (inner radius 0: of a full cylinder).
struct Tube {
    double outer_radius = 0.0, inner_radius = 0.0, length = 0.0;  ///< m
    double angle = 360.0;                                         ///< degrees, from the next axis in the order x, y, z, x
    Vec3 at{};                                                    ///< centre of the lower end
    int along = 2;
    bool operator==(const Tube&) const = default;
};

struct Sphere {
    double radius = 0.0;  ///< m
    Vec3 at{};            ///< centre
    bool operator==(const Sphere&) const = default;
};

/// A cone (one radius 0) or frustum.
struct Cone {
    double lower_radius = 0.0, upper_radius = 0.0, length = 0.0;  ///< m
    Vec3 at{};                                                    ///< centre of the lower end
    int along = 2;
    bool operator==(const Cone&) const = default;
};

/// A corner of an outline in its plane, and how it is reached from the corner before.
struct OutlinePoint {
    double x = 0.0, y = 0.0;                         ///< m
    std::optional<std::array<double, 2>> through{};  ///< a point of the circular arc that leads here; unset: straight
    bool operator==(const OutlinePoint&) const = default;
};
/// A corner that a straight line leads to.
[[nodiscard]] inline OutlinePoint line_to(double x, double y) { return {.x = x, .y = y, .through = std::nullopt}; }
/// A corner that a circular arc through another point leads to.
[[nodiscard]] inline OutlinePoint arc_to(double x, double y, double through_x, double through_y) {
    return {.x = x, .y = y, .through = std::array{through_x, through_y}};
}
/// A closed curve; the last corner joins the first.
using Outline = std::vector<OutlinePoint>;

/// An outline extruded along an axis; its x and y are the next two axes in the order x, y, z, x.
struct Prism {
    Outline outline{};
    std::vector<Outline> holes{};
    double length = 0.0;  ///< m
    Vec3 at{};            ///< where the outline's origin lies, at the lower end
    int along = 2;
    bool operator==(const Prism&) const = default;
};

/// An outline of (radius, height) turned about an axis.
struct Revolution {
    Outline outline{};
    double angle = 360.0;  ///< degrees
    Vec3 at{};             ///< where radius and height are 0
    int along = 2;
    bool operator==(const Revolution&) const = default;
};

/// What a face is like. A bore is a cylinder seen from inside, with the solid around it.
enum class FaceKind : std::uint8_t { plane, cylinder, bore, cone, sphere, torus, curved };
/// "plane", "cylinder", …
[[nodiscard]] std::string_view name_of(FaceKind kind);
inline constexpr std::array face_kinds{FaceKind::plane,  FaceKind::cylinder, FaceKind::bore,  FaceKind::cone,
                                       FaceKind::sphere, FaceKind::torus,    FaceKind::curved};

/// A face of a surface in facets.
struct SurfaceFace {
    std::uint32_t number = 0;  ///< tells apart faces of a part that are alike otherwise
    std::string name{};        ///< "top", "side", "bore", "plane 1", …
    FaceKind kind = FaceKind::plane;
    std::optional<double> diameter{};  ///< m, of cylinders, bores and spheres
    double area_factor = 1.0;          ///< true area of a curved face over the area of its facets
    bool operator==(const SurfaceFace&) const = default;
};

/// Triangles that together enclose a solid, each marked with the face it belongs to.
struct ClosedSurface {
    std::vector<Vec3> corners{};                            ///< m
    std::vector<std::array<std::uint32_t, 3>> triangles{};  ///< counter-clockwise seen from outside
    std::vector<std::uint16_t> face{};                      ///< per triangle: index in `faces`
    std::vector<SurfaceFace> faces{};
    bool operator==(const ClosedSurface&) const = default;
};
/// As many faces as a surface can have.
inline constexpr std::size_t most_faces = 60'000;

/// A solid given by its surface, for example from a file.
struct Solid {
    std::shared_ptr<const ClosedSurface> surface{};  ///< lengths in m
    Vec3 at{};                                       ///< where the surface's origin lies
    std::string source{};                            ///< the file, for messages and for writing the model again
    std::string unit{};                              ///< length unit of the file
    std::string body{};                              ///< which of several bodies of the file it is, by number or name; empty: all of them
    /// Where it is several bodies: each of them. The part has a copy for each then, "name body 1", …
    std::vector<std::shared_ptr<const ClosedSurface>> bodies{};
    bool operator==(const Solid& other) const {
        return at == other.at && source == other.source && unit == other.unit && body == other.body &&
               (surface == other.surface || (surface && other.surface && *surface == *other.surface));
    }
};

/// Where a solid goes: x → x·columns[0] + y·columns[1] + z·columns[2] + offset.
struct Placement {
    std::array<Vec3, 3> columns{Vec3{1.0, 0.0, 0.0}, Vec3{0.0, 1.0, 0.0}, Vec3{0.0, 0.0, 1.0}};
    Vec3 offset{};  ///< m

    [[nodiscard]] Vec3 turn(Vec3 v) const { return v.x * columns[0] + v.y * columns[1] + v.z * columns[2]; }
    [[nodiscard]] Vec3 operator()(Vec3 p) const { return turn(p) + offset; }
    bool operator==(const Placement&) const = default;
};

/// A face of a solid as a whole.
struct ExactFace {
    std::string name{};  ///< that of the file, else its kind and its rank by area among those: "plane 1" is the largest plane
    FaceKind kind = FaceKind::plane;
    double area = 0.0;                 ///< m², exact
    std::optional<double> diameter{};  ///< m, of cylinders, bores and spheres
    Vec3 at{};                         ///< m, its centroid
};

/// The faces of a surface with their true areas.
[[nodiscard]] std::vector<ExactFace> list_faces(const ClosedSurface& surface);

/// Places in a list of faces in the order in which they are told: by area, and what is as large as makes no difference by name.
[[nodiscard]] std::vector<std::size_t> in_told_order(std::span<const ExactFace> faces);

/// A solid whose faces are known exactly, as from a CAD file.
class ExactSolid {
public:
    ExactSolid() = default;
    ExactSolid(const ExactSolid&) = delete;
    ExactSolid& operator=(const ExactSolid&) = delete;
    virtual ~ExactSolid() = default;

    /// Its surface, m, in facets that stay within `chord` (m) of the faces and enclose the exact volume.
    [[nodiscard]] virtual ClosedSurface facets(double chord) const = 0;
    [[nodiscard]] virtual std::span<const ExactFace> faces() const = 0;
    [[nodiscard]] virtual double volume() const = 0;  ///< m³
};

/// One of the places where a file has a solid.
struct CadCopy {
    int number = 0;  ///< among all of them in the file, from 1; 0 where there is only one
    Placement place{};
    bool operator==(const CadCopy&) const = default;
};

/// A solid of a CAD file. Where the file has it several times, the part has as many copies: "screw 1", "screw 2", …
struct CadSolid {
    std::shared_ptr<const ExactSolid> geometry{};
    Vec3 at{};               ///< where the file's origin lies
    std::string source{};    ///< the file, for messages and for writing the model again
    std::string checksum{};  ///< of the file
    std::string solid{};     ///< its name in the file
    std::vector<CadCopy> copies{CadCopy{}};
    bool operator==(const CadSolid& other) const {
        return at == other.at && source == other.source && checksum == other.checksum && solid == other.solid && copies == other.copies;
    }
};

/// The solids a part can be made of.
using Shape = std::variant<Box, Cylinder, Tube, Sphere, Cone, Prism, Revolution, Solid, CadSolid>;

/// "box", "cylinder", …
[[nodiscard]] std::string_view name_of(const Shape& shape);
/// Where the shape's own origin lies: a box's lower corner, a sphere's centre, …
[[nodiscard]] Vec3 origin_of(const Shape& shape);
/// Names of the faces of a shape, as rules may use them.
[[nodiscard]] std::vector<std::string> face_names(const Shape& shape);

/// The surface of a shape, curved faces in facets that stay within `chord` (m) of them and enclose the exact volume of
/// cylinders, tubes, spheres and cones.
[[nodiscard]] ClosedSurface triangulate(const Shape& shape, double chord);

/// A thin wedge of a solid of revolution about the z axis, `degrees` wide and even about the plane y = 0. Its two plane faces are
/// called "start" and "end".
[[nodiscard]] ClosedSurface wedge_of(const Shape& shape, double degrees, double chord);

/// Divides a surface whose triangles say nothing about faces, as from an STL file, at its edges: plane faces, cylinders, bores, cones and spheres are
/// recognised, what is none of them is "curved". Names are those of CAD faces: by kind, and by rank in area.
[[nodiscard]] ClosedSurface divide_into_faces(ClosedSurface surface);

/// Area (m²) of the facets, true-area factors left out.
[[nodiscard]] double area(const ClosedSurface& surface);
/// Enclosed volume (m³) by the divergence theorem.
[[nodiscard]] double volume(const ClosedSurface& surface);
/// Smallest box along the axes that holds the surface.
[[nodiscard]] Box bounds(const ClosedSurface& surface);

}  // namespace firnfield
