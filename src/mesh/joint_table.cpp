// Which joint rules a pair of bodies, how far it reaches, and those that join nothing.

#include "mesh/joint_table.hpp"

#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "model/bodies.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace firnfield {
namespace {

std::uint64_t key(Index first, Index second) { return (std::uint64_t{std::min(first, second)} << 32U) | std::max(first, second); }

/// Distance between two boxes, m; 0 when they touch or overlap.
double distance(const Box& a, const Box& b) {
    double square = 0.0;
    for (int axis = 0; axis < 3; ++axis) {
        const double apart = std::max({0.0, b.lower()[axis] - a.upper()[axis], a.lower()[axis] - b.upper()[axis]});
        square += apart * apart;
    }
    return std::sqrt(square);
}

}  // namespace

JointTable::JointTable(const Model& model, const std::vector<Body>& bodies) : model_(model), bodies_(bodies), reach_(bodies.size(), -1.0) {
    for (const Joint& joint : model.joints) {
        auto& sides = named_.emplace_back();
        for (std::size_t side = 0; side < 2; ++side) {
            for (std::size_t b = 0; b < bodies.size(); ++b) {
                const bool hit = joint.include && picks(joint.between[side], bodies[b].name, model.parts[bodies[b].part].name);
                sides[side].push_back(hit);
                if (hit) reach_[b] = std::max(reach_[b], joint.reach);
            }
        }
    }
}

bool JointTable::names(std::size_t joint, Index first, Index second) const {
    return (named_[joint][0][first] && named_[joint][1][second]) || (named_[joint][0][second] && named_[joint][1][first]);
}

Index JointTable::joint(Index first, Index second) const {
    if (reach_[first] < 0.0 || reach_[second] < 0.0) return no_index;
    for (std::size_t j = 0; j < named_.size(); ++j) {
        if (names(j, first, second)) return static_cast<Index>(j);
    }
    return no_index;
}

void JointTable::note_second_claim(Index first, Index second, Index joint) {
    for (std::size_t j = std::size_t{joint} + 1; j < named_.size(); ++j) {
        if (!names(j, first, second)) continue;
        problems_.push_back({.address = fmt::format("joint[{}]", j),
                             .message = fmt::format("the pair {} and {} is already ruled by joint {}; name each pair once", in_quotes(bodies_[first].name),
                                                    in_quotes(bodies_[second].name), in_quotes(display_name(model_.joints[joint]))),
                             .location = {}});
    }
}

Index JointTable::pair(Index first, Index second) {
    const auto [entry, is_new] = pair_index_.try_emplace(key(first, second), static_cast<Index>(pairs_.size()));
    if (is_new) {
        ContactPair pair;
        pair.first = first;
        pair.second = second;
        pair.joint = joint(first, second);
        if (pair.joint != no_index) note_second_claim(first, second, pair.joint);
        pairs_.push_back(pair);
        faces_.emplace_back();
    }
    return entry->second;
}

void JointTable::add(std::vector<FaceArea>& faces, Index body, std::uint16_t tag, double area) {
    const auto found = std::find_if(faces.begin(), faces.end(), [&](const FaceArea& f) { return f.body == body && f.tag == tag; });
    if (found == faces.end()) {
        faces.push_back({body, tag, area});
    } else {
        found->area += area;
    }
}

Index JointTable::touch(Index first, std::uint16_t first_tag, Index second, std::uint16_t second_tag, double area, double gap) {
    const Index index = pair(first, second);
    pairs_[index].area += area;
    pairs_[index].mean_gap += area * gap;  // divided by the area in settle()
    pairs_[index].largest_gap = std::max(pairs_[index].largest_gap, gap);
    add(faces_[index], first, first_tag, area);
    add(faces_[index], second, second_tag, area);
    return index;
}

std::vector<ContactPair> JointTable::settle(const Cells& cells, const std::vector<SurfacePatch>& exposed) {
    // The whole of a face is what touches others and what is left of it. Bridged gaps leave it exposed, so they count once.
    std::vector<std::vector<FaceArea>> whole(bodies_.size());
    for (const SurfacePatch& patch : exposed) add(whole[cells.body[patch.cell]], cells.body[patch.cell], patch.tag, patch.area);
    for (std::size_t p = 0; p < pairs_.size(); ++p) {
        if (pairs_[p].joint != no_index && model_.joints[pairs_[p].joint].exchange_factor) continue;
        for (const FaceArea& f : faces_[p]) add(whole[f.body], f.body, f.tag, f.area);
    }
    for (std::size_t p = 0; p < pairs_.size(); ++p) {
        ContactPair& pair = pairs_[p];
        pair.mean_gap /= pair.area;
        double first = 0.0, second = 0.0;
        for (const FaceArea& face : faces_[p]) {
            for (const FaceArea& all : whole[face.body]) {
                if (all.tag == face.tag) (face.body == pair.first ? first : second) += all.area;
            }
        }
        pair.nominal_area = std::max(pair.area, std::min(first, second));
    }
    return std::move(pairs_);
}

std::vector<OpenJoint> JointTable::open_joints() const {
    std::vector<OpenJoint> open;
    std::vector<Problem> problems = problems_;
    for (std::size_t j = 0; j < model_.joints.size(); ++j) {
        if (!model_.joints[j].include) continue;
        if (std::any_of(pairs_.begin(), pairs_.end(), [&](const ContactPair& pair) { return pair.joint == j; })) continue;
        // A joint of a left-out part rests with it.
        const auto& between = model_.joints[j].between;
        if (picks_only_left_out(model_, {&between[0], 1}) || picks_only_left_out(model_, {&between[1], 1})) continue;
        double nearest = std::numeric_limits<double>::max();
        for (std::size_t a = 0; a < bodies_.size(); ++a) {
            for (std::size_t b = 0; named_[j][0][a] && b < bodies_.size(); ++b) {
                if (a != b && named_[j][1][b]) nearest = std::min(nearest, distance(bodies_[a].box, bodies_[b].box));
            }
        }
        std::string hint = "a mirror plane cuts one of them away";
        if (nearest < std::numeric_limits<double>::max()) {
            const std::string apart = show_quantity(nearest, kinds::length);
            if (nearest == 0.0) {
                hint = "they meet in an edge only, or overlap";
            } else if (nearest > model_.joints[j].reach) {
                hint =
                    fmt::format("the nearest are {} apart{}", apart, model_.joints[j].may_be_open ? "" : "; move them together, set reach, or say may_be_open");
            } else {
                hint = fmt::format("the nearest are {} apart, within reach, but another part lies between or they do not face each other", apart);
            }
        }
        if (model_.joints[j].may_be_open) {
            open.push_back({static_cast<Index>(j), std::move(hint)});
            continue;
        }
        problems.push_back(
            {.address = fmt::format("joint[{}].between", j),
             .message = fmt::format("no faces of {} and {} touch: {}", in_quotes(model_.joints[j].between[0]), in_quotes(model_.joints[j].between[1]), hint),
             .location = {}});
    }
    if (!problems.empty()) throw ModelError(std::move(problems));
    return open;
}

}  // namespace firnfield
