// Coefficients from correlations: one function a law, with its source.

#include <firnfield/convection.hpp>
#include <firnfield/error.hpp>

#include "base/words.hpp"
#include "convection/laws.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace firnfield {
namespace {

constexpr double pi = 3.14159265358979323846;

/// Everything a correlation may ask for.
struct Situation {
    const ConvectionLaw& law;
    const FluidState& fluid;
    double surface, ambient;

    [[nodiscard]] double rayleigh(double size, double gravity = standard_gravity) const {
        // Where water is densest the expansion changes sign; what drives the flow is its size.
        return gravity * std::abs(fluid.expansion * (surface - ambient)) * size * size * size * fluid.prandtl /
               (fluid.kinematic_viscosity * fluid.kinematic_viscosity);
    }
    [[nodiscard]] double reynolds(double size) const { return *law.speed * size / fluid.kinematic_viscosity; }
};

void fill(ConvectionResult& r, double driving, double nusselt, double size, double conductivity, std::string regime, bool in_range) {
    r.driving = driving;
    r.nusselt = nusselt;
    r.coefficient = nusselt * conductivity / size;
    r.regime = std::move(regime);
    r.in_range = in_range;
}

void evaluate_horizontal(const Situation& s, bool face_up, ConvectionResult& r) {
    const double size = *s.law.length, ra = s.rayleigh(size);
    const bool hot = s.surface >= s.ambient;
    if (face_up == hot) {
        fill(r, ra, correlations::horizontal_free(ra), size, s.fluid.conductivity, "free to rise", ra >= 1e4 && ra <= 1e11);
    } else {
        fill(r, ra, correlations::horizontal_covered(ra), size, s.fluid.conductivity, "covered", ra >= 1e5 && ra <= 1e10);
    }
}

void evaluate_channel(const Situation& s, ConvectionResult& r) {
    const double spacing = *s.law.spacing, length = *s.law.length;
    const double ra = s.rayleigh(spacing) * spacing / length;
    fill(r, ra, correlations::parallel_plates(ra), spacing, s.fluid.conductivity, ra < 10.0 ? "fully developed" : "developing", ra >= 0.1 && ra <= 1e5);
    if (ra > 0.0) r.optimum_spacing = 2.714 * std::pow(s.rayleigh(spacing) / (spacing * spacing * spacing * length), -0.25);
}

/// With a given flux the published number is that of the flux: at the difference at hand it is solved for.
void evaluate_flux_channel(const Situation& s, ConvectionResult& r) {
    const double spacing = *s.law.spacing, ra = s.rayleigh(spacing) * spacing / *s.law.length;
    double nusselt = 0.0;
    if (ra > 0.0) {
        // Nu = f(Ra·Nu) with f rising slower than its argument: repeated insertion closes in.
        nusselt = correlations::parallel_plates(ra);
        for (int n = 0; n < 100; ++n) {
            const double next = correlations::parallel_plates_uniform_flux(ra * nusselt);
            const double change = std::abs(next - nusselt);
            nusselt = next;
            if (change <= 1e-14 * nusselt) break;
        }
    }
    fill(r, ra, nusselt, spacing, s.fluid.conductivity, ra < 10.0 ? "fully developed" : "developing", ra >= 0.1 && ra <= 1e5);
}

void evaluate_duct(const Situation& s, ConvectionResult& r) {
    constexpr double laminar_to = 2300.0, turbulent_from = 4000.0;
    const double size = *s.law.diameter, re = s.reynolds(size), pr = s.fluid.prandtl;
    const auto laminar = [&](double x) { return correlations::duct_laminar(x * pr * size / *s.law.length); };
    double nusselt = 0.0;
    std::string regime = "laminar";
    if (re <= laminar_to) {
        nusselt = laminar(re);
    } else if (re >= turbulent_from) {
        nusselt = correlations::duct_turbulent(re, pr);
        regime = "turbulent";
    } else {
        // V. Gnielinski, Int. J. Heat Mass Transfer 63 (2013) 134: linear between the two.
        const double u = (re - laminar_to) / (turbulent_from - laminar_to);
        nusselt = (1.0 - u) * laminar(laminar_to) + u * correlations::duct_turbulent(turbulent_from, pr);
        regime = "transition";
    }
    fill(r, re, nusselt, size, s.fluid.conductivity, regime, re <= 5e6 && pr >= 0.5 && pr <= 2000.0);
}

void evaluate_tube_bank(const Situation& s, bool staggered, ConvectionResult& r) {
    const double diameter = *s.law.diameter, across = *s.law.spacing, along = *s.law.length;
    // The narrowest passage: between neighbours of a row, or, where tubes are staggered closely, on the diagonal.
    double narrowing = across / (across - diameter);
    if (staggered) {
        const double diagonal = std::hypot(along, 0.5 * across);
        if (2.0 * (diagonal - diameter) < across - diameter) narrowing = across / (2.0 * (diagonal - diameter));
    }
    const double re = narrowing * s.reynolds(diameter), pr = s.fluid.prandtl;
    fill(r, re, correlations::tube_bank(re, pr, staggered, across / along), diameter, s.fluid.conductivity, staggered ? "staggered" : "in line",
         re >= 10.0 && re <= 2e6 && pr >= 0.69 && pr <= 500.0 && (staggered || across / along >= 0.7));
}

using Evaluate = void (*)(const Situation&, ConvectionResult&);

struct Entry {
    ConvectionLawInfo info;
    Evaluate evaluate;
};

const std::vector<Entry>& entries() {
    static const std::vector<Entry> list{
        {{"vertical plate",
          false,
          {"length"},
          "length: height",
          "S. W. Churchill and H. H. S. Chu, Int. J. Heat Mass Transfer 18 (1975) 1323",
          "Ra up to 1e12"},
         [](const Situation& s, ConvectionResult& r) {
             const double ra = s.rayleigh(*s.law.length);
             fill(r, ra, correlations::vertical_plate(ra, s.fluid.prandtl), *s.law.length, s.fluid.conductivity, ra < 1e9 ? "laminar" : "turbulent",
                  ra <= 1e12);
         }},
        {{"inclined plate",
          false,
          {"length", "angle"},
          "length along the slope, angle from the vertical",
          "Churchill and Chu (1975) with g cos(angle), after W. M. Rich, J. Heat Transfer 75 (1953) 489",
          "angle up to 60 degrees, Ra up to 1e9"},
         [](const Situation& s, ConvectionResult& r) {
             const double ra = s.rayleigh(*s.law.length, standard_gravity * std::cos(*s.law.angle * pi / 180.0));
             fill(r, ra, correlations::vertical_plate(ra, s.fluid.prandtl), *s.law.length, s.fluid.conductivity, ra < 1e9 ? "laminar" : "turbulent",
                  ra <= 1e9 && *s.law.angle <= 60.0);
         }},
        {{"horizontal plate facing up",
          false,
          {"length"},
          "length: area over perimeter",
          "J. R. Lloyd and W. R. Moran, J. Heat Transfer 96 (1974) 443; W. H. McAdams, Heat Transmission (1954)",
          "Ra 1e4 to 1e11 when hot, 1e5 to 1e10 when cold"},
         [](const Situation& s, ConvectionResult& r) { evaluate_horizontal(s, true, r); }},
        {{"horizontal plate facing down",
          false,
          {"length"},
          "length: area over perimeter",
          "J. R. Lloyd and W. R. Moran, J. Heat Transfer 96 (1974) 443; W. H. McAdams, Heat Transmission (1954)",
          "Ra 1e5 to 1e10 when hot, 1e4 to 1e11 when cold"},
         [](const Situation& s, ConvectionResult& r) { evaluate_horizontal(s, false, r); }},
        {{"horizontal cylinder",
          false,
          {"diameter"},
          "diameter",
          "S. W. Churchill and H. H. S. Chu, Int. J. Heat Mass Transfer 18 (1975) 1049",
          "Ra 1e-5 to 1e12"},
         [](const Situation& s, ConvectionResult& r) {
             const double ra = s.rayleigh(*s.law.diameter);
             fill(r, ra, correlations::horizontal_cylinder(ra, s.fluid.prandtl), *s.law.diameter, s.fluid.conductivity, ra < 1e9 ? "laminar" : "turbulent",
                  ra <= 1e12);
         }},
        {{"sphere", false, {"diameter"}, "diameter", "S. W. Churchill, Heat Exchanger Design Handbook (1983)", "Ra up to 1e11, Pr from 0.7"},
         [](const Situation& s, ConvectionResult& r) {
             const double ra = s.rayleigh(*s.law.diameter);
             fill(r, ra, correlations::sphere_natural(ra, s.fluid.prandtl), *s.law.diameter, s.fluid.conductivity, "laminar",
                  ra <= 1e11 && s.fluid.prandtl >= 0.69);
         }},
        {{"vertical fin channel",
          false,
          {"length", "spacing"},
          "length: height of the fins, spacing: clear width between them",
          "A. Bar-Cohen and W. M. Rohsenow, J. Heat Transfer 106 (1984) 116",
          "Ra S/L 0.1 to 1e5, both walls at one temperature"},
         evaluate_channel},
        {{"vertical fin channel, uniform flux",
          false,
          {"length", "spacing"},
          "length: height of the fins, spacing: clear width between them; the surface temperature is that at half height",
          "A. Bar-Cohen and W. M. Rohsenow, J. Heat Transfer 106 (1984) 116",
          "Ra S/L 0.1 to 1e5, both walls with the same heat flux"},
         evaluate_flux_channel},
        {{"flat plate",
          true,
          {"length", "speed"},
          "length in flow direction",
          "E. Pohlhausen (1921); mixed form with transition at Re = 5e5",
          "Re up to 1e8, Pr 0.6 to 60"},
         [](const Situation& s, ConvectionResult& r) {
             const double re = s.reynolds(*s.law.length);
             fill(r, re, correlations::flat_plate(re, s.fluid.prandtl), *s.law.length, s.fluid.conductivity, re <= 5e5 ? "laminar" : "mixed",
                  re <= 1e8 && s.fluid.prandtl >= 0.6 && s.fluid.prandtl <= 60.0);
         }},
        {{"cylinder in cross flow",
          true,
          {"diameter", "speed"},
          "diameter",
          "S. W. Churchill and M. Bernstein, J. Heat Transfer 99 (1977) 300",
          "Re Pr from 0.2, Re up to 1e7"},
         [](const Situation& s, ConvectionResult& r) {
             const double re = s.reynolds(*s.law.diameter);
             fill(r, re, correlations::cylinder_cross_flow(re, s.fluid.prandtl), *s.law.diameter, s.fluid.conductivity, "cross flow",
                  re * s.fluid.prandtl >= 0.2 && re <= 1e7);
         }},
        {{"tube bank in line",
          true,
          {"diameter", "spacing", "length", "speed"},
          "diameter of the tubes, spacing: their pitch across the flow, length: along it, speed: before the bank",
          "A. Zukauskas, Adv. Heat Transfer 8 (1972) 93",
          "Re 10 to 2e6 with the speed between the tubes, Pr 0.7 to 500, 20 rows or more, pitch across over along from 0.7"},
         [](const Situation& s, ConvectionResult& r) { evaluate_tube_bank(s, false, r); }},
        {{"staggered tube bank",
          true,
          {"diameter", "spacing", "length", "speed"},
          "diameter of the tubes, spacing: their pitch across the flow, length: along it, speed: before the bank",
          "A. Zukauskas, Adv. Heat Transfer 8 (1972) 93",
          "Re 10 to 2e6 with the speed between the tubes, Pr 0.7 to 500, 20 rows or more"},
         [](const Situation& s, ConvectionResult& r) { evaluate_tube_bank(s, true, r); }},
        {{"vertical gap",
          false,
          {"length", "spacing"},
          "length: height of the gap, spacing: its width; the ambient is the other wall",
          "S. M. ElSherbiny, G. D. Raithby and K. G. T. Hollands, J. Heat Transfer 104 (1982) 96",
          "height over width 5 to 110, Ra up to 1e7"},
         [](const Situation& s, ConvectionResult& r) {
             const double width = *s.law.spacing, slenderness = *s.law.length / width, ra = s.rayleigh(width);
             fill(r, ra, correlations::vertical_gap(ra, slenderness), width, s.fluid.conductivity, ra < 1000.0 ? "conduction" : "convection",
                  slenderness >= 5.0 && slenderness <= 110.0 && ra <= 1e7);
         }},
        {{"horizontal gap facing up",
          false,
          {"spacing"},
          "spacing: width of the gap above this wall; the ambient is the upper wall",
          "K. G. T. Hollands, T. E. Unny, G. D. Raithby and L. Konicek, J. Heat Transfer 98 (1976) 189",
          "Ra up to 1e8, wide gap; still when the upper wall is the warmer one"},
         [](const Situation& s, ConvectionResult& r) {
             const double width = *s.law.spacing, ra = s.rayleigh(width);
             const bool rises = s.surface > s.ambient;
             fill(r, ra, rises ? correlations::horizontal_gap(ra) : 1.0, width, s.fluid.conductivity, rises && ra > 1708.0 ? "convection" : "conduction",
                  ra <= 1e8);
         }},
        {{"sphere in a stream", true, {"diameter", "speed"}, "diameter", "S. Whitaker, AIChE J. 18 (1972) 361", "Re 3.5 to 7.6e4, Pr 0.7 to 380"},
         [](const Situation& s, ConvectionResult& r) {
             const double re = s.reynolds(*s.law.diameter);
             fill(r, re, correlations::sphere_forced(re, s.fluid.prandtl), *s.law.diameter, s.fluid.conductivity, "stream",
                  re >= 3.5 && re <= 7.6e4 && s.fluid.prandtl >= 0.69 && s.fluid.prandtl <= 380.0);
         }},
        {{"duct",
          true,
          {"diameter", "length", "speed"},
          "diameter: hydraulic, length: of the duct, speed: mean",
          "laminar: H. Hausen (1943); turbulent: V. Gnielinski, Int. Chem. Eng. 16 (1976) 359",
          "Re up to 5e6, Pr 0.5 to 2000"},
         evaluate_duct},
    };
    return list;
}

const Entry* find_entry(std::string_view name) {
    const auto found = std::find_if(entries().begin(), entries().end(), [&](const Entry& e) { return e.info.name == name; });
    return found == entries().end() ? nullptr : &*found;
}

struct NamedValue {
    std::string_view key;
    const std::optional<double>& value;
    std::string_view example;
};

std::array<NamedValue, 5> values_of(const ConvectionLaw& law) {
    return {{{"length", law.length, "\"120 mm\""},
             {"diameter", law.diameter, "\"20 mm\""},
             {"spacing", law.spacing, "\"8 mm\""},
             {"angle", law.angle, "30"},
             {"speed", law.speed, "\"2 m/s\""}}};
}

}  // namespace

