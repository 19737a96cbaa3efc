// Where bodies stand and what sizes the grid has to have.

#include "mesh/layout.hpp"

#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "geometry/solids.hpp"
#include "mesh/first_cells.hpp"
#include "mesh/symmetry.hpp"
#include "mesh/thickness.hpp"
#include "model/rules.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <exception>
#include <limits>
#include <map>
#include <numbers>
#include <tuple>

namespace firnfield {
namespace {

/// Facets stay this much nearer to the true surface than a cell is wide: their error then never shows.
constexpr double chord_share = 0.002;
/// The same for solids from CAD, whose facets have the exact volume and area however coarse they are, and take long to make.
constexpr double cad_chord_share = 0.006;

/// Number of faces that other parts leave.
constexpr std::uint32_t of_another_part = 0xFFFFFFFFU;

bool has_volume(const Box& box, double tolerance) { return box.size.x > tolerance && box.size.y > tolerance && box.size.z > tolerance; }

bool meet(const Box& a, const Box& b, double tolerance) { return has_volume(intersection(a, b), tolerance); }

/// Works out the layout step by step.
class Planner {
public:
    explicit Planner(const Model& model) : model_(as_deep_as_it_says(model)), placed_(place_parts(model_)) {}

    Layout plan() {
        layout_.regions = rule_regions(model_);
        layout_.face_rules = face_rules(model_);
        measure();
        layout_.planes = symmetry_planes(model_);
        if (revolved()) {
            const double half = 0.5 * wedge_degrees * std::numbers::pi / 180.0;
            for (const double side : {-1.0, 1.0}) layout_.planes.push_back({{-std::sin(half), side * std::cos(half), 0.0}, 0.0, true});
        }
        keep_inside();
        settle_points();
        displace();
        require_something_left();
        mark_zones();
        for (std::size_t b = 0; b < layout_.bodies.size(); ++b) finish(b);
        find_taken();
        size_footprints(model_, layout_);
        return std::move(layout_);
    }

private:
    [[nodiscard]] bool revolved() const { return model_.space && model_.space->revolved; }
    [[nodiscard]] bool plane() const { return model_.space && !model_.space->revolved; }

    /// The faces that a two-dimensional model has no surface on become planes of symmetry.
    void drop_flat_faces(ClosedSurface& surface) const {
        for (SurfaceFace& face : surface.faces) {
            const std::string& name = face.name;
            const bool flat = revolved() ? name == "start" || name == "end" : plane() && (name == "bottom" || name == "top" || name == "-z" || name == "+z");
            if (flat) face.name = std::string(symmetry_tag);
        }
    }

    /// The surface of a part as it was given, in the space of the model.
    ClosedSurface own_surface(std::size_t placed) const {
        const PlacedPart& copy = placed_[placed];
        const Part part = part_of(model_, copy);
        ClosedSurface surface = revolved() ? wedge_of_part(part, copy, wedge_degrees, chords_[placed]) : surface_of(part, copy, chords_[placed]);
        drop_flat_faces(surface);
        return surface;
    }

    /// Lets solids from CAD make their facets, all at the same time: they keep them.
    template <typename Chord>
    void make_facets(const Chord& chord) const {
        std::vector<std::size_t> first;  // copy of each part
        for (std::size_t p = 0; p < placed_.size(); ++p) {
            if ((p == 0 || placed_[p].part != placed_[p - 1].part) && std::holds_alternative<CadSolid>(model_.parts[placed_[p].part].shape)) first.push_back(p);
        }
        std::vector<std::exception_ptr> failed(first.size());
        const auto count = std::ssize(first);
#pragma omp parallel for schedule(dynamic)
        for (std::ptrdiff_t n = 0; n < count; ++n) {
            const std::size_t p = first[static_cast<std::size_t>(n)];
            try {
                static_cast<void>(std::get<CadSolid>(model_.parts[placed_[p].part].shape).geometry->facets(chord(p)));
            } catch (...) {
                failed[static_cast<std::size_t>(n)] = std::current_exception();
            }
        }
        for (const std::exception_ptr& error : failed) {
            if (error) std::rethrow_exception(error);
        }
    }

