// Which rule claims which surface.

#include "network/claims.hpp"

#include <firnfield/quantity.hpp>

#include "base/words.hpp"
#include "model/bodies.hpp"
#include "model/lumped.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <map>

namespace firnfield {
namespace {

/// One claim of a hold or cooling, in the order in which they are settled.
struct Claimant {
    const Selection* pick;
    std::string address, name;
    bool beside, hold;
    Coverage* coverage;
};

}  // namespace

Claims settle_claims(const Model& model, const Mesh& mesh, const Acting& acting) {
    Claims claims;
    claims.coolings.resize(model.coolings.size());
    claims.holds.resize(model.holds.size());
    claims.resistors.resize(model.resistors.size());
    std::vector<Claimant> claimants;
    for (std::size_t h = 0; h < model.holds.size(); ++h) {
        if (!acting.holds[h] || !model.holds[h].in.empty()) continue;
        claimants.push_back({&model.holds[h].on, fmt::format("hold[{}].on", h), display_name(model.holds[h], h), false, true, &claims.holds[h]});
    }
    std::vector<Selection> ends;
    ends.reserve(2 * model.resistors.size());
    for (std::size_t r = 0; r < model.resistors.size(); ++r) {
        for (const ResistorEnd& end : ends_of(model, model.resistors[r])) {
            if (end.kind != ResistorEnd::Kind::surface) continue;
            ends.push_back(model.surfaces[end.index].pick);
            claimants.push_back({&ends.back(), fmt::format("resistor[{}].between[{}]", r, end.given), display_name(model.resistors[r]), false, true,
                                 &claims.resistors[r][end.given]});
        }
    }
    for (std::size_t c = 0; c < model.coolings.size(); ++c) {
        const Cooling& cooling = model.coolings[c];
        if (!acting.coolings[c]) continue;
        claimants.push_back({&cooling.on, fmt::format("cooling[{}].on", c), display_name(cooling, c), cooling.beside, false, &claims.coolings[c]});
    }
    // Rules for the rest come after all others, in their own order.
    std::stable_partition(claimants.begin(), claimants.end(), [](const Claimant& c) { return !c.pick->rest; });

    std::vector<Problem> problems;
    const auto pick = [&](const Selection& rule, const std::string& address) -> std::vector<Index> {
        if (picks_only_left_out(model, rule.parts)) return {};
        try {
            return select_patches(model, mesh, rule, address);
        } catch (const ModelError& error) {
            problems.insert(problems.end(), error.problems().begin(), error.problems().end());
            return {};
        }
    };
    // A named surface that picks nothing is a mistake, used or not.
    for (std::size_t s = 0; s < model.surfaces.size(); ++s) static_cast<void>(pick(model.surfaces[s].pick, fmt::format("surface[{}]", s)));

    std::vector<Index> owner(mesh.patches.size(), no_index);  // claimant by patch
    for (std::size_t n = 0; n < claimants.size(); ++n) {
        const Claimant& claimant = claimants[n];
        const std::vector<Index> picked = pick(*claimant.pick, claimant.address);
        if (picked.empty()) continue;
        std::map<Index, double> twice;  // earlier claimant → area
        for (const Index patch : picked) {
            const Index before = owner[patch];
            if (before != no_index) {
                if (claimant.pick->rest && !claimants[before].pick->rest) continue;
                if (!claimant.beside || claimants[before].hold) {
                    twice[before] += mesh.patches.area[patch];
                    continue;
                }
            } else {
                owner[patch] = static_cast<Index>(n);
            }
            claimant.coverage->patches.push_back(patch);
            claimant.coverage->area += mesh.patches.area[patch];
        }
        for (const auto& [before, area] : twice) {
            const std::string_view advice = claimant.hold || claimants[before].hold
                                                ? "narrow one of the two rules, or list the other surface under \"except\""
                                                : "narrow one of the two rules, or say beside = true if both act on it in parallel";
            problems.push_back({.address = claimant.address,
                                .message = fmt::format("{} of surface are already claimed by {}; {}", show_quantity(area * mesh.multiplicity, kinds::area),
                                                       in_quotes(claimants[before].name), advice),
                                .location = {}});
        }
        if (twice.empty() && claimant.coverage->patches.empty()) {
            problems.push_back({.address = claimant.address, .message = "nothing exposed is left for this rule: others claim all of it", .location = {}});
        }
    }
    if (!problems.empty()) throw ModelError(std::move(problems));
    for (std::size_t patch = 0; patch < owner.size(); ++patch) {
        if (owner[patch] == no_index) claims.unclaimed.push_back(static_cast<Index>(patch));
    }
    return claims;
}

}  // namespace firnfield