std::span<const ConvectionLawInfo> convection_laws() {
    static const std::vector<ConvectionLawInfo> list = [] {
        std::vector<ConvectionLawInfo> infos;
        for (const Entry& entry : entries()) infos.push_back(entry.info);
        return infos;
    }();
    return list;
}

std::vector<std::string> problems_of(const ConvectionLaw& law) {
    const Entry* entry = find_entry(law.law);
    if (entry == nullptr) {
        std::vector<std::string> names;
        for (const ConvectionLawInfo& info : convection_laws()) names.push_back(info.name);
        return {fmt::format("unknown convection law {}{}; there are {}", in_quotes(law.law), did_you_mean(law.law, names), quoted_list(names, names.size()))};
    }
    std::vector<std::string> problems;
    for (const NamedValue& v : values_of(law)) {
        const bool needed = std::find(entry->info.needs.begin(), entry->info.needs.end(), v.key) != entry->info.needs.end();
        const bool is_angle = v.key == "angle";
        if (needed && !v.value) {
            problems.push_back(fmt::format("law \"{}\" needs {} = {} ({})", law.law, v.key, v.example, entry->info.meaning));
        } else if (!needed && v.value) {
            problems.push_back(fmt::format("law \"{}\" has no use for {}; it takes {}", law.law, v.key, quoted_list(entry->info.needs)));
        } else if (v.value && !(std::isfinite(*v.value) && (is_angle ? *v.value >= 0.0 && *v.value < 90.0 : *v.value > 0.0))) {
            problems.push_back(is_angle ? fmt::format("the angle must be 0 to 90 degrees from the vertical, found {:g}", *v.value)
                                        : fmt::format("the {} must be positive, found {:g}", v.key, *v.value));
        }
    }
    if (problems.empty() && law.diameter && law.spacing) {
        if (*law.spacing <= *law.diameter) problems.push_back("tubes this close touch: their pitch across the flow has to be larger than the diameter");
        if (law.law == "staggered tube bank" && std::hypot(*law.length, 0.5 * *law.spacing) <= *law.diameter) {
            problems.push_back("tubes this close touch on the diagonal; give a larger length (pitch along the flow)");
        }
    }
    const std::vector<std::string> fluids = fluid_names();
    if (law.own_fluid) {
        for (std::string& problem : problems_of(*law.own_fluid)) problems.push_back(std::move(problem));
    } else if (std::find(fluids.begin(), fluids.end(), law.fluid) == fluids.end()) {
        problems.push_back(fmt::format("unknown fluid {}{}; there are {}", in_quotes(law.fluid), did_you_mean(law.fluid, fluids), quoted_list(fluids)));
    }
    if (!(law.pressure > 0.0) || !std::isfinite(law.pressure)) problems.push_back(fmt::format("the pressure must be positive, found {:g}", law.pressure));
    return problems;
}

