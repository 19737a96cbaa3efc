// First cells where heat spreads from a footprint, and where it has little time.

#include "mesh/first_cells.hpp"

#include "base/words.hpp"
#include "mesh/flat_faces.hpp"
#include "mesh/joint_table.hpp"
#include "mesh/symmetry.hpp"
#include "model/bodies.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <map>
#include <numbers>
#include <tuple>

namespace firnfield {
namespace {

/// Thresholds below are taken a little lower: what meets one exactly, but for rounding, passes it wherever the assembly stands.
constexpr double tie = 1.0 - 1e-6;
/// Of the scaled half-width. On fourteen models that were set against finer meshes 0.4 left the errors of halving all cells, for a fifth of the cells.
constexpr double share = 0.4;
/// A footprint wider than this part of a face leaves nothing to spread.
constexpr double whole = 0.9;
/// Of the largest area in which two bodies touch: smaller ones are rims.
constexpr double main_share = 0.5;
/// Of a body's thickness: no time is so short that cells get thinner.
constexpr double thinnest = 1e-3;
/// Films whose Biot number over the half-width is smaller take their heat evenly, wherever they begin.
constexpr double least_biot = 0.1;

/// A rule that acts on surfaces, as far as the geometry decides it before there is a mesh.
struct Rule {
    const Selection* pick = nullptr;
    std::string name{};
    double film = std::numeric_limits<double>::infinity();   ///< W/(m² K); infinite where heat or a temperature is given
    double stays = std::numeric_limits<double>::infinity();  ///< s
};

/// How long heat stays the same in studies in time.
class Stays {
public:
    explicit Stays(const Model& model) : model_(model) {
        for (const Study& study : model.studies) {
            if (study.kind == StudyKind::steady) continue;
            in_time_ = true;
            if (study.kind != StudyKind::transient) continue;
            shortest_ = std::min(shortest_, study.lasts);
            for (const double at : study.fields_at) {
                if (at > 0.0) shortest_ = std::min(shortest_, at);
            }
        }
    }

    /// s, of what follows all of these profiles; infinite where nothing happens in time.
    [[nodiscard]] double of(const std::vector<std::string>& profiles) const {
        double time = shortest_;
        for (const std::string& name : profiles) {
            const Profile* profile = in_time_ ? find_profile(model_, name) : nullptr;
            if (profile != nullptr) time = std::min(time, shortest_stay(*profile));
        }
        return time;
    }

private:
    const Model& model_;
    bool in_time_ = false;
    double shortest_ = std::numeric_limits<double>::infinity();  // s, until something is asked
};

class Finder {
public:
    Finder(const Model& model, const Layout& layout) : model_(model), layout_(layout), faces_(flat_faces(layout)), stays_(model) {
        for (const Body& body : layout.bodies) domain_.take(body.box);
        find_heated();
    }

    void find() {
        contacts();
        rules();
        keep_thinnest_of_each_plane();
    }

    std::vector<FirstCell> cells{};
    std::array<std::vector<SizeDemand>, 3> across{};

private:
    [[nodiscard]] bool varies_along(int axis) const { return !model_.space || axis != (model_.space->revolved ? 1 : 2); }
    [[nodiscard]] const Body& body(Index b) const { return layout_.bodies[b]; }

    /// How long the heat of each body stays the same.
    void find_heated() {
        heated_.assign(layout_.bodies.size(), std::numeric_limits<double>::infinity());
        for (const Power& power : model_.powers) {
            const double time = stays_.of(power.profile);
            for (std::size_t b = 0; b < heated_.size(); ++b) {
                const Body& of = layout_.bodies[b];
                const auto names_it = [&](const std::string& p) { return picks(p, of.name, model_.parts[of.part].name); };
                const bool picked = std::any_of(power.into.begin(), power.into.end(), names_it) ||
                                    (power.between && std::any_of(power.between->begin(), power.between->end(), names_it));
                if (picked) heated_[b] = std::min(heated_[b], time);
            }
        }
    }