    /// Extent of everything, the target cell size, and how fine facets have to be.
    void measure() {
        std::vector<double> thin(placed_.size(), 0.0);
        make_facets([](std::size_t) { return 1e30; });
        for (std::size_t p = 0; p < placed_.size(); ++p) {
            PlacedPart& part = placed_[p];
            if (!part.aligned) {
                const Part of = part_of(model_, part);
                const ClosedSurface coarse = place(triangulate(of.shape, 1e30), part.placement);
                part.box = bounds(coarse);
                thin[p] = 2.0 * volume(coarse) / area(coarse);
                Extent all;
                all.take(part.box);
                for (const Shape& more : of.also) all.take(bounds(place(triangulate(shifted(more, origin_of(of.shape)), 1e30), part.placement)));
                part.box = {.size = all.high - all.low, .at = all.low};
            }
            extent_.take(part.box);
        }
        if (revolved()) {
            const double widest = extent_.high.x, half = 0.5 * wedge_degrees * std::numbers::pi / 180.0;
            extent_.low = {0.0, -1.01 * widest * std::sin(half), extent_.low.z};
            extent_.high.y = -extent_.low.y;
        }
        double reach = 0.0;
        for (int axis = 0; axis < 3; ++axis) reach = std::max({reach, std::abs(extent_.low[axis]), std::abs(extent_.high[axis])});
        // Rounding of coordinates grows with their distance from the origin, so the tolerance does, too.
        layout_.tolerance = std::max(1e-9 * extent_.longest(), 1e-13 * reach);
        // By what is resolved: the depth of a plane model and the width of a wedge say nothing about cells.
        const double resolved = revolved() ? std::max(extent_.along(0), extent_.along(2))
                                : plane()  ? std::max(extent_.along(0), extent_.along(1))
                                           : extent_.longest();
        layout_.target = model_.mesh.coarsening * model_.mesh.cell.value_or(resolved / 40.0);
        for (std::size_t p = 0; p < placed_.size(); ++p) {
            const std::optional<double>& own = model_.parts[placed_[p].part].cell;
            const double cell = own ? model_.mesh.coarsening * *own : layout_.target;
            const bool cad = std::holds_alternative<CadSolid>(model_.parts[placed_[p].part].shape);
            chords_.push_back((cad ? cad_chord_share : chord_share) * (placed_[p].aligned ? cell : std::min(cell, thin[p])));
        }
        make_facets([&](std::size_t p) { return chords_[p]; });
        for (std::size_t p = 0; p < placed_.size(); ++p) {
            if (!std::holds_alternative<CadSolid>(model_.parts[placed_[p].part].shape)) continue;
            // What was measured in the coarsest facets lies within the solid.
            const Box box = bounds(place(triangulate(model_.parts[placed_[p].part].shape, chords_[p]), placed_[p].placement));
            extent_.take(box);
            Extent all;
            all.take(placed_[p].box);
            all.take(box);
            placed_[p].box = {.size = all.high - all.low, .at = all.low};
        }
    }