ConvectionResult convection(const ConvectionLaw& law, double surface, double ambient, const FluidState& fluid) {
    const Entry* entry = find_entry(law.law);
    if (entry == nullptr) throw Error(problems_of(law).front());
    ConvectionResult result;
    result.forced = entry->info.forced;
    result.film_temperature = 0.5 * (surface + ambient);
    result.fluid = fluid;
    entry->evaluate({law, fluid, surface, ambient}, result);
    return result;
}

FluidState fluid_state(const ConvectionLaw& law, double temperature) {
    return law.own_fluid ? fluid_state(*law.own_fluid, temperature) : fluid_state(law.fluid, temperature, law.pressure);
}

ConvectionResult convection(const ConvectionLaw& law, double surface, double ambient) {
    if (const std::vector<std::string> problems = problems_of(law); !problems.empty()) throw Error(problems.front());
    const double film = 0.5 * (surface + ambient);
    ConvectionResult result = convection(law, surface, ambient, fluid_state(law, film));
    if (law.own_fluid) return result;
    const FluidRange range = fluid_range(law.fluid);
    result.in_range = result.in_range && film >= range.from && film <= range.to;
    return result;
}

std::span<const TypicalCoefficient> typical_coefficients() {
    static constexpr std::array list{
        TypicalCoefficient{"still air, natural convection, small temperature difference", 2, 5},
        TypicalCoefficient{"still air, natural convection, product surfaces 20 to 60 K above ambient", 4, 9},
        TypicalCoefficient{"radiation of painted surfaces near room temperature, for comparison", 5, 7},
        TypicalCoefficient{"light draught or wind, 1 to 3 m/s", 8, 20},
        TypicalCoefficient{"fan-blown board or heat sink, 2 to 6 m/s", 20, 80},
        TypicalCoefficient{"impinging air jets", 50, 250},
        TypicalCoefficient{"oil, natural convection", 40, 150},
        TypicalCoefficient{"water, natural convection", 200, 1000},
        TypicalCoefficient{"water in cold-plate channels", 1000, 15000},
        TypicalCoefficient{"boiling water, condensing steam", 3000, 50000},
    };
    return list;
}

}  // namespace firnfield
