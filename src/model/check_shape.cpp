// What may be wrong with a shape.

#include "model/check_shape.hpp"

#include <firnfield/quantity.hpp>

#include "geometry/outline.hpp"
#include "model/checks.hpp"

#include <algorithm>

namespace firnfield {
namespace {

/// One overload a shape.
class ShapeChecks : public Checks {
public:
    void check_solid(const std::string& address, const Box& box) { check_box(address, box); }
    void check_solid(const std::string& address, const Cylinder& c) {
        check_positive(address + ".diameter", 2.0 * c.radius, "a diameter");
        check_positive(address + ".length", c.length, "a length");
    }
    void check_solid(const std::string& address, const Tube& t) {
        check_positive(address + ".outer_diameter", 2.0 * t.outer_radius, "a diameter");
        check_not_negative(address + ".inner_diameter", 2.0 * t.inner_radius, "a diameter");
        check_positive(address + ".length", t.length, "a length");
        check_turn(address, t.angle);
        if (t.inner_radius >= t.outer_radius && t.outer_radius > 0.0) {
            report(address + ".inner_diameter",
                   fmt::format("the inner diameter {} must be smaller than the outer one, {}", show_quantity(2.0 * t.inner_radius, kinds::length),
                               show_quantity(2.0 * t.outer_radius, kinds::length)));
        }
    }
    void check_solid(const std::string& address, const Sphere& s) { check_positive(address + ".diameter", 2.0 * s.radius, "a diameter"); }
    void check_solid(const std::string& address, const Cone& c) {
        check_not_negative(address + ".lower_diameter", 2.0 * c.lower_radius, "a diameter");
        check_not_negative(address + ".upper_diameter", 2.0 * c.upper_radius, "a diameter");
        check_positive(address + ".length", c.length, "a length");
        if (c.lower_radius == 0.0 && c.upper_radius == 0.0) report(address + ".lower_diameter", "both diameters are zero");
    }
    void check_solid(const std::string& address, const Prism& p) {
        check_positive(address + ".length", p.length, "a length");
        std::vector<const Outline*> loops{&p.outline};
        for (const Outline& hole : p.holes) loops.push_back(&hole);
        check_outlines(address, loops);
    }
    void check_solid(const std::string& address, const Revolution& r) {
        check_turn(address, r.angle);
        check_outlines(address, {&r.outline});
        for (const OutlinePoint& p : r.outline) {
            if (p.x < 0.0) {
                report(address + ".outline",
                       fmt::format("the outline of a revolution is a list of [radius, height]; a radius of {} is negative", show_quantity(p.x, kinds::length)));
                return;
            }
        }
    }
    void check_solid(const std::string& address, const Solid& solid) {
        if (!solid.surface || solid.surface->triangles.empty()) report(address, "the solid has no surface");
        if (solid.bodies.size() == 1) report(address, "a solid of one body has it as its surface");
    }
    void check_solid(const std::string& address, const CadSolid& solid) {
        if (!solid.geometry) report(address, "the solid has no geometry");
        if (solid.copies.empty()) report(address, "the solid stands nowhere: it has no copies");
    }

private:
    void check_turn(const std::string& address, double angle) {
        if (check_finite(address + ".angle", angle) && !(angle > 0.0 && angle <= 360.0)) {
            report(address + ".angle", fmt::format("the angle of a sector must be above 0 and at most 360 degrees, found {:g}", angle));
        }
    }