    /// Cuts every part at the planes of symmetry.
    void keep_inside() {
        Box kept{.size = extent_.high - extent_.low, .at = extent_.low};
        std::vector<std::size_t> oblique;
        if (plane()) layout_.mirror_side[static_cast<std::size_t>(Side::minus_z)] = layout_.mirror_side[static_cast<std::size_t>(Side::plus_z)] = true;
        for (std::size_t n = 0; n < layout_.planes.size(); ++n) {
            const SymmetryPlane& plane = layout_.planes[n];
            const int axis = axis_across(plane);
            if (axis < 0) {
                if (!revolved()) oblique.push_back(n);  // a wedge has its planes already
                continue;
            }
            const bool upper = plane.outward[axis] > 0.0;
            const double at = plane.outward[axis] * plane.offset;
            Vec3 low = kept.lower(), high = kept.upper();
            (upper ? high : low)[axis] = at;
            kept = {.size = high - low, .at = low};
            layout_.mirror_side[static_cast<std::size_t>(make_side(axis, upper))] = true;
        }
        for (std::size_t p = 0; p < placed_.size(); ++p) {
            const PlacedPart& part = placed_[p];
            Body body;
            body.name = part.name;
            body.part = part.part;
            body.box = intersection(part.box, kept);
            if (!has_volume(body.box, layout_.tolerance)) continue;
            const bool cut_askew = std::any_of(oblique.begin(), oblique.end(), [&](std::size_t n) { return reaches(body.box, layout_.planes[n]); });
            const bool marked = part.aligned && (has_round_zone(body.box) || has_marked_holes(part, body));
            std::vector<Box> holes;
            CutSurface cut;
            FaceMarks marks;
            if (part.aligned && !cut_askew && !marked) {
                marks = judge(p, body, nullptr);
                for (const Box& hole : part.holes) {
                    const Box inside = intersection(hole, body.box);
                    if (has_volume(inside, layout_.tolerance)) holes.push_back(inside);
                }
                for (std::size_t n = 0; n < layout_.planes.size(); ++n) {
                    const SymmetryPlane& plane = layout_.planes[n];
                    const int axis = axis_across(plane);
                    if (axis < 0) continue;
                    const double face = plane.outward[axis] > 0.0 ? body.box.upper()[axis] : -body.box.lower()[axis];
                    if (std::abs(face - plane.offset) <= layout_.tolerance) body.on_planes |= 1U << n;
                }
            } else {
                body.surface = static_cast<Index>(layout_.surfaces.size());
                cut.surface = own_surface(p);
                marks = judge(p, body, &cut.surface);
                for (std::size_t n = 0; n < layout_.planes.size(); ++n) {
                    if (revolved() && layout_.planes[n].of_sector) {
                        body.on_planes |= 1U << n;
                        continue;
                    }
                    if (!reaches(bounds(cut.surface), layout_.planes[n])) continue;
                    cut.surface = subtract(cut.surface, beyond(layout_.planes[n], extent_, n), "").surface;
                    const std::string tag = fmt::format("{} {}", symmetry_tag, n);
                    for (const std::uint16_t used : cut.surface.face) {
                        if (cut.surface.faces[used].name == tag) body.on_planes |= 1U << n;
                    }
                }
                if (cut.surface.triangles.empty()) continue;
                body.box = intersection(bounds(cut.surface), kept);
                layout_.surfaces.push_back(std::move(cut));
            }
            const bool curved =
                body.surface != no_index && std::any_of(layout_.surfaces.back().surface.faces.begin(), layout_.surfaces.back().surface.faces.end(),
                                                        [](const SurfaceFace& f) { return f.area_factor != 1.0; });
            layout_.chord.push_back(curved ? chords_[p] : 0.0);
            layout_.bodies.push_back(std::move(body));
            marks_.push_back(std::move(marks));
            layout_.holes.push_back(std::move(holes));
            source_.push_back(p);
        }
        if (layout_.bodies.empty()) throw ModelError(model_.mirrors.empty() ? "sector" : "mirror", "the planes of symmetry leave nothing of the assembly");
    }

    /// Which faces of a body the rules about faces mean.
    struct FaceMarks {
        std::vector<PickedFaces> by_rule{};     // of all rules; none where no rule speaks of the body
        std::array<std::size_t, 7> of_boxes{};  // faces of a body of boxes: its sides, and walls within
    };

    /// Walls of holes in a body of boxes can be told apart on its surface alone.
    [[nodiscard]] bool has_marked_holes(const PlacedPart& part, const Body& body) const {
        return !part.holes.empty() && std::any_of(layout_.face_rules.begin(), layout_.face_rules.end(), [&](const FaceRule& rule) {
            return (!rule.pick.area.empty() || rule.pick.smooth_from || rule.pick.inside) && names_body(rule, model_, body);
        });
    }

