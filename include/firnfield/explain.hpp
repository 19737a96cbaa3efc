/// Why a place is hot, and what would change it: exact splits of its rise over what the heat passes and over who makes it, and
/// sensitivities, all by one adjoint solve each.
#pragma once

#include <firnfield/findings.hpp>
#include <firnfield/steady.hpp>

#include <optional>
#include <string>

namespace firnfield {

/// What to explain: the hottest (or coldest) place of a part, a sensor, or with neither the hottest place of all.
struct ExplainOptions {
    std::string part{}, sensor{};
    bool coldest = false;
    std::optional<double> limit{};  ///< K, told along
    bool sensitivities = true;
    /// Of a steady study: the temperature is corrected for the mesh, as findings() does it, and the correction is a piece of its own. Worked out unless given.
    bool errors = true;
    std::optional<double> correction{};  ///< K
    double tolerance = 1e-12;            ///< of the adjoint solve
    ProgressCallback progress{};
};

/// The limit that is missed most or kept with the least margin; the hottest place of all where there are no limits. Corrected as the findings are.
[[nodiscard]] ExplainOptions tightest(const Findings& findings);

/// Explains a temperature of a solution. With T = base + rise and λ the temperatures that one watt at the place would cause (K/W),
/// the rise is the sum over all conductances of the heat through them times the drop of λ across them, and also the sum over
/// all loads of their watts times λ. Surroundings warmer than `base` count by themselves. Conductances that depend on temperature are taken
/// as they are at the solution. Of a moment of a run in time, heat that goes into or comes out of storage counts as a load.
///
/// Sensitivities use the adjoint of the derivative of the heat balance, so they are right for nonlinear models, too.
///
/// Method: adjoint of a linear functional; for networks it is Tellegen's theorem (B. D. H. Tellegen, Philips Res. Rep. 7 (1952) 259).
/// Throws ModelError for a part or sensor that does not exist.
[[nodiscard]] Explanation explain(const Model& model, const SteadySolution& solution, const ExplainOptions& options = {});

}  // namespace firnfield
