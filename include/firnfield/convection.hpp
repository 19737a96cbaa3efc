/// Convection coefficients from published correlations, with their ranges of validity, and the fluids they need.
#pragma once

#include <firnfield/curve.hpp>

#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

/// Standard acceleration of gravity, m/s².
inline constexpr double standard_gravity = 9.80665;

/// Properties of a fluid at one temperature.
struct FluidState {
    double conductivity = 0.0;         ///< W/(m K)
    double kinematic_viscosity = 0.0;  ///< m²/s
    double prandtl = 0.0;
    double expansion = 0.0;  ///< volumetric, 1/K
};

/// Names of the fluids: "air", "water", …
[[nodiscard]] std::vector<std::string> fluid_names();

/// Properties at a temperature (K) and, for gases, a pressure (Pa). Outside a liquid's table the nearest end counts.
/// Throws Error for an unknown fluid.
[[nodiscard]] FluidState fluid_state(std::string_view fluid, double temperature, double pressure = 101325.0);

/// Range in which a fluid's properties are tabulated, K.
struct FluidRange {
    double from = 0.0, to = 0.0;
};
[[nodiscard]] FluidRange fluid_range(std::string_view fluid);

/// A fluid of one's own: values, or curves over temperature (K), which are constant beyond their ends.
struct Fluid {
    std::string name{};
    Curve conductivity{};   ///< W/(m K)
    Curve density{};        ///< kg/m³
    Curve viscosity{};      ///< dynamic, Pa s
    Curve specific_heat{};  ///< J/(kg K)
    Curve expansion{};      ///< volumetric, 1/K; may be negative
    bool operator==(const Fluid&) const = default;
};
/// Properties at a temperature, K. A single point of a curve is a constant value.
[[nodiscard]] FluidState fluid_state(const Fluid& fluid, double temperature);
/// What is wrong with a fluid; empty when nothing is.
[[nodiscard]] std::vector<std::string> problems_of(const Fluid& fluid);

/// What a correlation is applied to. Which dimensions count is told by ConvectionLawInfo.
struct ConvectionLaw {
    std::string law{};  ///< "vertical plate", …
    std::string fluid = "air";
    std::optional<double> length{};            ///< m: height, length in flow direction, or area over perimeter
    std::optional<double> diameter{};          ///< m: of a cylinder or sphere; hydraulic of a duct
    std::optional<double> spacing{};           ///< m, between fins or plates
    std::optional<double> angle{};             ///< degrees from the vertical
    std::optional<double> speed{};             ///< m/s, of the undisturbed flow; mean in a duct
    double pressure = 101325.0;                ///< Pa
    std::shared_ptr<const Fluid> own_fluid{};  ///< instead of the fluid named; a model fills it in from its fluids (with_own_fluid())
    bool operator==(const ConvectionLaw&) const = default;
};

/// Properties of the law's fluid, at its pressure.
[[nodiscard]] FluidState fluid_state(const ConvectionLaw& law, double temperature);

/// A correlation as users see it.
struct ConvectionLawInfo {
    std::string name;
    bool forced = false;
    std::vector<std::string> needs;  ///< keys: "length", "diameter", "spacing", "angle", "speed"
    std::string meaning;             ///< of its lengths
    std::string source;              ///< authors, where published
    std::string range;               ///< where it holds
};
[[nodiscard]] std::span<const ConvectionLawInfo> convection_laws();

/// What is wrong with a law; empty when nothing is.
[[nodiscard]] std::vector<std::string> problems_of(const ConvectionLaw& law);

/// A coefficient and the numbers on the way to it.
struct ConvectionResult {
    double coefficient = 0.0;  ///< W/(m² K), mean over the surface
    double nusselt = 0.0;
    double driving = 0.0;  ///< Rayleigh number of natural, Reynolds number of forced convection
    bool forced = false;
    double film_temperature = 0.0;  ///< K
    FluidState fluid{};
    std::string regime{};                     ///< "laminar", "turbulent", …
    bool in_range = true;                     ///< whether the correlation was made for this
    std::optional<double> optimum_spacing{};  ///< m, of fins, where the law knows it
};

/// Evaluates a law between a surface and its surroundings (K), fluid properties at the film temperature.
/// Throws Error when problems_of() is not empty.
[[nodiscard]] ConvectionResult convection(const ConvectionLaw& law, double surface, double ambient);

/// The same with fluid properties given.
[[nodiscard]] ConvectionResult convection(const ConvectionLaw& law, double surface, double ambient, const FluidState& fluid);

/// Usual coefficients of a situation, for orientation.
struct TypicalCoefficient {
    std::string_view situation;
    double from = 0.0, to = 0.0;  ///< W/(m² K)
};
[[nodiscard]] std::span<const TypicalCoefficient> typical_coefficients();

}  // namespace firnfield
