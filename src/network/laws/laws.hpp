/// The laws of heat transfer that families of elements follow, one a file. A family without a law conducts: heat is coefficient times difference.
#pragma once

#include <firnfield/convection.hpp>

#include "network/law.hpp"

#include <memory>
#include <vector>

namespace firnfield {

/// A factor that depends on temperature; null: none.
using Factor = std::shared_ptr<const Curve>;

/// Conduction within a body whose conductivity depends on temperature: coefficient (W/K) times the mean of the factor between the two temperatures times
/// their difference, exact in a straight bar whatever the grid (G. Kirchhoff's transform). `which` tells the factor of each element.
[[nodiscard]] std::shared_ptr<const Law> conduction_law(std::vector<Factor> factors, std::vector<Index> which);

/// A film between two faces that touch: its coefficient follows from the temperatures of the two.
class VaryingFilm {
public:
    explicit VaryingFilm(Curve over_difference);
    explicit VaryingFilm(ConvectionLaw correlation);

    /// W/(m² K), between a surface and a fluid (K).
    [[nodiscard]] double coefficient(double surface, double fluid) const;
    /// One of the values that it has, above nothing.
    [[nodiscard]] double usual() const { return usual_; }

private:
    Curve over_difference_{};
    std::optional<ConvectionLaw> correlation_{};
    double usual_ = 0.0;
};

/// Two bodies and their joint in a row, each with its own dependence on temperature.
struct InSeries {
    double first_share = 0.0, second_share = 0.0;  ///< of the resistance, without factors; the rest is the joint's
    Factor first{}, second{};                      ///< on the conductivities, at the ends' temperatures
    Factor joint{};                                ///< on the joint's resistance, at the mean temperature; or
    std::shared_ptr<const VaryingFilm> film{};     ///< that is the joint, with its usual coefficient where nothing is applied to the resistance
    bool fluid_first = false;                      ///< of the film: on which side of it the fluid is
};
/// Conduction across joints: coefficient in W/K, without factors and with the usual coefficient of films.
class ContactLaw : public Law {
public:
    /// K of the difference of each element that fall across the joint itself.
    virtual void drops(const Elements& elements, std::span<double> out) const = 0;
};
[[nodiscard]] std::shared_ptr<const ContactLaw> contact_law(std::vector<InSeries> elements);

/// Grey radiation: coefficient (W/K⁴) times the difference of the fourth powers, and times a factor of the temperature of the first end where one is given.
[[nodiscard]] std::shared_ptr<const Law> radiation_law(const Curve& factor = {});

/// Convection with a coefficient of heat transfer that depends on the difference: `coefficient` (W/m² K) of K, times an area.
[[nodiscard]] std::shared_ptr<const Law> convection_law(const Curve& coefficient);

/// Convection by a correlation, times an area.
[[nodiscard]] std::shared_ptr<const Law> convection_law(const ConvectionLaw& correlation);

/// Heat that is put in: −coefficient (W), times a factor of the temperature where it enters.
[[nodiscard]] std::shared_ptr<const Law> load_law(const Curve& factor);

}  // namespace firnfield