    /// Of the whole part, before anything cuts it; `own`: its surface, where it has been made.
    FaceMarks judge(std::size_t placed, const Body& body, const ClosedSurface* own) {
        FaceMarks out;
        const auto speaks = [&](const FaceRule& rule) { return names_body(rule, model_, body); };
        if (std::none_of(layout_.face_rules.begin(), layout_.face_rules.end(), speaks)) return out;
        const ClosedSurface made = own == nullptr ? own_surface(placed) : ClosedSurface{};
        const ClosedSurface& surface = own == nullptr ? made : *own;
        if (own == nullptr) out.of_boxes = faces_of_boxes(surface);
        const PlacedPart& copy = placed_[placed];
        const ClosedSurface turned = revolved() ? surface_of(model_.parts[copy.part], copy, chords_[placed]) : ClosedSurface{};
        const ClosedSurface& whole = revolved() ? turned : surface;
        std::vector<bool> left_out;
        for (const SurfaceFace& face : whole.faces) left_out.push_back(face.name.starts_with(symmetry_tag));
        for (std::size_t r = 0; r < layout_.face_rules.size(); ++r) {
            const FaceRule& rule = layout_.face_rules[r];
            PickedFaces found{.picked = std::vector<bool>(surface.faces.size()), .distance = std::numeric_limits<double>::infinity()};
            if (speaks(rule)) {
                // What is said without a place holds for all copies of a part.
                const auto [known, fresh] = judged_.try_emplace({copy.part, copy.piece, rule.pick.smooth_from ? placed : 0, r});
                if (fresh) known->second = pick_faces(whole, rule.pick, left_out, plane());
                const PickedFaces& of_whole = known->second;
                found.distance = of_whole.distance;
                for (std::size_t f = 0; f < surface.faces.size(); ++f) {
                    // A wedge has the faces of the whole, but for those that its planes leave.
                    const auto same = [&](const SurfaceFace& w) { return w.number == surface.faces[f].number && w.name == surface.faces[f].name; };
                    const auto at =
                        revolved() ? std::find_if(whole.faces.begin(), whole.faces.end(), same) - whole.faces.begin() : static_cast<std::ptrdiff_t>(f);
                    found.picked[f] = at < std::ssize(whole.faces) && of_whole.picked[static_cast<std::size_t>(at)];
                }
            }
            out.by_rule.push_back(std::move(found));
        }
        return out;
    }

    /// The outermost face towards each side, whatever it is called where the part stands turned or mirrored; last any wall within, all of which rules see
    /// alike.
    static std::array<std::size_t, 7> faces_of_boxes(const ClosedSurface& surface) {
        std::array<std::size_t, 7> out{};
        const Box box = bounds(surface);
        const double near = 1e-9 * length(box.size);
        for (const auto& t : surface.triangles) {
            const std::size_t face = surface.face[static_cast<std::size_t>(&t - surface.triangles.data())];
            const Vec3 a = surface.corners[t[0]], doubled = cross(surface.corners[t[1]] - a, surface.corners[t[2]] - a);
            const Side side = nearest_side(doubled);
            const int axis = axis_of(side);
            const double outer = is_plus(side) ? box.upper()[axis] : box.lower()[axis];
            out[std::abs(a[axis] - outer) <= near ? static_cast<std::size_t>(side) : all_sides.size()] = face;
        }
        return out;
    }

    /// A point lies on the nearest of all bodies that its rule speaks of; on several where they touch there.
    void settle_points() {
        const double size = length(extent_.high - extent_.low);
        for (std::size_t r = 0; r < layout_.face_rules.size(); ++r) {
            const FaceRule& rule = layout_.face_rules[r];
            if (!rule.pick.smooth_from || !rule.acts) continue;
            double nearest = std::numeric_limits<double>::infinity();
            for (const FaceMarks& marks : marks_) {
                if (!marks.by_rule.empty()) nearest = std::min(nearest, marks.by_rule[r].distance);
            }
            if (!std::isfinite(nearest)) continue;  // what it speaks of is left out, and it rests with that
            if (nearest > near_point * size) {
                throw ModelError(rule.address + ".smooth_from",
                                 fmt::format("no surface of the parts that the rule names is near this point; the nearest is {} away",
                                             show_quantity(nearest, kinds::length, model_.units)));
            }
            for (FaceMarks& marks : marks_) {
                constexpr double alike = 1e-6;
                if (!marks.by_rule.empty() && marks.by_rule[r].distance > nearest + alike * size)
                    marks.by_rule[r].picked.assign(marks.by_rule[r].picked.size(), false);
            }
        }
    }

