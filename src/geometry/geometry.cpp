// Vectors, boxes, names of sides and shapes.

#include <firnfield/geometry.hpp>

#include <cmath>

namespace firnfield {

double length(Vec3 a) { return std::sqrt(dot(a, a)); }

Vec3 normalized(Vec3 a) { return (1.0 / length(a)) * a; }

Vec3 perpendicular(Vec3 n) { return normalized(cross(n, std::abs(n.x) < 0.7 ? Vec3{1.0, 0.0, 0.0} : Vec3{0.0, 1.0, 0.0})); }

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

std::string_view name_of(FaceKind kind) {
    constexpr std::array<std::string_view, 7> names{"plane", "cylinder", "bore", "cone", "sphere", "torus", "curved"};
    return names[static_cast<std::size_t>(kind)];
}

double area(const ClosedSurface& surface) {
    double sum = 0.0;
    for (const auto& t : surface.triangles) {
        sum += 0.5 * length(cross(surface.corners[t[1]] - surface.corners[t[0]], surface.corners[t[2]] - surface.corners[t[0]]));
    }
    return sum;
}

std::vector<ExactFace> list_faces(const ClosedSurface& surface) {
    std::vector<ExactFace> out;
    for (const SurfaceFace& face : surface.faces) out.push_back({.name = face.name, .kind = face.kind, .diameter = face.diameter});
    for (std::size_t t = 0; t < surface.triangles.size(); ++t) {
        const auto& c = surface.triangles[t];
        const Vec3 a = surface.corners[c[0]], b = surface.corners[c[1]], d = surface.corners[c[2]];
        const double size = 0.5 * length(cross(b - a, d - a));
        ExactFace& face = out[surface.face[t]];
        face.area += size;
        face.at = face.at + (size / 3.0) * (a + b + d);
    }
    for (std::size_t f = 0; f < out.size(); ++f) {
        if (out[f].area > 0.0) out[f].at = (1.0 / out[f].area) * out[f].at;
        out[f].area *= surface.faces[f].area_factor;
    }
    return out;
}

double volume(const ClosedSurface& surface) {
    if (surface.corners.empty()) return 0.0;
    const Vec3 origin = surface.corners[0];  // near the surface, so that distance from zero costs no digits
    double sum = 0.0;
    for (const auto& t : surface.triangles) {
        sum += dot(surface.corners[t[0]] - origin, cross(surface.corners[t[1]] - origin, surface.corners[t[2]] - origin)) / 6.0;
    }
    return sum;
}

Box bounds(const ClosedSurface& surface) {
    if (surface.corners.empty()) return {};
    Vec3 low = surface.corners[0], high = low;
    for (const Vec3& p : surface.corners) {
        for (int axis = 0; axis < 3; ++axis) {
            low[axis] = std::min(low[axis], p[axis]);
            high[axis] = std::max(high[axis], p[axis]);
        }
    }
    return {.size = high - low, .at = low};
}

}  // namespace firnfield
