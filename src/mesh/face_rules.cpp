// Faces by kind, size, place and what they see.

#include "mesh/face_rules.hpp"

#include "base/words.hpp"
#include "geometry/triangle_tree.hpp"
#include "model/bodies.hpp"
#include "model/rules.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace firnfield {
namespace {

class Judge {
public:
    Judge(const ClosedSurface& surface, const FacePick& pick, const std::vector<bool>& left_out, bool flat)
        : surface_(surface), pick_(pick), left_out_(left_out), flat_(flat), listed_(list_faces(surface)), size_(length(bounds(surface).size)) {}

    PickedFaces run() {
        PickedFaces out{.picked = std::vector<bool>(listed_.size())};
        for (std::size_t f = 0; f < listed_.size(); ++f) out.picked[f] = !left_out_[f] && listed_[f].area > 0.0 && is_like(listed_[f]);
        if (pick_.inside) keep(out.picked, inside(out.picked), *pick_.inside);
        if (pick_.smooth_from) keep(out.picked, smooth_from(*pick_.smooth_from, out.distance), true);
        return out;
    }

private:
    static void keep(std::vector<bool>& picked, const std::vector<bool>& which, bool where) {
        for (std::size_t f = 0; f < picked.size(); ++f) picked[f] = picked[f] && which[f] == where;
    }

    /// Between two ends, or one value; what is given in few digits is met, and what was measured on facets.
    static bool within(double value, const std::vector<double>& ends) {
        const double digits = ends.size() == 1 ? 1e-2 : 1e-3;
        return ends.empty() || (value >= ends.front() * (1.0 - digits) && value <= ends.back() * (1.0 + digits));
    }

    [[nodiscard]] bool is_like(const ExactFace& face) const {
        if (!pick_.kind.empty() && std::find(pick_.kind.begin(), pick_.kind.end(), name_of(face.kind)) == pick_.kind.end()) return false;
        if (!pick_.diameter.empty() && !(face.diameter && within(*face.diameter, pick_.diameter))) return false;
        return within(face.area, pick_.area);
    }

    const TriangleTree& tree() {
        if (tree_.triangles().empty()) tree_ = TriangleTree(triangles_of(surface_));
        return tree_;
    }

    [[nodiscard]] std::vector<std::vector<std::uint32_t>> by_face() const {
        std::vector<std::vector<std::uint32_t>> triangles(listed_.size());
        for (std::uint32_t t = 0; t < surface_.triangles.size(); ++t) triangles[surface_.face[t]].push_back(t);
        return triangles;
    }

    /// Whole bores, and what sees its own part in more than half of all directions. Only of the faces asked for.
    std::vector<bool> inside(const std::vector<bool>& asked) {
        const std::vector<std::vector<std::uint32_t>> triangles = by_face();
        std::vector<bool> out(listed_.size());
        for (std::size_t f = 0; f < listed_.size(); ++f) {
            if (asked[f]) out[f] = is_whole_bore(f, triangles[f]) || share_of_itself(triangles[f]) > 0.5;
        }
        return out;
    }

    /// A bore that closes around itself by half a turn or more; less of it is a fillet.
    bool is_whole_bore(std::size_t face, const std::vector<std::uint32_t>& triangles) {
        if (listed_[face].kind != FaceKind::bore) return false;
        Vec3 sum;
        double all = 0.0;
        for (const std::uint32_t t : triangles) {
            const Vec3 doubled = doubled_area(tree().triangles()[t]);
            sum = sum + doubled;
            all += length(doubled);
        }
        constexpr double of_half_a_turn = 0.65;  // 2/π, and a little for facets
        return length(sum) < of_half_a_turn * all;
    }

    /// Of the directions out of a face, weighted by their cosine, how many meet the part again: 40 from each of 16 places spread evenly over its area.
    double share_of_itself(const std::vector<std::uint32_t>& triangles) {
        constexpr int places = 16, directions = 40;
        double all = 0.0;
        for (const std::uint32_t t : triangles) all += length(doubled_area(tree().triangles()[t]));
        if (!(all > 0.0)) return 0.0;
        int met = 0, taken = 0;
        double sum = 0.0;
        for (const std::uint32_t t : triangles) {
            const Triangle& corners = tree().triangles()[t];
            const Vec3 doubled = doubled_area(corners);
            sum += length(doubled);
            for (; taken < places && (taken + 0.5) / places * all <= sum; ++taken) {
                // Within its triangle each place lies elsewhere, and turns its directions by another angle.
                const double u = std::sqrt(fraction(0.5 + taken * golden)), v = fraction(0.5 + taken * golden * golden);
                const Vec3 from = (1.0 - u) * corners[0] + (u * (1.0 - v)) * corners[1] + (u * v) * corners[2];
                met += count_met(from, normalized(doubled), directions, fraction(taken * golden));
            }
        }
        return taken == 0 ? 0.0 : static_cast<double>(met) / (directions * taken);
    }

    int count_met(Vec3 from, Vec3 normal, int directions, double turned) {
        const Vec3 u = perpendicular(normal), v = cross(normal, u);
        int met = 0;
        for (int d = 0; d < directions; ++d) {
            Vec3 direction;
            if (flat_) {
                const double sine = 2.0 * (d + 0.5) / directions - 1.0;  // of the angle in the plane
                direction = std::sqrt(1.0 - sine * sine) * normal + sine * cross({0.0, 0.0, 1.0}, normal);
            } else {
                const double sine = std::sqrt((d + 0.5) / directions), angle = 2.0 * std::numbers::pi * fraction(turned + d * golden);
                direction = std::sqrt(1.0 - sine * sine) * normal + (sine * std::cos(angle)) * u + (sine * std::sin(angle)) * v;
            }
            constexpr double off = 1e-6;
            if (std::isfinite(tree().first_hit(from, direction, off * size_))) ++met;
        }
        return met;
    }