    void check_outlines(const std::string& address, const std::vector<const Outline*>& outlines) {
        std::vector<std::vector<Point2>> loops;
        for (std::size_t n = 0; n < outlines.size(); ++n) {
            const std::string at = n == 0 ? address + ".outline" : fmt::format("{}.holes[{}]", address, n - 1);
            const Outline& outline = *outlines[n];
            if (outline.size() < 2 ||
                (outline.size() == 2 && std::none_of(outline.begin(), outline.end(), [](const OutlinePoint& p) { return p.through.has_value(); }))) {
                report(at, fmt::format("an outline needs at least three corners, or two and an arc; found {}", outline.size()));
                return;
            }
            constexpr std::size_t most_corners = 20'000;
            if (outline.size() > most_corners) {
                report(at, fmt::format("an outline has at most {} corners, found {}", most_corners, outline.size()));
                return;
            }
            for (const OutlinePoint& p : outline) {
                if (!check_finite(at, p.x) || !check_finite(at, p.y)) return;
            }
            for (std::size_t i = 0; i < outline.size(); ++i) {
                const OutlinePoint& a = outline[i];
                const OutlinePoint& b = outline[(i + 1) % outline.size()];
                if (a.x == b.x && a.y == b.y) {
                    report(at, fmt::format("corner {} is given twice in a row; the last corner joins the first by itself", i + 1));
                    return;
                }
            }
            loops.push_back(flatten(outline, 1e30).corner);
            if (crosses_itself({loops.back()})) {
                report(at, "the outline crosses itself");
                return;
            }
            if (std::abs(signed_area(loops.back())) == 0.0) {
                report(at, "the outline encloses no area");
                return;
            }
        }
        if (crosses_itself(loops)) report(address + ".outline", "the outline and its holes cross");
    }
};

}  // namespace

std::vector<Problem> check_shape(const std::string& address, const Shape& shape) {
    ShapeChecks checks;
    std::visit([&](const auto& s) { checks.check_solid(address, s); }, shape);
    if (checks.problems.empty() && !std::holds_alternative<Box>(shape)) checks.check_point(address + ".at", origin_of(shape));
    return std::move(checks.problems);
}

std::vector<Problem> check_space(const Model& model) {
    Checks checks;
    if (!model.space) return {};
    const bool revolved = model.space->revolved;
    if (!revolved) checks.check_positive("space.depth", model.space->depth, "the depth");
    if (revolved && (!model.mirrors.empty() || model.sector)) {
        for (const Mirror& mirror : model.mirrors) {
            if (mirror.keep || mirror.axis != 2) checks.report("mirror", "a revolved model has mirror planes across z only");
        }
        if (model.sector) checks.report("sector", "a revolved model is a sector already");
    }
    for (std::size_t i = 0; i < model.parts.size(); ++i) {
        const Part& part = model.parts[i];
        const auto check = [&](const Shape& shape) {
            const Vec3 at = origin_of(shape);
            const auto round = [&](double angle, int along) { return angle == 360.0 && along == 2; };
            const bool turns = std::holds_alternative<Sphere>(shape) || (std::holds_alternative<Cylinder>(shape) && std::get<Cylinder>(shape).along == 2) ||
                               (std::holds_alternative<Cone>(shape) && std::get<Cone>(shape).along == 2) ||
                               (std::holds_alternative<Tube>(shape) && round(std::get<Tube>(shape).angle, std::get<Tube>(shape).along)) ||
                               (std::holds_alternative<Revolution>(shape) && round(std::get<Revolution>(shape).angle, std::get<Revolution>(shape).along));
            const bool straight = std::holds_alternative<Box>(shape) || (std::holds_alternative<Cylinder>(shape) && std::get<Cylinder>(shape).along == 2) ||
                                  (std::holds_alternative<Tube>(shape) && std::get<Tube>(shape).along == 2) ||
                                  (std::holds_alternative<Prism>(shape) && std::get<Prism>(shape).along == 2);
            if (revolved ? !turns || at.x != 0.0 || at.y != 0.0 : !straight) {
                checks.report(fmt::format("part[{}]", i),
                              revolved ? "in a revolved model every shape is a cylinder, tube, cone, sphere or revolution about the z axis itself"
                                       : "in a plane model every shape is a box, or a cylinder, tube or prism along z");
                return false;
            }
            return true;
        };
        bool fits = check(part.shape);
        for (const Shape& more : part.also) fits = fits && check(more);
        for (const Shape& hole : part.holes) fits = fits && check(hole);
        for (const Rotation& r : part.rotate) {
            if (fits && (revolved || r.axis.x != 0.0 || r.axis.y != 0.0)) {
                checks.report(fmt::format("part[{}]", i) + ".rotate",
                              revolved ? "parts of a revolved model cannot be rotated" : "in a plane model parts turn about z only");
                fits = false;
            }
        }
        for (const Repeat& r : part.repeat) {
            if (fits && (revolved ? r.turn != 0.0 || r.step.x != 0.0 || r.step.y != 0.0 : r.step.z != 0.0)) {
                checks.report(fmt::format("part[{}]", i) + ".repeat",
                              revolved ? "a revolved model repeats along z only" : "a plane model does not repeat along z");
                fits = false;
            }
        }
    }
    return std::move(checks.problems);
}

}  // namespace firnfield
