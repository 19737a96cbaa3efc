/// Rules that pick faces by what they are like.
#pragma once

#include <firnfield/mesh.hpp>

#include <optional>
#include <string>
#include <vector>

namespace firnfield {

/// What a rule of the model says about faces, and of which parts.
struct FaceRule {
    std::vector<std::string> parts{};  ///< patterns; empty: all
    FacePick pick{};
    std::string address{};  ///< of the first rule that says so, of those that act where some do
    bool acts = true;       ///< false: all of them are left out of the model
    [[nodiscard]] bool same(const Selection& rule) const { return pick == rule.faces && parts == rule.parts; }
};

/// Every such rule of the model, each once, in its order. Their marks on surfaces are numbered after those of the regions (rule_regions()).
[[nodiscard]] std::vector<FaceRule> face_rules(const Model& model);

/// The number of the mark that a rule leaves on faces, after so many regions; none where it is no rule of the model.
[[nodiscard]] std::optional<Index> mark_of(const std::vector<FaceRule>& rules, std::size_t regions, const Selection& rule);

/// Whether a rule speaks of a body of the model.
[[nodiscard]] bool names_body(const FaceRule& rule, const Model& model, const Body& body);

/// The faces of a solid that are meant.
struct PickedFaces {
    std::vector<bool> picked{};  ///< per face of the surface
    double distance = 0.0;       ///< m, to the point of FacePick::smooth_from; 0 without
};

/// Judges the faces of the surface of a whole part, where it stands; `left_out` are no faces. `flat`: nothing varies along z.
[[nodiscard]] PickedFaces pick_faces(const ClosedSurface& surface, const FacePick& pick, const std::vector<bool>& left_out, bool flat);

/// How far from a point of FacePick::smooth_from a surface may be, as a share of its extent: points are typed with few digits.
inline constexpr double near_point = 0.01;

}  // namespace firnfield