    static constexpr double golden = 0.6180339887498949;
    static double fraction(double x) { return x - std::floor(x); }

    /// The face nearest to a point, and what joins it without an edge.
    std::vector<bool> smooth_from(Vec3 point, double& distance) {
        distance = std::numeric_limits<double>::infinity();
        std::size_t nearest = 0;
        for (std::size_t t = 0; t < tree().triangles().size(); ++t) {
            if (left_out_[surface_.face[t]]) continue;
            const double here = length(nearest_point(tree().triangles()[t], point) - point);
            if (here >= distance) continue;
            distance = here;
            nearest = surface_.face[t];
        }
        const std::vector<std::vector<std::uint32_t>> triangles = by_face();
        std::vector<bool> out(listed_.size());
        if (!std::isfinite(distance)) return out;
        std::vector<std::size_t> joined{nearest};
        out[nearest] = true;
        for (std::size_t i = 0; i < joined.size(); ++i) {
            for (const std::uint32_t t : triangles[joined[i]]) {
                for_each_neighbour(t, [&](std::uint32_t other) {
                    const std::uint16_t face = surface_.face[other];
                    if (out[face] || left_out_[face] || is_sliver(t) || is_sliver(other) || !bends_smoothly(t, other)) return;
                    out[face] = true;
                    joined.push_back(face);
                });
            }
        }
        return out;
    }

    /// Triangles that lie at the middle of one of its edges.
    template <typename Visit>
    void for_each_neighbour(std::uint32_t t, const Visit& visit) {
        const double near = 2e-6 * size_;
        const Vec3 wide{near, near, near};
        for (std::size_t k = 0; k < 3; ++k) {
            const Triangle& own = tree().triangles()[t];
            const Vec3 middle = 0.5 * (own[k] + own[(k + 1) % 3]);
            tree().for_each_near(middle - wide, middle + wide, [&](std::uint32_t other) {
                if (other != t && length(nearest_point(tree().triangles()[other], middle) - middle) <= near) visit(other);
            });
        }
    }

    /// Its normal says nothing.
    bool is_sliver(std::uint32_t t) {
        constexpr double thin = 1e-5;
        return height_of(tree().triangles()[t]) < thin * size_;
    }

    double angle_between(std::uint32_t a, std::uint32_t b) {
        const Vec3 n = doubled_area(tree().triangles()[a]), m = doubled_area(tree().triangles()[b]);
        const double sizes = length(n) * length(m);
        return sizes > 0.0 ? std::acos(std::clamp(dot(n, m) / sizes, -1.0, 1.0)) : 0.0;
    }

    /// By how much facets of one face bend towards the neighbours of a triangle.
    double turn_at(std::uint32_t t) {
        double most = 0.0;
        for_each_neighbour(t, [&](std::uint32_t other) {
            if (surface_.face[other] == surface_.face[t]) most = std::max(most, angle_between(t, other));
        });
        return most;
    }

    /// Where facets stand for curved faces that join smoothly they meet at half of what each bends by.
    bool bends_smoothly(std::uint32_t a, std::uint32_t b) {
        constexpr double smooth = 5.0 * std::numbers::pi / 180.0;
        constexpr double sharp = 60.0 * std::numbers::pi / 180.0;
        const double angle = angle_between(a, b);
        if (angle <= smooth) return true;
        return angle < sharp && angle <= smooth + 0.5 * (turn_at(a) + turn_at(b));
    }

    const ClosedSurface& surface_;
    const FacePick& pick_;
    const std::vector<bool>& left_out_;
    bool flat_;
    std::vector<ExactFace> listed_;
    double size_;
    TriangleTree tree_;
};

}  // namespace

std::vector<FaceRule> face_rules(const Model& model) {
    std::vector<FaceRule> out;
    for_each_rule(model, [&](const Selection& rule, const std::string& address, bool acts) {
        if (rule.faces.empty()) return;
        const auto known = std::find_if(out.begin(), out.end(), [&](const FaceRule& r) { return r.same(rule); });
        if (known == out.end()) {
            out.push_back({rule.parts, rule.faces, address, acts});
        } else if (acts && !known->acts) {
            known->address = address;
            known->acts = true;
        }
    });
    return out;
}

std::optional<Index> mark_of(const std::vector<FaceRule>& rules, std::size_t regions, const Selection& rule) {
    const auto same = std::find_if(rules.begin(), rules.end(), [&](const FaceRule& r) { return r.same(rule); });
    if (same == rules.end()) return std::nullopt;
    return static_cast<Index>(regions + static_cast<std::size_t>(same - rules.begin()));
}

bool names_body(const FaceRule& rule, const Model& model, const Body& body) {
    return rule.parts.empty() || std::any_of(rule.parts.begin(), rule.parts.end(),
                                             [&](const std::string& pattern) { return picks(pattern, body.name, model.parts[body.part].name); });
}

PickedFaces pick_faces(const ClosedSurface& surface, const FacePick& pick, const std::vector<bool>& left_out, bool flat) {
    return Judge(surface, pick, left_out, flat).run();
}

}  // namespace firnfield
