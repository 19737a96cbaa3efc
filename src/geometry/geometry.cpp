// Vectors, boxes, names of sides and shapes.

#include <firnfield/geometry.hpp>

#include <cmath>

namespace firnfield {

double length(Vec3 a) { return std::sqrt(dot(a, a)); }

Vec3 normalized(Vec3 a) { return (1.0 / length(a)) * a; }

std::string_view name_of(Side side) {
    constexpr std::array<std::string_view, 6> names{"-x", "+x", "-y", "+y", "-z", "+z"};
    return names[static_cast<std::size_t>(side)];
}

bool Box::contains(Vec3 point, double tolerance) const {
    for (int axis = 0; axis < 3; ++axis) {
        if (point[axis] < lower()[axis] - tolerance || point[axis] > upper()[axis] + tolerance) return false;
    }
    return true;
}

}  // namespace firnfield
