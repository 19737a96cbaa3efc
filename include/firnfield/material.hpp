/// Material records and the built-in library.
#pragma once

#include <firnfield/curve.hpp>

#include <array>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace firnfield {

/// Solid below, liquid above; in between the latent heat is taken up evenly. Both ends may be the same, as of pure substances:
/// a study then lets it melt over a fifth of its tolerance (melting_range()).
struct Melting {
    double from = 0.0, to = 0.0;  ///< K
    double latent_heat = 0.0;     ///< J/kg
    bool operator==(const Melting&) const = default;
};

/// Thermal properties of a material. What is absent is unknown, not zero.
struct Material {
    std::string name{};
    /// W/(m K) along x, y, z; three equal values for an isotropic material.
    std::array<double, 3> conductivity{};
    Curve conductivity_factor{};            ///< times `conductivity`, over temperature (K); empty: constant
    std::optional<double> density{};        ///< kg/m³
    std::optional<double> specific_heat{};  ///< J/(kg K)
    Curve specific_heat_factor{};           ///< times `specific_heat`, over temperature (K); empty: constant
    std::optional<Melting> melting{};       ///< phase change with latent heat
    std::optional<double> emissivity{};     ///< hemispherical total emissivity of the usual surface, 0 … 1
    std::optional<double> resistivity{};    ///< electrical, Ohm m
    std::optional<double> service_limit{};  ///< highest temperature in continuous service, K
    std::optional<double> valid_from{};     ///< K, range in which the values hold
    std::optional<double> valid_to{};       ///< K
    std::string group{};                    ///< "metals", "plastics", …
    std::string note{};                     ///< where the values come from and how much they vary

    [[nodiscard]] bool isotropic() const { return conductivity[0] == conductivity[1] && conductivity[1] == conductivity[2]; }
    bool operator==(const Material&) const = default;
};

/// The range that a study of this tolerance (K) lets a material melt over: as it is given, or where that is one temperature, a fifth
/// of the tolerance around it.
[[nodiscard]] Melting melting_range(const Melting& melting, double tolerance);

/// Isotropic conductivity for designated initialisers: `.conductivity = isotropic(3.0)`.
[[nodiscard]] constexpr std::array<double, 3> isotropic(double conductivity) { return {conductivity, conductivity, conductivity}; }

/// The materials that come with Firnfield, ordered by group and name.
[[nodiscard]] std::span<const Material> builtin_materials();
/// Names of library materials that people mean by a word, such as "structural steel", "FR4" or "PA66 GF30": by synonyms, else those whose names have
/// all of it in them but for case, spaces and punctuation. Empty where nothing is near.
[[nodiscard]] std::vector<std::string> materials_meant_by(std::string_view words);

/// The material of that name: the model's own ones first, then the built-in library; nullptr when there is none.
[[nodiscard]] const Material* find_material(std::span<const Material> own, std::string_view name);

}  // namespace firnfield