    void contacts() {
        const JointTable joints(model_, layout_.bodies);
        double longest = 0.0;
        for (const Joint& joint : model_.joints) longest = std::max(longest, joint.reach);
        const auto joint_of = [&](Index a, Index b) -> const Joint* {
            const Index joint = joints.joint(a, b);
            return joint == no_index ? nullptr : &model_.joints[joint];
        };
        const auto reach = [&](Index a, Index b) {
            const Joint* joint = joint_of(a, b);
            return joint == nullptr ? 0.0 : joint->reach;
        };
        struct Meeting {
            const FlatFace *below, *above;
            Box common;
            double area;
        };
        std::vector<Meeting> meetings;
        std::map<std::pair<Index, Index>, double> largest;  // m², by the pair of bodies
        for_each_meeting(layout_, faces_, reach, longest, [&](const FlatFace& below, const FlatFace& above, const Box& common) {
            const Joint* joint = joint_of(below.body, above.body);
            if (joint != nullptr && (joint->insulated || joint->exchange_factor)) return;
            const double area = common.size[(below.axis + 1) % 3] * common.size[(below.axis + 2) % 3];
            meetings.push_back({&below, &above, common, area});
            double& most = largest[std::minmax(below.body, above.body)];
            most = std::max(most, area);
        });
        for (const Meeting& m : meetings) {
            // A flat part that another one encloses gives next to nothing off through its rim.
            if (m.area < tie * main_share * largest[std::minmax(m.below->body, m.above->body)]) continue;
            spread(*m.below, m.common, {.with = body(m.above->body).name});
            spread(*m.above, m.common, {.with = body(m.below->body).name});
            const Joint* joint = joint_of(m.below->body, m.above->body);
            const double resistance = joint == nullptr ? 0.0 : given_resistance(*joint).value_or(0.0);
            const double film = resistance > 0.0 ? 1.0 / resistance : std::numeric_limits<double>::infinity();
            const double time = std::min(heated_[m.below->body], heated_[m.above->body]);
            follow(*m.below, {.with = body(m.above->body).name}, time, film);
            follow(*m.above, {.with = body(m.below->body).name}, time, film);
            if (body(m.below->body).surface == no_index && body(m.above->body).surface == no_index) divide(m.common, m.below->axis);
        }
    }

    void rules() {
        std::vector<Rule> all;
        for (const Power& power : model_.powers) {
            if (power.on) all.push_back({.pick = &*power.on, .name = display_name(power), .stays = stays_.of(power.profile)});
        }
        for (std::size_t h = 0; h < model_.holds.size(); ++h)
            if (model_.holds[h].in.empty())
                all.push_back({.pick = &model_.holds[h].on, .name = display_name(model_.holds[h], h), .stays = stays_.of({model_.holds[h].profile})});
        constexpr double usual_film = 10.0;  // W/(m² K), where a law or a curve decides it
        for (std::size_t c = 0; c < model_.coolings.size(); ++c) {
            const Cooling& cooling = model_.coolings[c];
            std::vector<std::string> profiles = cooling.profile;
            profiles.insert(profiles.end(), cooling.radiation_profile.begin(), cooling.radiation_profile.end());
            profiles.push_back(cooling.ambient_profile);
            all.push_back({&cooling.on, display_name(cooling, c), cooling.convection.value_or(usual_film), stays_.of(profiles)});
        }
        for (const Rule& rule : all) rule_on(rule, *rule.pick, 0);
    }