    /// The rules about faces that mean a face, by the numbers of their marks.
    [[nodiscard]] std::vector<Index> marks_of(const FaceMarks& marks, std::size_t face) const {
        std::vector<Index> out;
        for (std::size_t r = 0; r < marks.by_rule.size(); ++r) {
            const std::vector<bool>& picked = marks.by_rule[r].picked;
            if (face < picked.size() && picked[face]) out.push_back(static_cast<Index>(layout_.regions.size() + r));
        }
        return out;
    }

    std::uint16_t zone_of(const std::vector<Index>& marks) {
        const auto found = std::find(layout_.zones.begin(), layout_.zones.end(), marks);
        const auto number = static_cast<std::uint16_t>(found - layout_.zones.begin());
        if (found == layout_.zones.end()) layout_.zones.push_back(marks);
        return number;
    }

    /// Whether some of the box lies beyond the plane.
    [[nodiscard]] bool reaches(const Box& box, const SymmetryPlane& plane) const {
        double most = 0.0;
        for (int axis = 0; axis < 3; ++axis) most += plane.outward[axis] * (plane.outward[axis] > 0.0 ? box.upper()[axis] : box.lower()[axis]);
        return most > plane.offset + layout_.tolerance;
    }

    /// Regions that are no boxes along the axes have to be drawn onto surfaces.
    [[nodiscard]] bool has_round_zone(const Box& box) const {
        return std::any_of(layout_.regions.begin(), layout_.regions.end(), [&](const Shape& region) {
            if (std::holds_alternative<Box>(region)) return false;
            Box near = bounds(triangulate(region, 1e30));
            near.at = near.at - Vec3{layout_.tolerance, layout_.tolerance, layout_.tolerance};
            near.size = near.size + 2.0 * Vec3{layout_.tolerance, layout_.tolerance, layout_.tolerance};
            return meet(box, near, 0.0);
        });
    }

    ClosedSurface whole_surface(std::size_t body) const {
        if (!revolved()) return own_surface(source_[body]);
        // What displaces others does so a little beyond the wedge, so that none of its planes becomes a face.
        const PlacedPart& part = placed_[source_[body]];
        return wedge_of_part(model_.parts[part.part], part, 1.5 * wedge_degrees, chords_[source_[body]]);
    }

    /// Later parts take their space from earlier ones. Boxes among themselves are settled while filling the grid.
    void displace() {
        std::map<std::size_t, ClosedSurface> whole;  // of bodies that displace others
        const auto whole_of = [&](std::size_t b) -> const ClosedSurface& {
            const auto [at, is_new] = whole.try_emplace(b);
            if (!is_new) return at->second;
            at->second = whole_surface(b);
            // None of them is a face of the body that they are cut out of.
            for (SurfaceFace& face : at->second.faces) face.number = of_another_part;
            return at->second;
        };
        for (std::size_t a = 0; a < layout_.bodies.size(); ++a) {
            std::vector<std::size_t> later;
            for (std::size_t b = a + 1; b < layout_.bodies.size(); ++b) {
                if (meet(layout_.bodies[a].box, layout_.bodies[b].box, layout_.tolerance)) later.push_back(b);
            }
            // Bodies that the grid cuts first: they decide whether a body of boxes has to be cut, too.
            std::stable_partition(later.begin(), later.end(), [&](std::size_t b) { return layout_.bodies[b].surface != no_index; });
            for (const std::size_t b : later) {
                Body& body = layout_.bodies[a];
                if (body.surface == no_index && layout_.bodies[b].surface == no_index) continue;
                const bool was_boxes = body.surface == no_index;
                const ClosedSurface& before = was_boxes ? kept_boxes(a) : layout_.surfaces[body.surface].surface;
                SolidResult result = subtract(before, whole_of(b), "inner");
                const double merely_touching = std::max(3.0 * (layout_.chord[a] + layout_.chord[b]), 10.0 * layout_.tolerance);
                if (!result.changed || result.common_depth <= merely_touching) continue;
                layout_.overlaps.push_back({static_cast<Index>(a), static_cast<Index>(b), result.common_volume});
                if (was_boxes) {
                    body.surface = static_cast<Index>(layout_.surfaces.size());
                    layout_.surfaces.emplace_back();
                    layout_.holes[a].clear();
                }
                layout_.surfaces[body.surface].surface = std::move(result.surface);
                if (layout_.surfaces[body.surface].surface.triangles.empty()) break;
                layout_.chord[a] = std::max(layout_.chord[a], layout_.chord[b]);
            }
        }
    }

