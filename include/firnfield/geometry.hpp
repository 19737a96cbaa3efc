/// Points, boxes and the six directions of the axes.
#pragma once

#include <array>
#include <cstdint>
#include <string_view>
#include <variant>

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
[[nodiscard]] constexpr Vec3 cross(Vec3 a, Vec3 b) {
    return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}
[[nodiscard]] double length(Vec3 a);
[[nodiscard]] Vec3 normalized(Vec3 a);

/// One of the six directions along an axis; also names the side of a box that faces that way.
enum class Side : std::uint8_t { minus_x, plus_x, minus_y, plus_y, minus_z, plus_z };

inline constexpr std::array all_sides{Side::minus_x, Side::plus_x, Side::minus_y, Side::plus_y, Side::minus_z, Side::plus_z};

[[nodiscard]] constexpr int axis_of(Side side) { return static_cast<int>(side) / 2; }
[[nodiscard]] constexpr bool is_plus(Side side) { return static_cast<int>(side) % 2 == 1; }
[[nodiscard]] constexpr Side make_side(int axis, bool plus) { return static_cast<Side>(2 * axis + (plus ? 1 : 0)); }
/// "-x", "+x", … "+z".
[[nodiscard]] std::string_view name_of(Side side);

/// An axis-aligned box.
struct Box {
    Vec3 size{};    ///< edge lengths, m, all positive
    Vec3 at{};      ///< lower corner, m

    [[nodiscard]] Vec3 lower() const { return at; }
    [[nodiscard]] Vec3 upper() const { return at + size; }
    [[nodiscard]] double volume() const { return size.x * size.y * size.z; }
    [[nodiscard]] bool contains(Vec3 point, double tolerance = 0.0) const;
    bool operator==(const Box&) const = default;
};

/// The solids a part can be made of.
using Shape = std::variant<Box>;

}  // namespace firnfield