    /// The footprints of a rule, or of the named surfaces that it picks from.
    void rule_on(const Rule& rule, const Selection& pick, std::size_t depth) {
        if (depth > model_.surfaces.size()) return;
        for (const std::string& name : pick.surfaces) {
            for (const Surface& named : model_.surfaces) {
                if (named.name == name) rule_on(rule, named.pick, depth + 1);
            }
        }
        if (!pick.region && std::isinf(rule.stays)) return;
        const Box region = pick.region ? bounds(triangulate(*pick.region, std::numeric_limits<double>::max())) : Box{};
        for (const FlatFace& face : faces_) {
            if (!may_pick(pick, face)) continue;
            if (!pick.region) {
                if (pick.surfaces.empty()) follow(face, {.with = rule.name, .of_rule = true}, rule.stays, rule.film);
                continue;
            }
            Box common;
            bool meets = true;
            for (int axis = 0; axis < 3; ++axis) {
                common.at[axis] = std::max(region.lower()[axis], face.extent.lower()[axis]);
                common.size[axis] = std::min(region.upper()[axis], face.extent.upper()[axis]) - common.at[axis];
                meets = meets && common.size[axis] > (axis == face.axis ? -layout_.tolerance : layout_.tolerance);
            }
            if (!meets) continue;
            spread(face, common, {.with = rule.name, .of_rule = true}, rule.film);
            follow(face, {.with = rule.name, .of_rule = true}, rule.stays, rule.film);
            if (body(face.body).surface == no_index && std::holds_alternative<Box>(*pick.region)) divide(common, face.axis);
        }
    }

    [[nodiscard]] bool may_pick(const Selection& pick, const FlatFace& face) const {
        const Body& of = body(face.body);
        if (!pick.parts.empty() &&
            std::none_of(pick.parts.begin(), pick.parts.end(), [&](const std::string& p) { return picks(p, of.name, model_.parts[of.part].name); }))
            return false;
        if (!pick.sides.empty() && of.surface == no_index) {
            const std::string_view side = name_of(make_side(face.axis, face.upper));
            if (std::none_of(pick.sides.begin(), pick.sides.end(), [&](const std::string& s) { return matches_wildcard(s, side); })) return false;
        }
        if (!pick.faces.empty() && !is_marked(pick, face)) return false;
        if (pick.facing.empty()) return true;
        Vec3 normal{};
        normal[face.axis] = face.upper ? 1.0 : -1.0;
        const double least = std::cos(pick.within * std::numbers::pi / 180.0) - 1e-9;
        return std::any_of(pick.facing.begin(), pick.facing.end(), [&](Vec3 d) { return dot(normalized(d), normal) >= least; });
    }

    [[nodiscard]] bool is_marked(const Selection& pick, const FlatFace& face) const {
        const std::optional<Index> mark = mark_of(layout_.face_rules, layout_.regions.size(), pick);
        return std::any_of(face.zones.begin(), face.zones.end(), [&](std::uint16_t zone) {
            const std::vector<Index>& marks = layout_.zones[zone];
            return mark && std::find(marks.begin(), marks.end(), *mark) != marks.end();
        });
    }

    /// Whole width of a stretch whose images by symmetry, or by revolution, go on beyond its ends, m.
    [[nodiscard]] double width(int axis, double from, double to) const {
        const double size = to - from;
        const bool revolved = model_.space && model_.space->revolved;
        if (revolved && axis == 0) return from <= layout_.tolerance ? 2.0 * to : size;
        const bool low = layout_.mirror_side[static_cast<std::size_t>(make_side(axis, false))] && from - domain_.low[axis] <= layout_.tolerance;
        const bool high = layout_.mirror_side[static_cast<std::size_t>(make_side(axis, true))] && domain_.high[axis] - to <= layout_.tolerance;
        return low || high ? 2.0 * size : size;
    }

    /// Footprints between grid planes get the cells that a part of their width would.
    void divide(const Box& footprint, int normal) {
        for (int axis = 0; axis < 3; ++axis) {
            if (axis == normal || !varies_along(axis)) continue;
            across[static_cast<std::size_t>(axis)].push_back(
                {footprint.lower()[axis], footprint.upper()[axis], model_.mesh.coarsening * footprint.size[axis] / model_.mesh.through});
        }
    }