    /// Of a body that later ones take altogether there may be shreds, which no grid could resolve.
    void require_something_left() const {
        std::vector<Problem> swallowed;
        std::vector<double> taken(layout_.bodies.size(), 0.0);
        std::vector<std::string> by(layout_.bodies.size());
        for (const Overlap& overlap : layout_.overlaps) {
            taken[overlap.displaced] += overlap.volume;
            by[overlap.displaced] = layout_.bodies[overlap.by].name;
        }
        for (std::size_t b = 0; b < layout_.bodies.size(); ++b) {
            const Body& body = layout_.bodies[b];
            if (body.surface == no_index || taken[b] == 0.0) continue;
            constexpr double shreds = 1e-6;
            const ClosedSurface& left = layout_.surfaces[body.surface].surface;
            if (!left.triangles.empty() && volume(left) > shreds * taken[b]) continue;
            swallowed.push_back({.address = fmt::format("part[{}]", body.part), .message = nothing_left(body.name, by[b]), .location = {}});
        }
        if (!swallowed.empty()) throw ModelError(std::move(swallowed));
    }

    /// A body of boxes as a surface, cut at the planes of symmetry.
    const ClosedSurface& kept_boxes(std::size_t body) {
        if (boxes_of_ == body) return boxes_;
        boxes_of_ = body;
        boxes_ = whole_surface(body);
        for (std::size_t n = 0; n < layout_.planes.size(); ++n) {
            if (reaches(bounds(boxes_), layout_.planes[n])) boxes_ = subtract(boxes_, beyond(layout_.planes[n], extent_, n), "").surface;
        }
        return boxes_;
    }

    /// Draws the regions of rules onto the surfaces, so that rules pick exactly what lies in them, and marks the faces that rules mean.
    void mark_zones() {
        for (std::size_t b = 0; b < layout_.bodies.size(); ++b) {
            const Body& body = layout_.bodies[b];
            layout_.box_zones.emplace_back();
            for (std::size_t side = 0; side < layout_.box_zones.back().size() && body.surface == no_index && !marks_[b].by_rule.empty(); ++side)
                layout_.box_zones.back()[side] = zone_of(marks_of(marks_[b], marks_[b].of_boxes[side]));
            if (body.surface == no_index) continue;
            CutSurface& cut = layout_.surfaces[body.surface];
            // Faces that cutting added come after the body's own.
            std::vector<std::vector<Index>> member;
            for (const std::uint16_t face : cut.surface.face) member.push_back(marks_of(marks_[b], face));
            for (std::size_t r = 0; r < layout_.regions.size(); ++r) {
                const ClosedSurface region = triangulate(layout_.regions[r], chord_share * layout_.target);
                Box near = bounds(region);
                near.at = near.at - Vec3{layout_.tolerance, layout_.tolerance, layout_.tolerance};
                near.size = near.size + 2.0 * Vec3{layout_.tolerance, layout_.tolerance, layout_.tolerance};
                if (!meet(body.box, near, 0.0)) continue;
                std::vector<bool> inside;
                std::vector<Index> origin;
                ClosedSurface drawn = imprint(cut.surface, region, inside, origin);
                std::vector<std::vector<Index>> refined(drawn.triangles.size());
                for (std::size_t t = 0; t < refined.size(); ++t) {
                    refined[t] = member[origin[t]];
                    if (inside[t]) refined[t].push_back(static_cast<Index>(r));
                }
                member = std::move(refined);
                cut.surface = std::move(drawn);
            }
            for (const std::vector<Index>& marks : member) cut.zone.push_back(zone_of(marks));
        }
    }