    /// Enters the first cell of the face's body that sees heat spread from a footprint.
    void spread(const FlatFace& face, const Box& footprint, FirstCell cell, double film = std::numeric_limits<double>::infinity()) {
        if (!varies_along(face.axis) || model_.parts[body(face.body).part].stirred) return;
        const Box& box = body(face.body).box;
        const auto& k = material_named(model_, model_.parts[body(face.body).part].material).conductivity;
        const auto n = static_cast<std::size_t>(face.axis);
        double scaled = std::numeric_limits<double>::max(), half = 0.0;  // half-width over √k
        for (int axis = 0; axis < 3; ++axis) {
            if (axis == face.axis || !varies_along(axis)) continue;
            if (footprint.size[axis] > tie * whole * box.size[axis]) continue;
            const double here = 0.5 * width(axis, footprint.lower()[axis], footprint.upper()[axis]);
            const double root = std::sqrt(k[static_cast<std::size_t>(axis)]);
            if (here / root >= scaled) continue;
            scaled = here / root;
            half = here;
        }
        if (half == 0.0) return;
        if (film * scaled < tie * least_biot * std::sqrt(k[n])) return;
        cell.width = 2.0 * half;
        cell.size = share * scaled * std::sqrt(k[n]);
        enter(face, std::move(cell));
    }

    /// Enters the first cell of the face's body that sees how far heat gets into it before it changes.
    void follow(const FlatFace& face, FirstCell cell, double time, double film) {
        if (std::isinf(time) || !varies_along(face.axis) || model_.parts[body(face.body).part].stirred) return;
        const Material& material = material_named(model_, model_.parts[body(face.body).part].material);
        if (!material.density || !material.specific_heat) return;
        const double k = material.conductivity[static_cast<std::size_t>(face.axis)];
        const double depth = std::sqrt(k * time / (*material.density * *material.specific_heat));
        if (film * depth < tie * least_biot * k) return;
        cell.time = time;
        cell.size = std::max(share * depth, thinnest * body(face.body).box.size[face.axis]);
        enter(face, std::move(cell));
    }

    void enter(const FlatFace& face, FirstCell cell) {
        const Box& box = body(face.body).box;
        cell.axis = face.axis;
        cell.at = face.at();
        cell.upper = !face.upper;
        cell.body = face.body;
        const double depth = face.upper ? cell.at - box.lower()[face.axis] : box.upper()[face.axis] - cell.at;
        if (cell.size >= tie * 0.5 * depth || cell.size <= 10.0 * layout_.tolerance) return;
        found_.push_back(std::move(cell));
    }

    void keep_thinnest_of_each_plane() {
        const auto place = [](const FirstCell& c) { return std::tuple(c.axis, c.upper, c.at); };
        std::sort(found_.begin(), found_.end(), [&](const FirstCell& a, const FirstCell& b) {
            return std::tuple(place(a), a.size, a.body, a.with) < std::tuple(place(b), b.size, b.body, b.with);
        });
        for (FirstCell& cell : found_) {
            const bool here =
                !cells.empty() && cells.back().axis == cell.axis && cells.back().upper == cell.upper && cell.at - cells.back().at <= 2.0 * layout_.tolerance;
            if (!here) {
                cells.push_back(std::move(cell));
            } else if (cell.size < cells.back().size) {
                cell.at = cells.back().at;
                cells.back() = std::move(cell);
            }
        }
    }

    const Model& model_;
    const Layout& layout_;
    std::vector<FlatFace> faces_;
    Stays stays_;
    std::vector<double> heated_;  // s, per body
    Extent domain_;
    std::vector<FirstCell> found_;
};

}  // namespace

void size_footprints(const Model& model, Layout& layout) {
    Finder finder(model, layout);
    finder.find();
    layout.first_cells = std::move(finder.cells);
    layout.across = std::move(finder.across);
}

}  // namespace firnfield