    /// What boxes lose to later boxes, in a sweep along x.
    void find_taken() {
        layout_.taken.resize(layout_.bodies.size());
        std::vector<std::size_t> boxes;
        for (std::size_t b = 0; b < layout_.bodies.size(); ++b) {
            if (layout_.bodies[b].surface == no_index) boxes.push_back(b);
        }
        const auto box = [&](std::size_t b) -> const Box& { return layout_.bodies[b].box; };
        std::sort(boxes.begin(), boxes.end(), [&](std::size_t a, std::size_t b) { return std::pair(box(a).lower().x, a) < std::pair(box(b).lower().x, b); });
        for (std::size_t i = 0; i < boxes.size(); ++i) {
            for (std::size_t j = i + 1; j < boxes.size() && box(boxes[j]).lower().x < box(boxes[i]).upper().x - layout_.tolerance; ++j) {
                const std::size_t earlier = std::min(boxes[i], boxes[j]), later = std::max(boxes[i], boxes[j]);
                const Box common = intersection(box(earlier), box(later));
                if (has_volume(common, layout_.tolerance)) layout_.taken[earlier].push_back(common);
            }
        }
    }

    void finish(std::size_t b) {
        Body& body = layout_.bodies[b];
        if (body.surface == no_index) {
            body.thickness = body.box.size;
            return;
        }
        const ClosedSurface& surface = layout_.surfaces[body.surface].surface;
        if (surface.triangles.empty()) return;
        const Box box = bounds(surface);
        body.box = box;
        body.thickness = typical_thickness(surface);
    }

    Model model_;
    std::vector<PlacedPart> placed_;
    std::vector<FaceMarks> marks_;  // by body
    /// By part, piece, copy where it matters, and rule.
    std::map<std::tuple<std::uint32_t, std::size_t, std::size_t, std::size_t>, PickedFaces> judged_;
    std::vector<double> chords_;       // by placed part
    std::vector<std::size_t> source_;  // placed part of each body
    Extent extent_;
    Layout layout_;
    ClosedSurface boxes_;
    std::size_t boxes_of_ = std::numeric_limits<std::size_t>::max();
};

}  // namespace

Box intersection(const Box& box, const Box& bounds) {
    Box common;
    for (int axis = 0; axis < 3; ++axis) {
        common.at[axis] = std::max(box.lower()[axis], bounds.lower()[axis]);
        // A side that is not cut keeps its exact size, so that equal input gives equal faces.
        const bool whole = common.at[axis] == box.lower()[axis] && box.upper()[axis] <= bounds.upper()[axis];
        common.size[axis] = whole ? box.size[axis] : std::min(box.upper()[axis], bounds.upper()[axis]) - common.at[axis];
    }
    return common;
}

std::string nothing_left(const std::string& body, const std::string& by) {
    return fmt::format("nothing is left of {}: {} take all of it; a part that stands later in the model displaces earlier ones", in_quotes(body),
                       by.empty() ? std::string("holes or later parts") : fmt::format("holes or later parts, such as {},", in_quotes(by)));
}

std::vector<Shape> rule_regions(const Model& model) {
    std::vector<Shape> regions;
    for_each_rule(model, [&](const Selection& rule, const std::string&, bool) {
        if (rule.region && std::find(regions.begin(), regions.end(), *rule.region) == regions.end()) regions.push_back(*rule.region);
    });
    return regions;
}

Layout lay_out(const Model& model) { return Planner(model).plan(); }

}  // namespace firnfield
